import type { Journey, PhoneButton, Run } from "./client";

/** What can be done from below the line: a button is pressed, or something befalls a part of it. */
export type Doing =
	| { kind: "control"; control: string; node?: string; gesture: string; values?: Record<string, number | string> }
	| { kind: "input"; input: string; event: string; value?: number }
	| { kind: "spoken"; node: string; text: string }
	| Befallen;

/** What may befall a part of the line, as the core tells it. */
export type Befallen = { kind: string; [field: string]: unknown };

export const doingOf = (button: PhoneButton, gesture: string): Doing =>
	button.kind === "input"
		? { kind: "input", input: button.control, event: gesture }
		: { kind: "control", control: button.control, node: button.node ?? undefined, gesture };

const shareOf = ({ slides: [way] }: PhoneButton, value: number) =>
	way ? (value - way.least) / Math.max(way.most - way.least, 1) : 0;

/** Values that were moved, as what a control says or what an input is turned to. */
export const movedOf = (button: PhoneButton, values: Record<string, number | string>): Doing =>
	button.kind === "input"
		? { kind: "input", input: button.control, event: "moved", value: shareOf(button, Number(values.value)) }
		: { kind: "control", control: button.control, node: button.node ?? undefined, gesture: "move", values };
export type PlayedEvent = Doing & { t_s: number };

/** Whether a switch stands at on after what has been done: as the board last answered, or as it was turned since. */
export function standsOn(button: PhoneButton, events: readonly PlayedEvent[], answered: LightLook | undefined): boolean {
	const isOf = (event: PlayedEvent, gesture: string) =>
		Object.entries(doingOf(button, gesture)).every(([field, value]) => (event as Record<string, unknown>)[field] === value);
	const last = events.findLast((event) => isOf(event, "on") || isOf(event, "off"));
	if (answered && events.length && answered.t_s >= (last?.t_s ?? 0)) return answered.colour !== null;
	return last !== undefined && isOf(last, "on");
}

export type Leg = Journey["legs"][number];
export type LightLook = Run["lights"][string][number];
/** A rehearsal: what was pressed, what came of it on the plan it was played on, and how far that has been shown. */
export type Take = {
	events: readonly PlayedEvent[];
	begun_ms: number;
	run: Run | null;
	journey: number;
	step: number;
	error: string;
	/** Whether it was put here as a whole, to be looked at, and not pressed one after the other. */
	isLoaded: boolean;
};

export type Happening =
	| { kind: "played" | "loaded"; events: readonly PlayedEvent[]; begun_ms: number; run: Run }
	| { kind: "failed"; error: string }
	| { kind: "step" }
	| { kind: "over" };

export const UNPLAYED: Take = { events: [], begun_ms: 0, run: null, journey: 0, step: 0, error: "", isLoaded: false };

export function reduceTake(take: Take, it: Happening): Take {
	switch (it.kind) {
		case "over":
			return UNPLAYED;
		case "failed":
			return { ...take, error: it.error };
		case "played":
		case "loaded": {
			const { events, begun_ms, run } = it;
			return { events, begun_ms, run, journey: 0, step: 0, error: "", isLoaded: it.kind === "loaded" };
		}
		case "step": {
			if (take.step + 1 < stepsOf(take).length) return { ...take, step: take.step + 1 };
			if (take.journey + 1 < (take.run?.journeys.length ?? 0)) return { ...take, journey: take.journey + 1, step: 0 };
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
