import type { Sheet } from "../../api/client";
import { Origin } from "../../ui/Origin";
import { RowChoice } from "../plan/PlanChoice";

/** Every line that ends at a pin, and the pin it has. */
export function PinRows({ stage, pins }: Pick<Sheet, "stage" | "pins">) {
	return (
		<ul className="grid grid-cols-1 gap-x-10 lg:grid-cols-2">
			{pins.map((row) => (
				<li key={row.id} className="flex items-baseline gap-3 border-hair border-b py-1.5">
					<span className="min-w-0 flex-1">
						{row.label} <span className="text-soft text-xs">{[row.needs, row.remark].filter(Boolean).join("; ")}</span>
					</span>
					<Origin origin={row.pin.origin} because={row.pin.because} label={row.pin.label} />
					<span className="font-number">
						<RowChoice choice={row.pin} stage={stage} row={row.id} says={(option) => `${row.label} on pin ${option.label}`} />
					</span>
				</li>
			))}
		</ul>
	);
}
