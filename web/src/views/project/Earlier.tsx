import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answered, api } from "../../api/client";
import { ActionButton } from "../../ui/ActionButton";

/** The changes of a project that cannot be shown, to go back to one that can; what is there now stays in the history. */
export function Earlier({ id, onBack }: { id: string; onBack: () => void }) {
	const params = { path: { project_id: id } };
	const [trouble, setTrouble] = useState("");
	const history = useQuery({
		queryKey: ["history", id],
		queryFn: () => answered(api.GET("/api/projects/{project_id}/history", { params })),
	});
	const head = history.data?.find((it) => it.is_head);
	const earlier = history.data?.filter((it) => !it.is_head) ?? [];
	if (!head || !earlier.length) return null;
	const back = (revision: number) =>
		answered(api.POST("/api/projects/{project_id}/restore", { params, body: { base_revision: head.revision, revision } })).then(
			onBack,
			(error: Error) => setTrouble(error.message),
		);
	return (
		<section aria-label="Earlier changes" className="mt-8">
			<h2 className="font-said font-semibold text-name">Its other changes are all there</h2>
			{trouble && (
				<p role="alert" className="mt-2 rounded-2xl bg-cut px-5 py-2.5 text-sheet">
					{trouble}
				</p>
			)}
			<ul className="mt-2">
				{earlier.map((it) => (
					<li key={it.revision} className="flex flex-wrap items-baseline gap-x-5 border-hair border-b py-2">
						<span className="min-w-48 flex-1">
							{it.number}: {it.summary}
						</span>
						<ActionButton onPress={() => back(it.revision)}>
							Go back to this<span className="sr-only"> {it.number}</span>
						</ActionButton>
					</li>
				))}
			</ul>
		</section>
	);
}
