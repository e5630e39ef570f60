import { useQuery } from "@tanstack/react-query";
import { answered, api } from "../../api/client";
import { useAsked, useEdits } from "../../api/project";
import { ActionButton } from "../../ui/ActionButton";

/** Which single values would clear a verdict, and from where; searched when it is opened. */
export function Clearings({ finding }: { finding: string }) {
	const asked = useAsked();
	const { change } = useEdits();
	const found = useQuery({
		queryKey: ["clearings", asked, finding],
		queryFn: () =>
			answered(api.POST("/api/projects/{project_id}/clearings", { ...asked, body: { ...asked.body, key: finding } })),
	});
	if (found.error) return null;
	if (!found.data)
		return (
			<p role="status" className="mt-2 text-note text-soft">
				looking for what would clear it…
			</p>
		);
	if (!found.data.length) return null;
	return (
		<div className="mt-2">
			<p className="text-note text-soft">One of these alone would clear it</p>
			<ul className="mt-1 flex flex-wrap gap-x-5 gap-y-1.5">
				{found.data.map((it) => (
					<li key={`${it.label} ${it.text}`} className="flex items-baseline gap-2">
						<span className="text-note">{it.label}</span>
						<ActionButton isQuiet onPress={() => change({ patch: it.move.patch, summary: it.move.label })}>
							<span className="font-number">{it.text}</span>
						</ActionButton>
					</li>
				))}
			</ul>
		</div>
	);
}
