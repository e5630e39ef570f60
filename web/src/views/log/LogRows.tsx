import { useState } from "react";
import type { EntryShown, LogRow, RunShown } from "../../api/client";
import { useReview } from "../../api/project";
import { ActionButton } from "../../ui/ActionButton";
import { Folded } from "../../ui/Folded";
import { Photos } from "./Photos";
import { useEntry } from "./useLog";
import { WriteEntry } from "./WriteEntry";

const DAY = new Intl.DateTimeFormat("en-GB", { weekday: "long", day: "numeric", month: "long", year: "numeric" });
const CLOCK = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit" });
const FEW = 3;

const momentOf = (row: LogRow) => new Date(row.what === "entry" ? row.made_at : (row.deeds[0]?.made_at ?? 0));

/** Entries as knots on a thread, and between them what was done: a stretch of dots. The newest stands on top. */
export function LogRows({ rows, onChoose }: { rows: readonly LogRow[]; onChoose: (stage: string) => void }) {
	let day = "";
	return (
		<ol>
			{rows.map((row, at) => {
				const moment = momentOf(row);
				const told = DAY.format(moment);
				const isNew = told !== day;
				day = told;
				return (
					<li key={row.id}>
						{isNew && <h3 className={`pb-2 font-said font-semibold text-name ${at ? "pt-5" : ""}`}>{told}</h3>}
						<div className="relative flex gap-3">
							<Knot row={row} />
							<div className="min-w-0 flex-1 pb-4">
								{row.what === "entry" ? (
									<Entry entry={row} moment={moment} onChoose={onChoose} />
								) : (
									<Run run={row} moment={moment} />
								)}
							</div>
						</div>
					</li>
				);
			})}
		</ol>
	);
}

/** Told by shape: a fault is a cut in the thread, an idea an open ring, a note for next time a lit one, what was done a dot. */
function Knot({ row }: { row: LogRow }) {
	const kind = row.kind;
	return (
		<div className="relative w-5 shrink-0" aria-hidden="true">
			<span
				className={`absolute inset-y-0 left-[9px] border-l-[3px] ${row.what === "run" ? "border-hair border-dotted" : "border-ink"}`}
			/>
			<svg width="20" height="26" viewBox="0 0 20 26" aria-hidden="true" className="absolute top-0 left-0">
				{row.what === "run" ? (
					<circle cx="10.5" cy="11" r="3.5" className="fill-soft" />
				) : kind === "fault" ? (
					<g>
						<rect x="6" y="4" width="9" height="14" className="fill-[var(--sheet)]" />
						<path d="M5 17L9 5M11 17L15 5" className="stroke-cut" strokeWidth="2.4" strokeLinecap="round" />
					</g>
				) : (
					<circle
						cx="10.5"
						cy="11"
						r="7"
						strokeWidth="3"
						className="stroke-ink"
						strokeDasharray={kind === "idea" ? "3 3" : undefined}
						fill={kind === "next_time" ? "var(--lamp)" : kind === "idea" || kind === "measured" ? "var(--sheet)" : "var(--ink)"}
					/>
				)}
			</svg>
		</div>
	);
}

function Entry({ entry, moment, onChoose }: { entry: EntryShown; moment: Date; onChoose: (stage: string) => void }) {
	const [isWriting, setWriting] = useState(false);
	const { act, trouble } = useEntry(entry);
	const stage = entry.stage;
	const { titles } = useReview();
	const title = stage ? titles[stage] : undefined;
	if (isWriting) return <WriteEntry entry={entry} onKept={() => setWriting(false)} onLeave={() => setWriting(false)} />;
	return (
		<article aria-label={`${entry.label}, ${CLOCK.format(moment)}`} className={entry.is_thrown ? "opacity-70" : ""}>
			<p className="flex flex-wrap items-baseline gap-x-3 text-note text-soft">
				<span className={`font-semibold ${entry.kind === "fault" ? "text-cut" : "text-ink"}`}>{entry.label}</span>
				<span className="font-number">{CLOCK.format(moment)}</span>
				{stage && title && (
					<button type="button" className="hover:text-coppertext" onClick={() => onChoose(stage)}>
						{title}
					</button>
				)}
				{stage && !title && <span>{entry.stage_label}, gone since</span>}
				{entry.took && <span className="font-number">{entry.took}</span>}
				<span className="font-number">change {entry.number}</span>
			</p>
			<p className="max-w-prose whitespace-pre-line break-words">{entry.text}</p>
			<Photos entry={entry} />
			<p className="mt-1 flex flex-wrap gap-x-5 gap-y-1 print:hidden">
				{entry.is_thrown ? (
					<ActionButton onPress={() => act("put back")}>Put it back</ActionButton>
				) : (
					<>
						<ActionButton isQuiet onPress={() => setWriting(true)}>
							Change<span className="sr-only"> {entry.text.slice(0, 60)}</span>
						</ActionButton>
						{entry.has_before && (
							<ActionButton isQuiet onPress={() => act("before")}>
								As it was before
							</ActionButton>
						)}
						<ActionButton isQuiet onPress={() => act("throw")}>
							Throw away<span className="sr-only"> {entry.text.slice(0, 60)}</span>
						</ActionButton>
					</>
				)}
			</p>
			{trouble && (
				<p role="alert" className="text-cut text-note">
					{trouble}
				</p>
			)}
		</article>
	);
}

/** What was done one after the other, with nothing written between. */
function Run({ run, moment }: { run: RunShown; moment: Date }) {
	const deeds = run.deeds.map((it, at) => (
		// biome-ignore lint/suspicious/noArrayIndexKey: they never change
		<li key={at} className="flex gap-x-3">
			<span className="font-number">{CLOCK.format(new Date(it.made_at))}</span>
			<span className="min-w-0 flex-1">{it.text}</span>
		</li>
	));
	if (deeds.length <= FEW && !run.more) return <ul className="pt-px text-note text-soft">{deeds}</ul>;
	return (
		<Folded className="pt-px text-soft" summary={`${CLOCK.format(moment)} ${run.sentence}`}>
			<ul className="mt-1 text-note">{deeds}</ul>
			{run.more > 0 && <p className="text-note">and {run.more} more; the history has them all</p>}
		</Folded>
	);
}
