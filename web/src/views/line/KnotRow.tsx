import type { Line, Stage, State } from "../../api/client";
import { useLook } from "../../api/rehearsal";

const RANK: readonly State[] = ["clear", "unknown", "look", "stop"];
const EDGE = 12;
const CUT_MOST = 14;

type Props = {
	line: Line;
	chosen: string;
	width: number;
	passed: ReadonlySet<string>;
};

/** The stages of each column, thumb to lamp. */
export const columnsOf = (line: Line): Stage[][] =>
	Array.from({ length: line.columns }, (_, column) => line.stages.filter((stage) => stage.column === column));

/** The stage of a column that wants looking at most. */
export const worstOf = (stages: readonly Stage[]): Stage | undefined =>
	stages.reduce<Stage | undefined>(
		(worst, stage) => (worst && RANK.indexOf(worst.state) >= RANK.indexOf(stage.state) ? worst : stage),
		undefined,
	);

/** Where the knot of a column stands. */
export const knotX = (column: number, columns: number, width: number) =>
	EDGE + (column * (width - 2 * EDGE)) / Math.max(1, columns - 1);

/** One row of knots, one a column, with the worst state of what they stand for. */
export function KnotRow({ line, chosen, width, passed }: Props) {
	const columns = columnsOf(line);
	const x = (column: number) => knotX(column, columns.length, width);
	const pitch = x(1) - x(0);
	const knot = Math.max(1, Math.min(7, pitch * 0.28));
	return (
		<svg width={Math.max(0, width)} height="46" aria-hidden="true" className="overflow-visible">
			{columns.slice(1).map((stages, index) => {
				const [x1, x2] = [x(index) + knot + 2, x(index + 1) - knot - 2];
				const cut = Math.max((x2 - x1) * 0.25, (x2 - x1) / 2 - CUT_MOST);
				const state = worstOf(stages)?.state ?? "unknown";
				const key = stages[0]?.id ?? index;
				if (state === "stop")
					return (
						<g key={key} strokeLinecap="round">
							<path d={`M${x1} 24H${x1 + cut}M${x2 - cut} 24H${x2}`} className="stroke-ink" strokeWidth="3" />
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
			{columns.map((stages, index) => (
				<ColumnKnot
					key={stages[0]?.id ?? index}
					stages={stages.map((stage) => stage.id)}
					cx={x(index)}
					knot={knot}
					isHere={stages.some((stage) => stage.id === chosen)}
					isPassed={stages.some((stage) => passed.has(stage.id))}
				/>
			))}
		</svg>
	);
}

type ColumnProps = { stages: readonly string[]; cx: number; knot: number; isHere: boolean; isPassed: boolean };

/** The knot of one column, lit by whichever of its lamps is. */
function ColumnKnot({ stages, cx, knot, isHere, isPassed }: ColumnProps) {
	const look = useLook(stages);
	const lit = look && look.light > 0 ? look : undefined;
	return (
		<g>
			{lit && <circle cx={cx} cy="24" r="15" fill={lit.colour} opacity={0.5 * lit.light} style={{ filter: "blur(5px)" }} />}
			<circle
				cx={cx}
				cy="24"
				r={isHere ? knot + 2 : knot}
				fill={lit ? lit.colour : isHere || isPassed ? "var(--lamp)" : "var(--unlit)"}
				className="stroke-ink"
				strokeWidth={isHere ? 3.4 : 2.6}
			/>
		</g>
	);
}
