import type { components } from "../../api/schema";
import { MovingLight } from "../module/MovingLight";

type Blink = components["schemas"]["BlinkShown"];
const SPAN_S = 4;
const WIDE = 240;
const HIGH = 10;

/** What the module's LED shows in each state: moving as it does, and beside it as a strip of four seconds that stands still. */
export function Blinks({ blinks }: { blinks: readonly Blink[] }) {
	if (!blinks.length) return null;
	return (
		<ul aria-label="What its LED shows" className="space-y-1 text-note">
			{blinks.map((blink) => (
				<li key={blink.means} className="grid grid-cols-[14px_1fr] items-center gap-x-3 sm:grid-cols-[14px_150px_1fr]">
					<MovingLight turns={blink.turns_s} />
					<span>{blink.means}</span>
					<span className="col-start-2 flex flex-wrap items-center gap-x-3 sm:col-start-auto">
						<Strip turns={blink.turns_s} />
						<span className="font-number text-soft">{blink.text}</span>
					</span>
				</li>
			))}
		</ul>
	);
}

export function Strip({ turns }: { turns: readonly number[] }) {
	const lit: { from: number; to: number }[] = [];
	for (let at = 0, from = 0; from < SPAN_S && turns.length; at++) {
		const to = Math.min(SPAN_S, from + (turns[at % turns.length] ?? SPAN_S));
		if (turns.length === 1 || at % 2 === 0) lit.push({ from, to });
		from = to;
	}
	return (
		<svg width={WIDE} height={HIGH} aria-hidden="true" className="max-w-full">
			<path d={`M0 ${HIGH - 1}H${WIDE}`} className="stroke-hair" strokeWidth="1" />
			{lit.map(({ from, to }) => (
				<rect
					key={from}
					x={(from / SPAN_S) * WIDE}
					y={1}
					width={Math.max(1, ((to - from) / SPAN_S) * WIDE - 1)}
					height={HIGH - 2}
					className="fill-lamp"
				/>
			))}
		</svg>
	);
}
