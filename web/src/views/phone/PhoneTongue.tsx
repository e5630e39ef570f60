import { type RefObject, useEffect, useRef, useState } from "react";
import type { Befalls, PhoneButton } from "../../api/client";
import { usePhone, useRehearsal } from "../../api/rehearsal";
import { doingOf } from "../../api/take";

type Props = {
	buttons: readonly PhoneButton[];
	befalls: readonly Befalls[];
	isOut: boolean;
	onTurn: () => void;
	row: RefObject<HTMLDivElement | null>;
};

/** The phone, put out like a tongue from the lower edge: a row of its buttons; press, and the message runs along the line. */
export function PhoneTongue({ buttons, befalls, isOut, onTurn, row }: Props) {
	const { sentence, isLost, isDoubted, error, hasPlayed } = useRehearsal();
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
					{buttons.map((button) =>
						button.slides.length && isOut ? (
							<Slides key={`${button.kind} ${button.control}`} button={button} />
						) : button.slides.length ? (
							<button
								key={`${button.kind} ${button.control}`}
								type="button"
								onClick={onTurn}
								className="shrink-0 whitespace-nowrap rounded-full border border-tongueline border-dashed px-4 py-1.5 font-semibold text-note"
							>
								{button.label} …
							</button>
						) : (
							<Press key={`${button.kind} ${button.control}`} button={button} />
						),
					)}
				</div>
			</div>
			{isOut && befalls.map((it) => <WhatIfs key={it.node} befalls={it} />)}
			<div className="flex items-baseline justify-between gap-3">
				<p role="status" className={`text-note ${isLost || isDoubted || error ? "font-semibold" : ""}`}>
					{error || sentence}
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

function Press({ button }: { button: PhoneButton }) {
	const { play } = usePhone();
	const { hasPlayed } = useRehearsal();
	const [isOn, setOn] = useState(false);
	useEffect(() => {
		if (!hasPlayed) setOn(false); // all dark, and so is every switch on the phone
	}, [hasPlayed]);
	const isToggle = button.gestures.includes("on") && button.gestures.includes("off");
	const gesture = isToggle ? (isOn ? "off" : "on") : (button.gestures[0] ?? "press");
	const look = isOn ? "bg-lamp text-[#261c3a] border-lamp" : "border-tongueline";
	const className = `shrink-0 whitespace-nowrap rounded-full border px-4 py-1.5 font-semibold text-note ${look} ${button.is_proposed ? "border-dashed" : ""}`;
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

/** What may befall a module, to see what becomes of the next message: a word says what, and the line shows it. */
function WhatIfs({ befalls }: { befalls: Befalls }) {
	const { play } = usePhone();
	return (
		<div className="mt-1 mb-1.5 flex flex-wrap items-baseline gap-x-4 gap-y-1 text-note">
			<span className="text-tonguesoft">What if the {befalls.label} …</span>
			{befalls.what_ifs.map((it) => (
				<button
					key={it.label}
					type="button"
					onClick={() => play({ kind: "module", node: befalls.node, does: [...it.does] })}
					className="underline decoration-dotted underline-offset-2"
				>
					{it.label}
				</button>
			))}
		</div>
	);
}

/** Sliders for the values of one word: it is said while they move, no oftener than its interval, and where they come to rest. */
function Slides({ button }: { button: PhoneButton }) {
	const { play } = usePhone();
	const [values, setValues] = useState(() => Object.fromEntries(button.slides.map((it) => [it.id, it.least])));
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
						className="min-w-0 flex-1 accent-lamp"
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
