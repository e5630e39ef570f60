import { memo } from "react";
import type { Choice, Option } from "../../api/client";
import { useEdits } from "../../api/project";
import { ChoiceRow } from "../../ui/ChoiceRow";
import { PickOne } from "../../ui/PickOne";

/** A decision of the plan; `says` puts it in words where label and option do not. */
export const PlanChoice = memo(function PlanChoice({
	choice,
	isList,
	says,
}: {
	choice: Choice;
	isList?: boolean;
	says?: (option: Option) => string;
}) {
	const { change } = useEdits();
	const pick = (option: Option) =>
		change({ patch: option.patch, summary: says?.(option) ?? `${choice.label}: ${option.label}`, about: choice.label });
	return isList ? <PickOne choice={choice} onPick={pick} /> : <ChoiceRow choice={choice} onPick={pick} />;
});
