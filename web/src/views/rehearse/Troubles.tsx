import type { Befalls } from "../../api/client";
import { usePhone } from "../../api/rehearsal";
import type { Befallen } from "../../api/take";
import { Folded } from "../../ui/Folded";

/** What may go wrong at the bench though the plan is right: put in by a press, from then on. */
export function Troubles({ befalls }: { befalls: readonly Befalls[] }) {
	const { play } = usePhone();
	if (!befalls.length) return null;
	return (
		<Folded summary="Put a trouble in">
			<dl className="mt-3 grid grid-cols-[max-content_1fr] gap-x-5 gap-y-2 max-[720px]:grid-cols-1 max-[720px]:gap-y-1">
				{befalls.map((it) => (
					<div key={it.node} className="contents">
						<dt className="text-soft">What if {it.label} …</dt>
						<dd className="flex flex-wrap gap-x-5 gap-y-1">
							{it.what_ifs.map((one) => (
								<button
									key={one.label}
									type="button"
									onClick={() => play(one.event as Befallen)}
									className="border-hair border-b-2 hover:border-copper"
								>
									{one.label}
								</button>
							))}
						</dd>
					</div>
				))}
			</dl>
		</Folded>
	);
}
