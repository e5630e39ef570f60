import type { Comparison } from "../../api/client";
import { Mark } from "../../ui/Mark";

const SHOWN_MOST = 12;
const WORDS = { clear: "clear", look: "look", stop: "stop" };

/** What moves from one plan to another: verdicts first, then numbers, then what was decided otherwise. */
export function ComparisonView({ comparison, areChangesShown = true }: { comparison: Comparison; areChangesShown?: boolean }) {
	const { findings, values, changes } = comparison;
	return (
		<div className="space-y-3">
			{findings.length > 0 && (
				<ul aria-label="Verdicts that move" className="space-y-1.5">
					{findings.map((it) => (
						<li key={it.key} className="flex items-start gap-2.5">
							<span className="flex shrink-0 items-center gap-1 pt-1">
								<Mark state={it.before} width={20} />
								<span aria-hidden="true">→</span>
								<Mark state={it.after} width={20} />
							</span>
							<span className="text-note">
								<span className="sr-only">
									{WORDS[it.before]} becomes {WORDS[it.after]}:{" "}
								</span>
								{it.after === "clear" && <span className="text-soft">No longer: </span>}
								{it.message}
							</span>
						</li>
					))}
				</ul>
			)}
			{values.length > 0 && <Moved label="Numbers that move" rows={values} />}
			{areChangesShown && changes.length > 0 && (
				<Moved label="Decided otherwise" rows={changes.map((it) => ({ ...it, id: it.path.join(".") }))} />
			)}
		</div>
	);
}

/** Rows of what was, and what it becomes. */
export function Moved({
	label,
	rows,
}: {
	label: string;
	rows: readonly { id: string; label: string; before: string; after: string }[];
}) {
	return (
		<div>
			<p className="text-note text-soft">{label}</p>
			<ul>
				{rows.slice(0, SHOWN_MOST).map((row) => (
					<li key={row.id} className="flex flex-wrap items-baseline gap-x-3 border-hair border-b py-1 text-note">
						<span className="min-w-40 flex-1">{row.label}</span>
						<span className="ml-auto text-right">
							<span className="font-number text-soft">{row.before || "nothing"}</span> <span aria-hidden="true">→</span>
							<span className="sr-only">becomes</span> <span className="font-number">{row.after || "nothing"}</span>
						</span>
					</li>
				))}
			</ul>
			{rows.length > SHOWN_MOST && <p className="text-note text-soft">and {rows.length - SHOWN_MOST} more</p>}
		</div>
	);
}
