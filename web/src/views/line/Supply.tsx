import type { Line } from "../../api/client";
import { type Layout, LEFT } from "./layout";

type Props = { line: Line; layout: Layout; chosen: string; onChoose: (stage: string) => void; width: number };

/** Rails under the line and the risers that feed the stages. */
export function SupplyThreads({ line, layout, chosen, width }: Omit<Props, "onChoose">) {
	const span = (first: number, last: number) => {
		const x = (column: number) => LEFT + column * layout.spacing;
		return [Math.max(24, x(first) - 30), last >= line.columns - 1 ? width - 24 : Math.max(x(last) + 30, x(first) + 90)] as const;
	};
	return (
		<g className="stroke-copper" fill="none" strokeLinecap="round">
			{line.rails.map((rail) => {
				const [x1, x2] = span(rail.first_column, rail.last_column);
				const y = layout.railY(rail.depth);
				return <Rail key={rail.id} state={rail.state} x1={x1} x2={x2} y={y} wide={rail.id === chosen ? 10 : 8} />;
			})}
			{line.risers.map(({ rail, stage }) => {
				const at = layout.points.get(stage);
				const depth = line.rails.find((it) => it.id === rail)?.depth ?? 0;
				if (!at) return null;
				const y = layout.railY(depth);
				if (!layout.isSeen(stage)) return null;
				const d = layout.stackOf(stage)
					? `M${at.x - 30} ${y}V${at.y + 22}Q${at.x - 30} ${at.y + 6} ${at.x - 11} ${at.y + 4}`
					: `M${at.x + depth * 9} ${y}V${at.y + 11}`;
				return <path key={rail + stage} d={d} strokeWidth="2.6" />;
			})}
		</g>
	);
}

/** A rail in its state: whole, dots, cut near its start, where its source gives out, or hollow where nothing is worked out. */
function Rail({
	state,
	x1,
	x2,
	y,
	wide,
}: {
	state: Line["rails"][number]["state"];
	x1: number;
	x2: number;
	y: number;
	wide: number;
}) {
	if (state === "look") return <path d={`M${x1} ${y}H${x2}`} strokeWidth={wide - 1.5} strokeDasharray="0.1 13" />;
	const cut = x1 + Math.min(70, (x2 - x1) / 2);
	if (state === "stop")
		return (
			<g strokeWidth={wide}>
				<path d={`M${x1} ${y}H${cut - 14}M${cut + 14} ${y}H${x2}`} />
				<path d={`M${cut - 8} ${y + 9}l5 -18M${cut + 3} ${y + 9}l5 -18`} className="stroke-cut" strokeWidth="3" />
			</g>
		);
	return (
		<>
			<path d={`M${x1} ${y}H${x2}`} strokeWidth={wide} />
			{state === "unknown" && <path d={`M${x1} ${y}H${x2}`} className="stroke-ground" strokeWidth="3.4" />}
		</>
	);
}

/** About how wide a rail's name and numbers stand, in the two kinds of type. */
const wide = (rail: Line["rails"][number]) => 32 + 8.5 * rail.label.length + 8.1 * rail.numbers.length;

/** Where the rails' names stand: under their starts, moved apart and kept inside the window. */
function labelPlaces(line: Line, layout: Layout, width: number): number[] {
	const lefts = line.rails.map((rail) => Math.max(28, LEFT + rail.first_column * layout.spacing - 30));
	const wides = line.rails.map(wide);
	for (let i = 1; i < lefts.length; i++) lefts[i] = Math.max(lefts[i] ?? 0, (lefts[i - 1] ?? 0) + (wides[i - 1] ?? 0));
	let most = width;
	for (let i = lefts.length - 1; i >= 0; i--) {
		most -= wides[i] ?? 0;
		lefts[i] = Math.max(28, Math.min(lefts[i] ?? 0, most));
		most = lefts[i] ?? 0;
	}
	return lefts;
}

export function SupplyLabels({ line, layout, chosen, onChoose, width }: Props) {
	const lefts = labelPlaces(line, layout, width);
	const top = layout.railY(Math.max(0, ...line.rails.map((it) => it.depth))) + 10;
	return line.rails.map((rail, index) => (
		<button
			type="button"
			key={rail.id}
			aria-current={rail.id === chosen}
			onClick={() => onChoose(rail.id)}
			style={{ left: lefts[index], top }}
			className="absolute flex items-baseline gap-2 whitespace-nowrap text-left hover:text-coppertext"
		>
			<span className={`font-said text-name ${rail.id === chosen ? "font-bold" : "font-semibold"}`}>{rail.label}</span>
			<span className="font-number text-note">{rail.numbers}</span>
			<span className="sr-only">{rail.state === "unknown" ? "" : rail.state}</span>
		</button>
	));
}
