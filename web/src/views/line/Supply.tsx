import type { Line } from "../../api/client";
import type { Layout } from "./layout";

type Props = { line: Line; layout: Layout; chosen: string; onChoose: (stage: string) => void; width: number };

/** Rails under the line and the risers that feed the stages. */
export function SupplyThreads({ line, layout, chosen, width }: Omit<Props, "onChoose">) {
	const span = (first: number, last: number) => {
		const x = (column: number) => 62 + column * layout.spacing;
		return [Math.max(24, x(first) - 30), last >= line.columns - 1 ? width - 24 : x(last) + 30] as const;
	};
	return (
		<g className="stroke-copper" fill="none" strokeLinecap="round">
			{line.rails.map((rail) => {
				const [x1, x2] = span(rail.first_column, rail.last_column);
				const y = layout.railY(rail.depth);
				return (
					<g key={rail.id}>
						<path d={`M${x1} ${y}H${x2}`} strokeWidth={rail.id === chosen ? 8 : 6} />
						{rail.state === "unknown" && <path d={`M${x1} ${y}H${x2}`} className="stroke-ground" strokeWidth="2.4" />}
					</g>
				);
			})}
			{line.risers.map(({ rail, stage }) => {
				const at = layout.points.get(stage);
				const depth = line.rails.find((it) => it.id === rail)?.depth ?? 0;
				if (!at) return null;
				const y = layout.railY(depth);
				const isLamp = stage.startsWith("lamps.");
				if (isLamp && (at.y < layout.lampTop || at.y > layout.lampBottom)) return null;
				const d = isLamp
					? `M${at.x - 30} ${y}V${at.y + 22}Q${at.x - 30} ${at.y + 6} ${at.x - 11} ${at.y + 4}`
					: `M${at.x + depth * 9} ${y}V${at.y + 11}`;
				return <path key={rail + stage} d={d} strokeWidth="2.6" />;
			})}
		</g>
	);
}

export function SupplyLabels({ line, layout, chosen, onChoose }: Omit<Props, "width">) {
	return line.rails.map((rail) => {
		const others = line.rails.filter((it) => it.depth < rail.depth).length;
		const left = Math.max(24, 62 + rail.first_column * layout.spacing - 30) + others * 330;
		const top = layout.railY(Math.max(...line.rails.map((it) => it.depth))) + 10;
		return (
			<button
				type="button"
				key={rail.id}
				aria-current={rail.id === chosen}
				onClick={() => onChoose(rail.id)}
				style={{ left, top }}
				className="absolute flex items-baseline gap-2 whitespace-nowrap text-left hover:text-coppertext"
			>
				<span className={`font-said text-name ${rail.id === chosen ? "font-bold" : "font-semibold"}`}>{rail.label}</span>
				<span className="font-number text-note">{rail.numbers}</span>
				<span className="sr-only">{rail.state === "unknown" ? "" : rail.state}</span>
			</button>
		);
	});
}
