import { createContext, type ReactNode, useCallback, useContext, useEffect, useMemo, useRef, useState } from "react";
import type { Journey, PhoneButton, Run } from "./client";
import { type PlayedEvent, playEvents, useCurrent } from "./project";

type Leg = Journey["legs"][number];
export type Look = { colour: string; light: number };
type Playing = { run: Run; journey: number; step: number };
type Rehearsal = {
	/** Stages the running message has reached, with what is read off there. */
	reached: ReadonlyMap<string, Leg>;
	/** Legs the message is on right now; several where it fans out. */
	moving: readonly Leg[];
	moveKey: string;
	looks: Readonly<Record<string, Look>>;
	sentence: string;
	isLost: boolean;
	error: string;
	press: (button: PhoneButton, gesture: string) => void;
	startOver: () => void;
	hasPlayed: boolean;
};

const LEG_MS = 300;
const DARK: Look = { colour: "#000000", light: 0 };
const Context = createContext<Rehearsal | null>(null);

export function useRehearsal(): Rehearsal {
	const value = useContext(Context);
	if (value === null) throw new Error("outside a rehearsal");
	return value;
}

/** Legs that set out together: one, or all the lamps a message reaches at once. */
function stepsOf(journey: Journey | undefined): Leg[][] {
	const steps: Leg[][] = [];
	for (const leg of journey?.legs ?? []) {
		const last = steps.at(-1);
		if (last?.[0] && leg.comes_from !== null && leg.comes_from === last[0].comes_from) last.push(leg);
		else steps.push([leg]);
	}
	return steps;
}

function looksBefore(run: Run, t_s: number): Record<string, Look> {
	const looks: Record<string, Look> = {};
	for (const [lamp, course] of Object.entries(run.looks)) {
		const last = course.findLast((look) => look.t_s < t_s);
		if (last) looks[lamp] = { colour: last.colour, light: last.light_ratio };
	}
	return looks;
}

function lastLook(run: Run, lamp: string): Look {
	const last = run.looks[lamp]?.at(-1);
	return last ? { colour: last.colour, light: last.light_ratio } : DARK;
}

export function RehearsalProvider({ children }: { children: ReactNode }) {
	const { id } = useCurrent();
	const events = useRef<PlayedEvent[]>([]);
	const begun = useRef(0);
	const [playing, setPlaying] = useState<Playing | null>(null);
	const [looks, setLooks] = useState<Record<string, Look>>({});
	const [error, setError] = useState("");
	const isStill = useMemo(() => window.matchMedia("(prefers-reduced-motion: reduce)").matches, []);

	const press = useCallback(
		async (button: PhoneButton, gesture: string) => {
			if (!events.current.length) begun.current = performance.now();
			const t_s = (performance.now() - begun.current) / 1000;
			const all = [...events.current, { kind: "control" as const, t_s, control: button.control, gesture }];
			try {
				const run = await playEvents(id, all, t_s);
				events.current = all;
				setError("");
				// A press may cut an earlier message's run short: its lamps are where they were just before this one.
				setLooks(looksBefore(run, t_s));
				setPlaying({ run, journey: 0, step: 0 });
			} catch (caught) {
				setError(caught instanceof Error ? caught.message : "The rehearsal could not be played.");
			}
		},
		[id],
	);
	const startOver = useCallback(() => {
		events.current = [];
		setPlaying(null);
		setLooks({});
	}, []);

	const journey = playing?.run.journeys[playing.journey];
	const steps = useMemo(() => stepsOf(journey), [journey]);
	useEffect(() => {
		if (!playing) return;
		const current = steps[playing.step];
		const lamps = (current ?? []).filter((leg) => leg.stage.startsWith("lamps."));
		if (lamps.length)
			setLooks((before) => {
				const next = { ...before };
				for (const leg of lamps) {
					const lamp = leg.stage.slice("lamps.".length);
					next[lamp] = lastLook(playing.run, lamp);
				}
				return next;
			});
		if (playing.step >= steps.length) {
			if (playing.journey + 1 < playing.run.journeys.length) setPlaying({ ...playing, journey: playing.journey + 1, step: 0 });
			return;
		}
		const wait = isStill ? 0 : playing.step === 0 ? LEG_MS / 2 : LEG_MS;
		const timer = setTimeout(() => setPlaying({ ...playing, step: playing.step + 1 }), wait);
		return () => clearTimeout(timer);
	}, [playing, steps, isStill]);

	const value = useMemo<Rehearsal>(() => {
		const step = playing?.step ?? 0;
		const reached = new Map<string, Leg>();
		for (const legs of steps.slice(0, step + 1)) for (const leg of legs) reached.set(leg.stage, leg);
		const isRunning = playing !== null && step < steps.length;
		// The press itself is what is summed up; a reply of the board only runs back along the thread.
		const first = playing?.run.journeys[0];
		const isTold = playing !== null && (playing.journey > 0 || !isRunning);
		return {
			reached: playing ? reached : new Map(),
			moving: isRunning ? (steps[step] ?? []) : [],
			moveKey: `${journey?.message ?? 0}.${step}`,
			looks,
			sentence: isTold && first ? first.sentence : "",
			isLost: Boolean(isTold && first?.is_lost),
			error,
			press,
			startOver,
			hasPlayed: playing !== null,
		};
	}, [playing, steps, journey, looks, error, press, startOver]);
	return <Context value={value}>{children}</Context>;
}
