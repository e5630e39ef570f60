import type { Stage } from "../../api/client";
import { LAMP_LABEL, type Layout } from "./layout";

const WORDS = { clear: "clear", look: "look", stop: "stop", unknown: "" };

type Props = {
	stage: Stage;
	layout: Layout;
	scroll?: number;
	isChosen: boolean;
	isTabStop: boolean;
	onChoose: (stage: string) => void;
	labels: Map<string, HTMLButtonElement>;
};

/** Name and deciding numbers of a stage; it is also the way to its sheet. */
export function StageLabel({ stage, layout, scroll = 0, isChosen, isTabStop, onChoose, labels }: Props) {
	const at = layout.points.get(stage.id);
	if (!at) return null;
	const isLamp = stage.kind === "lamp";
	const wide = Math.max(78, layout.spacing - 6);
	const isSide = stage.row > 0;
	const isLeft = isSide && stage.kind === "input" && stage.column > 0;
	const style = isLamp
		? { left: 22, top: at.y - layout.lampTop + scroll, transform: "translateY(-50%)", width: LAMP_LABEL - 50 }
		: isLeft
			? { right: `calc(100% - ${at.x - 17}px)`, top: at.y - 10, width: 140 }
			: isSide
				? { left: at.x - wide / 2, top: at.y + 13, width: wide }
				: { left: at.x - wide / 2, bottom: layout.height - at.y + 20, width: wide };
	const lay = isLamp
		? layout.isTight
			? "flex items-baseline justify-between gap-2 text-left"
			: "text-left"
		: isLeft
			? "text-right"
			: "text-center";
	return (
		<button
			type="button"
			ref={(element) => {
				if (element) labels.set(stage.id, element);
				else labels.delete(stage.id);
			}}
			tabIndex={isTabStop ? 0 : -1}
			aria-current={isChosen}
			onClick={() => onChoose(stage.id)}
			style={style}
			className={`absolute leading-tight hover:text-coppertext ${lay}`}
		>
			<span className={`block truncate font-said text-name ${isChosen ? "font-extrabold" : "font-semibold"}`}>{stage.label}</span>
			<span
				className={`block text-balance font-number text-xs ${stage.state === "unknown" ? "text-soft italic" : ""} ${isLamp && layout.isTight ? "whitespace-nowrap" : ""}`}
			>
				{stage.numbers}
			</span>
			<span className="sr-only">{WORDS[stage.state]}</span>
		</button>
	);
}
