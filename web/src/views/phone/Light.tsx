import type { PhoneButton } from "../../api/client";
import { useRehearsal } from "../../api/rehearsal";

/** A light on the phone: what the last answer put it to, told in words as well as in its colour. */
export function Light({ button }: { button: PhoneButton }) {
	const { lights } = useRehearsal();
	const look = lights[button.control];
	return (
		<p className="flex shrink-0 items-center gap-2 py-1.5 text-note">
			<span
				aria-hidden="true"
				className={`inline-block size-4 rounded-full border border-tongueline ${look?.blink_s ? "blinks" : ""}`}
				style={look?.colour ? { background: look.colour, animationDuration: `${look.blink_s ?? 0}s` } : undefined}
			/>
			{button.label} <span className="text-tonguesoft">{look ? look.label : "nothing yet"}</span>
		</p>
	);
}
