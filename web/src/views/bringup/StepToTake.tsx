import type { StepShown } from "../../api/client";

type Props = { lead: string; next: NonNullable<StepShown["next"]>; onGo: () => void };

/** The step that tells apart what may be wrong, and what each reading there would speak for. */
export function StepToTake({ lead, next, onGo }: Props) {
	return (
		<>
			<p>
				{lead}{" "}
				<button type="button" onClick={onGo} className="border-copper border-b-2 text-left font-semibold hover:border-ink">
					{next.title}
				</button>
			</p>
			<ul className="text-note text-soft">
				{next.tells.map((it) => (
					<li key={it}>{it}</li>
				))}
			</ul>
		</>
	);
}
