import { useState } from "react";
import type { PhoneButton } from "../../api/client";
import { useRehearsal } from "../../api/rehearsal";

type Props = { buttons: readonly PhoneButton[]; isOut: boolean; onTurn: () => void };

/** The phone, put out like a tongue from the lower edge: press, and the message runs along the line. */
export function PhoneTongue({ buttons, isOut, onTurn }: Props) {
	const { sentence, isLost, error, hasPlayed, startOver } = useRehearsal();
	if (!buttons.length) return null;
	return (
		<section
			aria-label="Phone"
			className="tongue fixed inset-x-0 bottom-0 z-30 rounded-t-3xl bg-tongue px-5 pt-3 pb-4 text-tongueink desk:static print:hidden"
		>
			<div className="flex items-baseline justify-between gap-3">
				<button type="button" aria-expanded={isOut} onClick={onTurn} className="text-note text-tonguesoft">
					Phone <span aria-hidden="true">{isOut ? "▾" : "▴"}</span>
				</button>
				{hasPlayed && (
					<button
						type="button"
						onClick={startOver}
						className="text-note text-tonguesoft underline decoration-dotted underline-offset-2"
					>
						All dark, start over
					</button>
				)}
			</div>
			{isOut && (
				<div className="mt-2 flex max-h-36 flex-wrap gap-2.5 overflow-y-auto p-1">
					{buttons.map((button) => (
						<Press key={button.control} button={button} />
					))}
				</div>
			)}
			<p role="status" className={`mt-1 text-note ${isOut ? "min-h-5" : ""} ${isLost || error ? "font-semibold" : ""}`}>
				{error || sentence}
			</p>
		</section>
	);
}

function Press({ button }: { button: PhoneButton }) {
	const { press } = useRehearsal();
	const [isOn, setOn] = useState(false);
	const isToggle = button.gestures.includes("on") && button.gestures.includes("off");
	const gesture = isToggle ? (isOn ? "off" : "on") : (button.gestures[0] ?? "press");
	const look = isOn ? "bg-lamp text-[#261c3a] border-lamp" : "border-tongueline";
	return (
		<button
			type="button"
			aria-pressed={isToggle ? isOn : undefined}
			title={`${button.is_proposed ? "Proposed. " : ""}Sends ${button.says}`}
			onClick={() => {
				press(button, gesture);
				if (isToggle) setOn(!isOn);
			}}
			className={`rounded-full border px-4 py-1.5 font-semibold text-note ${look} ${button.is_proposed ? "border-dashed" : ""}`}
		>
			{button.label}
		</button>
	);
}
