import { useReview } from "../../api/project";
import { ActionButton } from "../../ui/ActionButton";
import { Folded } from "../../ui/Folded";
import { useOffers } from "./useLog";

const FIRST = 2;

/** What was written for next time in another project, about a part or school that is used here: until it is let go. */
export function NextTime({ onChoose }: { onChoose: (stage: string) => void }) {
	const { titles } = useReview();
	const { offers, gone, letGo, offerAgain, trouble } = useOffers();
	if (!offers.length && !gone) return null;
	const row = (it: (typeof offers)[number]) => (
		<li key={it.uid} className="border-hair border-t pt-2">
			<p className="whitespace-pre-line">{it.text}</p>
			<p className="text-note text-soft">
				{it.title}, {new Date(it.made_at).toLocaleDateString("en-GB", { dateStyle: "medium" })}. {it.because}.
			</p>
			<p className="mt-1 flex flex-wrap gap-x-5">
				{titles[it.stage] && (
					<ActionButton isQuiet onPress={() => onChoose(it.stage)}>
						See {titles[it.stage]}
					</ActionButton>
				)}
				<ActionButton isQuiet onPress={() => letGo(it.uid)}>
					Let it go<span className="sr-only">: {it.text}</span>
				</ActionButton>
			</p>
		</li>
	);
	return (
		<section aria-label="For next time" className="mb-4 rounded-3xl bg-lampsoft px-5 py-4 print:hidden">
			<h2 className="font-bold font-said">{offers.length ? "You wrote, for next time" : "Nothing more for next time"}</h2>
			<ul className="mt-1 space-y-2">{offers.slice(0, FIRST).map(row)}</ul>
			{offers.length > FIRST && (
				<Folded className="mt-2" summary={`and ${offers.length - FIRST} more`}>
					<ul className="mt-1 space-y-2">{offers.slice(FIRST).map(row)}</ul>
				</Folded>
			)}
			{trouble && <p role="alert">{trouble}</p>}
			{gone && (
				<p role="status" className="mt-2 flex flex-wrap items-baseline gap-x-4 text-note">
					Let go, here only.
					<ActionButton isQuiet onPress={() => offerAgain(gone)}>
						Offer it again
					</ActionButton>
				</p>
			)}
		</section>
	);
}
