import type { Sheet } from "../../api/client";
import { useEdits } from "../../api/project";
import { ActionButton } from "../../ui/ActionButton";
import { PickOne } from "../../ui/PickOne";
import { RowChoice } from "../plan/PlanChoice";
import { PlanEntry } from "../plan/PlanEntry";

/** Every word with what is sent, as characters, hex and decimal, and what it does. */
export function WordRows({ stage, words }: Pick<Sheet, "stage" | "words">) {
	const { change } = useEdits();
	return (
		<ul className="@container divide-y divide-hair border-hair border-y">
			{words.map((word) => (
				<li
					key={word.id}
					className="flex flex-wrap items-end gap-x-5 gap-y-1 py-2 @min-[40rem]:grid @min-[40rem]:grid-cols-[10rem_minmax(9rem,1fr)_minmax(11rem,1.2fr)_auto]"
				>
					<PlanEntry entry={word.name} isBare />
					<PlanEntry entry={word.sent} isBare />
					{word.direction === "back" ? (
						<p className="pb-0.5 text-soft">said back</p>
					) : (
						<RowChoice choice={word.does} stage={stage} row={word.id} says={(option) => `${word.label}: ${option.label}`} />
					)}
					<ActionButton isQuiet onPress={() => change({ patch: word.remove.patch, summary: word.remove.label })}>
						<span aria-hidden="true">Take out</span>
						<span className="sr-only">{word.remove.label}</span>
					</ActionButton>
					<p className="col-span-2 font-number text-note text-soft">
						{word.hex} <span className="pl-3">{word.decimal}</span>
					</p>
					{word.moved && <p className="col-span-full text-coppertext text-note">{word.moved}</p>}
					{word.answers && (
						<p className="col-span-2 flex items-baseline gap-2 text-note text-soft">
							answers
							<RowChoice
								choice={word.answers}
								stage={stage}
								row={`${word.id}.answers`}
								says={(option) => `${word.answers?.label}: ${option.label}`}
							/>
						</p>
					)}
					{word.parameters.map((it) => (
						<div key={it.id} className="col-span-full flex flex-wrap items-end gap-x-5 gap-y-1 pl-6">
							<p className="w-24 pb-1 text-soft">{it.id}</p>
							<PickOne
								choice={it.written}
								onPick={(option) => change({ patch: option.patch, summary: `${it.written.label}: ${option.label}` })}
							/>
							{it.below && (
								<PickOne
									choice={it.below}
									onPick={(option) => change({ patch: option.patch, summary: `${it.below?.label}: ${option.label}` })}
								/>
							)}
							{it.bounds.map((entry) => (
								<div key={entry.path.join(".")} className="w-32">
									<PlanEntry entry={entry} />
								</div>
							))}
						</div>
					))}
				</li>
			))}
		</ul>
	);
}
