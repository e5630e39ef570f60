import { useQuery } from "@tanstack/react-query";
import { memo, useState } from "react";
import { answered, api, type Choice, type Option } from "../../api/client";
import { useAsked, useEdits } from "../../api/project";
import { ChoiceRow } from "../../ui/ChoiceRow";
import { PickOne } from "../../ui/PickOne";

type Says = (option: Option) => string;

function usePick(choice: Choice, says?: Says) {
	const { change } = useEdits();
	return (option: Option) =>
		change({ patch: option.patch, summary: says?.(option) ?? `${choice.label}: ${option.label}`, about: choice.label });
}

/** A decision of the plan. Of a long list `stage` and `row` say where its options are asked for. */
export const PlanChoice = memo(function PlanChoice({ choice, stage, row }: { choice: Choice; stage?: string; row?: string }) {
	const list = choice.more > 0 && stage && row && <RowChoice choice={choice} stage={stage} row={row} />;
	return <ChoiceRow choice={choice} onPick={usePick(choice)} list={list || undefined} />;
});

/** The same as a list that opens, where there is no room for a row. */
export const PlanPick = memo(function PlanPick({ choice }: { choice: Choice }) {
	return <PickOne choice={choice} onPick={usePick(choice)} />;
});

type RowProps = { choice: Choice; stage: string; row: string; says?: Says };

/** The decision of one row among many: its options come when the reader gets to it. `says` puts an option in words. */
export const RowChoice = memo(function RowChoice({ choice, stage, row, says }: RowProps) {
	const [isNear, setNear] = useState(false);
	const asked = useAsked();
	const full = useQuery({
		queryKey: ["options", asked, stage, row],
		queryFn: () => answered(api.POST("/api/projects/{project_id}/options", { ...asked, body: { ...asked.body, stage, row } })),
		enabled: isNear && choice.more > 0,
	});
	const shown = (isNear && full.data) || choice;
	return (
		<PickOne
			choice={shown}
			onPick={usePick(choice, says)}
			note={isNear ? full.data?.because : null}
			onNear={setNear}
			trouble={full.error?.message}
		/>
	);
});
