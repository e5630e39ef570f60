import { type KeyboardEvent, type PointerEvent, useState } from "react";
import type { PhoneButton } from "../../api/client";
import { usePhone } from "../../api/rehearsal";
import { movedOf } from "../../api/take";
import { useMoved } from "./useMoved";

type Props = { button: PhoneButton; isBig?: boolean };

/** The values of one word, moved as its control is made. */
export function Values(props: Props) {
	switch (props.button.looks) {
		case "colour":
			return <Colour {...props} />;
		case "stick":
			return <Stick {...props} />;
		case "number":
		case "text":
			return <Typed {...props} />;
		default:
			return <Slides {...props} />;
	}
}

const titleOf = (button: PhoneButton) => `${button.is_proposed ? "Proposed. " : ""}${button.says}`;

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
				play(movedOf(button, { ...least, ...values }));
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

/** Sliders for the values of one word. */
function Slides({ button, isBig }: Props) {
	const { values, move, rest } = useMoved(button);
	return (
		<fieldset className="min-w-0 basis-full" title={titleOf(button)}>
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
						onChange={(event) => move({ [it.id]: Number(event.target.value) })}
						onPointerUp={rest}
						onKeyUp={rest}
						onBlur={rest}
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

const PARTS = [1, 3, 5] as const;

/** A colour, whose red, green and blue are the three values of a word in their order. */
function Colour({ button, isBig }: Props) {
	const { values, move, rest } = useMoved(button);
	const part = (it: PhoneButton["slides"][number]) =>
		Math.round((255 * ((values[it.id] ?? it.least) - it.least)) / Math.max(it.most - it.least, 1));
	const colour = `#${button.slides.map((it) => part(it).toString(16).padStart(2, "0")).join("")}`;
	const take = (text: string) => {
		const parts = PARTS.map((at) => Number.parseInt(text.slice(at, at + 2), 16));
		move(
			Object.fromEntries(
				button.slides.map((it, at) => [it.id, it.least + Math.round(((parts[at] ?? 0) * (it.most - it.least)) / 255)]),
			),
		);
	};
	return (
		<label className="flex basis-full items-center gap-3 text-note" title={titleOf(button)}>
			<span className="font-semibold">{button.label}</span>
			<input
				type="color"
				aria-label={`${button.label}, a colour`}
				value={colour}
				onChange={(event) => take(event.target.value)}
				onBlur={rest}
				className={`min-w-24 flex-1 cursor-pointer rounded-full border border-tongueline bg-transparent p-1 ${isBig ? "h-14" : "h-9"}`}
			/>
			<span className="font-number text-tonguesoft">{button.slides.map((it) => values[it.id] ?? it.least).join(" ")}</span>
		</label>
	);
}

const STEPS = 10;
const ARROWS: Record<string, readonly [number, number]> = {
	ArrowLeft: [-1, 0],
	ArrowRight: [1, 0],
	ArrowUp: [0, 1],
	ArrowDown: [0, -1],
};
const middle = (it: PhoneButton["slides"][number]) => Math.round((it.least + it.most) / 2);

/** A stick: two values moved at once by the thumb or the arrow keys; let go, it springs back to the middle. */
function Stick({ button, isBig }: Props) {
	const { values, move, rest } = useMoved(button, middle);
	const [across, along] = button.slides;
	if (!across || !along) return null;
	const [x, y] = [values[across.id] ?? middle(across), values[along.id] ?? middle(along)];
	const share = (it: typeof across, value: number) => (value - it.least) / Math.max(it.most - it.least, 1);
	const at = (it: typeof across, ratio: number) => Math.round(it.least + Math.min(Math.max(ratio, 0), 1) * (it.most - it.least));
	const pull = (event: PointerEvent<HTMLDivElement>) => {
		const box = event.currentTarget.getBoundingClientRect();
		const [right, up] = [(event.clientX - box.left) / box.width, 1 - (event.clientY - box.top) / box.height];
		move({ [across.id]: at(across, right), [along.id]: at(along, up) });
	};
	const spring = () => {
		move({ [across.id]: middle(across), [along.id]: middle(along) });
		rest();
	};
	const press = (event: KeyboardEvent) => {
		const way = ARROWS[event.key];
		if (event.key === "Home" || event.key === "Escape") spring();
		if (!way) return;
		event.preventDefault();
		move({
			[across.id]: at(across, share(across, x) + way[0] / STEPS),
			[along.id]: at(along, share(along, y) + way[1] / STEPS),
		});
	};
	return (
		<div className="flex basis-full items-center gap-4 text-note" title={titleOf(button)}>
			<div
				role="slider"
				tabIndex={0}
				aria-label={`${button.label}, a stick: arrow keys move it, Home lets it spring back`}
				aria-valuemin={across.least}
				aria-valuemax={across.most}
				aria-valuenow={x}
				aria-valuetext={`${across.label} ${x}, ${along.label} ${y}`}
				onPointerDown={(event) => {
					event.currentTarget.setPointerCapture(event.pointerId);
					pull(event);
				}}
				onPointerMove={(event) => event.currentTarget.hasPointerCapture(event.pointerId) && pull(event)}
				onPointerUp={spring}
				onPointerCancel={spring}
				onKeyDown={press}
				onKeyUp={rest}
				className={`relative touch-none rounded-full border border-tongueline ${isBig ? "size-44" : "size-24"}`}
			>
				<span
					className="-translate-x-1/2 -translate-y-1/2 absolute size-7 rounded-full bg-lamp"
					style={{ left: `${100 * share(across, x)}%`, top: `${100 * (1 - share(along, y))}%` }}
				/>
			</div>
			<p>
				<span className="font-semibold">{button.label}</span>
				<br />
				<span className="font-number text-tonguesoft">
					{x} {y}
				</span>
			</p>
		</div>
	);
}
