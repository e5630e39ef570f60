import { useCallback, useLayoutEffect, useRef } from "react";

/** The same function from drawing to drawing, that does what the newest one says: what is handed it need not be drawn anew. */
export function useSteady<A extends unknown[]>(work: (...given: A) => void): (...given: A) => void {
	const newest = useRef(work);
	useLayoutEffect(() => {
		newest.current = work;
	});
	return useCallback((...given: A) => newest.current(...given), []);
}
