import { useQuery } from "@tanstack/react-query";
import { answered, api, type Score } from "../../api/client";
import { useAsked } from "../../api/project";
import { ActionButton } from "../../ui/ActionButton";
import { PlanEntry } from "../plan/PlanEntry";
import { TimeField } from "./TimeField";

type Props = { score: Score; step: number; at_s: number; text: string; onMove: (at_s: number) => void; onRemove: () => void };

/** The step that is chosen on the score: when it comes, and what it sets. */
export function ScoreStep({ score, step, at_s, text, onMove, onRemove }: Props) {
	const asked = useAsked();
	const found = useQuery({
		queryKey: ["score-step", asked, score.cue, step],
		queryFn: () =>
			answered(api.POST("/api/projects/{project_id}/score-step", { ...asked, body: { ...asked.body, cue: score.cue, step } })),
		placeholderData: (before) => before,
		retry: false,
	});
	return (
		<section aria-label="The chosen step" className="print:hidden">
			<p className="text-note text-soft">{text}</p>
			<div className="mt-1 flex flex-wrap items-end gap-x-7 gap-y-3">
				<TimeField label="Comes at" at_s={at_s} onKeep={onMove} />
				{found.data?.map((entry) => (
					<PlanEntry key={entry.label} entry={entry} />
				))}
				<ActionButton onPress={onRemove}>Take this step out</ActionButton>
			</div>
		</section>
	);
}
