import type { Line, Stage } from "../../api/client";

export type Point = { x: number; y: number };
export type Layout = {
	points: Map<string, Point>;
	paths: Map<string, string>;
	railY: (depth: number) => number;
	height: number;
	spacing: number;
	isTight: boolean;
	lampTop: number;
	lampBottom: number;
	lampsTall: number;
};

export const LEFT = 76;
export const LAMP_LABEL = 240;
const THREAD_Y = 104;
const LAMP_TOP = 22;
const LAMP_BOTTOM = 216;
const RAIL_Y = 238;
const LAMP_PITCH_LEAST = 27;
const LAMP_PITCH_MOST = 54;

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
	const paths = new Map<string, string>();
	line.segments.forEach(({ a, b }, index) => {
		const from = points.get(a);
		const to = points.get(b);
		if (from && to) paths.set(segmentKey(a, b), thread(from, to, index));
	});
	const depths = Math.max(0, ...line.rails.map((rail) => rail.depth));
	const railY = (depth: number) => RAIL_Y + depth * 20;
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
	};
}

function thread(from: Point, to: Point, index: number): string {
	const dx = (to.x - from.x) * 0.5;
	const isLevel = Math.abs(to.y - from.y) < 20;
	const sag = isLevel ? (index % 2 ? -13 : 13) : 0;
	const c1 = `${(from.x + dx).toFixed(1)} ${(from.y + sag).toFixed(1)}`;
	const c2 = `${(to.x - dx).toFixed(1)} ${(to.y + sag).toFixed(1)}`;
	return `M${from.x.toFixed(1)} ${from.y.toFixed(1)}C${c1} ${c2} ${to.x.toFixed(1)} ${to.y.toFixed(1)}`;
}
