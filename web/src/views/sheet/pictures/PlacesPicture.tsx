import { type KeyboardEvent, memo, useEffect, useMemo, useState, useSyncExternalStore } from "react";
import { answered, api, type Picture } from "../../../api/client";
import { Playhead } from "../../../api/playhead";
import { useAttempt, useKept } from "../../../api/project";
import { usePlayhead } from "../../../api/rehearsal";
import { ActionButton } from "../../../ui/ActionButton";
import { useWidth } from "../../../ui/useWidth";
import { coloursOf, isDark } from "./dots";
import { PastePlaces } from "./PastePlaces";

type Data = Extract<Picture, { kind: "places" }>;
type Place = readonly [number, number];
type Laid = {
	at: readonly Place[];
	radius: number;
	width: number;
	height: number;
	x: (across: number) => number;
	y: (down: number) => number;
};

const TALLEST = 300;
const BIGGEST = 34;
const EDGE = 18;
const NUMBERED = 9.5; // a number fits into a pixel of this radius

/** Where pixels stand, and the wire through them, lit by the rehearsal; or by what is tried with them alone. */
export function PlacesPicture({ picture }: { picture: Data }) {
	const { id, revision } = useKept();
	const patch = useAttempt()?.patch ?? {};
	const [box, room] = useWidth<HTMLDivElement>(740);
	const [chosen, setChosen] = useState(0);
	const [tried, setTried] = useState("");
	const [told, setTold] = useState("");
	const rehearsed = usePlayhead();
	const [own] = useState(() => new Playhead());
	const laid = useMemo(() => layOut(picture, room), [picture, room]);
	const here = Math.min(chosen, picture.places.length - 1);
	const reading = nameOf(picture, here);
	useEffect(() => () => own.halt(), [own]);
	const tryOut = async (it: Data["tries"][number]) => {
		setTold("");
		try {
			const body = { base_revision: revision, patch, lamp: picture.lamp, verb: it.verb, values: it.values };
			const found = await answered(
				api.POST("/api/projects/{project_id}/preview", { params: { path: { project_id: id } }, body }),
			);
			setTold(found.sentence);
			if (!found.looks.length) return;
			own.take({ looks: { [picture.stage]: found.looks } });
			const calm = window.matchMedia("(prefers-reduced-motion: reduce)").matches;
			const round = () => {
				own.moveTo(0);
				own.goOn(found.ends_at_s, calm, round);
			};
			round();
			setTried(it.label);
		} catch (caught) {
			setTold(caught instanceof Error ? caught.message : "That could not be tried.");
		}
	};
	const stop = () => {
		own.clear();
		setTried("");
		setTold("");
	};
	const press = (event: KeyboardEvent) => {
		const next = stepFrom(picture.places, here, event.key);
		if (next === null) return;
		event.preventDefault();
		setChosen(next);
	};
	const isChain = picture.frames.length === 0;
	return (
		<div ref={box} className="space-y-2">
			<div
				role="slider"
				tabIndex={0}
				aria-label={`${isChain ? "Pixel" : "Dot"}: arrows go to the next one that way`}
				aria-valuemin={0}
				aria-valuemax={picture.places.length - 1}
				aria-valuenow={here}
				aria-valuetext={reading}
				onKeyDown={press}
				className="w-fit max-w-full overflow-x-auto"
			>
				<svg width={laid.width} height={laid.height} aria-hidden="true" className="block">
					<Dots picture={picture} laid={laid} head={tried ? own : rehearsed} onChoose={setChosen} isChain={isChain} />
					<circle
						cx={laid.at[here]?.[0]}
						cy={laid.at[here]?.[1]}
						r={laid.radius + 3}
						fill="none"
						className="stroke-copper"
						strokeWidth="2"
					/>
				</svg>
			</div>
			<p className="sr-only">{picture.text}</p>
			<div className="flex flex-wrap items-baseline gap-x-5 gap-y-1.5 text-note print:hidden">
				{isChain && <Find picture={picture} onFound={setChosen} />}
				<span className="text-soft">{reading}</span>
				<span className="basis-full" />
				<span className="text-soft">Try it:</span>
				{picture.tries.map((it) => (
					<ActionButton key={it.label} isQuiet={it.label !== tried} onPress={() => tryOut(it)}>
						{it.label}
					</ActionButton>
				))}
				{tried && <ActionButton onPress={stop}>Stop</ActionButton>}
			</div>
			<p role="status" className="text-note">
				{told}
			</p>
			{isChain && (
				<div className="flex flex-wrap items-baseline gap-x-5 text-note print:hidden">
					{["csv", "svg"].map((form) => (
						<a
							key={form}
							href={`/api/projects/${id}/layout?lamp=${picture.lamp}&form=${form}`}
							download={`${picture.lamp}.${form}`}
							className="underline decoration-copper underline-offset-4"
						>
							Save the places as {form.toUpperCase()}
						</a>
					))}
					{picture.pasted && <PastePlaces patch={picture.pasted} lamp={picture.lamp} />}
				</div>
			)}
		</div>
	);
}

/** Lay places out as large as they fit: neighbours along the chain never on top of each other. */
function layOut(picture: Data, room: number): Laid {
	const places = picture.places;
	const [xs, ys] = [places.map((it) => it[0] as number), places.map((it) => it[1] as number)];
	const [left, top] = [Math.min(...xs), Math.min(...ys)];
	const [wide, high] = [Math.max(...xs) - left, Math.max(...ys) - top];
	let apart = places.length > 1 ? Number.POSITIVE_INFINITY : 1;
	for (let at = 1; at < places.length; at++) {
		const gap = Math.hypot((xs[at] ?? 0) - (xs[at - 1] ?? 0), (ys[at] ?? 0) - (ys[at - 1] ?? 0));
		if (gap > 0) apart = Math.min(apart, gap);
	}
	const fits = (length: number, extent: number) => (extent > 0 ? length / extent : Number.POSITIVE_INFINITY);
	const unit = Math.min(fits(room - 2 * EDGE, wide), fits(TALLEST - 2 * EDGE, high), BIGGEST / apart);
	const x = (across: number) => EDGE + (across - left) * unit;
	const y = (down: number) => EDGE + (down - top) * unit;
	return {
		at: places.map((_, at) => [x(xs[at] ?? 0), y(ys[at] ?? 0)] as const),
		radius: Math.max(1.5, Math.min(0.38 * unit * apart, EDGE - 5)),
		width: wide * unit + 2 * EDGE,
		height: high * unit + 2 * EDGE,
		x,
		y,
	};
}

const Wire = memo(function Wire({ laid }: { laid: Laid }) {
	return (
		<polyline
			points={laid.at.map(([x, y]) => `${x},${y}`).join(" ")}
			fill="none"
			className="stroke-copper"
			strokeWidth="1.5"
			opacity="0.7"
		/>
	);
});

function Module({ frame, laid, isNight }: { frame: Data["frames"][number]; laid: Laid; isNight: boolean }) {
	const half = laid.radius * 1.25;
	const [x, y] = [laid.x(frame.across) - half, laid.y(frame.down) - half];
	return (
		<rect
			x={x}
			y={y}
			width={laid.x(frame.across + frame.wide - 1) + half - x}
			height={laid.y(frame.down + frame.high - 1) + half - y}
			rx="2"
			fill="none"
			className={isNight ? "stroke-nightsoft" : "stroke-ink"}
			opacity="0.5"
		>
			<title>{`Module ${frame.label}`}</title>
		</rect>
	);
}

type DotsProps = { picture: Data; laid: Laid; head: Playhead; isChain: boolean; onChoose: (at: number) => void };

const Dots = memo(function Dots({ picture, laid, head, isChain, onChoose }: DotsProps) {
	const look = useSyncExternalStore(head.subscribe, () => head.look([picture.stage]));
	const colours = useMemo(
		() => (look?.pixels ? coloursOf(look.pixels, picture.places.length) : []),
		[look, picture.places.length],
	);
	const isNight = colours.length > 0; // light is seen in the dark: white pixels on a white sheet are not
	const isNumbered = isChain && laid.radius >= NUMBERED && !isNight;
	return (
		<>
			{isNight && <rect width={laid.width} height={laid.height} rx="14" className="fill-night" />}
			{isChain && <Wire laid={laid} />}
			{picture.frames.map((it) => (
				<Module key={it.label} frame={it} laid={laid} isNight={isNight} />
			))}
			{laid.at.map(([x, y], at) => (
				<Dot
					// biome-ignore lint/suspicious/noArrayIndexKey: a pixel is its place in the chain
					key={at}
					x={x}
					y={y}
					radius={laid.radius}
					colour={isDark(colours[at]) ? "" : (colours[at] ?? "")}
					label={isNumbered ? String(at) : ""}
					isFirst={isChain && at === 0}
					isNight={isNight}
					at={at}
					onChoose={onChoose}
				/>
			))}
		</>
	);
});

type DotProps = {
	x: number;
	y: number;
	radius: number;
	colour: string;
	label: string;
	isFirst: boolean;
	isNight: boolean;
	at: number;
	onChoose: (at: number) => void;
};

const Dot = memo(function Dot({ x, y, radius, colour, label, isFirst, isNight, at, onChoose }: DotProps) {
	return (
		// biome-ignore lint/a11y/noStaticElementInteractions: the slider round it does the same by keyboard
		<g onClick={() => onChoose(at)}>
			{colour && <circle cx={x} cy={y} r={radius * 1.25} fill={colour} opacity="0.35" />}
			<circle
				cx={x}
				cy={y}
				r={radius}
				fill={colour || (isNight ? "var(--night)" : "var(--unlit)")}
				className={isNight ? "stroke-nightsoft" : "stroke-ink"}
				strokeWidth={isFirst ? 2.4 : radius > 4 ? 1 : 0.5}
				strokeOpacity={colour ? 0 : isFirst ? 1 : isNight ? 0.45 : 0.55}
			/>
			{label && !colour && (
				<text x={x} y={y + 3.5} textAnchor="middle" className="fill-soft font-number text-[10px]">
					{label}
				</text>
			)}
		</g>
	);
});

function nameOf(picture: Data, at: number): string {
	const [across = 0, down = 0] = picture.places[at] ?? [];
	const [left, top] = cornerOf(picture.places);
	if (picture.frames.length) return `Row ${down + 1}, column ${across + 1}`;
	if (picture.in_rows) return `Pixel ${at} of ${picture.places.length}: row ${down - top + 1}, column ${across - left + 1}`;
	return `Pixel ${at} of ${picture.places.length}: ${across.toFixed(1)} across, ${down.toFixed(1)} down`;
}

const cornerOf = (places: Data["places"]) =>
	[Math.min(...places.map((it) => it[0] as number)), Math.min(...places.map((it) => it[1] as number))] as const;

/** The nearest pixel that way, and of those as near the one most straight ahead. */
function stepFrom(places: Data["places"], from: number, key: string): number | null {
	const ways: Record<string, Place> = { ArrowRight: [1, 0], ArrowLeft: [-1, 0], ArrowDown: [0, 1], ArrowUp: [0, -1] };
	if (key === "Home") return 0;
	if (key === "End") return places.length - 1;
	const way = ways[key];
	const begun = places[from];
	if (!way || !begun) return null;
	let [best, found] = [Number.POSITIVE_INFINITY, from];
	places.forEach((it, at) => {
		const [dx, dy] = [(it[0] as number) - (begun[0] as number), (it[1] as number) - (begun[1] as number)];
		const ahead = dx * way[0] + dy * way[1];
		const aside = Math.abs(dx * way[1]) + Math.abs(dy * way[0]);
		if (ahead > 1e-6 && ahead + 3 * aside < best) [best, found] = [ahead + 3 * aside, at];
	});
	return found;
}

/** Find a pixel by its number, or by its row and column. */
function Find({ picture, onFound }: { picture: Data; onFound: (at: number) => void }) {
	const [typed, setTyped] = useState("");
	const [missed, setMissed] = useState("");
	const find = () => {
		const numbers = typed
			.split(/[\s,;]+/)
			.filter(Boolean)
			.map(Number);
		const [first = Number.NaN, second] = numbers;
		const [left, top] = cornerOf(picture.places);
		const [across, down] = picture.in_rows ? [(second ?? 0) - 1 + left, first - 1 + top] : [first, second ?? 0];
		const at =
			second === undefined
				? Number.isInteger(first) && first >= 0 && first < picture.places.length
					? first
					: -1
				: picture.places.findIndex((it) => Math.hypot((it[0] as number) - across, (it[1] as number) - down) < 0.5);
		setMissed(at < 0 ? "No pixel there" : "");
		if (at >= 0) onFound(at);
	};
	return (
		<label className="text-soft">
			{picture.in_rows ? "Find by number, or row, column " : "Find by number, or across, down "}
			<input
				value={typed}
				onChange={(event) => setTyped(event.target.value)}
				onKeyDown={(event) => event.key === "Enter" && find()}
				onBlur={() => typed && find()}
				maxLength={24}
				className="w-20 border-hair border-b bg-transparent font-number text-ink"
			/>
			{missed && (
				<span role="alert" className="ml-2 text-cut">
					{missed}
				</span>
			)}
		</label>
	);
}
