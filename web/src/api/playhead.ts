import type { Run } from "./client";

export type Look = { colour: string; light: number; text?: string; pixels?: string };

const NONE: readonly Look[] = [];
const CALM_S = 0.5;

/**
 * Where a rehearsal is looked at: a moment of it, which goes on by itself once a message has run. Lamps read their look
 * from it, and are drawn anew only when that has changed.
 */
export class Playhead {
	private courses = new Map<string, { at_s: readonly number[]; looks: readonly Look[] }>();
	private listeners = new Set<() => void>();
	private frame = 0;
	private begun: { at_s: number; real_ms: number } | null = null;
	/** The moment that is shown, s since the rehearsal began. */
	at_s = 0;

	subscribe = (listener: () => void) => {
		this.listeners.add(listener);
		return () => {
			this.listeners.delete(listener);
		};
	};

	/** Take the looks of a run; what is shown stays where it is. */
	take(run: Pick<Run, "looks">) {
		this.courses = new Map(
			Object.entries(run.looks).map(([stage, course]) => [
				stage,
				{
					at_s: course.map((it) => it.t_s),
					looks: course.map((it) => ({ colour: it.colour, light: it.light_ratio, text: it.text, pixels: it.pixels })),
				},
			]),
		);
		this.tell();
	}

	clear() {
		this.halt();
		this.courses = new Map();
		this.at_s = 0;
		this.tell();
	}

	/** The look of the first of some stages that is lit, else of the first that has any. */
	look(stages: readonly string[]): Look | undefined {
		const found = stages.map((stage) => this.lookOf(stage)).filter((it) => it !== undefined);
		return found.find((it) => it.light > 0) ?? found[0];
	}

	private lookOf(stage: string): Look | undefined {
		const course = this.courses.get(stage);
		if (!course) return undefined;
		let [low, high] = [0, course.at_s.length];
		while (low < high) {
			const middle = (low + high) >> 1;
			if ((course.at_s[middle] ?? 0) <= this.at_s + 1e-6) low = middle + 1;
			else high = middle;
		}
		return (course.looks ?? NONE)[low - 1];
	}

	/** Show another moment. */
	moveTo(at_s: number) {
		this.halt();
		this.at_s = at_s;
		this.tell();
	}

	/** Let time go on from here, until a moment; calmly in half seconds where motion is not wanted. */
	goOn(until_s: number, isCalm: boolean, onEnd: () => void) {
		this.halt();
		this.begun = { at_s: this.at_s, real_ms: performance.now() };
		const tick = () => {
			if (!this.begun) return;
			const gone_s = (performance.now() - this.begun.real_ms) / 1000;
			const now_s = this.begun.at_s + (isCalm ? Math.floor(gone_s / CALM_S) * CALM_S : gone_s);
			const isOver = this.begun.at_s + gone_s >= until_s;
			this.at_s = isOver ? until_s : now_s;
			this.tell();
			if (isOver) {
				this.halt();
				onEnd();
			} else this.frame = requestAnimationFrame(tick);
		};
		this.frame = requestAnimationFrame(tick);
	}

	halt() {
		cancelAnimationFrame(this.frame);
		this.begun = null;
	}

	private tell() {
		for (const listener of this.listeners) listener();
	}
}
