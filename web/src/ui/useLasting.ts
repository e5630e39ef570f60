import { useEffect, useState } from "react";

/** Whether something has gone on for a while: what is over at once is not worth a word. */
export function useLasting(isOn: boolean, from_ms: number): boolean {
	const [isLong, setLong] = useState(false);
	useEffect(() => {
		if (!isOn) return setLong(false);
		const timer = setTimeout(() => setLong(true), from_ms);
		return () => clearTimeout(timer);
	}, [isOn, from_ms]);
	return isOn && isLong;
}
