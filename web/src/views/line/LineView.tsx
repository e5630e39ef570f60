import { type KeyboardEvent, useLayoutEffect, useRef, useState } from "react";
import type { Line, Stage } from "../../api/client";
import { useWidth } from "../../ui/useWidth";
import { FoldedLine } from "./FoldedLine";
import { FullLine } from "./FullLine";
import { isFolded } from "./layout";
import { Ribbon } from "./Ribbon";

type Props = {
	line: Line;
	chosen: string;
	isRibbon: boolean;
	/** The ribbon was opened, or entered by keyboard. */
	onOpen: () => void;
	onChoose: (stage: string, isStep?: boolean) => void;
};

/** The line of the project: thumb to lamp as one thread, whole, as a ribbon while the sheet needs the room, or folded. */
export function LineView({ line, chosen, isRibbon, onOpen, onChoose }: Props) {
	const [box, width] = useWidth<HTMLDivElement>(window.innerWidth);
	const [isOpen, setOpen] = useState(false);
	const isEntered = useRef(false);
	const labels = useRef(new Map<string, HTMLButtonElement>());
	const tabStop = line.stages.some((stage) => stage.id === chosen) ? chosen : line.stages[0]?.id;
	const at = useRef(tabStop);
	at.current = tabStop;
	useLayoutEffect(() => {
		if (!isRibbon && isEntered.current) labels.current.get(at.current ?? "")?.focus();
		isEntered.current = false;
	}, [isRibbon]);
	const open = () => {
		isEntered.current = true;
		onOpen();
	};
	const move = (event: KeyboardEvent) => {
		const next = neighbour(line, at.current ?? "", event.key);
		if (!next) return;
		event.preventDefault();
		at.current = next.id; // the next press may come before this one is drawn
		onChoose(next.id, true);
		labels.current.get(next.id)?.focus();
	};
	if (isFolded(line, width))
		return (
			<nav ref={box} aria-label="The line, thumb to lamp" className="px-3 pb-3 print:hidden">
				<FoldedLine line={line} chosen={chosen} onChoose={onChoose} width={width - 24} isOpen={isOpen} onTurn={setOpen} />
			</nav>
		);
	return (
		<nav
			ref={box}
			aria-label="The line, thumb to lamp"
			className="shrink-0"
			onKeyDown={move}
			onFocus={(event) => isRibbon && event.target.matches(":focus-visible") && open()}
		>
			{isRibbon ? (
				<Ribbon line={line} chosen={chosen} width={width} onChoose={onChoose} onOpen={open} />
			) : (
				<FullLine line={line} chosen={chosen} tabStop={tabStop} width={width} onChoose={onChoose} labels={labels.current} />
			)}
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
