import { Fragment, type RefObject } from "react";
import type { Befalls, PhoneButton } from "../../api/client";
import { usePhone, useRehearsal } from "../../api/rehearsal";
import type { Befallen } from "../../api/take";
import { groupsOf, Held, keyOf } from "./Held";

type Props = {
	buttons: readonly PhoneButton[];
	befalls: readonly Befalls[];
	isOut: boolean;
	onTurn: () => void;
	row: RefObject<HTMLDivElement | null>;
};

/** What needs the phone put out: sliders, and what is typed. */
const isWide = (button: PhoneButton) => button.slides.length > 0 || button.kind === "spoken";

/** The phone, put out like a tongue from the lower edge: a row of its buttons; press, and the message runs along the line. */
export function PhoneTongue({ buttons, befalls, isOut, onTurn, row }: Props) {
	const { sentence, isLost, isDoubted, error, hasPlayed, answer } = useRehearsal();
	const { startOver } = usePhone();
	if (!buttons.length && !befalls.length) return null;
	const name = buttons.some((it) => it.kind === "control") ? "Phone" : "By hand";
	return (
		<section aria-label={name} className="tongue shrink-0 rounded-t-3xl bg-tongue px-5 pt-2.5 pb-3 text-tongueink print:hidden">
			<div className="flex items-center gap-3">
				<button type="button" aria-expanded={isOut} onClick={onTurn} className="shrink-0 text-note text-tonguesoft">
					{name} <span aria-hidden="true">{isOut ? "▾" : "▴"}</span>
				</button>
				<div
					ref={row}
					className={`flex min-w-0 flex-1 gap-2.5 p-1 ${isOut ? "max-h-48 flex-wrap overflow-y-auto" : "overflow-x-auto [scrollbar-width:thin]"}`}
				>
					{groupsOf(buttons).map(([group, mine]) => (
						<Fragment key={group}>
							{group && (
								<span className={`shrink-0 self-center text-note text-tonguesoft ${isOut ? "basis-full" : ""}`}>{group}</span>
							)}
							{mine.map((button) =>
								isOut || !isWide(button) ? (
									<Held key={keyOf(button)} button={button} />
								) : (
									<button
										key={keyOf(button)}
										type="button"
										onClick={onTurn}
										className="shrink-0 whitespace-nowrap rounded-full border border-tongueline border-dashed px-4 py-1.5 font-semibold text-note"
									>
										{button.label} …
									</button>
								),
							)}
						</Fragment>
					))}
				</div>
			</div>
			{isOut && befalls.filter((it) => it.is_near).map((it) => <WhatIfs key={it.node} befalls={it} />)}
			<div className="flex items-baseline justify-between gap-3">
				<p role="status" className={`text-note ${isLost || isDoubted || error ? "font-semibold" : ""}`}>
					{error || sentence}
					{answer && <span className="block font-number text-tonguesoft">answered: {answer}</span>}
				</p>
				{hasPlayed && (
					<button
						type="button"
						onClick={startOver}
						className="shrink-0 text-note text-tonguesoft underline decoration-dotted underline-offset-2"
					>
						All dark
					</button>
				)}
			</div>
		</section>
	);
}

/** What may befall a module, to see what becomes of the next message: a word says what, and the line shows it. */
function WhatIfs({ befalls }: { befalls: Befalls }) {
	const { play } = usePhone();
	return (
		<div className="mt-1 mb-1.5 flex flex-wrap items-baseline gap-x-4 gap-y-1 text-note">
			<span className="text-tonguesoft">What if {befalls.label} …</span>
			{befalls.what_ifs.map((it) => (
				<button
					key={it.label}
					type="button"
					onClick={() => play(it.event as Befallen)}
					className="underline decoration-dotted underline-offset-2"
				>
					{it.label}
				</button>
			))}
		</div>
	);
}
