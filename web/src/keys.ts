import { useEffect, useSyncExternalStore } from "react";

/** Something that can be done from the keyboard, the finder or the bar: told once, here and in `useActions`. */
export type Action = { id: string; label: string; hint?: string; key?: string; isOff?: boolean; run: () => void };

const KEY = "oddlamp-single-keys";
const listeners = new Set<() => void>();

/** Whether single keys do anything; the reader can switch them off (WCAG 2.1.4). */
export function useSingleKeys(): [boolean, (isOn: boolean) => void] {
	const isOn = useSyncExternalStore(
		(listener) => {
			listeners.add(listener);
			return () => listeners.delete(listener);
		},
		() => localStorage.getItem(KEY) !== "off",
	);
	return [
		isOn,
		(next) => {
			localStorage.setItem(KEY, next ? "on" : "off");
			for (const listener of listeners) listener();
		},
	];
}

const isTyping = (target: EventTarget | null) =>
	target instanceof HTMLElement &&
	target.closest("input:not([type=checkbox]), textarea, select, [role=listbox], [role=menu], [role=dialog]") !== null;

/** Run actions from the keyboard: single keys outside fields, Ctrl+K and Ctrl+Z where no field claims them. */
export function useActionKeys(actions: readonly Action[]) {
	const [isSingle] = useSingleKeys();
	useEffect(() => {
		const press = (event: KeyboardEvent) => {
			const isCtrl = event.ctrlKey || event.metaKey;
			if (event.altKey) return;
			const name = `${isCtrl ? "Ctrl+" : ""}${isCtrl && event.shiftKey ? "Shift+" : ""}${event.key.length === 1 ? event.key.toLowerCase() : event.key}`;
			if (isTyping(event.target) && name !== "Ctrl+k") return;
			if (!isCtrl && !isSingle) return;
			const action = actions.find((it) => it.key?.split(" ").includes(name) && !it.isOff);
			if (!action) return;
			event.preventDefault();
			action.run();
		};
		window.addEventListener("keydown", press);
		return () => window.removeEventListener("keydown", press);
	});
}
