import type { Value } from "../../api/client";
import { Folded } from "../../ui/Folded";
import { WorkingList } from "../../ui/WorkingList";

/** Where every number of this stage comes from, those in its picture and on the line included. */
export function StageNumbers({ values }: { values: readonly Value[] }) {
	if (!values.length) return null;
	return (
		<Folded
			className="text-note"
			summary={
				values.length > 1
					? `Where the ${values.length} numbers of this stage come from`
					: "Where the number of this stage comes from"
			}
		>
			<dl className="mt-2 grid gap-x-8 gap-y-3 min-[720px]:grid-cols-2">
				{values.map((value) => (
					<div key={value.id}>
						<dt>
							{value.label} <span className="font-number text-soft text-xs">{value.id}</span>
						</dt>
						<dd>
							<span className="font-number">
								{value.text}
								{value.spread_text && ` (${value.spread_text} at worst)`}
							</span>
							{value.because && value.because !== value.text && <span className="text-soft"> {value.because}</span>}
							<WorkingList working={value.working} />
						</dd>
					</div>
				))}
			</dl>
		</Folded>
	);
}
