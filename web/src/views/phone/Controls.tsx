import { useEffect, useRef, useState } from "react";
import type { PhoneButton } from "../../api/client";
import { usePhone, useRehearsal } from "../../api/rehearsal";
import { doingOf } from "../../api/take";

/** A button of the phone, a switch, or one that is held. */
export function Press({ button, isBig }: { button: PhoneButton; isBig?: boolean }) {
	const { play } = usePhone();
	const { hasPlayed } = useRehearsal();
	const [isOn, setOn] = useState(false);
	useEffect(() => {
		if (!hasPlayed) setOn(false); // all dark, and so is every switch on the phone
	}, [hasPlayed]);
	const isToggle = button.gestures.includes("on") && button.gestures.includes("off");
	const gesture = isToggle ? (isOn ? "off" : "on") : (button.gestures[0] ?? "press");
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
			onClick={() => {
				play(doingOf(button, gesture));
				if (isToggle) setOn(!isOn);
			}}
			className={className}
		>
			{button.label}
		</button>
	);
}

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
	const press = () => {
		if (isDown.current) return;
		isDown.current = true;
		play(doingOf(button, down));
	};
	const letGo = () => {
		if (!isDown.current) return;
		isDown.current = false;
		wasHeld.current = true;
		play(doingOf(button, up));
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

/** The values of one word: slid where they are numbers, typed where a text is among them. */
export function Values(props: { button: PhoneButton; isBig?: boolean }) {
	return props.button.slides.some((it) => it.is_text) ? <Typed {...props} /> : <Slides {...props} />;
}

/** What a word carries, typed and sent: a text, and sliders for the numbers beside it. */
function Typed({ button, isBig }: { button: PhoneButton; isBig?: boolean }) {
	const { play } = usePhone();
	const [values, setValues] = useState<Record<string, string | number>>({});
	const size = isBig ? "min-h-14 text-name" : "py-1 text-note";
	return (
		<form
			className="flex min-w-0 basis-full flex-wrap items-end gap-2"
			title={`${button.is_proposed ? "Proposed. " : ""}${button.says}`}
			onSubmit={(event) => {
				event.preventDefault();
				const least = Object.fromEntries(button.slides.map((it) => [it.id, it.is_text ? "" : it.least]));
				play({ kind: "control", control: button.control, gesture: "move", values: { ...least, ...values } });
			}}
		>
			{button.slides.map((it) => (
				<label key={it.id} className="flex min-w-0 flex-1 flex-col text-note">
					<span className="font-semibold">{it.is_text ? button.label : it.label}</span>
					<input
						type={it.is_text ? "text" : "number"}
						aria-label={it.is_text ? button.label : `${it.label}, ${button.label}`}
						maxLength={it.is_text ? it.most : undefined}
						min={it.is_text ? undefined : it.least}
						max={it.is_text ? undefined : it.most}
						value={values[it.id] ?? (it.is_text ? "" : it.least)}
						onChange={(event) => setValues({ ...values, [it.id]: it.is_text ? event.target.value : Number(event.target.value) })}
						className={`min-w-0 rounded-md border border-tongueline bg-transparent px-2 ${size}`}
					/>
				</label>
			))}
			<button type="submit" className={`rounded-full border border-tongueline px-4 font-semibold ${size}`}>
				Send
			</button>
		</form>
	);
}

/** Sliders for the values of one word: it is said while they move, no oftener than its interval, and where they come to rest. */
function Slides({ button, isBig }: { button: PhoneButton; isBig?: boolean }) {
	const { play } = usePhone();
	const [values, setValues] = useState(() => Object.fromEntries(button.slides.map((it) => [it.id, it.least])));
	const { hasPlayed } = useRehearsal();
	const slides = useRef(button.slides);
	slides.current = button.slides;
	useEffect(() => {
		if (!hasPlayed) setValues(Object.fromEntries(slides.current.map((it) => [it.id, it.least]))); // all dark, and nothing moved
	}, [hasPlayed]);
	const said = useRef(0);
	const waiting = useRef<ReturnType<typeof setTimeout>>(undefined);
	useEffect(() => () => clearTimeout(waiting.current), []);
	const move = (id: string, value: number) => {
		const next = { ...values, [id]: value };
		setValues(next);
		clearTimeout(waiting.current);
		const say = () => {
			said.current = performance.now();
			play({ kind: "control", control: button.control, gesture: "move", values: next });
		};
		const wait = said.current + button.interval_s * 1000 - performance.now();
		if (wait <= 0) say();
		else waiting.current = setTimeout(say, wait);
	};
	return (
		<fieldset className="min-w-0 basis-full" title={`${button.is_proposed ? "Proposed. " : ""}${button.says}`}>
			<legend className="font-semibold text-note">{button.label}</legend>
			{button.slides.map((it) => (
				<label key={it.id} className="flex items-center gap-2.5 text-note">
					<span className="w-16 truncate text-tonguesoft">{it.label}</span>
					<input
						type="range"
						aria-label={`${it.label}, ${button.label}`}
						min={it.least}
						max={it.most}
						value={values[it.id] ?? it.least}
						onChange={(event) => move(it.id, Number(event.target.value))}
						className={`min-w-0 flex-1 accent-lamp ${isBig ? "h-11" : ""}`}
					/>
					<span className="w-12 text-right font-number">
						{values[it.id] ?? it.least}
						{it.unit && ` ${it.unit}`}
					</span>
				</label>
			))}
		</fieldset>
	);
}
