import { useRehearsal } from "../../api/rehearsal";
import { type Layout, segmentKey } from "./layout";

type Props = { layout: Layout };

/** Messages running along the thread, and what is read off at each stage they have passed. */
export function Beads({ layout }: Props) {
	const { moving, moveKey, reached } = useRehearsal();
	return (
		<div aria-hidden="true" className="pointer-events-none absolute inset-0">
			{[...reached.values()].map((leg) => {
				const at = layout.points.get(leg.stage);
				if (!at || (leg.stage.startsWith("lamps.") && !leg.lost_because)) return null; // a lamp shows it by its light
				return (
					<span
						key={leg.stage}
						style={{ left: at.x, top: at.y + 19 }}
						className={`-translate-x-1/2 absolute max-w-32 rounded-lg px-1.5 text-center font-number text-xs leading-tight ${leg.lost_because ? "bg-cut text-sheet" : leg.may_not_because ? "border border-ink border-dotted bg-lampsoft text-ink" : "bg-lampsoft text-ink"}`}
					>
						{leg.text}
						{leg.may_not_because && ", maybe"}
					</span>
				);
			})}
			{moving.map((leg) => {
				const forward = leg.comes_from ? layout.paths.get(segmentKey(leg.comes_from, leg.stage)) : undefined;
				const back = leg.comes_from ? layout.paths.get(segmentKey(leg.stage, leg.comes_from)) : undefined;
				const path = forward ?? back;
				if (!path) return null;
				return (
					<span
						key={moveKey + leg.stage}
						className={`bead ${forward ? "" : "bead-back"} ${leg.lost_because ? "bead-lost" : ""}`}
						style={{ offsetPath: `path("${path.d}")` }}
					/>
				);
			})}
		</div>
	);
}
