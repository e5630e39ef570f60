import { useQuery } from "@tanstack/react-query";
import { answered, api } from "../../api/client";
import { useAsked, useEdits } from "../../api/project";
import { ActionButton } from "../../ui/ActionButton";

/** What sets a module up: the sentence that says it, and the steps to walk, to read or to copy. */
export function SetupSteps({ node }: { node: string }) {
	const asked = useAsked();
	const { change } = useEdits();
	const found = useQuery({
		queryKey: ["setup", asked, node],
		queryFn: () =>
			answered(api.POST("/api/projects/{project_id}/setup", { params: asked.params, body: { ...asked.body, node } })),
		placeholderData: (before) => before,
	});
	const setup = found.data;
	if (!setup) return null;
	const { keep } = setup;
	return (
		<section aria-label="Setting it up" className="space-y-3">
			<h3 className="text-balance font-said font-semibold text-name">{setup.sentence}</h3>
			{keep && (
				<p className="flex flex-wrap items-baseline gap-x-4 text-note text-soft">
					{setup.proposed}.
					<ActionButton isQuiet onPress={() => change({ patch: keep, summary: "Name and PIN kept" })}>
						Keep them
					</ActionButton>
				</p>
			)}
			{setup.steps.length > 0 && (
				<>
					<ol className="max-w-prose list-decimal space-y-2 pl-6 marker:font-number marker:text-soft">
						{setup.steps.map((step) => (
							<li key={step.text}>
								{step.text}
								{step.ways.map((way) => (
									<span key={way.sent} className="block font-number">
										{way.sent} <span className="text-soft">answers</span> {way.answer}
									</span>
								))}
								{step.advice && <span className="block text-note text-soft">{step.advice}</span>}
							</li>
						))}
					</ol>
					<ActionButton isQuiet onPress={() => navigator.clipboard.writeText(setup.text)}>
						Copy the steps
					</ActionButton>
				</>
			)}
		</section>
	);
}
