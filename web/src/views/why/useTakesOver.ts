import { useEffect, useRef } from "react";

/** A heading that who has just answered goes on from, by eye and by ear. */
export function useTakesOver() {
	const head = useRef<HTMLHeadingElement>(null);
	useEffect(() => {
		if (document.activeElement?.closest("[data-answers]") || document.activeElement === document.body) head.current?.focus();
	}, []);
	return head;
}
