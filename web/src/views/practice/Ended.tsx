import { useEffect, useRef } from "react";
import type { RoundEnded } from "../../api/client";
import { ActionButton } from "../../ui/ActionButton";
import { Mark } from "../../ui/Mark";
import type { Practice } from "./useRound";

/** How it went: what was wrong, what each probe could have told, and the way the finder would have gone. */
export function Ended({ ended, practice }: { ended: RoundEnded; practice: Practice }) {
	const round = practice.bench.round;
	const head = useRef<HTMLParagraphElement>(null);
	useEffect(() => head.current?.focus(), []); // what comes of it is read from its beginning on
	return (
		<div role="status" className="max-w-3xl space-y-6">
			<p ref={head} tabIndex={-1} className="flex items-center gap-3 font-bold font-said text-said leading-tight">
				<Mark state={ended.is_right ? "clear" : "stop"} />
				{ended.sentence}
			</p>
			<section aria-labelledby="wrong" className="space-y-3 rounded-2xl bg-lampsoft px-6 py-5">
				<h3 id="wrong" className="text-note">
					What was wrong
				</h3>
				{ended.wrong.map((it) => (
					<div key={it.id}>
						<p className="font-bold font-said text-name">{it.id}</p>
						<p className="text-note">{it.words}</p>
					</div>
				))}
			</section>
			{round && (
				<p className="flex flex-wrap gap-x-6 gap-y-2">
					<button
						type="button"
						onClick={() => practice.begin({ ...round, seed: round.seed + 1 })}
						className="rounded-2xl bg-ink px-6 py-3 font-bold font-said text-name text-sheet hover:opacity-90"
					>
						Next round
					</button>
					<ActionButton isQuiet onPress={() => practice.begin(round)}>
						The same once more
					</ActionButton>
				</p>
			)}
			<Told title="What you found, and what it could have told" rows={ended.probes} />
			<Told title={`The finder's own way, ${ended.best_minutes} minutes`} rows={ended.best} />
		</div>
	);
}

function Told({ title, rows }: { title: string; rows: RoundEnded["probes"] }) {
	if (!rows.length) return null;
	return (
		<section aria-label={title}>
			<h3 className="text-note text-soft">{title}</h3>
			<ol className="mt-1 space-y-3 border-hair border-l-[3px] pl-5">
				{rows.map((it, at) => (
					// biome-ignore lint/suspicious/noArrayIndexKey: a list that never changes
					<li key={at} className="text-note leading-tight">
						<p className="flex justify-between gap-x-4 text-soft">
							{it.do} <span className="shrink-0 font-number">{it.minutes} min</span>
						</p>
						<p className="font-semibold">
							{it.text[0]?.toUpperCase() + it.text.slice(1)}
							{it.right && it.right !== it.text && (
								<span className="font-normal text-soft">; with nothing wrong: {it.right}</span>
							)}
						</p>
						{it.could_tell && <p className="text-soft">{it.could_tell}</p>}
					</li>
				))}
			</ol>
		</section>
	);
}
