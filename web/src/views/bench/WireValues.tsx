import type { Choice, Entry, WireShown } from "../../api/client";
import { patchAt } from "../../api/patch";
import { useEdits } from "../../api/project";
import { PickOne } from "../../ui/PickOne";
import { PlanEntry } from "../plan/PlanEntry";

type Props = { wire: WireShown; colours: readonly string[] };

/** What the wire is: colour, gauge and length, turned where they stand. */
export function WireValues({ wire, colours }: Props) {
	const { change } = useEdits();
	const origin = wire.is_told ? "own" : "proposed";
	const entry = (label: string, text: string, field: string): Entry => ({
		label,
		text,
		path: [...wire.path, field],
		place: [],
		origin: field === "length_m" ? origin : "proposed",
		because: field === "length_m" ? wire.length_why || null : "common hook-up wire",
	});
	const choice: Choice = {
		label: `Colour of ${wire.start} to ${wire.end}`,
		origin: "proposed",
		because: "red and black by common practice, signals each their own",
		options: colours.map((it) => ({
			label: it,
			detail: "",
			patch: patchAt(wire.colour_path, it),
			is_chosen: it === wire.colour,
			state: null,
		})),
		more: 0,
	};
	return (
		<div className="flex flex-wrap items-end gap-x-6 gap-y-2 print:hidden">
			<PickOne
				choice={choice}
				onPick={(option) => change({ patch: option.patch ?? {}, summary: `${choice.label}: ${option.label}` })}
			/>
			<PlanEntry entry={entry("Gauge, AWG", wire.gauge.replace(" AWG", ""), "gauge_awg")} />
			<PlanEntry entry={entry("Length", wire.length, "length_m")} />
		</div>
	);
}
