import { useEffect, useRef } from "react";
import type { StepShown } from "../../api/client";

type Props = { steps: readonly StepShown[]; at: number; onGo: (to: number) => void };

/** The steps as knots on a thread: done are filled, what is off is cut, the one at hand is lit. */
export function StepThread({ steps, at, onGo }: Props) {
	const here = useRef<HTMLButtonElement>(null);
	// biome-ignore lint/correctness/useExhaustiveDependencies: told by the step
	useEffect(() => {
		const it = here.current;
		const pane = it?.closest("ol");
		const knot = it?.parentElement;
		if (knot && pane) pane.scrollTo({ left: knot.offsetLeft - pane.clientWidth / 2 });
	}, [at]);
	return (
		<nav aria-label="Steps" className="print:hidden">
			<ol className="relative flex overflow-x-auto py-1.5">
				{steps.map((it, place) => (
					<li key={it.id} className="relative flex shrink-0 items-center">
						<button
							ref={place === at ? here : undefined}
							type="button"
							aria-current={place === at ? "step" : undefined}
							aria-label={`Step ${place + 1}: ${it.title} ${it.told}`}
							title={it.title}
							onClick={() => onGo(place)}
							className="flex h-7 w-7 items-center justify-center"
						>
							<span
								className={`relative z-10 block rounded-full border-[3px] ${place === at ? "size-[18px] border-ink bg-lamp" : it.verdict === "off" ? "size-[14px] border-cut bg-sheet" : it.verdict ? "size-[14px] border-ink bg-ink" : "size-[14px] border-hair bg-sheet"}`}
							/>
						</button>
						{place < steps.length - 1 && (
							<span
								aria-hidden="true"
								className={`absolute left-[14px] h-[3px] w-7 ${it.verdict === "within" ? "bg-ink" : "bg-hair"}`}
							/>
						)}
					</li>
				))}
			</ol>
		</nav>
	);
}
