import { Fragment, useEffect } from "react";
import { Link } from "wouter";
import { useKept, useReview } from "../../api/project";
import { useLook, usePhone, useRehearsal } from "../../api/rehearsal";
import { groupsOf, Held, keyOf } from "./Held";

/** The phone by itself, at an address of its own: its controls big enough for a thumb, and what its lamps do. */
export function ThumbPage() {
	const { id } = useKept();
	const { title, phone, line } = useReview();
	const { sentence, isLost, isDoubted, error, hasPlayed, answer } = useRehearsal();
	const { startOver } = usePhone();
	useEffect(() => {
		document.title = `${title}, phone`;
	}, [title]);
	const lamps = line.stages.filter((stage) => stage.kind === "lamp");
	return (
		<main className="min-h-dvh bg-tongue px-5 py-5 text-tongueink">
			<h1 className="font-bold font-said text-said">{title}</h1>
			<ul aria-label="Lamps" className="mt-3 flex flex-wrap gap-x-5 gap-y-2">
				{lamps.map((stage) => (
					<LampShown key={stage.id} stage={stage.id} label={stage.label} />
				))}
			</ul>
			<div className="mt-5 grid grid-cols-2 gap-3 min-[720px]:max-w-xl">
				{groupsOf(phone).map(([group, mine]) => (
					<Fragment key={group}>
						{group && <h2 className="col-span-2 mt-2 text-tonguesoft">{group}</h2>}
						{mine.map((button) => (
							<div key={keyOf(button)} className={button.slides.length || button.kind === "spoken" ? "col-span-2" : "grid"}>
								<Held button={button} isBig />
							</div>
						))}
					</Fragment>
				))}
			</div>
			{!phone.length && <p className="mt-4">There is nothing to press yet: add words on the desk.</p>}
			<p role="status" className={`mt-4 min-h-12 text-note ${isLost || isDoubted || error ? "font-semibold" : ""}`}>
				{error || sentence}
				{answer && <span className="block font-number text-tonguesoft">answered: {answer}</span>}
			</p>
			<p className="mt-3 flex gap-x-6 text-note">
				{hasPlayed && (
					<button type="button" onClick={startOver} className="underline decoration-dotted underline-offset-2">
						All dark
					</button>
				)}
				<Link href={`/projects/${id}`} className="underline decoration-dotted underline-offset-2">
					Back to the line
				</Link>
			</p>
		</main>
	);
}

/** A lamp by its name, as it is at the moment. */
function LampShown({ stage, label }: { stage: string; label: string }) {
	const look = useLook([stage]);
	const light = look?.light ?? 0;
	return (
		<li className="flex items-center gap-2 text-note">
			<span
				aria-hidden="true"
				className="inline-block size-4 rounded-full border border-tongueline"
				style={light > 0 ? { background: look?.colour, boxShadow: `0 0 ${6 + 14 * light}px ${look?.colour}` } : undefined}
			/>
			{label}{" "}
			<span className="text-tonguesoft">
				{look?.text ? `“${look.text}”` : light > 0 ? `${Math.round(light * 100)} %` : "dark"}
			</span>
		</li>
	);
}
