import { useQuery } from "@tanstack/react-query";
import { answered, api } from "../../api/client";
import { useEdits, useKept, useTrouble } from "../../api/project";
import { Window } from "../../ui/Window";

const BAR = "mx-7 flex flex-wrap items-baseline gap-x-5 gap-y-1 rounded-2xl px-5 py-2.5 max-[720px]:mx-4";

/** What did not go through, above the line until it does. While the server is away, it is asked every two seconds. */
export function TroubleBar() {
	const { trouble } = useTrouble();
	const { notice } = useKept();
	const isAway = trouble?.isAway ?? false;
	const pulse = useQuery({
		queryKey: ["pulse"],
		queryFn: () => answered(api.GET("/api/projects")).then(() => true),
		enabled: isAway,
		refetchInterval: 2000,
		retry: false,
		gcTime: 0,
	});
	if (!trouble && !notice) return null;
	if (!trouble)
		return (
			<div role="alert" className={`${BAR} bg-lampsoft`}>
				<p className="min-w-48 flex-1">{notice}</p>
			</div>
		);
	return (
		<div role="alert" className={`${BAR} bg-cut text-sheet`}>
			<p className="min-w-48 flex-1">{isAway && pulse.isSuccess ? "The server answers again." : trouble.message}</p>
			{trouble.again && (
				<button type="button" onClick={trouble.again} className="border-sheet border-b-2 font-semibold">
					Try that again
				</button>
			)}
		</div>
	);
}

/** Two windows want something else of the same place: both values stand side by side until one is chosen. */
export function ConflictWindow() {
	const { conflict } = useTrouble();
	const { settleConflict } = useEdits();
	return (
		<Window title="Another window changed the same place" isOpen={conflict !== null} onClose={() => settleConflict(false)}>
			<p className="mt-1 text-soft">Neither is lost: what is kept there stays in the history, and yours waits here.</p>
			<table className="mt-4 w-full text-left">
				<thead className="text-note text-soft">
					<tr>
						<th className="py-1 pr-3 font-normal">Place</th>
						<th className="py-1 pr-3 font-normal">Was</th>
						<th className="py-1 pr-3 font-normal">Kept there</th>
						<th className="py-1 font-normal">Yours</th>
					</tr>
				</thead>
				<tbody>
					{conflict?.clashes.map((clash) => (
						<tr key={clash.label} className="border-hair border-t align-baseline">
							<th className="py-2 pr-3 font-semibold">{clash.label}</th>
							<td className="py-2 pr-3 font-number text-soft">{clash.was || "nothing"}</td>
							<td className="py-2 pr-3 font-number">{clash.theirs || "nothing"}</td>
							<td className="py-2 font-number">{clash.yours || "nothing"}</td>
						</tr>
					))}
				</tbody>
			</table>
			<p className="mt-5 flex flex-wrap gap-6">
				<button type="button" onClick={() => settleConflict(true)} className="border-copper border-b-2 font-semibold">
					Put mine in its place
				</button>
				<button type="button" onClick={() => settleConflict(false)} className="border-hair border-b-2">
					Leave what is kept
				</button>
			</p>
		</Window>
	);
}
