import { useSyncExternalStore } from "react";

/** Whether a media query holds, kept up to date. */
export function useMedia(query: string): boolean {
	return useSyncExternalStore(
		(listener) => {
			const media = window.matchMedia(query);
			media.addEventListener("change", listener);
			return () => media.removeEventListener("change", listener);
		},
		() => window.matchMedia(query).matches,
	);
}
