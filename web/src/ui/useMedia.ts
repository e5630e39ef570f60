import { useSyncExternalStore } from "react";

const watched = new Map<string, { subscribe: (listener: () => void) => () => void; matches: () => boolean }>();

/** Asks the browser once for each query: asking at every drawing costs more than drawing. */
function watch(query: string) {
	const known = watched.get(query);
	if (known) return known;
	const media = window.matchMedia(query);
	const made = {
		subscribe: (listener: () => void) => {
			media.addEventListener("change", listener);
			return () => media.removeEventListener("change", listener);
		},
		matches: () => media.matches,
	};
	watched.set(query, made);
	return made;
}

/** Whether a media query holds, kept up to date. */
export function useMedia(query: string): boolean {
	const { subscribe, matches } = watch(query);
	return useSyncExternalStore(subscribe, matches);
}
