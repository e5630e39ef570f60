import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "wouter";
import { answered, api, type ProgramShown } from "../../api/client";
import { useKept } from "../../api/project";
import { ActionButton } from "../../ui/ActionButton";
import { Folded } from "../../ui/Folded";
import { BringBack } from "./BringBack";
import { Changed } from "./Changed";
import { Listing } from "./Listing";
import { NewRegion } from "./Regions";

/** The program of a board to read and to take away: each line with a knot that leads to the part of the plan it comes from. */
export default function ProgramView() {
	const { id, revision } = useKept();
	const [search, setSearch] = useSearchParams();
	const client = useQueryClient();
	const host = search.get("host") ?? undefined;
	const path = { project_id: id };
	const queryKey = ["program", id, revision, host];
	const shown = useQuery({
		queryKey,
		queryFn: () => answered(api.GET("/api/projects/{project_id}/program", { params: { path, query: { host, revision } } })),
		placeholderData: (before) => before,
	});
	const program = shown.data;
	if (!program) return <p className="px-8 py-5">{shown.error?.message ?? "Printing it…"}</p>;
	const note = () =>
		answered(
			api.POST("/api/projects/{project_id}/program/taken", { params: { path }, body: { host: program.host, revision } }),
		).then(
			(after) => client.setQueryData(queryKey, after),
			() => undefined, // it was taken all the same
		);
	return (
		<article aria-labelledby="program" className="space-y-5 px-8 py-5 pb-24 max-[720px]:px-4">
			<header className="space-y-3">
				<h2 id="program" className="font-bold font-said text-said leading-tight">
					{program.sentence}
				</h2>
				{program.hosts.length > 1 && (
					<p className="flex flex-wrap gap-x-5 gap-y-1">
						{program.hosts.map((it) => (
							<button
								key={it.id}
								type="button"
								aria-pressed={it.id === program.host}
								onClick={() => setSearch({ host: it.id })}
								className={`border-b-2 text-note ${it.id === program.host ? "border-lamp font-semibold" : "border-hair text-soft"}`}
							>
								{it.label}
							</button>
						))}
					</p>
				)}
				{program.refused ? (
					<>
						<p role="alert" className="max-w-prose">
							{program.refused}
						</p>
						{program.is_wiring_tried && (
							<p>
								<Wiring program={program} />
							</p>
						)}
					</>
				) : (
					<>
						<p className="max-w-prose text-note text-soft">
							It does what the rehearsal does, step by step. Press a knot to see the part of the plan a line comes from.
						</p>
						<Taking program={program} onTaken={note} />
					</>
				)}
			</header>
			<Room program={program} />
			<Since program={program} />
			{program.text && <Listing key={program.host} program={program} />}
			<section aria-labelledby="yours" hidden={program.refused !== "" && program.regions.length === 0} className="space-y-2">
				<h3 id="yours" className="font-said font-semibold text-name">
					Yours
				</h3>
				<p className="max-w-prose text-note text-soft">
					What you add by hand is kept with the plan, and is there when it is printed again. The rehearsal takes the time you say
					it takes at most, and leaves out what it does: nobody checks that but you.
				</p>
				<Lost program={program} />
				<NewRegion program={program} />
				{program.text && <BringBack program={program} />}
			</section>
		</article>
	);
}

/** What tries the wiring is printed for boards with a radio of their own too. */
function Wiring({ program }: { program: ProgramShown }) {
	const { id, revision } = useKept();
	return (
		<a
			href={`/api/projects/${id}/program/file?host=${program.host}&revision=${revision}&what=wiring`}
			download
			className="border-hair border-b-2 text-note text-soft leading-tight hover:border-ink"
		>
			A program that tries the wiring
		</a>
	);
}

function Taking({ program, onTaken }: { program: ProgramShown; onTaken: () => void }) {
	const { id, revision } = useKept();
	const [copied, setCopied] = useState("");
	const copy = () =>
		(navigator.clipboard?.writeText(program.text) ?? Promise.reject()).then(
			() => {
				setCopied(
					`The program is copied; ${AND.format(program.beside)} ${program.beside.length > 1 ? "are" : "is"} in the folder.`,
				);
				onTaken();
			},
			() => setCopied("This browser does not let it be copied: take the folder."),
		);
	const address = `/api/projects/${id}/program/file?host=${program.host}&revision=${revision}`;
	return (
		<div className="space-y-2 print:hidden">
			<p className="flex flex-wrap items-baseline gap-x-6 gap-y-2">
				<a
					href={address}
					download
					onClick={onTaken}
					className="border-copper border-b-2 font-semibold text-note leading-tight hover:border-ink"
				>
					Take the program
				</a>
				<ActionButton isQuiet onPress={copy}>
					Copy
				</ActionButton>
				<Wiring program={program} />
				<span role="status" className="text-note text-soft">
					{copied}
				</span>
			</p>
			{program.steps.length > 0 && (
				<Folded summary="To put it on the board">
					<ol className="mt-2 max-w-prose list-decimal space-y-1 pl-6">
						{program.steps.map((it) => (
							<li key={it}>{it}</li>
						))}
					</ol>
				</Folded>
			)}
		</div>
	);
}

const AND = new Intl.ListFormat("en-GB");
const COUNT = new Intl.NumberFormat("en-GB");

/** What it takes of the board: a bar each for flash and memory, its own part dark, that of the package beside it. */
function Room({ program }: { program: ProgramShown }) {
	if (!program.room?.length)
		return program.text ? (
			<p className="max-w-prose text-note text-soft">
				How much of this board it takes was not measured; it has room for programs much larger.
			</p>
		) : null;
	return (
		<div className="max-w-prose space-y-2 text-note">
			<dl className="grid grid-cols-[auto_minmax(0,1fr)] items-center gap-x-4 gap-y-2">
				{program.room.map((it) => (
					<div key={it.what} className="contents">
						<dt>
							<b className="font-semibold">{COUNT.format(it.own + it.package)}</b> of {COUNT.format(it.there)} bytes of {it.what}
						</dt>
						<dd className="flex h-2.5 overflow-hidden rounded-full border-2 border-ink">
							<span className="sr-only">
								{COUNT.format(it.own)} its own, {COUNT.format(it.package)} of the board's package
							</span>
							<span className="bg-ink" style={{ width: `${(100 * it.own) / it.there}%` }} />
							<span className="bg-hair" style={{ width: `${(100 * it.package) / it.there}%` }} />
						</dd>
					</div>
				))}
			</dl>
			<p className="text-soft">Estimated; the lighter part is the board package's own, from memory.</p>
		</div>
	);
}

const DAY = new Intl.DateTimeFormat("en-GB", {
	weekday: "long",
	day: "numeric",
	month: "long",
	hour: "2-digit",
	minute: "2-digit",
});

/** What is otherwise than when it was last taken away. */
function Since({ program }: { program: ProgramShown }) {
	if (!program.taken_at || !program.changed) return null;
	const day = DAY.format(new Date(program.taken_at));
	if (program.changed.length === 0)
		return <p className="text-note text-soft">Last taken away {day}. Nothing has changed in it since.</p>;
	const count = program.changed.filter((it) => it.startsWith("+") || it.startsWith("-")).length;
	return (
		<Folded summary={`${count} ${count === 1 ? "line has" : "lines have"} changed since it was taken away ${day}`}>
			<Changed lines={program.changed} />
		</Folded>
	);
}

/** Regions whose place is gone: they are kept, and told. */
function Lost({ program }: { program: ProgramShown }) {
	const lost = program.regions.filter((it) => !it.has_place);
	if (!lost.length) return null;
	return (
		<ul className="space-y-2">
			{lost.map((it) => (
				<li key={it.place}>
					<p>{it.told}</p>
					<pre className="mt-1 overflow-x-auto rounded-2xl bg-lampsoft p-3 font-number text-xs">{it.code}</pre>
				</li>
			))}
		</ul>
	);
}
