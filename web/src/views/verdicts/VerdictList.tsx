import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answered, api, type Review, type Ways } from "../../api/client";
import { useAsked } from "../../api/project";
import { ActionButton } from "../../ui/ActionButton";
import { Folded } from "../../ui/Folded";
import { Verdict } from "./Verdict";

type Props = { review: Review; ways: Record<string, Ways>; chosen: string; onChoose: (stage: string) => void };

/** What is to settle, worst first. */
export function VerdictList({ review, ways, chosen, onChoose }: Props) {
	const asked = useAsked();
	const [isWhole, setWhole] = useState(false);
	const all = useQuery({
		queryKey: ["verdicts", asked],
		queryFn: () => answered(api.POST("/api/projects/{project_id}/verdicts", asked)),
		enabled: isWhole && review.more_findings > 0,
		placeholderData: (before) => before,
	});
	const known = new Map(review.findings.map((finding) => [finding.key, finding]));
	const listed = isWhole && review.more_findings > 0 && all.data ? all.data : review.findings;
	const open = Object.entries(review.not_yet);
	return (
		<section aria-label="Verdicts" aria-live="polite">
			<h2 className="border-hair border-b pb-2 text-soft">{review.sentence}</h2>
			<ul>
				{listed.map((finding) => (
					<Verdict
						key={finding.key}
						finding={finding}
						ways={ways[finding.key] ?? known.get(finding.key)?.ways}
						isHere={finding.stage === chosen}
						onChoose={onChoose}
					/>
				))}
			</ul>
			{listed.length < known.size + review.more_findings && (
				<p className="mt-3">
					<ActionButton isQuiet onPress={() => setWhole(true)}>
						{all.error?.message ?? `Show ${review.more_findings} more`}
					</ActionButton>
				</p>
			)}
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
