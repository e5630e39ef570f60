import type { Line, Stage, State } from "../../api/client";
import { type Look, useRehearsal } from "../../api/rehearsal";
import { Mark } from "../../ui/Mark";

type Props = {
	line: Line;
	chosen: string;
	onChoose: (stage: string) => void;
	width: number;
	isOpen: boolean;
	onTurn: (isOpen: boolean) => void;
};
const RANK: readonly State[] = ["clear", "unknown", "look", "stop"];

/** The line in a narrow window: one row of knots, one for each column, that opens downwards to every stage. */
export function FoldedLine({ line, chosen, onChoose, width, isOpen, onTurn }: Props) {
	const { looks, reached } = useRehearsal();
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
				<KnotRow line={line} chosen={chosen} width={width - 8} looks={looks} passed={new Set(reached.keys())} />
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

type RowProps = Pick<Props, "line" | "chosen" | "width"> & { looks: Readonly<Record<string, Look>>; passed: ReadonlySet<string> };

function KnotRow({ line, chosen, width, looks, passed }: RowProps) {
	const columns = Array.from({ length: line.columns }, (_, column) => line.stages.filter((stage) => stage.column === column));
	const pitch = (width - 24) / Math.max(1, columns.length - 1);
	const knot = Math.min(7, pitch * 0.28);
	const worst = (stages: readonly Stage[]) =>
		stages.reduce<State>((state, stage) => (RANK.indexOf(stage.state) > RANK.indexOf(state) ? stage.state : state), "clear");
	return (
		<svg width={width} height="46" aria-hidden="true" className="overflow-visible">
			{columns.slice(1).map((stages, index) => {
				const [x1, x2] = [12 + index * pitch + knot + 2, 12 + (index + 1) * pitch - knot - 2];
				const state = worst(stages);
				const key = stages[0]?.id ?? index;
				if (state === "stop")
					return (
						<g key={key} strokeLinecap="round">
							<path
								d={`M${x1} 24H${x1 + (x2 - x1) * 0.25}M${x2 - (x2 - x1) * 0.25} 24H${x2}`}
								className="stroke-ink"
								strokeWidth="3"
							/>
							<path d={`M${(x1 + x2) / 2 - 5} 18l3 12M${(x1 + x2) / 2 + 2} 18l3 12`} className="stroke-cut" strokeWidth="2.4" />
						</g>
					);
				return (
					<path
						key={key}
						d={`M${x1} 24Q${(x1 + x2) / 2} ${index % 2 ? 18 : 30} ${x2} 24`}
						fill="none"
						className="stroke-ink"
						strokeLinecap="round"
						strokeWidth={state === "look" ? 3.4 : state === "unknown" ? 1 : 3}
						strokeDasharray={state === "look" ? "0.1 6" : undefined}
					/>
				);
			})}
			{columns.map((stages, index) => {
				const x = 12 + index * pitch;
				const lit = stages.map((stage) => looks[stage.id.slice("lamps.".length)]).find((look) => look && look.light > 0);
				const isHere = stages.some((stage) => stage.id === chosen);
				const isPassed = stages.some((stage) => passed.has(stage.id));
				return (
					<g key={stages[0]?.id ?? index}>
						{lit && <circle cx={x} cy="24" r="15" fill={lit.colour} opacity="0.5" style={{ filter: "blur(5px)" }} />}
						<circle
							cx={x}
							cy="24"
							r={isHere ? knot + 2 : knot}
							fill={lit ? lit.colour : isHere || isPassed ? "var(--lamp)" : "var(--unlit)"}
							className="stroke-ink"
							strokeWidth={isHere ? 3.4 : 2.6}
						/>
					</g>
				);
			})}
		</svg>
	);
}
