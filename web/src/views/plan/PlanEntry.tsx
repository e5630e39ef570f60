import { memo } from "react";
import type { Entry } from "../../api/client";
import { patchAt, putIn } from "../../api/patch";
import { useEdits } from "../../api/project";
import { EntryField } from "../../ui/EntryField";

/** A value of the plan, turned in place. */
export const PlanEntry = memo(function PlanEntry({
	entry,
	isWide,
	isBare,
}: {
	entry: Entry;
	isWide?: boolean;
	isBare?: boolean;
}) {
	const { change, turn, endTurn } = useEdits();
	const call = (value: string | number | null) => ({
		patch: patchAt(entry.path, entry.items ? putIn(entry.items, entry.place ?? [], value) : value),
		summary: `${entry.label}: ${value ?? "as proposed"}`,
		about: [...entry.path, ...(entry.place ?? [])].join("."),
	});
	return (
		<EntryField
			entry={entry}
			isWide={isWide}
			isBare={isBare}
			onKeep={(value) => change(call(value), true)}
			onTurn={(value) => turn(call(value))}
			onEnd={endTurn}
		/>
	);
});
