import { useMemo, useState } from "react";
import { Link } from "wouter";
import type { ProgramShown } from "../../api/client";
import { useKept, useReview } from "../../api/project";
import { Folded } from "../../ui/Folded";
import { RegionEditor } from "./Regions";

const YOURS = -2;
const REST = "// ==== ";

type Row = { text: string; of: number; at: number };

/** The file line by line on a thread: a knot where lines come from a part of the plan, lit where that part is marked. */
export function Listing({ program }: { program: ProgramShown }) {
	const { titles } = useReview();
	const [marked, setMarked] = useState(-1);
	const rows = useMemo(
		() => program.text.split("\n").map((text, at) => ({ text, of: program.of[at] ?? -1, at })),
		[program.text, program.of],
	);
	const cut = rows.findIndex((it) => it.text.startsWith(REST));
	const own = cut < 0 ? rows : rows.slice(0, cut);
	const rest = cut < 0 ? [] : rows.slice(cut);
	return (
		<div className="space-y-4">
			<p className="flex flex-wrap gap-x-5 gap-y-1 text-note print:hidden">
				<span className="text-soft">Mark the lines of</span>
				{program.stages.map((stage, at) => (
					<button
						key={stage}
						type="button"
						aria-pressed={marked === at}
						onClick={() => setMarked(marked === at ? -1 : at)}
						className={`border-b-2 ${marked === at ? "border-lamp font-semibold" : "border-hair text-soft hover:text-ink"}`}
					>
						{titles[stage] ?? stage}
					</button>
				))}
			</p>
			<Lines rows={own} program={program} marked={marked} />
			{rest.length > 0 && (
				<Folded summary={`How it is done: ${rest.length} lines, with tables of what the plan says`}>
					<Lines rows={rest} program={program} marked={marked} />
				</Folded>
			)}
		</div>
	);
}

function Lines({ rows, program, marked }: { rows: readonly Row[]; program: ProgramShown; marked: number }) {
	return (
		<ol className="relative mt-2 overflow-x-auto pb-2 font-number text-xs leading-5">
			{rows.map((row, index) => (
				<Line
					key={row.at}
					row={row}
					before={rows[index - 1]?.of ?? -1}
					program={program}
					isMarked={row.of >= 0 && row.of === marked}
				/>
			))}
		</ol>
	);
}

type LineProps = { row: Row; before: number; program: ProgramShown; isMarked: boolean };

function Line({ row, before, program, isMarked }: LineProps) {
	const { id } = useKept();
	const { titles } = useReview();
	const stage = program.stages[row.of];
	const isFirst = row.of !== before;
	const region = row.of === YOURS && isFirst ? program.regions.find((it) => row.text.includes(`yours: ${it.place},`)) : undefined;
	return (
		<li className={`relative flex min-w-max ${row.of === YOURS ? "bg-lampsoft" : isMarked ? "bg-ground" : ""}`}>
			<span className="relative w-8 shrink-0 self-stretch">
				<span aria-hidden="true" className="absolute inset-y-0 left-[11px] w-[3px] bg-ink" />
				{stage && isFirst && (
					<Link
						href={`/projects/${id}?stage=${encodeURIComponent(stage)}`}
						aria-label={`To ${titles[stage] ?? stage}`}
						title={titles[stage] ?? stage}
						className={`absolute top-[3px] left-[5px] block size-[15px] rounded-full border-[3px] border-ink ${isMarked ? "bg-lamp" : "bg-sheet hover:bg-lamp"}`}
					/>
				)}
			</span>
			<Code text={row.text} />
			{region && <RegionEditor region={region} program={program} />}
		</li>
	);
}

function Code({ text }: { text: string }) {
	const at = text.indexOf("//");
	const [code, said] = at < 0 ? [text, ""] : [text.slice(0, at), text.slice(at)];
	return (
		<code className="whitespace-pre pr-6 font-number">
			{code}
			{said ? <span className="text-soft">{said}</span> : code ? "" : "\u00a0"}
		</code>
	);
}
