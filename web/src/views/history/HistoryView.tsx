import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answered, api, type HistoryItem, type VersionsCompared } from "../../api/client";
import { useEdits, useKept } from "../../api/project";
import { ActionButton } from "../../ui/ActionButton";
import { Folded } from "../../ui/Folded";
import { Pick } from "../../ui/Pick";
import { ComparisonView, Moved } from "../trial/ComparisonView";

const ROW = 58;
const LANE = 18;
const OTHERS_MOST = 300;

/** Every change as a knot on a thread; side branches stand beside it. Any two can be compared, any one brought back. */
export default function HistoryView() {
	const kept = useKept();
	const { restore } = useEdits();
	const [picked, setPicked] = useState<number | null>(null);
	const path = { project_id: kept.id };
	const history = useQuery({
		queryKey: ["history", kept.id],
		queryFn: () => answered(api.GET("/api/projects/{project_id}/history", { params: { path } })),
	});
	const items = history.data ?? [];
	const branches = items.some((it) => it.lane > 0);
	return (
		<article aria-labelledby="history" className="space-y-5 px-8 py-5 pb-24 max-[720px]:px-5">
			<header>
				<h2 id="history" className="font-bold font-said text-said leading-tight">
					{items.length > 1
						? `${items.length - 1} ${items.length === 2 ? "change" : "changes"}, none of them lost.`
						: "Nothing has been changed yet."}
				</h2>
				<p className="mt-1 text-soft">
					Undo and redo walk along the thread.{" "}
					{branches
						? "A change after an undo starts a branch beside it."
						: "Bring any state back; that is a change too, and can be undone."}
				</p>
			</header>
			{history.error && <p role="alert">{history.error.message}</p>}
			<ol className="relative">
				{items.map((item, index) => (
					<li key={item.revision} style={{ minHeight: ROW }} className="relative flex">
						<Knots items={items} index={index} />
						<Row
							item={item}
							others={items}
							head={kept.revision}
							isPicked={picked === item.revision}
							onPick={() => setPicked(picked === item.revision ? null : item.revision)}
							onRestore={() => restore(item.revision)}
						/>
					</li>
				))}
			</ol>
		</article>
	);
}

/** The piece of thread beside one row: its own knot, and the lanes that pass. */
function Knots({ items, index }: { items: readonly HistoryItem[]; index: number }) {
	const item = items[index];
	if (!item) return null;
	const lanes = Math.max(...items.map((it) => it.lane)) + 1;
	const x = (lane: number) => 13 + lane * LANE;
	const parentAt = (it: HistoryItem) => items.findIndex((other) => other.revision === it.parent);
	const passing = items.filter((it, at) => at < index && parentAt(it) > index);
	const arriving = items.filter((it, at) => at < index && parentAt(it) === index);
	const wide = x(lanes - 1) + 14;
	return (
		<div className="relative shrink-0" style={{ width: wide }}>
			<svg width={wide} height="100%" aria-hidden="true" className="absolute inset-0 overflow-visible">
				<g className="stroke-ink" strokeWidth="3" fill="none">
					{passing.map((it) => (
						<line key={it.revision} x1={x(it.lane)} x2={x(it.lane)} y1="0" y2="100%" />
					))}
					{arriving.map((it) => (
						<path
							key={it.revision}
							d={it.lane === item.lane ? `M${x(item.lane)} 0V14` : `M${x(it.lane)} 0Q${x(it.lane)} 14 ${x(item.lane) + 8} 14`}
						/>
					))}
					{item.parent !== null && <line x1={x(item.lane)} x2={x(item.lane)} y1="14" y2="100%" />}
					<circle cx={x(item.lane)} cy="14" r={item.is_head ? 9 : 6.5} fill={item.is_head ? "var(--lamp)" : "var(--unlit)"} />
				</g>
			</svg>
		</div>
	);
}

type RowProps = {
	item: HistoryItem;
	others: readonly HistoryItem[];
	head: number;
	isPicked: boolean;
	onPick: () => void;
	onRestore: () => void;
};

function Row({ item, others, head, isPicked, onPick, onRestore }: RowProps) {
	const kept = useKept();
	const [other, setOther] = useState<number | null>(null);
	const against = other ?? head;
	const compared = useQuery({
		queryKey: ["compare", kept.id, item.revision, against],
		queryFn: () =>
			answered(
				api.GET("/api/projects/{project_id}/compare", {
					params: { path: { project_id: kept.id }, query: { before: item.revision, after: against } },
				}),
			),
		enabled: isPicked,
	});
	return (
		<div className="relative z-10 min-w-0 flex-1 bg-sheet pb-3 pl-3">
			<p className={item.is_head ? "font-bold" : ""}>{item.summary}</p>
			<p className="flex flex-wrap items-baseline gap-x-4 gap-y-1 text-note text-soft">
				<span className="font-number">
					change {item.number}, {new Date(item.made_at).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" })}
				</span>
				{item.is_head ? (
					<span>this is what you see</span>
				) : (
					<>
						<ActionButton isQuiet onPress={onPick}>
							{isPicked ? "Close" : "Compare"}
							<span className="sr-only"> change {item.number}</span>
						</ActionButton>
						<ActionButton isQuiet onPress={onRestore}>
							Bring back<span className="sr-only"> change {item.number}</span>
						</ActionButton>
					</>
				)}
			</p>
			{isPicked && (
				<div className="mt-2 space-y-3 rounded-2xl bg-ground p-4">
					<Pick
						label={`Change ${item.number}, against`}
						value={String(against)}
						options={others
							.filter((it) => it.revision !== item.revision)
							.slice(0, OTHERS_MOST)
							.map((it) => [String(it.revision), it.is_head ? "now" : `change ${it.number}: ${it.summary}`.slice(0, 80)])}
						isWord
						onPick={(revision) => setOther(Number(revision))}
					/>
					<p aria-live="polite" className="font-semibold">
						{compared.data?.sentence ?? compared.error?.message ?? "working it out…"}
					</p>
					{compared.data && <ComparisonView comparison={compared.data} />}
					{compared.data && <AtTheBench compared={compared.data} />}
				</div>
			)}
		</div>
	);
}

/** What differs in pins, wires and the printed program. */
function AtTheBench({ compared }: { compared: VersionsCompared }) {
	return (
		<div className="space-y-3">
			<p className="text-note">{compared.beside}</p>
			{compared.pins.length > 0 && <Moved label="Pins that move" rows={compared.pins} />}
			{compared.wires.length > 0 && <Moved label="Wires that go elsewhere" rows={compared.wires} />}
			{compared.programs.map((it) => (
				<Folded key={it.host} summary={`The program of ${it.label}${it.told ? `: ${it.told}` : ""}`}>
					<pre className="mt-1 overflow-x-auto rounded-xl bg-sheet p-3 font-number text-xs">{it.lines.join("\n")}</pre>
				</Folded>
			))}
		</div>
	);
}
