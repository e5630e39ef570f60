import type { Line, Stage } from "../../api/client";
import { useRehearsal } from "../../api/rehearsal";
import { Mark } from "../../ui/Mark";
import { columnsOf, KnotRow, knotX, worstOf } from "./KnotRow";

type Props = { line: Line; chosen: string; width: number; onChoose: (stage: string) => void; onOpen: () => void };
const SIDE = 40;

/** The line while the sheet needs the room: a row of knots with their states, one name a column, the chosen one's own. */
export function Ribbon({ line, chosen, width, onChoose, onOpen }: Props) {
	const { reached } = useRehearsal();
	const columns = columnsOf(line);
	const inner = width - 2 * SIDE;
	const wide = inner / Math.max(1, columns.length - 1);
	const rail = line.rails.find((it) => it.id === chosen);
	return (
		<div className="relative h-[104px] select-none">
			<div className="absolute" style={{ left: SIDE }}>
				<KnotRow line={line} chosen={chosen} width={inner} passed={new Set(reached.keys())} />
			</div>
			{columns.map((stages, column) => {
				const here = stages.find((stage) => stage.id === chosen);
				const leads = here ?? worstOf(stages);
				if (!leads) return null;
				const isLast = column === columns.length - 1;
				return (
					<button
						type="button"
						key={leads.id}
						tabIndex={here || (!columns.flat().some((it) => it.id === chosen) && column === 0) ? 0 : -1}
						aria-current={here !== undefined}
						onClick={() => onChoose(leads.id)}
						style={{
							top: 42,
							width: isLast ? wide / 2 + SIDE : wide - 8,
							left: isLast ? undefined : SIDE + knotX(column, columns.length, inner) - (wide - 8) / 2,
							right: isLast ? 28 : undefined,
						}}
						className={`absolute truncate font-said text-note hover:text-coppertext ${isLast ? "text-right" : "text-center"} ${here ? "font-extrabold" : ""}`}
					>
						{here?.label ?? nameOf(stages)}
					</button>
				);
			})}
			<div className="absolute inset-x-7 bottom-2 flex items-baseline gap-5 border-copper border-t-2 pt-0.5">
				{line.rails.map((it) => (
					<button
						type="button"
						key={it.id}
						tabIndex={it === rail ? 0 : -1}
						aria-current={it === rail}
						onClick={() => onChoose(it.id)}
						className={`flex items-center gap-2 truncate font-said text-note hover:text-coppertext ${it === rail ? "font-extrabold" : ""}`}
					>
						{it.label}
						{it.state !== "clear" && <Mark state={it.state} isSupply />}
					</button>
				))}
				<button type="button" onClick={onOpen} className="ml-auto shrink-0 text-note text-soft hover:text-ink">
					Open the line <span aria-hidden="true">▾</span>
				</button>
			</div>
		</div>
	);
}

/** What the stages of a column are called together. */
function nameOf(stages: readonly Stage[]): string {
	const lamps = stages.filter((stage) => stage.kind === "lamp");
	if (lamps.length > 1) return `${lamps.length} lamps`;
	const [first] = stages;
	return stages.length > 1 ? `${first?.label} +${stages.length - 1}` : (first?.label ?? "");
}
