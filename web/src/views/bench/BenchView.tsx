import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "wouter";
import { answered, api, type BenchShown } from "../../api/client";
import { useEdits, useKept, useReview } from "../../api/project";
import { ActionButton } from "../../ui/ActionButton";
import { Folded } from "../../ui/Folded";
import { Mark } from "../../ui/Mark";
import { PanelView } from "../sheet/PanelView";
import { CircuitDrawing } from "./CircuitDrawing";
import { CircuitList } from "./CircuitList";
import { PartsList } from "./PartsList";
import { TableList } from "./TableList";
import { WireList } from "./WireList";

/** The bench: the wires in the order to make them, and the drawing that is the same list. */
export default function BenchView() {
	const { id, revision } = useKept();
	const [chosen, setChosen] = useState("");
	const shown = useQuery({
		queryKey: ["bench", id, revision],
		queryFn: () =>
			answered(api.GET("/api/projects/{project_id}/bench", { params: { path: { project_id: id }, query: { revision } } })),
		placeholderData: (before) => before,
	});
	const bench = shown.data;
	if (!bench) return <p className="px-8 py-5">{shown.error?.message ?? "Following the wires…"}</p>;
	const wire = bench.wires.find((it) => it.id === chosen) ?? bench.wires.find((it) => !it.is_made) ?? bench.wires[0];
	return (
		<article aria-labelledby="bench" className="runs-on space-y-5 px-8 py-5 pb-24 max-[720px]:px-4 print:block print:p-0">
			<header className="space-y-1">
				<h2 id="bench" className="font-bold font-said text-said leading-tight">
					{bench.sentence}
				</h2>
				<p className="max-w-prose text-note text-soft">{bench.detail}</p>
				<Unsettled />
				<p className="print:hidden">
					<Link
						href={`/projects/${id}/bring-up`}
						className="border-copper border-b-2 font-semibold text-note leading-tight hover:border-ink"
					>
						Bring it up, step by step
					</Link>
				</p>
			</header>
			<Untrue bench={bench} />
			<div className="grid gap-x-8 gap-y-6 print:block desk:grid-cols-[minmax(0,4fr)_minmax(0,5fr)]">
				<WireList bench={bench} chosen={wire?.id ?? ""} onChoose={setChosen} />
				<div className="min-w-0 max-[720px]:order-first desk:sticky desk:top-4 desk:self-start">
					<CircuitDrawing drawing={bench.drawing} marks={wire?.marks ?? []} />
				</div>
			</div>
			{bench.spreads.length > 0 && (
				<div className="max-w-4xl space-y-6">
					{bench.spreads.map((panel) => (
						<div key={panel.title} className={panel.pictures?.length ? "break-inside-avoid" : "print:hidden"}>
							<PanelView panel={panel} />
						</div>
					))}
				</div>
			)}
			<section aria-label="Lists to take along" className="space-y-3">
				<Folded isOpenAtFirst summary={`To cut, ${count(bench.cuts.rows)} pieces of wire`}>
					<TableList table={bench.cuts} label="What to cut" />
				</Folded>
				<Folded isOpenAtFirst summary={`Parts: ${bench.cost}`}>
					<PartsList parts={bench.parts} />
				</Folded>
				{bench.circuits.length > 0 && (
					<Folded summary={`Circuits, ${bench.circuits.length} of them, one drive or level shift each`}>
						<CircuitList circuits={bench.circuits} />
					</Folded>
				)}
				<Taking />
			</section>
		</article>
	);
}

/** What is to settle is told before it is soldered. */
function Unsettled() {
	const { id } = useKept();
	const { findings } = useReview();
	const open = findings.filter((it) => !it.accepted);
	const stops = open.filter((it) => it.severity === "stop");
	const first = stops[0] ?? open[0];
	if (!first) return null;
	return (
		<p className="flex max-w-prose items-baseline gap-x-3 text-note">
			<Mark state={first.severity} />
			<span>
				{open.length} {open.length === 1 ? "thing" : "things"} to settle before it is soldered:{" "}
				<Link
					href={`/projects/${id}?stage=${encodeURIComponent(first.stage)}`}
					className="border-copper border-b-2 font-semibold hover:border-ink"
				>
					{first.message}
				</Link>
			</span>
		</p>
	);
}

/** How many pieces a table counts in its first column. */
function count(rows: readonly (readonly string[])[]): number {
	return rows.reduce((sum, row) => sum + Number(row[0]), 0);
}

/** What is not in the list: wires that the plan no longer has, and lines that have no place yet. */
function Untrue({ bench }: { bench: BenchShown }) {
	const { change } = useEdits();
	if (!bench.gone.length && !bench.open.length) return null;
	return (
		<ul className="max-w-prose space-y-1 text-note">
			{bench.gone.map((it) => (
				<li key={it.told} className="flex flex-wrap items-baseline gap-x-4">
					<span>Take out: {it.told}. The plan has no such wire any more.</span>
					<ActionButton isQuiet onPress={() => change({ patch: it.patch, summary: `Took out ${it.told}` })}>
						It is out
					</ActionButton>
				</li>
			))}
			{bench.open.map((it) => (
				<li key={it}>Not in the list yet: {it}</li>
			))}
		</ul>
	);
}

const FILES = [
	["wiring", "Wiring list"],
	["cut", "Cut list"],
	["parts", "Parts list"],
] as const;

function Taking() {
	const { id, revision } = useKept();
	const address = `/api/projects/${id}/bench/file?revision=${revision}&what=`;
	const look = "border-hair border-b-2 text-note text-soft leading-tight hover:border-ink";
	return (
		<p className="flex flex-wrap items-baseline gap-x-6 gap-y-2 print:hidden">
			<ActionButton onPress={() => window.print()}>Print</ActionButton>
			{FILES.map(([what, label]) => (
				<span key={what} className="flex gap-x-3 text-note">
					<a href={`${address}${what}`} download className={look}>
						{label} as a table
					</a>
					<a href={`${address}${what}&is_to_read=true`} download className={look} aria-label={`${label} to read`}>
						to read
					</a>
				</span>
			))}
			<a href={`${address}drawing`} download className={look}>
				Drawing
			</a>
			<a href={`${address}spice`} download className={look}>
				Circuits as SPICE
			</a>
		</p>
	);
}
