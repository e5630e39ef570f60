import type { BoughtShown } from "../../api/client";
import { PlanEntry } from "../plan/PlanEntry";

type Props = { parts: readonly BoughtShown[] };

const COLUMNS =
	"grid grid-cols-[2rem_minmax(0,1fr)_3.5rem_4.5rem_3rem] gap-x-4 max-[720px]:grid-cols-[2rem_3.5rem_4.5rem_minmax(0,1fr)]";

/** What to buy: how many there are and what one costs are told in place; what only the final build takes stands below. */
export function PartsList({ parts }: Props) {
	const now = parts.filter((it) => !it.for_final);
	const besides = parts.filter((it) => it.for_final);
	return (
		<section aria-label="Parts" className="mt-2 max-w-3xl space-y-4 text-note">
			<div>
				<p className={`${COLUMNS} text-soft`} aria-hidden="true">
					<span className="col-start-3 max-[720px]:col-start-2">have</span>
					<span>each</span>
					<span className="text-right">buy</span>
				</p>
				<Rows parts={now} />
			</div>
			{besides.length > 0 && (
				<div>
					<h4 className="font-semibold">And for the final build</h4>
					<p className="text-soft">What may die goes into a socket; what comes apart gets a connector.</p>
					<Rows parts={besides} />
				</div>
			)}
		</section>
	);
}

function Rows({ parts }: Props) {
	return (
		<ul>
			{parts.map((it) => (
				<li key={it.what} className={`${COLUMNS} break-inside-avoid items-start border-hair border-t py-1`}>
					<span className="pt-1.5 font-number">{it.count}</span>
					<p className="min-w-0 pt-1.5 leading-snug max-[720px]:col-span-3">
						{it.what}
						{it.mock_up && (
							<span className="block text-soft text-xs">
								{it.mock_up}; for good {it.final}
							</span>
						)}
					</p>
					<div className="max-[720px]:col-start-2">
						<PlanEntry entry={it.has} isBare />
					</div>
					<PlanEntry entry={it.price} isBare />
					<span className={`pt-1.5 text-right font-number ${it.to_buy ? "" : "text-soft"}`}>{it.to_buy || "–"}</span>
				</li>
			))}
		</ul>
	);
}
