import type { RoundShown } from "../../api/client";
import { ActionButton } from "../../ui/ActionButton";
import { Folded } from "../../ui/Folded";
import type { Practice } from "./useRound";

/** What it is, and where: named out of all that could be, and mended; what comes of that is seen. */
export function Naming({ round, practice }: { round: RoundShown; practice: Practice }) {
	const { named, done } = practice.bench;
	const last = done.at(-1);
	const words = round.groups.flatMap((it) => it.causes).find((it) => it.id === named)?.words ?? "";
	return (
		<section aria-labelledby="naming" className="space-y-2">
			<h3 id="naming" className="font-bold font-said text-name">
				I know what it is
			</h3>
			<p className="text-note text-soft">Mending takes three minutes, whether that was it or not.</p>
			{round.groups.map((group) => (
				<Folded key={group.where} summary={group.where} isOpenAtFirst={group.causes.some((it) => it.id === named)}>
					<ul className="py-1 pl-4">
						{group.causes.map((it) => (
							<li key={it.id}>
								<label className="flex items-baseline gap-2 py-1 text-note leading-tight">
									<input
										type="radio"
										name="cause"
										checked={it.id === named}
										onChange={() => practice.mark(it.id)}
										className="size-4 shrink-0 translate-y-0.5 accent-[var(--ink)]"
									/>
									{it.words}
								</label>
							</li>
						))}
					</ul>
				</Folded>
			))}
			<button
				type="button"
				disabled={!named || practice.isBusy}
				onClick={() => practice.probe({ what: "mend", cause: named }, `Mended: ${words}`)}
				className="w-full rounded-2xl bg-ink px-6 py-3 font-bold font-said text-name text-sheet hover:opacity-90 disabled:opacity-40"
			>
				Mend it
			</button>
			<p role="status" className="font-semibold text-note">
				{last?.probe.what === "mend" && `${last.text[0]?.toUpperCase()}${last.text.slice(1)}.`}
			</p>
			<ActionButton isQuiet onPress={practice.tell}>
				Tell me what it was
			</ActionButton>
		</section>
	);
}
