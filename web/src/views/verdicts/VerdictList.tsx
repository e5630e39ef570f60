import type { Review } from "../../api/client";
import { Folded } from "../../ui/Folded";
import { Verdict } from "./Verdict";

type Props = { review: Review; chosen: string; onChoose: (stage: string) => void };

/** What is to settle, worst first. */
export function VerdictList({ review, chosen, onChoose }: Props) {
	const open = Object.entries(review.not_yet);
	return (
		<section aria-label="Verdicts" aria-live="polite">
			<h2 className="border-hair border-b pb-2 text-soft">{review.sentence}</h2>
			<ul>
				{review.findings.map((finding) => (
					<Verdict key={finding.key} finding={finding} isHere={finding.stage === chosen} onChoose={onChoose} />
				))}
			</ul>
			{open.length > 0 && (
				<Folded className="mt-3 text-note text-soft" summary={`Not worked out yet, so not judged: ${open.length}`}>
					<ul className="mt-1 list-none space-y-0.5">
						{open.map(([stage, because]) => (
							<li key={stage}>
								<button type="button" className="text-left hover:text-coppertext" onClick={() => onChoose(stage)}>
									{review.titles[stage] ?? stage}: {because}
								</button>
							</li>
						))}
					</ul>
				</Folded>
			)}
		</section>
	);
}
