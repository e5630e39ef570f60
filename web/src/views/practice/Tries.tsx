import type { RoundShown } from "../../api/client";
import type { Practice } from "./useRound";

/** What can be looked at, tried and swapped without the meter, each with its minutes. */
export function Tries({ round, practice }: { round: RoundShown; practice: Practice }) {
	const { done } = practice.bench;
	return (
		<section aria-labelledby="tries">
			<h3 id="tries" className="text-note text-soft">
				Look, try, swap
			</h3>
			<ul className="mt-1 max-h-96 overflow-y-auto pr-2 max-[900px]:max-h-none">
				{round.tries.map((it) => {
					const found = done.findLast((one) => one.probe.what === it.id);
					return (
						<li key={it.id} className="border-hair border-b">
							<button
								type="button"
								disabled={practice.isBusy}
								onClick={() => practice.probe({ what: it.id }, it.do)}
								className="flex w-full justify-between gap-x-3 py-2 text-left text-note leading-tight hover:text-coppertext"
							>
								<span>{it.do}</span>
								<span className="shrink-0 font-number text-soft">{it.minutes} min</span>
							</button>
							{found && <p className="pb-2 font-semibold text-note">{found.text[0]?.toUpperCase() + found.text.slice(1)}.</p>}
						</li>
					);
				})}
			</ul>
		</section>
	);
}
