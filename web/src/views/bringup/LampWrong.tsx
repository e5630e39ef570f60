import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answered, api, type BringUpShown, type FirstShown } from "../../api/client";
import { useKept } from "../../api/project";
import { Folded } from "../../ui/Folded";
import { Pick } from "../../ui/Pick";
import { StepToTake } from "./StepToTake";

type Props = { sheet: BringUpShown; onGo: (step: string) => void };

/** A lamp that is not as it should be: what is likely, and the step to begin with. */
export function LampWrong({ sheet, onGo }: Props) {
	if (!sheet.lamps.length) return null;
	return (
		<Folded className="print:hidden" summary="A lamp is not as it should be">
			<Asked sheet={sheet} onGo={onGo} />
		</Folded>
	);
}

function Asked({ sheet, onGo }: Props) {
	const { id, revision } = useKept();
	const [line, setLine] = useState(sheet.lamps[0]?.id ?? "");
	const [wrong, setWrong] = useState("dark");
	const first = useQuery({
		queryKey: ["first", id, revision, line, wrong, sheet.now],
		queryFn: () =>
			answered(
				api.GET("/api/projects/{project_id}/bench/bring-up/first", {
					params: { path: { project_id: id }, query: { line, wrong: wrong as "dark", now: sheet.now } },
				}),
			),
		placeholderData: (before) => before,
	});
	return (
		<div className="mt-2 max-w-2xl space-y-3 rounded-2xl bg-ground p-4 text-ink">
			<div className="flex flex-wrap gap-x-6 gap-y-2">
				<Pick label="Which" value={line} options={sheet.lamps.map((it) => [it.id, it.label])} isWord onPick={setLine} />
				<Pick label="How" value={wrong} options={Object.entries(sheet.wrongs)} isWord onPick={setWrong} />
			</div>
			<div aria-live="polite">
				{first.error && <p role="alert">{first.error.message}</p>}
				{first.data && <Told first={first.data} onGo={onGo} />}
			</div>
		</div>
	);
}

function Told({ first, onGo }: { first: FirstShown; onGo: (step: string) => void }) {
	const next = first.next;
	return (
		<div className="space-y-2">
			<p className="font-semibold">{first.sentence}</p>
			{first.likely.length > 0 && (
				<ol className="list-decimal space-y-1 pl-6 text-note marker:font-number">
					{first.likely.map((it) => (
						<li key={it}>{it}</li>
					))}
				</ol>
			)}
			{next && <StepToTake lead="Begin with what tells them apart soonest:" next={next} onGo={() => onGo(next.id)} />}
		</div>
	);
}
