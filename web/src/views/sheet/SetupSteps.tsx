import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { answered, api } from "../../api/client";
import { useAsked } from "../../api/project";
import { type Known, Secrets } from "./Secrets";
import { SetupWalk } from "./SetupWalk";

/** What sets a module up, or lets a board's own radio be found over a link; of two that are bound to each other both, side by side where there is room. */
export function SetupSteps({ node, over }: { node: string; over: string | null }) {
	const asked = useAsked();
	const [known, setKnown] = useState<Known>({ network: "", password: "" });
	const typed = useDeferredValue(known);
	const found = useQuery({
		queryKey: ["setup", asked, node, over, typed],
		queryFn: () =>
			answered(
				api.POST("/api/projects/{project_id}/setup", { params: asked.params, body: { ...asked.body, node, over, ...typed } }),
			),
		placeholderData: (before) => before,
		gcTime: 0, // what was typed is not kept
	});
	const setup = found.data;
	if (!setup) return null;
	const secrets = <Secrets asks={setup.asks} known={known} onType={setKnown} />;
	if (!setup.other) {
		return (
			<SetupWalk setup={setup} label="Setting it up">
				{secrets}
				{setup.refused && <p role="status">{setup.refused}</p>}
			</SetupWalk>
		);
	}
	return (
		<div className="grid gap-x-8 gap-y-6 sm:grid-cols-2">
			<SetupWalk setup={setup} label="Setting it up" />
			<SetupWalk setup={setup.other} label={`Setting up ${setup.other_label}`} />
		</div>
	);
}
