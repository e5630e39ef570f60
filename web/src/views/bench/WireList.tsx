import { type KeyboardEvent, useMemo, useRef, useState } from "react";
import { Link } from "wouter";
import type { BenchShown, WireShown } from "../../api/client";
import { joinPatches } from "../../api/patch";
import { useEdits, useKept } from "../../api/project";
import { WireValues } from "./WireValues";

type Props = { bench: BenchShown; chosen: string; onChoose: (id: string) => void };
type Row = { wire: WireShown; at: number; folded: readonly WireShown[] };

/** The wires as knots on a thread, in the order to make them; those that are counted fold into one that opens. */
export function WireList({ bench, chosen, onChoose }: Props) {
	const [opened, setOpened] = useState<readonly string[]>([]);
	const list = useRef<HTMLDivElement>(null);
	const rows = useMemo(() => rowsOf(bench.wires, opened), [bench.wires, opened]);
	const step = (event: KeyboardEvent) => {
		const by = event.key === "ArrowDown" ? 1 : event.key === "ArrowUp" ? -1 : 0;
		const knots = [...(list.current?.querySelectorAll<HTMLElement>("input[type=checkbox]") ?? [])];
		const here = knots.indexOf(document.activeElement as HTMLElement);
		if (!by || here < 0) return;
		event.preventDefault();
		knots[here + by]?.focus();
	};
	return (
		<section ref={list} onKeyDown={step} aria-label="Wires" className="min-w-0">
			{bench.groups.map((group) => (
				<section key={group.id} aria-label={group.title} className="pb-4">
					<h3 className="break-after-avoid font-said font-semibold text-name">{group.title}</h3>
					<p className="mb-1 max-w-prose break-after-avoid text-note text-soft">{group.detail}</p>
					<ol>
						{rows
							.filter((it) => it.wire.group === group.id)
							.map((row) => (
								<WireRow
									key={row.wire.id}
									row={row}
									colours={bench.colours}
									isChosen={row.wire.id === chosen}
									onChoose={onChoose}
									onOpen={() => setOpened([...opened, row.wire.fold])}
								/>
							))}
					</ol>
				</section>
			))}
		</section>
	);
}

/** One row a wire, or one for all that are alike until it is opened. */
function rowsOf(wires: readonly WireShown[], opened: readonly string[]): Row[] {
	const rows: Row[] = [];
	const first = new Map<string, number>();
	wires.forEach((wire, at) => {
		const before = wire.fold && !opened.includes(wire.fold) ? first.get(wire.fold) : undefined;
		const row = before === undefined ? undefined : rows[before];
		if (row && before !== undefined) rows[before] = { ...row, folded: [...row.folded, wire] };
		else {
			first.set(wire.fold, rows.length);
			rows.push({ wire, at, folded: [wire] });
		}
	});
	return rows;
}

type RowProps = {
	row: Row;
	colours: readonly string[];
	isChosen: boolean;
	onChoose: (id: string) => void;
	onOpen: () => void;
};

function WireRow({ row, colours, isChosen, onChoose, onOpen }: RowProps) {
	const { change } = useEdits();
	const { id } = useKept();
	const { wire, folded } = row;
	const isMade = folded.every((it) => it.is_made);
	const name = [wire.start, wire.through, wire.end].filter(Boolean).join(", ");
	const many = folded.length > 1 ? ` and ${folded.length - 1} more like it` : "";
	const tick = () => {
		onChoose(isMade ? wire.id : ""); // what is in is done: the next one is looked at
		change({
			patch: folded.map((it) => (isMade ? it.untick : it.tick)).reduce(joinPatches),
			summary: `${isMade ? "Took out" : "Wired"} ${name}${many}`,
		});
	};
	return (
		<li className={`relative rounded-xl ${isChosen ? "bg-ground" : ""}`}>
			<span aria-hidden="true" className={`absolute inset-y-0 left-[12.5px] w-[3px] ${isMade ? "bg-ink" : "bg-hair"}`} />
			<div className="grid grid-cols-[1.75rem_2.5rem_minmax(0,1fr)_auto] items-center gap-x-2 pr-2">
				<span className="relative flex h-10 items-center justify-center self-stretch">
					<input
						type="checkbox"
						checked={isMade}
						aria-label={`${name}${many}: ${wire.was ? "moved since it was made" : isMade ? "in" : "not in yet"}`}
						onChange={tick}
						// Pointed at, nothing may move before it is pressed: only the keyboard chooses by going there.
						onFocus={(event) => event.currentTarget.matches(":focus-visible") && onChoose(wire.id)}
						className={`relative size-[18px] cursor-pointer appearance-none rounded-full border-[3px] ${isMade ? "border-ink bg-ink" : isChosen ? "border-ink bg-lamp" : "border-hair bg-sheet"}`}
					/>
				</span>
				<Sample colour={wire.colour} />
				<button type="button" onClick={() => onChoose(wire.id)} className="min-w-0 py-1.5 text-left leading-snug">
					<span className={isChosen ? "font-semibold" : ""}>
						{wire.start}
						{wire.through && <span className="font-number text-note"> · {wire.through} · </span>}
						{wire.through ? "" : " to "}
						{wire.end}
					</span>
					{wire.was && <span className="block text-cut text-note">moved; it was {wire.was}</span>}
				</button>
				<span className="whitespace-nowrap text-right text-note text-soft max-[480px]:hidden">
					{wire.colour} <span className="ml-2 inline-block w-12 font-number">{wire.length}</span>
				</span>
			</div>
			{folded.length > 1 && (
				<button
					type="button"
					onClick={onOpen}
					className="mb-1 ml-[4.75rem] border-hair border-b-2 text-note text-soft hover:border-ink"
				>
					and {folded.length - 1} more like it
				</button>
			)}
			{isChosen && (
				<div className="space-y-2 pr-3 pb-3 pl-[4.75rem] text-note">
					<p className="text-soft">
						{wire.why}
						{wire.measures && <span className="text-ink">; measures {wire.measures}</span>}
						{wire.stage && (
							<>
								.{" "}
								<Link
									href={`/projects/${id}?stage=${encodeURIComponent(wire.stage)}`}
									className="border-hair border-b-2 hover:border-ink print:hidden"
								>
									Its sheet
								</Link>
							</>
						)}
					</p>
					{wire.gauge && <WireValues wire={wire} colours={colours} />}
				</div>
			)}
		</li>
	);
}

/** A short stretch of the wire, in its colour; the legs of a part are a plain line. */
function Sample({ colour }: { colour: string }) {
	return (
		<svg viewBox="0 0 40 14" width="36" height="13" aria-hidden="true">
			<path
				d={colour === "bare" ? "M3 7H37" : "M3 8C11 2 18 2 22 7S31 12 37 6"}
				fill="none"
				stroke={`var(--wire-${colour})`}
				strokeWidth={colour === "bare" ? 2 : 4}
				strokeLinecap="round"
			/>
		</svg>
	);
}
