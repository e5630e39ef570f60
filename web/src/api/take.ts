import type { Journey, PhoneButton, Run } from "./client";

/** What can be done from below the line: a button is pressed, or something befalls a module. */
export type Doing =
	| { kind: "control"; control: string; node?: string; gesture: string; values?: Record<string, number | string> }
	| { kind: "input"; input: string; event: string }
	| { kind: "module"; node: string; does: string[] }
	| { kind: "busy"; node: string; for_s: number }
	| { kind: "spoken"; node: string; text: string };

export const doingOf = (button: PhoneButton, gesture: string): Doing =>
	button.kind === "input"
		? { kind: "input", input: button.control, event: gesture }
		: { kind: "control", control: button.control, node: button.node ?? undefined, gesture };
export type PlayedEvent = Doing & { t_s: number };
export type Leg = Journey["legs"][number];
export type LightLook = Run["lights"][string][number];
export type Look = { colour: string; light: number; text?: string };

/** A rehearsal: what was pressed, what came of it on the plan it was played on, and how far that has been shown. */
export type Take = {
	events: readonly PlayedEvent[];
	begun_ms: number;
	run: Run | null;
	journey: number;
	step: number;
	/** By the stage of a lamp. */
	looks: Readonly<Record<string, Look>>;
	error: string;
};

export type Happening =
	| { kind: "played"; events: readonly PlayedEvent[]; begun_ms: number; since_s: number; run: Run }
	| { kind: "failed"; error: string }
	| { kind: "step" }
	| { kind: "over" };

export const UNPLAYED: Take = { events: [], begun_ms: 0, run: null, journey: 0, step: 0, looks: {}, error: "" };

export function reduceTake(take: Take, it: Happening): Take {
	switch (it.kind) {
		case "over":
			return UNPLAYED;
		case "failed":
			return { ...take, error: it.error };
		case "played": {
			const { events, begun_ms, run } = it;
			// A press may cut an earlier message's run short: its lamps are where they were just before this one.
			return withLamps({ events, begun_ms, run, journey: 0, step: 0, looks: looksBefore(run, it.since_s), error: "" });
		}
		case "step": {
			if (take.step + 1 < stepsOf(take).length) return withLamps({ ...take, step: take.step + 1 });
			if (take.journey + 1 < (take.run?.journeys.length ?? 0)) return withLamps({ ...take, journey: take.journey + 1, step: 0 });
			return { ...take, step: stepsOf(take).length };
		}
	}
}

/** Legs that set out together: one, or all the lamps a message reaches at once. */
export function stepsOf(take: Take): Leg[][] {
	const steps: Leg[][] = [];
	for (const leg of take.run?.journeys[take.journey]?.legs ?? []) {
		const last = steps.at(-1);
		if (last?.[0] && leg.comes_from !== null && leg.comes_from === last[0].comes_from) last.push(leg);
		else steps.push([leg]);
	}
	return steps;
}

/** The take with the lamps of its present step as the message leaves them. */
function withLamps(take: Take): Take {
	const looks = { ...take.looks };
	for (const leg of stepsOf(take)[take.step] ?? []) {
		const last = take.run?.looks[leg.stage]?.at(-1);
		if (last) looks[leg.stage] = lookOf(last);
	}
	return { ...take, looks };
}

const lookOf = (it: Run["looks"][string][number]): Look => ({ colour: it.colour, light: it.light_ratio, text: it.text });

function looksBefore(run: Run, t_s: number): Record<string, Look> {
	const looks: Record<string, Look> = {};
	for (const [lamp, course] of Object.entries(run.looks)) {
		const last = course.findLast((look) => look.t_s < t_s);
		if (last) looks[lamp] = lookOf(last);
	}
	return looks;
}
