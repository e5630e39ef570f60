import { useQuery } from "@tanstack/react-query";
import { answered, api } from "../../api/client";
import { useAsked } from "../../api/project";
import { SetupWalk } from "./SetupWalk";

/** What sets a module up; of two that are bound to each other both, side by side where there is room. */
export function SetupSteps({ node }: { node: string }) {
	const asked = useAsked();
	const found = useQuery({
		queryKey: ["setup", asked, node],
		queryFn: () =>
			answered(api.POST("/api/projects/{project_id}/setup", { params: asked.params, body: { ...asked.body, node } })),
		placeholderData: (before) => before,
	});
	const setup = found.data;
	if (!setup) return null;
	if (!setup.other) return <SetupWalk setup={setup} label="Setting it up" />;
	return (
		<div className="grid gap-x-8 gap-y-6 sm:grid-cols-2">
			<SetupWalk setup={setup} label="Setting it up" />
			<SetupWalk setup={setup.other} label={`Setting up ${setup.other_label}`} />
		</div>
	);
}
