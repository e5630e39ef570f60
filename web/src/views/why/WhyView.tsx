import { Link } from "wouter";
import type { WhyShown } from "../../api/client";
import { useKept } from "../../api/project";
import { ActionButton } from "../../ui/ActionButton";
import { Pick } from "../../ui/Pick";
import { Answers } from "./Answers";
import { Likely } from "./Likely";
import { Mending } from "./Mending";
import { Question } from "./Question";
import { type Search, useSearch } from "./useSearch";

/** The fault finder: from what is seen to what it is, one answer after the other, by what tells most for its minutes. */
export default function WhyView() {
	const search = useSearch();
	const shown = search.shown.data;
	const error = search.shown.error;
	if (!shown && !error) return <p className="px-8 py-5">Looking along the line…</p>;
	return (
		<article
			aria-labelledby="why"
			className="runs-on mx-auto max-w-5xl space-y-5 px-8 py-5 pb-24 max-[720px]:px-4 max-[720px]:py-3"
		>
			{error && (
				<p role="alert" className="flex flex-wrap gap-x-5 text-note">
					{error.message}
					<ActionButton onPress={search.forget}>Begin anew</ActionButton>
				</p>
			)}
			{shown &&
				(search.asked.symptom ? <Searching search={search} shown={shown} /> : <Beginning search={search} shown={shown} />)}
		</article>
	);
}

type Props = { search: Search; shown: WhyShown };

function Beginning({ search, shown }: Props) {
	const { id } = useKept();
	return (
		<>
			<header className="space-y-1">
				<h2 id="why" className="font-bold font-said text-said leading-tight">
					{shown.lamps.length ? "What do you see?" : "Nothing can be followed yet."}
				</h2>
				{shown.lamps.length > 0 && (
					<p className="max-w-prose text-note text-soft">
						Pick what comes nearest. Then one thing to look at after the other, the one that tells most for its minutes. Never
						certain.
					</p>
				)}
				{shown.left_out && <p className="max-w-prose text-note text-soft">{shown.left_out}</p>}
			</header>
			{shown.lamps.length > 1 && (
				<Pick
					label="At which lamp"
					value={shown.lamp}
					options={shown.lamps.map((it) => [it.id, it.label])}
					isWord
					onPick={search.pick}
				/>
			)}
			<ul className="max-w-4xl columns-2 gap-x-8 pt-2 max-[720px]:columns-1">
				{shown.symptoms.map((it) => (
					<li key={it.id} className="break-inside-avoid">
						<button
							type="button"
							onClick={() => search.begin(it.id)}
							className="w-full border-hair border-b py-2 text-left font-said text-lg leading-tight hover:border-ink hover:bg-ground max-[720px]:py-3"
						>
							{it.words}
						</button>
					</li>
				))}
			</ul>
			<p className="text-note text-soft">
				Want to learn it before it is needed?{" "}
				<Link href={`/projects/${id}/practice`} className="border-copper border-b-2 font-semibold text-ink hover:border-ink">
					The practice bench
				</Link>
			</p>
		</>
	);
}

function Searching({ search, shown }: Props) {
	return (
		<>
			<header className="space-y-1">
				<p className="flex flex-wrap items-baseline gap-x-5 gap-y-1">
					<ActionButton isQuiet onPress={search.leave}>
						Something else is seen
					</ActionButton>
					{shown.minutes > 0 && (
						<span className="font-number text-note text-soft">
							{shown.minutes} {shown.minutes === 1 ? "minute" : "minutes"} so far
						</span>
					)}
				</p>
				<h2 id="why" className="font-bold font-said text-name leading-tight">
					{shown.sentence}
				</h2>
				{shown.detail && (
					<p role="status" className="max-w-prose">
						{shown.detail}
					</p>
				)}
			</header>
			<div className="grid grid-cols-[minmax(0,1fr)_20rem] items-start gap-x-12 gap-y-6 max-[900px]:grid-cols-1">
				<div className="min-w-0 space-y-6">
					{shown.asked && <Question key={shown.asked.id} asked={shown.asked} onAnswer={search.answer} />}
					{shown.mend && <Mending key={`${shown.mend.test} ${shown.mend.is_done}`} mend={shown.mend} onAnswer={search.answer} />}
					<Answers shown={shown} search={search} />
				</div>
				<div className="space-y-6">
					<Likely shown={shown} search={search} />
					<Lacking search={search} shown={shown} />
				</div>
			</div>
		</>
	);
}

/** What is not at hand: what needs it is not asked for. */
function Lacking({ search, shown }: Props) {
	return (
		<fieldset>
			<legend className="text-note text-soft">At hand</legend>
			<div className="mt-1 flex flex-wrap gap-x-4 gap-y-1">
				{shown.needs.map((it) => {
					const need = it.id as Search["asked"]["lacking"][number];
					const isLacking = search.asked.lacking.includes(need);
					return (
						<label key={it.id} className={`flex items-center gap-2 py-1 text-note ${isLacking ? "text-soft line-through" : ""}`}>
							<input
								type="checkbox"
								checked={!isLacking}
								onChange={() => search.lack(need, !isLacking)}
								className="size-4 accent-[var(--ink)]"
							/>
							{it.words}
						</label>
					);
				})}
			</div>
		</fieldset>
	);
}
