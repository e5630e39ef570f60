import type { Line, Stage } from "../../api/client";

export type Point = { x: number; y: number };
/** A stretch of thread, and where on it a cut is shown: on a fan, near its own lamp, where threads lie apart. */
export type Path = { d: string; cut: Point; cutAt: number };
export type Layout = {
	points: Map<string, Point>;
	paths: Map<string, Path>;
	railY: (depth: number) => number;
	height: number;
	spacing: number;
	isTight: boolean;
	lampTop: number;
	lampBottom: number;
	lampsTall: number;
	pitch: number;
};

export const LEFT = 76;
export const LAMP_LABEL = 240;
const THREAD_Y = 104;
const LAMP_TOP = 22;
const LAMP_BOTTOM = 216;
const RAIL_Y = 238;
const LAMP_PITCH_LEAST = 27;
const LAMP_PITCH_MOST = 54;

const COLUMN_LEAST = 76;
const FOLD_BELOW = 720;

/** Whether the line is too long for the window, and folds to one row of knots that opens downwards. */
export const isFolded = (line: Line, width: number) =>
	width < FOLD_BELOW || width < LEFT + LAMP_LABEL + (line.columns - 1) * COLUMN_LEAST;

export const segmentKey = (a: string, b: string) => `${a}>${b}`;

/** Places for every knot and a path for every stretch of thread. Only drawing: nothing here decides anything. */
export function layOut(line: Line, width: number, scroll: number): Layout {
	const points = new Map<string, Point>();
	const lamps = line.stages.filter((stage) => stage.kind === "lamp");
	const right = width - (lamps.length ? LAMP_LABEL : LEFT);
	const spacing = line.columns > 1 ? (right - LEFT) / (line.columns - 1) : 0;
	const pitch = Math.min(LAMP_PITCH_MOST, Math.max(LAMP_PITCH_LEAST, (LAMP_BOTTOM - LAMP_TOP) / Math.max(1, lamps.length)));
	const lampsTall = pitch * lamps.length;
	const room = LAMP_BOTTOM - LAMP_TOP;
	const top =
		lampsTall > room ? LAMP_TOP - scroll : lamps.length < 4 ? THREAD_Y - lampsTall / 2 : LAMP_TOP + (room - lampsTall) / 2;
	const place = (stage: Stage): Point => {
		const x = LEFT + stage.column * spacing;
		if (stage.kind === "lamp") return { x, y: top + pitch * (lamps.indexOf(stage) + 0.5) };
		return { x, y: THREAD_Y + 5 * Math.sin(2.1 * stage.column) + stage.row * 54 };
	};
	for (const stage of line.stages) points.set(stage.id, place(stage));
	const paths = new Map<string, Path>();
	line.segments.forEach(({ a, b }, index) => {
		const from = points.get(a);
		const to = points.get(b);
		if (from && to) paths.set(segmentKey(a, b), thread(from, to, index, b.startsWith("lamps.") && lamps.length > 1));
	});
	const depths = Math.max(0, ...line.rails.map((rail) => rail.depth));
	const lowest = Math.max(0, ...line.stages.map((stage) => (stage.kind === "lamp" ? 0 : (points.get(stage.id)?.y ?? 0))));
	const railTop = Math.max(RAIL_Y, lowest + 48);
	const railY = (depth: number) => railTop + depth * 20;
	return {
		points,
		paths,
		railY,
		height: railY(depths) + 52,
		spacing,
		isTight: pitch < 42,
		lampTop: LAMP_TOP,
		lampBottom: LAMP_BOTTOM,
		lampsTall,
		pitch,
	};
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

type Bends = readonly [Point, Point, Point, Point];
function along(bends: Bends, t: number, axis: "x" | "y"): number {
	const [a, b, c, d] = bends.map((bend) => bend[axis]) as [number, number, number, number];
	return (1 - t) ** 3 * a + 3 * (1 - t) ** 2 * t * b + 3 * (1 - t) * t ** 2 * c + t ** 3 * d;
}
