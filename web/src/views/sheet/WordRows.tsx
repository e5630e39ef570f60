import type { Sheet } from "../../api/client";
import { useEdits } from "../../api/project";
import { ActionButton } from "../../ui/ActionButton";
import { RowChoice } from "../plan/PlanChoice";
import { PlanEntry } from "../plan/PlanEntry";

/** Every word with what is sent, as characters, hex and decimal, and what it does. */
export function WordRows({ stage, words }: Pick<Sheet, "stage" | "words">) {
	const { change } = useEdits();
	return (
		<ul className="divide-y divide-hair border-hair border-y">
			{words.map((word) => (
				<li
					key={word.id}
					className="flex flex-wrap items-end gap-x-5 gap-y-1 py-2 min-[720px]:grid min-[720px]:grid-cols-[11rem_minmax(6rem,1fr)_minmax(11rem,1.4fr)_auto]"
				>
					<PlanEntry entry={{ ...word.sent, label: word.label }} />
					<p className="pb-0.5 font-number text-note text-soft">
						{word.hex}
						<br />
						{word.decimal}
					</p>
					{word.direction === "back" ? (
						<p className="pb-0.5 text-soft">said back</p>
					) : (
						<RowChoice choice={word.does} stage={stage} row={word.id} says={(option) => `${word.label}: ${option.label}`} />
					)}
					<ActionButton isQuiet onPress={() => change({ patch: word.remove.patch, summary: word.remove.label })}>
						<span aria-hidden="true">Take out</span>
						<span className="sr-only">{word.remove.label}</span>
					</ActionButton>
				</li>
			))}
		</ul>
	);
}
