import { useAttempt, useEdits } from "../../api/project";
import { ActionButton } from "../../ui/ActionButton";
import { ComparisonView } from "./ComparisonView";

/** What an attempt moves, before any of it is kept. */
export function TrialBar() {
	const attempt = useAttempt();
	const { keep, letGo } = useEdits();
	if (!attempt) return null;
	const { trial, notes, isHeld } = attempt;
	return (
		<section aria-label="What if" className="mb-4 rounded-3xl bg-lampsoft px-5 py-4">
			<h2 className="font-bold font-said">What if{notes.length ? `: ${notes.map((note) => note.text).join("; ")}` : "?"}</h2>
			<p role="status" className="text-note">
				{trial
					? trial.comparison.sentence
					: notes.length
						? "working it out…"
						: "Change anything. All numbers and verdicts show what would come of it, and nothing is kept until you say so."}
			</p>
			{trial && (
				<div className="mt-2">
					<ComparisonView comparison={trial.comparison} areChangesShown={false} />
				</div>
			)}
			<p className="mt-3 flex flex-wrap gap-4">
				{notes.length > 0 && (
					<ActionButton onPress={keep}>Keep {notes.length > 1 ? "these changes" : "this change"}</ActionButton>
				)}
				<ActionButton isQuiet onPress={letGo}>
					{isHeld && !notes.length ? "End what if" : "Let it go"}
				</ActionButton>
			</p>
		</section>
	);
}
