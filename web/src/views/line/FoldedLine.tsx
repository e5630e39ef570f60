import type { Line } from "../../api/client";
import { useRehearsal } from "../../api/rehearsal";
import { Mark } from "../../ui/Mark";
import { KnotRow } from "./KnotRow";

type Props = {
	line: Line;
	chosen: string;
	onChoose: (stage: string) => void;
	width: number;
	isOpen: boolean;
	onTurn: (isOpen: boolean) => void;
};

/** The line in a narrow window: one row of knots, one for each column, that opens downwards to every stage. */
export function FoldedLine({ line, chosen, onChoose, width, isOpen, onTurn }: Props) {
	const { reached } = useRehearsal();
	const here = [...line.stages, ...line.rails].find((stage) => stage.id === chosen);
	const ordered = [...line.stages].sort((a, b) => a.column - b.column || a.row - b.row);
	const pick = (stage: string) => {
		onChoose(stage);
		onTurn(false);
	};
	return (
		<>
			<button
				type="button"
				aria-expanded={isOpen}
				onClick={() => onTurn(!isOpen)}
				className="block w-full rounded-2xl px-1 text-left"
			>
				<KnotRow line={line} chosen={chosen} width={width - 8} passed={new Set(reached.keys())} />
				<span className="flex items-baseline justify-between gap-3">
					<span className="min-w-0 flex-1 truncate">
						<span className="font-bold font-said">{here?.label}</span>{" "}
						<span className="font-number text-note">{here?.numbers}</span>
					</span>
					<span className="text-note text-soft">
						{isOpen ? "Fold the line" : "Open the line"} <span aria-hidden="true">{isOpen ? "▴" : "▾"}</span>
					</span>
				</span>
			</button>
			{isOpen && (
				<ul className="mt-2">
					{[...ordered, ...line.rails].map((stage) => (
						<li key={stage.id}>
							<button
								type="button"
								aria-current={stage.id === chosen}
								onClick={() => pick(stage.id)}
								className={`flex w-full items-center gap-3 border-hair border-b py-2 text-left ${stage.id === chosen ? "font-bold" : ""}`}
							>
								<Mark state={stage.state} />
								<span className="min-w-0 flex-1">
									<span className="font-said">{stage.label}</span>{" "}
									<span className="block font-number text-soft text-xs">{reached.get(stage.id)?.text ?? stage.numbers}</span>
								</span>
							</button>
						</li>
					))}
				</ul>
			)}
		</>
	);
}
