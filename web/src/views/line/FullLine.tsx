import { useState } from "react";
import type { Line } from "../../api/client";
import { Beads } from "./Beads";
import { Knot } from "./Knot";
import { hiddenBelow, isTight, LAMPS, type Layout, layOut, segmentKey } from "./layout";
import { StackLabels, StageLabel } from "./StageLabel";
import { SupplyLabels, SupplyThreads } from "./Supply";
import { Thread } from "./Thread";

type Props = {
	line: Line;
	chosen: string;
	tabStop?: string;
	width: number;
	onChoose: (stage: string) => void;
	labels: Map<string, HTMLButtonElement>;
};

/** The whole line: every stage with its name and numbers, lamps and inputs above each other, the supply below. */
export function FullLine({ line, chosen, tabStop, width, onChoose, labels }: Props) {
	const [scrolls, setScrolls] = useState<Record<string, number>>({});
	const layout = layOut(line, width, scrolls);
	const shared = { layout, onChoose, labels };
	return (
		<div className="relative select-none" style={{ height: layout.height }}>
			<svg width={width} height={layout.height} className="absolute inset-0 overflow-visible" aria-hidden="true">
				<Pool layout={layout} chosen={chosen} width={width} />
				<SupplyThreads line={line} layout={layout} chosen={chosen} width={width} />
				{line.segments.map(({ a, b, state }) => {
					const path = layout.paths.get(segmentKey(a, b));
					if (!path || !layout.isSeen(a) || !layout.isSeen(b)) return null;
					return <Thread key={segmentKey(a, b)} path={path} state={state} />;
				})}
				{line.stages.map((stage) => {
					const at = layout.points.get(stage.id);
					const stack = layout.stackOf(stage.id);
					if (!at || !layout.isSeen(stage.id)) return null;
					return (
						<Knot
							key={stage.id}
							at={at}
							isChosen={stage.id === chosen}
							stage={stage.id}
							isTight={stack !== undefined && isTight(stack)}
							isSmall={stack !== undefined && stack.key !== LAMPS}
						/>
					);
				})}
			</svg>
			{line.stages
				.filter((stage) => !layout.stackOf(stage.id))
				.map((stage) => (
					<StageLabel key={stage.id} {...shared} stage={stage} isChosen={stage.id === chosen} isTabStop={stage.id === tabStop} />
				))}
			<StackLabels
				{...shared}
				stages={line.stages}
				chosen={chosen}
				tabStop={tabStop}
				onScroll={(key, top) => setScrolls((before) => ({ ...before, [key]: top }))}
			/>
			{layout.stacks.map(
				(stack) =>
					hiddenBelow(stack) > 0 && (
						<p
							key={stack.key}
							className="absolute text-note text-soft"
							style={{ top: stack.bottom - 2, right: stack.key === LAMPS ? 28 : `calc(100% - ${stack.x - 17}px)` }}
						>
							{hiddenBelow(stack)} more below
						</p>
					),
			)}
			<SupplyLabels line={line} layout={layout} chosen={chosen} onChoose={onChoose} width={width} />
			<Beads layout={layout} />
		</div>
	);
}

/** The light a chosen stage throws down on its sheet. */
function Pool({ layout, chosen, width }: { layout: Layout; chosen: string; width: number }) {
	const at = layout.points.get(chosen);
	if (!at || !layout.isSeen(chosen)) return null;
	const sheetRight = width * 0.66;
	const middle = Math.min(Math.max(at.x, 190), sheetRight - 170);
	const foot = layout.height + 2;
	return (
		<g>
			<defs>
				<linearGradient id="pool" x1="0" y1="0" x2="0" y2="1">
					<stop offset="0" stopColor="var(--pool)" stopOpacity="0.15" />
					<stop offset="0.35" stopColor="var(--pool)" />
					<stop offset="1" stopColor="var(--pool)" stopOpacity="0.5" />
				</linearGradient>
			</defs>
			<path d={`M${at.x - 6} ${at.y}L${middle - 170} ${foot}H${middle + 170}L${at.x + 6} ${at.y}Z`} fill="url(#pool)" />
		</g>
	);
}
