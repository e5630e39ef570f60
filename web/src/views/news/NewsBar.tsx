import { useEdits, useReview } from "../../api/project";
import { ActionButton } from "../../ui/ActionButton";
import { Moved } from "../trial/ComparisonView";

/** Numbers that moved because shipped figures changed since the plan was made, and how to stay with the old ones. */
export function NewsBar() {
	const { news } = useReview();
	const { change } = useEdits();
	if (!news) return null;
	return (
		<section aria-label="Changed figures" className="mb-4 rounded-3xl bg-lampsoft px-5 py-4">
			<h2 className="font-bold font-said">{news.sentence}</h2>
			<ul className="mt-1 space-y-1">
				{news.figures.map((it) => {
					const stay = it.keep;
					return (
						<li key={it.label} className="text-note">
							{it.label}: <span className="font-number">{it.before}</span> is now <span className="font-number">{it.after}</span>.{" "}
							<span className="text-soft">{it.why}.</span>{" "}
							{stay && (
								<ActionButton isQuiet onPress={() => change({ patch: stay.patch, summary: stay.label })}>
									{stay.label}
								</ActionButton>
							)}
						</li>
					);
				})}
			</ul>
			<div className="mt-2">
				<Moved label="Numbers that moved" rows={news.values} />
			</div>
			<p className="mt-3">
				<ActionButton onPress={() => change({ patch: news.seen.patch, summary: news.seen.label })}>
					{news.seen.label}
				</ActionButton>
			</p>
		</section>
	);
}
