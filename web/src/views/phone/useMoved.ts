import { useEffect, useRef, useState } from "react";
import type { PhoneButton } from "../../api/client";
import { usePhone, useRehearsal } from "../../api/rehearsal";
import { movedOf } from "../../api/take";

type Values = Record<string, number>;

/**
 * The values of a word that are moved: it is said while they move, no oftener than its interval, and where they come to
 * rest; or only there. They go back to their least with all dark.
 */
export function useMoved(button: PhoneButton, begin: (it: PhoneButton["slides"][number]) => number = (it) => it.least) {
	const { play } = usePhone();
	const { hasPlayed } = useRehearsal();
	const first = () => Object.fromEntries(button.slides.map((it) => [it.id, begin(it)]));
	const [values, setValues] = useState<Values>(first);
	const atFirst = useRef(first);
	atFirst.current = first;
	useEffect(() => {
		if (!hasPlayed) setValues(atFirst.current());
	}, [hasPlayed]);
	const said = useRef(0);
	const waiting = useRef<ReturnType<typeof setTimeout>>(undefined);
	const unsaid = useRef<Values | null>(null);
	useEffect(() => () => clearTimeout(waiting.current), []);
	const say = (next: Values) => {
		clearTimeout(waiting.current);
		said.current = performance.now();
		unsaid.current = null;
		play(movedOf(button, next));
	};
	const move = (changed: Values) => {
		const next = { ...values, ...changed };
		setValues(next);
		clearTimeout(waiting.current);
		unsaid.current = next;
		if (button.at_rest) return;
		const wait = said.current + button.interval_s * 1000 - performance.now();
		if (wait <= 0) say(next);
		else waiting.current = setTimeout(() => say(next), wait);
	};
	const rest = () => {
		if (button.at_rest && unsaid.current) say(unsaid.current);
	};
	return { values, move, rest };
}
