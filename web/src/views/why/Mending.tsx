import { Link } from "wouter";
import type { WhyShown } from "../../api/client";
import { useKept } from "../../api/project";

/** What to mend, what nothing tells from it, the plan's own ways out, and what to check after. */
export function Mending({ mend }: { mend: NonNullable<WhyShown["mend"]> }) {
	const { id } = useKept();
	return (
		<section aria-labelledby="mend" className="max-w-2xl space-y-3 rounded-2xl bg-lampsoft px-6 py-5">
			<p className="text-note">Most likely</p>
			<h3 id="mend" className="font-bold font-said text-said leading-tight">
				{mend.what}
			</h3>
			<p className="max-w-prose">{mend.mend}</p>
			{mend.alike.length > 0 && (
				<div className="text-note">
					<p>Nothing at hand tells it from:</p>
					<ul className="list-disc pl-5">
						{mend.alike.map((it) => (
							<li key={it}>{it}</li>
						))}
					</ul>
				</div>
			)}
			{mend.ways_out.map((it) => (
				<p key={it.key} className="max-w-prose text-note">
					The plan says it too: {it.sentence}{" "}
					<Link href={`/projects/${id}?stage=${encodeURIComponent(it.stage)}`} className="border-copper border-b-2 font-semibold">
						Its ways out
					</Link>
				</p>
			))}
			<p className="max-w-prose text-note">
				Then once more: {mend.after}{" "}
				{mend.after_step && (
					<Link
						href={`/projects/${id}/bring-up?step=${encodeURIComponent(mend.after_step)}`}
						className="border-copper border-b-2 font-semibold"
					>
						On the bring-up sheet
					</Link>
				)}
			</p>
		</section>
	);
}
