import { useState } from "react";
import { answered, api, type WhyShown } from "../../api/client";
import { useKept } from "../../api/project";
import { ActionButton } from "../../ui/ActionButton";
import type { Search } from "./useSearch";

const CANT_SAY = "";

/** The path so far: each answer can be changed or taken back, and the whole goes to the log. */
export function Answers({ shown, search }: { shown: WhyShown; search: Search }) {
	if (!shown.answered.length) return null;
	return (
		<section aria-labelledby="answers" className="max-w-2xl space-y-3">
			<h3 id="answers" className="text-note text-soft">
				What was found
			</h3>
			<ol className="space-y-3 border-hair border-l-[3px] pl-5">
				{shown.answered.map((it) => (
					<li key={it.id} className="space-y-0.5">
						<p className="text-note text-soft leading-tight">{it.do}</p>
						<p className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
							<select
								aria-label={`What was found: ${it.do}`}
								value={it.outcome ?? CANT_SAY}
								onChange={(event) => search.answer(it.id, event.currentTarget.value || null)}
								className="max-w-full border-ink border-b-2 bg-transparent py-0.5 font-semibold"
							>
								{it.outcomes.map((one) => (
									<option key={one.id} value={one.id} className="bg-sheet text-ink">
										{one.words}
									</option>
								))}
								<option value={CANT_SAY} className="bg-sheet text-ink">
									can't say
								</option>
							</select>
							{it.is_measured ? (
								<span className="text-note text-soft">measured on the bring-up sheet</span>
							) : (
								<ActionButton isQuiet onPress={() => search.takeBack(it.id)}>
									Take back
								</ActionButton>
							)}
						</p>
						{it.is_doubtful && (
							<p className="font-semibold text-look text-note">Speaks against what the others say: do it once more.</p>
						)}
						{it.ruled_out && <p className="max-w-prose text-note text-soft">{it.ruled_out}</p>}
					</li>
				))}
			</ol>
			{shown.entry && <KeepPath key={shown.entry.text} entry={shown.entry} />}
		</section>
	);
}

/** The path as an entry of the log. */
function KeepPath({ entry }: { entry: NonNullable<WhyShown["entry"]> }) {
	const { id } = useKept();
	const [told, setTold] = useState("");
	const [isKept, setKept] = useState(false);
	const keep = async () => {
		try {
			const body = { kind: entry.kind, text: entry.text, stage: entry.stage, minutes: entry.minutes, cost: null };
			await answered(api.POST("/api/projects/{project_id}/log/entries", { params: { path: { project_id: id } }, body }));
			setKept(true);
			setTold("It stands in the log.");
		} catch (error) {
			setTold(String((error as Error).message));
		}
	};
	return (
		<p className="flex flex-wrap items-baseline gap-x-5">
			<ActionButton onPress={keep} isOff={isKept}>
				Keep this path in the log
			</ActionButton>
			<span role="status" className="text-note text-soft">
				{told}
			</span>
		</p>
	);
}
