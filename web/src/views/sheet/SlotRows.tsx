import type { Sheet } from "../../api/client";
import { useKept } from "../../api/project";
import { PlanPick } from "../plan/PlanChoice";
import { PlanEntry } from "../plan/PlanEntry";

/** The phone sheet: what to type into which slot of any terminal or button-pad program; it prints with the rest, and is a file. */
export function SlotRows({ sheet, node }: { sheet: Sheet; node: string }) {
	const { id } = useKept();
	const { slots } = sheet;
	return (
		<section aria-labelledby="slots">
			<h3 id="slots" className="font-said font-semibold text-name">
				{sheet.slots_title}
			</h3>
			<table className="mt-2 w-full border-collapse text-left">
				<thead className="text-note text-soft">
					<tr className="border-hair border-b">
						<th className="py-1 pr-3 font-normal">Control</th>
						<th className="py-1 pr-3 font-normal">{sheet.slots_head}</th>
						<th className="py-1 pr-3 font-normal max-[720px]:hidden">Goes out as</th>
						<th className="py-1 font-normal">Does</th>
					</tr>
				</thead>
				<tbody>
					{slots.map((it) => (
						<tr key={`${it.control} ${it.when}`} className="border-hair border-b align-top">
							<td className="py-1.5 pr-3">
								{it.control}
								<span className="block text-note text-soft">{it.when}</span>
								{[it.is_a, it.is_said].map(
									(choice) =>
										choice &&
										choice.options.length > 1 && (
											<span key={choice.label} className="block text-note print:hidden">
												<PlanPick choice={choice} />
											</span>
										),
								)}
							</td>
							<td className="py-1.5 pr-3 font-number">
								{it.types}
								{it.entries?.map((entry) => (
									<PlanEntry key={entry.path.join(".")} entry={entry} isBare />
								))}
								{it.values && <span className="block font-text text-note text-soft">{it.values}</span>}
							</td>
							<td className="py-1.5 pr-3 font-number text-note text-soft max-[720px]:hidden">
								{it.hex}
								<br />
								{it.decimal}
							</td>
							<td className="py-1.5">{it.does}</td>
						</tr>
					))}
				</tbody>
			</table>
			{slots[0]?.ends && <p className="mt-1 text-note text-soft">Every message ends with {slots[0].ends}.</p>}
			<p className="mt-1.5 flex gap-x-5 print:hidden">
				<button type="button" onClick={() => window.print()} className="underline decoration-copper underline-offset-4">
					Print this sheet
				</button>
				{["csv", "json"].map((form) => (
					<a
						key={form}
						href={`/api/projects/${id}/slots?node=${node}&form=${form}`}
						download={`phone-sheet.${form}`}
						className="underline decoration-copper underline-offset-4"
					>
						Save it as {form.toUpperCase()}
					</a>
				))}
			</p>
		</section>
	);
}
