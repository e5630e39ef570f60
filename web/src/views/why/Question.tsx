import { Link } from "wouter";
import type { WhyShown } from "../../api/client";
import { useKept } from "../../api/project";
import { useTakesOver } from "./useTakesOver";

type Props = { asked: NonNullable<WhyShown["asked"]>; onAnswer: (test: string, outcome: string | null) => void };

/** What to do next, why, and what each outcome would lead to: an answer is one press. */
export function Question({ asked, onAnswer }: Props) {
	const { id } = useKept();
	const head = useTakesOver();
	return (
		<section aria-labelledby="question" className="max-w-2xl space-y-3">
			<h3 id="question" ref={head} tabIndex={-1} className="scroll-mt-16 font-bold font-said text-said leading-tight">
				{asked.do}
			</h3>
			{asked.where && <p className="font-semibold">{asked.where}</p>}
			{asked.should_be && (
				<p>
					Should be <span className="font-number">{asked.should_be}</span>
				</p>
			)}
			{asked.caution && <p className="max-w-prose font-semibold text-look">{asked.caution}</p>}
			<p className="max-w-prose text-note text-soft">{asked.why}</p>
			<ul data-answers className="space-y-2">
				{asked.outcomes.map((it) => (
					<li key={it.id}>
						<button
							type="button"
							onClick={() => onAnswer(asked.id, it.id)}
							className="w-full rounded-2xl border-2 border-ink px-5 py-2.5 text-left hover:bg-ground"
						>
							<span className="block font-bold font-said text-name">{it.words[0]?.toUpperCase() + it.words.slice(1)}</span>
							{it.leads && <span className="block text-note text-soft">{it.leads}</span>}
						</button>
					</li>
				))}
				<li className="flex flex-wrap items-baseline gap-x-6 gap-y-2 pt-1">
					<button
						type="button"
						onClick={() => onAnswer(asked.id, null)}
						className="border-hair border-b-2 py-1 text-note text-soft hover:border-ink"
					>
						Can't say, or can't do it
					</button>
					{asked.step && (
						<Link
							href={`/projects/${id}/bring-up?step=${encodeURIComponent(asked.step)}`}
							className="border-copper border-b-2 py-1 font-semibold text-note hover:border-ink"
						>
							Measure it on the bring-up sheet
						</Link>
					)}
				</li>
			</ul>
		</section>
	);
}
