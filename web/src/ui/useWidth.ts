import { useLayoutEffect, useRef, useState } from "react";

/** The width of an element in CSS pixels, kept up to date. */
export function useWidth<E extends Element>(start: number) {
	const ref = useRef<E>(null);
	const [width, setWidth] = useState(Math.min(start, window.innerWidth - 64)); // never wider than the window, even for a moment
	useLayoutEffect(() => {
		const element = ref.current;
		if (!element) return;
		setWidth(element.getBoundingClientRect().width);
		const observer = new ResizeObserver(([entry]) => entry && setWidth(entry.contentRect.width));
		observer.observe(element);
		return () => observer.disconnect();
	}, []);
	return [ref, width] as const;
}
