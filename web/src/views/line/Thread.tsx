import type { State } from "../../api/client";
import type { Path } from "./layout";

/** One stretch of thread in its state: whole, dots, cut with two slashes, or hollow where nothing is worked out. */
export function Thread({ path, state }: { path: Path; state: State }) {
	const { d, cut, cutAt } = path;
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
				<path
					d={d}
					className="stroke-ink"
					strokeWidth="3.2"
					pathLength={100}
					strokeDasharray={`${100 * cutAt - 9} 18 ${100 * (1 - cutAt) - 9} 100`}
				/>
				<path d={`M${cut.x - 8} ${cut.y - 7}l5 14M${cut.x + 3} ${cut.y - 7}l5 14`} className="stroke-cut" strokeWidth="3" />
			</g>
		);
	return <path d={d} fill="none" className="stroke-ink" strokeWidth="3.2" strokeLinecap="round" />;
}
