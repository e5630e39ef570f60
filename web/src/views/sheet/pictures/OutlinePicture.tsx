import { useState } from "react";
import type { Picture } from "../../../api/client";
import { useWidth } from "../../../ui/useWidth";

type Data = Extract<Picture, { kind: "outline" }>;
type Pin = Data["pins"][number];
type Place = {
	pin: Pin;
	x: number;
	y: number /** Which way the pin looks out of the board. */;
	out: "up" | "down" | "left" | "right";
};

const TOP = 88; // room for what leaves the upper edge
const TOP_BARE = 12;
const MARGIN = 18; // of the sheet's own at its right edge
const STEP = 17; // from pin to pin down an edge
const BLOCK = 190; // two columns with their labels, and the names of the inner one
const NAMES = 110; // the names of the outer one

/** The board seen from above: which pin carries what. Hovered or come to by Tab, a pin says what it can do. */
export function OutlinePicture({ picture }: { picture: Data }) {
	const [box, width] = useWidth<HTMLDivElement>(740);
	const [looked, setLooked] = useState<Pin | null>(null);
	const { places, board, height } = layOut(picture.pins, width, picture.label);
	const first = picture.pins[0]?.label;
	const step = (from: Pin, by: number) => {
		const next = picture.pins[picture.pins.indexOf(from) + by];
		if (next) document.getElementById(`pin-${next.label}`)?.focus();
	};
	return (
		<div ref={box}>
			{/* biome-ignore lint/a11y/useSemanticElements: a drawing with parts to come to, which no element of a page stands for */}
			<svg width={width} height={height} role="group" aria-label={picture.text} className="overflow-visible font-number text-xs">
				<rect
					x={board.x}
					y={board.y}
					width={board.wide}
					height={board.tall}
					rx={16}
					fill="none"
					className="stroke-ink"
					strokeWidth="2.5"
				/>
				{picture.has_plug && <rect {...board.usb} rx={3} className="fill-sheet stroke-ink" strokeWidth="2" />}
				<text x={board.labelX} y={board.labelY} textAnchor="middle" className="fill-soft font-text">
					{picture.label}
				</text>
				{places.map((place) => (
					<PinMark
						key={place.pin.label}
						place={place}
						room={width - place.x}
						isTabStop={looked ? looked === place.pin : place.pin.label === first}
						onLook={setLooked}
						onStep={(by) => step(place.pin, by)}
					/>
				))}
			</svg>
			<p className="min-h-10 text-note text-soft" aria-live="polite">
				{looked ? (
					<>
						<span className="font-number text-ink">{looked.label}</span> {[looked.can, looked.remark].filter(Boolean).join("; ")}
						{looked.line && <span className="text-ink">. It carries {looked.line}</span>}.
					</>
				) : (
					"Look at a pin to read what it can do."
				)}
			</p>
		</div>
	);
}

/**
 * Where the pins stand: along the upper and the lower edge, and in two columns at the right edge where the board has a
 * block there. Where that is too tight the board is turned with its USB upwards: two columns, and the block below them.
 */
function layOut(pins: readonly Pin[], width: number, label: string) {
	const row = (name: Pin["row"]) => pins.filter((pin) => pin.row === name);
	const [top, right, bottom] = [row("top"), row("right"), row("bottom")];
	const block = right.length ? BLOCK : 0;
	const wide = Math.min(width - 2 - (right.length ? NAMES : 0), 740);
	// A board of few pins is still as wide as its name.
	const few = (6.6 * label.length + 30) / Math.max(top.length, bottom.length, 1);
	const pitch = (list: Pin[]) => Math.min(Math.max(52, few), (wide - block - 22) / Math.max(list.length, 1));
	if ([top, bottom].some((list) => pitch(list) < roomOf(list)))
		return turned([...bottom, ...right.filter((_, at) => at % 2 === 0)], [...top, ...right.filter((_, at) => at % 2)], width);
	const upper = top.some((pin) => pin.line) ? TOP : TOP_BARE;
	const tall = Math.max(64, Math.ceil(right.length / 2) * STEP + 36);
	const boardWide = right.length ? wide : Math.max(...[top, bottom].map((list) => list.length * pitch(list))) + 22;
	const along = (list: Pin[], y: number, out: Place["out"]) =>
		list.map((pin, index) => ({ pin, x: 12 + pitch(list) * (index + 0.5), y, out }));
	const places: Place[] = [
		...along(top, upper, "up"),
		...along(bottom, upper + tall, "down"),
		...right.map(
			(pin, index): Place => ({
				pin,
				x: boardWide - (index % 2 ? 8 : 70),
				y: upper + 32 + STEP * Math.floor(index / 2),
				out: index % 2 ? "right" : "left",
			}),
		),
	];
	const usb = { x: -6, y: upper + tall / 2 - 11, width: 13, height: 22 };
	const board = { x: 1, y: upper, wide: boardWide, tall, labelX: (boardWide - block) / 2, labelY: upper + tall / 2 + 4, usb };
	return { places, board, height: upper + tall + (bottom.some((pin) => pin.line) ? 84 : 20) };
}

/** The least from pin to pin that keeps the labels of a row apart. */
const roomOf = (list: Pin[]) => 3.5 + 7.2 * Math.max(...list.map((pin) => pin.label.length), 0);

function turned(left: Pin[], right: Pin[], width: number) {
	const boardWide = Math.min(110, width * 0.34);
	const x = (width - boardWide) / 2;
	const down = (list: Pin[], at: number, out: Place["out"]) =>
		list.map((pin, index): Place => ({ pin, x: at, y: 40 + STEP * index, out }));
	const tall = Math.max(left.length, right.length) * STEP + 36;
	const places = [...down(left, x + 2, "left"), ...down(right, x + boardWide - 2, "right")];
	return {
		places,
		board: {
			x,
			y: 12,
			wide: boardWide,
			tall,
			labelX: width / 2,
			labelY: tall + 30,
			usb: { x: width / 2 - 11, y: 5, width: 22, height: 13 },
		},
		height: tall + 40,
	};
}

type MarkProps = {
	place: Place;
	/** How far it is to the right edge of the window's part. */
	room: number;
	isTabStop: boolean;
	onLook: (pin: Pin | null) => void;
	onStep: (by: number) => void;
};

const KEYS: Record<string, number> = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 };

function PinMark({ place, room, isTabStop, onLook, onStep }: MarkProps) {
	const { pin, x, y } = place;
	const isUsed = pin.line !== "";
	return (
		<>
			{isUsed && <Wire place={place} room={room} />}
			{/* biome-ignore lint/a11y/useSemanticElements: a pin of a drawing, which no element of a page stands for */}
			<g
				id={`pin-${pin.label}`}
				role="button"
				aria-label={[`Pin ${pin.label}`, pin.line, pin.remark, pin.is_contested ? "wanted by too many" : ""]
					.filter(Boolean)
					.join(", ")}
				tabIndex={isTabStop ? 0 : -1}
				className="outline-none [&:focus-visible>circle]:stroke-[4] [&:focus-visible>circle]:stroke-copper"
				onFocus={() => onLook(pin)}
				onPointerEnter={() => onLook(pin)}
				onClick={() => onLook(pin)}
				onKeyDown={(event) => {
					const by = KEYS[event.key];
					if (!by) return;
					event.preventDefault();
					onStep(by);
				}}
			>
				<circle cx={x} cy={y} r={10} fill="transparent" />
				{pin.is_contested && (
					<circle cx={x} cy={y} r={9} fill="none" className="stroke-copper" strokeWidth="2" strokeDasharray="2.6 2.6" />
				)}
				<circle
					cx={x}
					cy={y}
					r={6}
					className={`stroke-ink ${isUsed ? (pin.is_proposed ? "fill-sheet" : "fill-ink") : "fill-sheet"}`}
					strokeWidth={isUsed ? 2.6 : 1.2}
				/>
				<PinLabel place={place} isUsed={isUsed} />
			</g>
		</>
	);
}

/** What leaves the board at a pin, with the name of what it carries; the pin itself says both to who cannot see it. */
function Wire({ place: { pin, x, y, out }, room }: { place: Place; room: number }) {
	const isSide = out === "left" || out === "right";
	const way = out === "up" || out === "left" ? -1 : 1;
	// A name that would leave the sheet at the right is cut short; the pin says all of it when it is looked at.
	const most = isSide ? 16 : Math.min(16, Math.max(4, Math.floor((room + MARGIN) / 4.9)));
	const name = pin.line.length > most ? `${pin.line.slice(0, most - 1)}…` : pin.line;
	return (
		// biome-ignore lint/a11y/noAriaHiddenOnFocusable: nothing in it can be come to
		<g aria-hidden="true">
			<path
				d={isSide ? `M${x} ${y}h${way * 15}` : `M${x} ${y}v${way * 15}`}
				className={pin.state === "stop" ? "stroke-cut" : "stroke-ink"}
				strokeWidth="3"
				strokeDasharray={pin.state === "look" ? "0.1 5" : undefined}
				strokeLinecap="round"
			/>
			{pin.state === "stop" && (
				<path
					d={isSide ? `M${x + way * 9} ${y - 6}l4 12` : `M${x - 6} ${y + way * 9}l12 4`}
					className="stroke-cut"
					strokeWidth="2.4"
				/>
			)}
			<text
				transform={isSide ? `translate(${x + way * 20} ${y + 4})` : `translate(${x + 4} ${y + way * 20}) rotate(${way * 38})`}
				textAnchor={out === "left" ? "end" : "start"}
				className="fill-ink font-text"
			>
				{name}
			</text>
		</g>
	);
}

/** The printed label, inside the board beside its pin. */
function PinLabel({ place: { pin, x, y, out }, isUsed }: { place: Place; isUsed: boolean }) {
	const look = isUsed ? "fill-ink font-bold" : "fill-soft";
	if (out === "left" || out === "right")
		return (
			<text
				x={x + (out === "left" ? 10 : -10)}
				y={y + 4}
				textAnchor={out === "left" ? "start" : "end"}
				className={`${look} text-[0.65rem]`}
			>
				{pin.label}
			</text>
		);
	const inward = out === "up" ? 1 : -1;
	return (
		<text x={x} y={y + inward * 13 + 4} textAnchor="middle" className={look}>
			{pin.label}
		</text>
	);
}
