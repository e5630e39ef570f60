import { useQuery } from "@tanstack/react-query";
import { answered, api, type BoardsCompared } from "../../api/client";
import { useAsked, useEdits } from "../../api/project";
import { ActionButton } from "../../ui/ActionButton";
import { Mark } from "../../ui/Mark";

/** The same plan on every board there is: what it would say there, and the press that moves it over. */
export default function BoardsView() {
	const asked = useAsked();
	const found = useQuery({
		queryKey: ["boards", asked],
		queryFn: () => answered(api.POST("/api/projects/{project_id}/boards", asked)),
		placeholderData: (before) => before,
	});
	if (!found.data)
		return (
			<p role="status" className="px-8 py-5 text-soft">
				{found.error?.message ?? "trying every board…"}
			</p>
		);
	if (!found.data.length) return <p className="px-8 py-5 font-bold font-said text-said">No board drives this yet.</p>;
	return found.data.map((it) => <OneHost key={it.host} compared={it} />);
}

type Row = BoardsCompared["rows"][number];

function OneHost({ compared }: { compared: BoardsCompared }) {
	const id = `boards-${compared.host}`;
	return (
		<article aria-labelledby={id} className="px-8 py-5 pb-24 max-[720px]:px-5">
			<h2 id={id} className="text-balance font-bold font-said text-said leading-tight">
				{compared.sentence}
			</h2>
			<p className="mt-1 text-soft">
				{compared.label}: this plan, tried on every board. Moving lets the pins of the old board go; undo brings them back.
			</p>
			<ol className="mt-5 divide-y divide-hair border-hair border-y">
				{compared.rows.map((row) => (
					<BoardRow key={row.label} row={row} />
				))}
			</ol>
		</article>
	);
}

function BoardRow({ row }: { row: Row }) {
	const { change } = useEdits();
	const { move } = row;
	return (
		<li className="flex gap-3 py-3">
			<span className="pt-1.5">
				<Mark state={row.state} />
			</span>
			<div className="min-w-0 flex-1">
				<p className="flex flex-wrap items-baseline gap-x-4">
					<span className="font-said font-semibold text-lg">{row.label}</span>
					{row.is_now && <span className="text-note text-soft">your board now</span>}
					{move && (
						<ActionButton isQuiet onPress={() => change({ patch: move.patch, summary: move.label })}>
							<span aria-hidden="true">Move over</span>
							<span className="sr-only">{move.label}</span>
						</ActionButton>
					)}
				</p>
				<p>{row.because}</p>
				<p className="text-note text-soft">
					{row.pins}; {row.levels}; {row.current}; {row.upload}.
				</p>
			</div>
		</li>
	);
}
