import { Link } from "wouter";
import type { WhyShown } from "../../api/client";
import { useKept } from "../../api/project";
import { ActionButton } from "../../ui/ActionButton";
import { useTakesOver } from "./useTakesOver";

type Props = { mend: NonNullable<WhyShown["mend"]>; onAnswer: (test: string, outcome: string | null) => void };

/** What to mend, what nothing tells from it, the plan's own ways out, what to check after, and whether that was it. */
export function Mending({ mend, onAnswer }: Props) {
	const { id } = useKept();
	const head = useTakesOver();
	return (
		<section aria-labelledby="mend" className="max-w-2xl space-y-3 rounded-2xl bg-lampsoft px-6 py-5">
			<p className="text-note">{mend.is_done ? "It was" : "Most likely"}</p>
			<h3 id="mend" ref={head} tabIndex={-1} className="scroll-mt-24 font-bold font-said text-said leading-tight">
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
			{!mend.is_done && <WasIt test={mend.test} onAnswer={onAnswer} />}
		</section>
	);
}

/** Whether that was it: an answer like any other. */
export function WasIt({ test, onAnswer }: { test: string; onAnswer: Props["onAnswer"] }) {
	return (
		<p data-answers className="flex flex-wrap gap-x-6 gap-y-2 pt-1">
			<ActionButton onPress={() => onAnswer(test, "works")}>Mended, and it works now</ActionButton>
			<ActionButton onPress={() => onAnswer(test, "as before")}>Mended, and it is as it was</ActionButton>
		</p>
	);
}
