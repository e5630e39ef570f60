import { useQuery } from "@tanstack/react-query";
import { answered, api } from "../../api/client";
import { useKept } from "../../api/project";
import { PlanMoves } from "../plan/PlanMoves";

/** What the drawers and own parts of other projects hold that this one lacks. */
export function Elsewhere() {
	const { id, revision } = useKept();
	const found = useQuery({
		queryKey: ["elsewhere", id, revision],
		queryFn: () => answered(api.GET("/api/projects/{project_id}/elsewhere", { params: { path: { project_id: id } } })),
		placeholderData: (before) => before,
	});
	if (!found.data?.length) return null;
	return (
		<section aria-label="From other projects" className="space-y-2">
			<h3 className="font-said font-semibold text-name">From other projects</h3>
			{found.data.map((other) => (
				<div key={other.title} className="flex flex-wrap items-baseline gap-x-5 gap-y-1.5">
					<span className="text-note text-soft">{other.title}</span>
					<PlanMoves moves={other.moves} />
				</div>
			))}
		</section>
	);
}
