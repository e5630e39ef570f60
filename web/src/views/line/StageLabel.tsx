import type { Stage } from "../../api/client";
import { isTight, LAMP_LABEL, LAMPS, type Layout, LEFT } from "./layout";

const WORDS = { clear: "clear", look: "look", stop: "stop", unknown: "" };
const INPUT_LABEL = 190;

type Props = {
	stage: Stage;
	layout: Layout;
	isChosen: boolean;
	isTabStop: boolean;
	onChoose: (stage: string) => void;
	labels: Map<string, HTMLButtonElement>;
};

/** Name and deciding numbers of a stage; it is also the way to its sheet. */
export function StageLabel({ stage, layout, isChosen, isTabStop, onChoose, labels }: Props) {
	const at = layout.points.get(stage.id);
	if (!at) return null;
	const stack = layout.stackOf(stage.id);
	const isLamp = stage.kind === "lamp";
	const wide = Math.max(78, layout.spacing - 6);
	const isLeft = stage.kind === "input" && stage.row > 0 && stage.column > 0;
	const isBeside = stage.kind === "pins" && stage.row > 0; // its supply rises under it, where a name would stand
	const style = stack
		? { left: isLamp ? 22 : 0, right: isLamp ? 28 : 0, top: at.y - stack.top + stack.scroll, transform: "translateY(-50%)" }
		: isLeft
			? { right: `calc(100% - ${at.x - 17}px)`, top: at.y - 10, width: 140 }
			: isBeside
				? { left: at.x + 9, top: at.y + 10, width: wide }
				: stage.row > 0
					? { left: at.x - wide / 2, top: at.y + 13, width: wide }
					: { left: at.x - wide / 2, bottom: layout.height - at.y + 20, width: wide };
	// In a tight stack of inputs there is room for names only; their numbers stand on their sheets.
	const isLine = stack !== undefined && isTight(stack);
	const lay = isLine
		? `flex items-baseline gap-2 ${isLamp ? "justify-between text-left" : "justify-end text-right"}`
		: isLamp || isBeside
			? "text-left"
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
			<span
				className={`font-said text-name ${isLine || isLamp || isLeft || isBeside ? "block truncate" : "line-clamp-2 text-balance"} ${isChosen ? "font-extrabold" : "font-semibold"}`}
			>
				{stage.label}
			</span>
			<span
				className={`text-balance font-number ${isLine && !isLamp ? "sr-only" : "block"} text-xs ${stage.state === "unknown" ? "text-soft italic" : ""} ${isLine ? "whitespace-nowrap" : ""}`}
			>
				{stage.numbers}
			</span>
			<span className="sr-only">{WORDS[stage.state]}</span>
		</button>
	);
}

type StackProps = Omit<Props, "stage" | "isChosen" | "isTabStop"> & {
	stages: readonly Stage[];
	chosen: string;
	tabStop?: string;
	onScroll: (key: string, top: number) => void;
};

/** The labels of every stack, each scrolling in its place where there are more than there is room for. */
export function StackLabels({ stages, chosen, tabStop, onScroll, ...rest }: StackProps) {
	const byId = new Map(stages.map((stage) => [stage.id, stage]));
	return rest.layout.stacks.map((stack) => {
		const isLamps = stack.key === LAMPS;
		const isLeft = stack.x > LEFT + 1;
		const place = isLamps
			? { right: 0, width: LAMP_LABEL }
			: isLeft
				? { right: `calc(100% - ${stack.x - 17}px)`, width: INPUT_LABEL }
				: { left: stack.x + 17, width: INPUT_LABEL };
		return (
			<div
				key={stack.key}
				className="absolute overflow-y-auto overflow-x-hidden"
				style={{ ...place, top: stack.top, height: stack.bottom - stack.top }}
				onScroll={(event) => onScroll(stack.key, event.currentTarget.scrollTop)}
			>
				<div className="relative" style={{ height: Math.max(stack.tall, stack.bottom - stack.top) }}>
					{stack.ids.map((id) => {
						const stage = byId.get(id);
						return stage && <StageLabel key={id} {...rest} stage={stage} isChosen={id === chosen} isTabStop={id === tabStop} />;
					})}
				</div>
			</div>
		);
	});
}
