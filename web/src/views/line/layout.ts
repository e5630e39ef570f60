import type { Line, Stage } from "../../api/client";

export type Point = { x: number; y: number };
/** A stretch of thread, and where on it a cut is shown: on a fan, near its own lamp, where threads lie apart. */
export type Path = { d: string; cut: Point; cutAt: number };
/** Lamps or inputs above each other; where they need more room than there is, they scroll in their place. */
export type Stack = {
	key: string;
	ids: readonly string[];
	x: number;
	top: number;
	bottom: number;
	tall: number;
	pitch: number;
	scroll: number;
};
export type Layout = {
	points: Map<string, Point>;
	paths: Map<string, Path>;
	stacks: readonly Stack[];
	/** The stack a stage stands in, where it stands in one. */
	stackOf: (stage: string) => Stack | undefined;
	/** Whether a stage is in sight: not scrolled out of its stack. */
	isSeen: (stage: string) => boolean;
	railY: (depth: number) => number;
	height: number;
	spacing: number;
};

export const LEFT = 76;
export const LAMP_LABEL = 240;
export const LAMPS = "lamps";
const THREAD_Y = 104;
const LAMP_TOP = 22;
const LAMP_BOTTOM = 216;
const RAIL_Y = 238;
const PITCH_LEAST = 27;
const PITCH_MOST = 54;
const TIGHT_BELOW = 42;
const INPUTS_FREE = 2; // as many inputs stand freely under their column; more of them are a stack
const INPUTS_SEEN = 3;

const UNDER_Y = 186;
const UNDER_PITCH = 7;
const LABEL_BELOW = 22; // more room where a name stands under its knot
const COLUMN_LEAST = 76;
const FOLD_BELOW = 720;

/** Whether the line is too long for the window, and folds to one row of knots that opens downwards. */
export const isFolded = (line: Line, width: number) =>
	width < FOLD_BELOW || width < LEFT + LAMP_LABEL + (line.columns - 1) * COLUMN_LEAST;

export const segmentKey = (a: string, b: string) => `${a}>${b}`;
export const isTight = (stack: Stack) => stack.pitch < TIGHT_BELOW;
export const hiddenBelow = (stack: Stack) => Math.round((stack.tall - stack.scroll - (stack.bottom - stack.top)) / stack.pitch);

/** Places for every knot and a path for every stretch of thread. Only drawing: nothing here decides anything. */
export function layOut(line: Line, width: number, scrolls: Readonly<Record<string, number>>): Layout {
	const lamps = line.stages.filter((stage) => stage.kind === "lamp");
	const right = width - (lamps.length ? LAMP_LABEL : LEFT);
	const spacing = line.columns > 1 ? (right - LEFT) / (line.columns - 1) : 0;
	const columnX = (column: number) => LEFT + column * spacing;
	const stacks = [...(lamps.length ? [lampStack(lamps, columnX, scrolls)] : []), ...inputStacks(line.stages, columnX, scrolls)];
	const owner = new Map(stacks.flatMap((stack) => stack.ids.map((id) => [id, stack] as const)));
	const points = new Map<string, Point>();
	for (const stage of line.stages) {
		const stack = owner.get(stage.id);
		const y = stack
			? stack.top - stack.scroll + stack.pitch * (stack.ids.indexOf(stage.id) + 0.5)
			: THREAD_Y + 5 * Math.sin(2.1 * stage.column) + stage.row * PITCH_MOST;
		points.set(stage.id, { x: columnX(stage.column), y });
	}
	const paths = new Map<string, Path>();
	let lanes = 0;
	line.segments.forEach(({ a, b }, index) => {
		const from = points.get(a);
		const to = points.get(b);
		const isFan = lamps.length > 1 && owner.get(b)?.key === LAMPS;
		if (!from || !to) return;
		// A lamp of a board in the middle of the line hangs on a thread that runs under what stands between.
		const isFar = owner.get(b)?.key === LAMPS && to.x - from.x > spacing * 1.5;
		paths.set(
			segmentKey(a, b),
			isFar ? under(from, to, spacing, UNDER_Y + UNDER_PITCH * lanes++) : thread(from, to, index, isFan),
		);
	});
	const alone = line.stages.filter((stage) => !owner.has(stage.id));
	const free = alone.map((stage) => (points.get(stage.id)?.y ?? 0) + (stage.row > 0 && stage.kind !== "input" ? LABEL_BELOW : 0));
	const feet = stacks.filter((stack) => stack.key !== LAMPS).map((stack) => stack.bottom - 24);
	const railTop = Math.max(RAIL_Y, ...[...free, ...feet].map((y) => y + 48));
	const railY = (depth: number) => railTop + depth * 20;
	const isSeen = (id: string) => {
		const stack = owner.get(id);
		const at = points.get(id);
		return at !== undefined && (!stack || (at.y > stack.top - 2 && at.y < stack.bottom + 2));
	};
	const depths = Math.max(0, ...line.rails.map((rail) => rail.depth));
	return { points, paths, stacks, stackOf: (id) => owner.get(id), isSeen, railY, height: railY(depths) + 52, spacing };
}

type Scrolls = Readonly<Record<string, number>>;

function lampStack(lamps: readonly Stage[], columnX: (column: number) => number, scrolls: Scrolls): Stack {
	const room = LAMP_BOTTOM - LAMP_TOP;
	const pitch = Math.min(PITCH_MOST, Math.max(PITCH_LEAST, room / lamps.length));
	const tall = pitch * lamps.length;
	const top = tall > room ? LAMP_TOP : lamps.length < 4 ? THREAD_Y - tall / 2 : LAMP_TOP + (room - tall) / 2;
	const bottom = tall > room ? LAMP_BOTTOM : top + tall;
	const x = columnX(lamps[0]?.column ?? 0);
	return { key: LAMPS, ids: lamps.map((it) => it.id), x, top, bottom, tall, pitch, scroll: scrolls[LAMPS] ?? 0 };
}

function inputStacks(stages: readonly Stage[], columnX: (column: number) => number, scrolls: Scrolls): Stack[] {
	const columns = new Map<number, Stage[]>();
	for (const stage of stages)
		if (stage.kind === "input") columns.set(stage.column, [...(columns.get(stage.column) ?? []), stage]);
	return [...columns]
		.filter(([, inputs]) => inputs.length > INPUTS_FREE)
		.map(([column, inputs]) => {
			const top = THREAD_Y - 20 + PITCH_MOST * Math.min(...inputs.map((it) => it.row));
			const key = `inputs ${column}`;
			return {
				key,
				ids: inputs.map((it) => it.id),
				x: columnX(column),
				top,
				bottom: top + PITCH_LEAST * INPUTS_SEEN,
				tall: PITCH_LEAST * inputs.length,
				pitch: PITCH_LEAST,
				scroll: scrolls[key] ?? 0,
			};
		});
}

function thread(from: Point, to: Point, index: number, isFan: boolean): Path {
	const dx = (to.x - from.x) * 0.5;
	const isLevel = Math.abs(to.y - from.y) < 20;
	const sag = isLevel ? (index % 2 ? -13 : 13) : 0;
	const bends = [from, { x: from.x + dx, y: from.y + sag }, { x: to.x - dx, y: to.y + sag }, to] as const;
	const written = bends.map((bend) => `${bend.x.toFixed(1)} ${bend.y.toFixed(1)}`);
	const cutAt = isFan ? 0.76 : 0.5;
	return {
		d: `M${written[0]}C${written.slice(1).join(" ")}`,
		cut: { x: along(bends, cutAt, "x"), y: along(bends, cutAt, "y") },
		cutAt,
	};
}

function under(from: Point, to: Point, spacing: number, lane: number): Path {
	const [near, half, far] = [spacing * 0.2, spacing * 0.4, spacing * 0.8];
	const rise = [{ x: to.x - far, y: lane }, { x: to.x - near, y: lane }, { x: to.x - half, y: to.y }, to] as const;
	const at = (points: readonly Point[]) => points.map((it) => `${it.x.toFixed(1)} ${it.y.toFixed(1)}`).join(" ");
	const fall = [
		{ x: from.x + half, y: from.y },
		{ x: from.x + near, y: lane },
		{ x: from.x + far, y: lane },
	];
	return {
		d: `M${at([from])}C${at(fall)}L${at([rise[0]])}C${at(rise.slice(1))}`,
		cut: { x: along(rise, 0.6, "x"), y: along(rise, 0.6, "y") },
		cutAt: 0.95,
	};
}

type Bends = readonly [Point, Point, Point, Point];
function along(bends: Bends, t: number, axis: "x" | "y"): number {
	const [a, b, c, d] = bends.map((bend) => bend[axis]) as [number, number, number, number];
	return (1 - t) ** 3 * a + 3 * (1 - t) ** 2 * t * b + 3 * (1 - t) * t ** 2 * c + t ** 3 * d;
}
