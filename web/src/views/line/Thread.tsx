import type { State } from "../../api/client";
import type { Point } from "./layout";

/** One stretch of thread in its state: whole, dots, cut with two slashes, or hollow where nothing is worked out. */
export function Thread({ d, state, from, to }: { d: string; state: State; from: Point; to: Point }) {
	const middle = { x: (from.x + to.x) / 2, y: (from.y + to.y) / 2 };
	if (state === "look")
		return <path d={d} fill="none" className="stroke-ink" strokeWidth="3.6" strokeLinecap="round" strokeDasharray="0.1 8" />;
	if (state === "unknown")
		return (
			<g fill="none">
				<path d={d} className="stroke-soft" strokeWidth="5" />
				<path d={d} className="stroke-ground" strokeWidth="3" />
			</g>
		);
	if (state === "stop")
		return (
			<g fill="none" strokeLinecap="round">
				<path d={d} className="stroke-ink" strokeWidth="3.2" pathLength={100} strokeDasharray="40 20 40 100" />
				<path
					d={`M${middle.x - 9} ${middle.y - 7}l5 14M${middle.x + 4} ${middle.y - 7}l5 14`}
					className="stroke-cut"
					strokeWidth="3"
				/>
			</g>
		);
	return <path d={d} fill="none" className="stroke-ink" strokeWidth="3.2" strokeLinecap="round" />;
}
