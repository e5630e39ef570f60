import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answered, api, type DrawnUp } from "../../api/client";
import { useAsked, useEdits } from "../../api/project";
import { ActionButton } from "../../ui/ActionButton";
import { Folded } from "../../ui/Folded";

const SHOWN = 12;

type Props = { vocabulary: string; isFirst: boolean };

/** Words drawn up from what the phone shall be able to do, by each school beside what it costs; a press takes them. */
export function DrawWords({ vocabulary, isFirst }: Props) {
	return (
		<Folded summary="Draw up words for me" isOpenAtFirst={isFirst} className="@container print:hidden">
			<Schools vocabulary={vocabulary} />
		</Folded>
	);
}

type Wish = DrawnUp["wishes"][number]["id"];

function Schools({ vocabulary }: { vocabulary: string }) {
	const asked = useAsked();
	const [wishes, setWishes] = useState<Wish[] | null>(null);
	const found = useQuery({
		queryKey: ["drawn-words", asked, vocabulary, wishes],
		queryFn: () =>
			answered(api.POST("/api/projects/{project_id}/drawn-words", { ...asked, body: { ...asked.body, vocabulary, wishes } })),
		placeholderData: (before) => before,
	});
	if (!found.data)
		return (
			<p role="status" className="mt-2 text-soft">
				{found.error?.message ?? "drawing up words…"}
			</p>
		);
	const rows = found.data.wishes;
	if (!rows.length) return <p className="mt-2 text-soft">There is no lamp yet that a word could be for.</p>;
	const wished = wishes ?? rows.filter((it) => it.is_wished).map((it) => it.id);
	const turn = (wish: Wish) => setWishes(wished.includes(wish) ? wished.filter((it) => it !== wish) : [...wished, wish]);
	return (
		<>
			<fieldset className="mt-2">
				<legend className="text-soft">The phone shall be able to say</legend>
				<p className="mt-1 flex flex-wrap gap-x-5 gap-y-1">
					{rows.map((it) => (
						<label key={it.id} className="flex items-baseline gap-1.5">
							<input type="checkbox" checked={wished.includes(it.id)} onChange={() => turn(it.id)} className="accent-copper" />
							{it.label}
						</label>
					))}
				</p>
			</fieldset>
			<div
				className={`mt-4 grid grid-cols-1 gap-x-8 gap-y-6 @min-[36rem]:grid-cols-2 ${found.isPlaceholderData ? "opacity-60" : ""}`}
			>
				{found.data.schools.map((it) => (
					<School key={it.label} school={it} />
				))}
			</div>
		</>
	);
}

function School({ school }: { school: DrawnUp["schools"][number] }) {
	const { change } = useEdits();
	const { move } = school;
	return (
		<section aria-label={school.label} className="min-w-0">
			<h3 className="font-said font-semibold text-lg">{school.label}</h3>
			<p className="text-note text-soft">{school.detail}</p>
			{school.costs && <p className="text-note">{school.costs}</p>}
			{school.words.length > 0 && (
				<div className="mt-2 border-hair border-y py-1">
					<Words words={school.words.slice(0, SHOWN)} />
					{school.words.length > SHOWN && (
						<Folded summary={`and ${school.words.length - SHOWN} more`}>
							<Words words={school.words.slice(SHOWN)} />
						</Folded>
					)}
				</div>
			)}
			{school.remarks.map((it) => (
				<p key={it} className="mt-1 text-note text-soft">
					{it[0]?.toUpperCase() + it.slice(1)}
				</p>
			))}
			{move && (
				<p className="mt-2">
					<ActionButton onPress={() => change({ patch: move.patch, summary: `${move.label}: ${school.label}` })}>
						<span aria-hidden="true">{move.label}</span>
						<span className="sr-only">
							{move.label}: {school.label}
						</span>
					</ActionButton>
				</p>
			)}
		</section>
	);
}

type Rows = DrawnUp["schools"][number]["words"];

function Words({ words }: { words: Rows }) {
	return (
		<ul>
			{words.map((word) => (
				<li key={word.id} title={word.why} className="relative flex items-baseline justify-between gap-4">
					<span className="shrink-0 whitespace-nowrap font-number text-note">{word.sent}</span>
					<span className="truncate text-note text-soft">
						{word.label}
						<span className="sr-only">: {word.why}</span>
					</span>
				</li>
			))}
		</ul>
	);
}
