import { type ReactNode, useState } from "react";
import { useEdits } from "../../api/project";
import type { components } from "../../api/schema";
import { ActionButton } from "../../ui/ActionButton";
import { Blinks } from "./Blinks";

type Setup = components["schemas"]["SetupShown"];

/** The steps of one module to walk at the bench: each is ticked off, or says what to think where the answer differs. */
export function SetupWalk({ setup, label, children }: { setup: Setup; label: string; children?: ReactNode }) {
	const { change } = useEdits();
	const [done, setDone] = useState(0);
	const [differs, setDiffers] = useState(false);
	const { keep, steps } = setup;
	const walked = Math.min(done, steps.length);
	const go = (to: number) => {
		setDone(to);
		setDiffers(false);
	};
	return (
		<section aria-label={label} className="space-y-3">
			<h3 className="text-balance font-said font-semibold text-name">{setup.sentence}</h3>
			{keep && (
				<p className="flex flex-wrap items-baseline gap-x-4 text-note text-soft">
					{setup.proposed}.
					<ActionButton isQuiet onPress={() => change({ patch: keep, summary: "Name and PIN kept" })}>
						Keep them
					</ActionButton>
				</p>
			)}
			<Blinks blinks={setup.blinks} />
			{children}
			{steps.length > 0 && (
				<>
					<ol className="max-w-prose list-decimal space-y-2 pl-6 marker:font-number marker:text-soft">
						{steps.map((step, at) => (
							<li
								key={step.text + step.ways.map((way) => way.sent).join()}
								aria-current={at === walked ? "step" : undefined}
								className={at < walked ? "text-soft" : ""}
							>
								<span className={at === walked ? "font-semibold" : ""}>{step.text}</span>
								{step.ways.map((way, other) => (
									<span key={way.sent} className="block break-words font-number">
										{other > 0 && way.answer && <span className="text-soft">or </span>}
										{way.sent} {way.answer && <span className="text-soft">answers</span>} {way.answer}
									</span>
								))}
								{at === walked && (
									<span className="flex flex-wrap gap-x-4">
										<ActionButton onPress={() => go(at + 1)}>Done</ActionButton>
										{step.advice && (
											<ActionButton isQuiet onPress={() => setDiffers(true)}>
												It differs
											</ActionButton>
										)}
									</span>
								)}
								{at === walked && differs && (
									<span role="status" className="block">
										{step.advice}
									</span>
								)}
							</li>
						))}
					</ol>
					{setup.program && (
						<details>
							<summary className="cursor-pointer text-note">The program for the board</summary>
							<pre className="overflow-x-auto py-2 font-number text-note">{setup.program}</pre>
							<ActionButton isQuiet onPress={() => navigator.clipboard.writeText(setup.program)}>
								Copy the program
							</ActionButton>
						</details>
					)}
					<p className="flex flex-wrap items-baseline gap-x-4">
						{walked === steps.length && <span>All done.</span>}
						{walked > 0 && (
							<ActionButton isQuiet onPress={() => go(walked - 1)}>
								One step back
							</ActionButton>
						)}
						<ActionButton isQuiet onPress={() => navigator.clipboard.writeText(setup.text)}>
							Copy the steps
						</ActionButton>
					</p>
				</>
			)}
		</section>
	);
}
