import { type ReactNode, useId } from "react";
import type { Choice, Option } from "../api/client";
import { Mark } from "./Mark";
import { Origin } from "./Origin";
import { PickOne } from "./PickOne";

const SIDE_BY_SIDE_MOST = 4;

/** Many options fold into a list; schools stand side by side however many, each with what it gives. */
export const folds = (choice: Choice) =>
	choice.more > 0 || (choice.options.length > SIDE_BY_SIDE_MOST && !choice.options.some((option) => option.state));

/** A decision: few schools stand side by side with what each gives; many fold into a list. */
export function ChoiceRow({ choice, onPick, list }: { choice: Choice; onPick: (option: Option) => void; list?: ReactNode }) {
	const id = useId();
	const press = (index: number) => {
		const option = choice.options[index];
		if (option && !option.is_chosen) onPick(option);
	};
	const proposed = choice.origin === "proposed";
	return (
		<div>
			<p className="mb-1 flex items-baseline gap-2 text-note text-soft" id={id}>
				{choice.label}
				{choice.options.some((option) => option.is_chosen) && (
					<Origin origin={choice.origin} because={choice.because} label={choice.label} />
				)}
			</p>
			{folds(choice) ? (
				(list ?? <PickOne choice={choice} onPick={onPick} />)
			) : (
				// biome-ignore lint/a11y/useSemanticElements: a fieldset cannot lay its parts out in a row here
				<div role="group" aria-labelledby={id} className="flex flex-wrap border-hair border-b">
					{choice.options.map((option, index) => (
						<button
							type="button"
							key={option.label}
							aria-pressed={option.is_chosen}
							onClick={() => press(index)}
							className={`-mb-px min-w-28 max-w-64 flex-1 border-b-4 pt-1 pr-4 pb-1.5 text-left hover:border-copper ${option.is_chosen ? (proposed ? "border-soft" : "border-ink") : "border-transparent"}`}
						>
							<span className={`block text-note ${option.is_chosen ? "font-bold" : ""}`}>{option.label}</span>
							{option.detail && (
								<span className={`flex items-center gap-1.5 text-soft ${option.state ? "font-number text-note" : "text-xs"}`}>
									{option.state && <Mark state={option.state} />}
									{option.detail}
								</span>
							)}
						</button>
					))}
				</div>
			)}
		</div>
	);
}
