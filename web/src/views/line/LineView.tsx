import { type KeyboardEvent, useRef, useState } from "react";
import type { Line, Stage } from "../../api/client";
import { useRehearsal } from "../../api/rehearsal";
import { useWidth } from "../../ui/useWidth";
import { Beads } from "./Beads";
import { FoldedLine } from "./FoldedLine";
import { Knot } from "./Knot";
import { isFolded, LAMP_LABEL, type Layout, layOut, segmentKey } from "./layout";
import { StageLabel } from "./StageLabel";
import { SupplyLabels, SupplyThreads } from "./Supply";
import { Thread } from "./Thread";

type Props = { line: Line; chosen: string; onChoose: (stage: string) => void };

/** The line of the project: thumb to lamp as one thread, with the supply below it. */
export function LineView({ line, chosen, onChoose }: Props) {
	const [box, width] = useWidth<HTMLDivElement>(window.innerWidth);
	const [isOpen, setOpen] = useState(false);
	const [scroll, setScroll] = useState(0);
	const layout = layOut(line, width, scroll);
	const { looks } = useRehearsal();
	const labels = useRef(new Map<string, HTMLButtonElement>());
	const tabStop = line.stages.some((stage) => stage.id === chosen) ? chosen : line.stages[0]?.id;
	const at = useRef(tabStop);
	at.current = tabStop;
	const move = (event: KeyboardEvent) => {
		const next = neighbour(line, at.current ?? "", event.key);
		if (!next) return;
		event.preventDefault();
		at.current = next.id; // the next press may come before this one is drawn
		onChoose(next.id);
		labels.current.get(next.id)?.focus();
	};
	if (isFolded(line, width))
		return (
			<nav ref={box} aria-label="The line, thumb to lamp" className="px-3 pb-3 print:hidden">
				<FoldedLine line={line} chosen={chosen} onChoose={onChoose} width={width - 24} isOpen={isOpen} onTurn={setOpen} />
			</nav>
		);
	const below = Math.round((layout.lampsTall - scroll - (layout.lampBottom - layout.lampTop)) / layout.pitch);
	const isSeen = (id: string) => {
		const at = layout.points.get(id);
		return at && (!id.startsWith("lamps.") || (at.y > layout.lampTop - 2 && at.y < layout.lampBottom + 2));
	};
	return (
		<nav
			ref={box}
			aria-label="The line, thumb to lamp"
			className="relative select-none"
			style={{ height: layout.height }}
			onKeyDown={move}
		>
			<svg width={width} height={layout.height} className="absolute inset-0 overflow-visible" aria-hidden="true">
				<Pool layout={layout} chosen={chosen} width={width} />
				<SupplyThreads line={line} layout={layout} chosen={chosen} width={width} />
				{line.segments.map(({ a, b, state }) => {
					const path = layout.paths.get(segmentKey(a, b));
					if (!path || !isSeen(a) || !isSeen(b)) return null;
					return <Thread key={segmentKey(a, b)} path={path} state={state} />;
				})}
				{line.stages.map((stage) => {
					const at = layout.points.get(stage.id);
					if (!at || !isSeen(stage.id)) return null;
					return (
						<Knot
							key={stage.id}
							at={at}
							isChosen={stage.id === chosen}
							look={looks[stage.id.slice("lamps.".length)]}
							isLamp={stage.kind === "lamp"}
							isTight={layout.isTight}
						/>
					);
				})}
			</svg>
			{line.stages
				.filter((stage) => stage.kind !== "lamp")
				.map((stage) => (
					<StageLabel
						key={stage.id}
						stage={stage}
						layout={layout}
						isChosen={stage.id === chosen}
						isTabStop={stage.id === tabStop}
						onChoose={onChoose}
						labels={labels.current}
					/>
				))}
			<div
				className="absolute right-0 overflow-y-auto overflow-x-hidden"
				style={{ top: layout.lampTop, height: layout.lampBottom - layout.lampTop, width: LAMP_LABEL }}
				onScroll={(event) => setScroll(event.currentTarget.scrollTop)}
			>
				<div className="relative" style={{ height: Math.max(layout.lampsTall, layout.lampBottom - layout.lampTop) }}>
					{line.stages
						.filter((stage) => stage.kind === "lamp")
						.map((stage) => (
							<StageLabel
								key={stage.id}
								stage={stage}
								layout={layout}
								scroll={scroll}
								isChosen={stage.id === chosen}
								isTabStop={stage.id === tabStop}
								onChoose={onChoose}
								labels={labels.current}
							/>
						))}
				</div>
			</div>
			{below > 0 && (
				<p className="absolute right-7 text-note text-soft" style={{ top: layout.lampBottom - 2 }}>
					{below} more below
				</p>
			)}
			<SupplyLabels line={line} layout={layout} chosen={chosen} onChoose={onChoose} width={width} />
			<Beads layout={layout} />
		</nav>
	);
}

/** The stage an arrow key leads to: along the thread, or within a stack. */
function neighbour(line: Line, chosen: string, key: string): Stage | undefined {
	const here = line.stages.find((stage) => stage.id === chosen);
	const step = { ArrowRight: 1, ArrowLeft: -1, ArrowDown: 1, ArrowUp: -1 }[key];
	if (!here || !step) return undefined;
	if (key === "ArrowUp" || key === "ArrowDown") {
		const stack = line.stages.filter((stage) => stage.column === here.column);
		return stack[stack.indexOf(here) + step];
	}
	return line.stages.find((stage) => stage.column === here.column + step);
}

/** The light a chosen stage throws down on its sheet. */
function Pool({ layout, chosen, width }: { layout: Layout; chosen: string; width: number }) {
	const at = layout.points.get(chosen);
	if (!at || at.y < layout.lampTop - 2 || at.y > layout.lampBottom + 2) return null;
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
