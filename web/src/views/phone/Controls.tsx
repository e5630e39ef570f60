import { useRef } from "react";
import type { PhoneButton } from "../../api/client";
import { usePhone, useRehearsal, useTake } from "../../api/rehearsal";
import { doingOf, standsOn } from "../../api/take";

/** A button of the phone, a switch, or one that is held. */
export function Press({ button, isBig }: { button: PhoneButton; isBig?: boolean }) {
	const { play, done } = usePhone();
	const { events } = useTake();
	const answered = useRehearsal().lights[button.control];
	const isToggle = button.gestures.includes("on") && button.gestures.includes("off");
	const isOn = isToggle && standsOn(button, events, answered);
	const look = isOn ? "bg-lamp text-[#261c3a] border-lamp" : "border-tongueline";
	const size = isBig
		? "min-h-16 rounded-3xl px-5 py-3 text-name"
		: "shrink-0 whitespace-nowrap rounded-full px-4 py-1.5 text-note";
	const className = `border font-semibold ${size} ${look} ${button.is_proposed ? "border-dashed" : ""}`;
	const title = `${button.is_proposed ? "Proposed. " : ""}${button.says}`;
	const held = HELD.find((pair) => pair.every((it) => button.gestures.includes(it)));
	if (held) return <Hold button={button} down={held[0]} up={held[1]} className={className} title={title} />;
	return (
		<button
			type="button"
			aria-pressed={isToggle ? isOn : undefined}
			title={title}
			onClick={() =>
				play(doingOf(button, isToggle ? (standsOn(button, done(), answered) ? "off" : "on") : (button.gestures[0] ?? "press")))
			}
			className={className}
		>
			{button.label}
		</button>
	);
}

const FINGER_MS = 80;
const HELD = [
	["press", "release"],
	["pressed", "released"],
] as const;

type HoldProps = { button: PhoneButton; down: string; up: string; className: string; title: string };

/** A button that says one thing when it is pressed and another when it is let go: by pointer, by key, or by whoever presses for the reader. */
function Hold({ button, down, up, className, title }: HoldProps) {
	const { play } = usePhone();
	const isDown = useRef(false);
	const wasHeld = useRef(false);
	const pressed = useRef(0);
	const press = () => {
		if (isDown.current) return;
		isDown.current = true;
		pressed.current = performance.now();
		play(doingOf(button, down));
	};
	const letGo = () => {
		if (!isDown.current) return;
		isDown.current = false;
		wasHeld.current = true;
		// A key or a helper presses for no time at all, a finger never does: contacts take 20 ms to settle.
		const rest_ms = pressed.current + FINGER_MS - performance.now();
		if (rest_ms > 0) setTimeout(() => play(doingOf(button, up)), rest_ms);
		else play(doingOf(button, up));
	};
	const isPress = (key: string) => key === "Enter" || key === " ";
	return (
		<button
			type="button"
			title={title}
			className={className}
			onPointerDown={press}
			onPointerUp={letGo}
			onPointerLeave={letGo}
			onPointerCancel={letGo}
			onBlur={letGo}
			onKeyDown={(event) => {
				if (!isPress(event.key)) return;
				event.preventDefault();
				press();
			}}
			onKeyUp={(event) => isPress(event.key) && letGo()}
			onClick={() => {
				if (!wasHeld.current) {
					press();
					letGo();
				}
				wasHeld.current = false;
			}}
		>
			{button.label}
		</button>
	);
}
