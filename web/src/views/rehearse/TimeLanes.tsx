import { scaleLinear } from "d3-scale";
import { type KeyboardEvent, memo, type PointerEvent, useEffect, useRef, useSyncExternalStore, type WheelEvent } from "react";
import type { Timeline } from "../../api/client";
import { usePlayhead } from "../../api/rehearsal";
import { LightThread } from "../../ui/LightThread";
import { useWidth } from "../../ui/useWidth";

const TALL = 30;
const NAMES = 118;
const NARROW = 84;
const HEAD = 8;
const LETTER = 7.3;
const CLOSER = 0.5;

type Props = {
	view: Timeline;
	at_s: number;
	isPlaying: boolean;
	onPlace: (at_s: number) => void;
	onZoom: (factor: number, about_s?: number) => void;
};

/** Stages as lanes over time: what was said as ink, what was lost as a cut, each lamp a thread as thick as it is bright to the eye. */
export function TimeLanes({ view, at_s, isPlaying, onPlace, onZoom }: Props) {
	const [box, room] = useWidth<HTMLDivElement>(740);
	const left = room < 520 ? NARROW : NAMES;
	const x = scaleLinear([view.from_s, view.to_s], [left, room - 6]);
	const tall = HEAD + view.lanes.length * TALL;
	const here = spanAt(view, at_s);
	const reading = here
		? `${ms(here.from_s)}, ${view.lanes[here.lane]?.label ?? ""}: ${here.text}`
		: `${ms(at_s)}: nothing happens`;
	const place = (event: PointerEvent<HTMLDivElement>) => {
		const bounds = event.currentTarget.getBoundingClientRect();
		const wanted = x.invert(event.clientX - bounds.left);
		const lane = Math.floor((event.clientY - bounds.top - HEAD) / TALL);
		const near = nearest(view, wanted, lane, ((view.to_s - view.from_s) * 8) / room);
		onPlace(near ?? wanted);
	};
	const press = (event: KeyboardEvent) => {
		const move = new Map([
			["ArrowRight", () => onPlace(step(view, at_s, 1))],
			["ArrowLeft", () => onPlace(step(view, at_s, -1))],
			["Home", () => onPlace(0)],
			["End", () => onPlace(view.whole_s)],
			["+", () => onZoom(CLOSER)],
			["=", () => onZoom(CLOSER)],
			["-", () => onZoom(1 / CLOSER)],
		]).get(event.key);
		if (!move || event.ctrlKey || event.metaKey || event.altKey) return;
		event.preventDefault();
		event.stopPropagation();
		move();
	};
	const wheel = (event: WheelEvent<HTMLDivElement>) => {
		if (!event.ctrlKey) return;
		onZoom(event.deltaY > 0 ? 1 / CLOSER : CLOSER, x.invert(event.clientX - event.currentTarget.getBoundingClientRect().left));
	};
	return (
		<div ref={box}>
			<div
				role="slider"
				tabIndex={0}
				aria-label="Time: arrows step from one thing to the next, + and - zoom"
				aria-valuemin={0}
				aria-valuemax={view.whole_s}
				aria-valuenow={at_s}
				aria-valuetext={reading}
				onPointerDown={place}
				onPointerMove={(event) => event.buttons === 1 && place(event)}
				onKeyDown={press}
				onWheel={wheel}
				className="touch-pan-y select-none"
			>
				<svg width={room} height={tall + 24} aria-hidden="true" className="block overflow-visible">
					<Drawn view={view} width={room} left={left} />
					<Cursor x={x} at_s={at_s} isPlaying={isPlaying} tall={tall} left={left} right={room} />
				</svg>
			</div>
			<p role="status" className="mt-2.5 min-h-6 font-number text-note">
				{reading}
			</p>
			{!view.is_close && (
				<p className="text-note text-soft">What is too close to tell apart is drawn as one: go closer to see each byte.</p>
			)}
			{view.rails.map((it) => (
				<p key={it} className="font-number text-note">
					{it}
				</p>
			))}
			{view.hidden_lamps > 0 && <p className="text-note text-soft">{view.hidden_lamps} more lamps are not drawn.</p>}
		</div>
	);
}

const Drawn = memo(function Drawn({ view, width, left }: { view: Timeline; width: number; left: number }) {
	const x = scaleLinear([view.from_s, view.to_s], [left, width - 6]);
	const tall = HEAD + view.lanes.length * TALL;
	return (
		<g>
			<clipPath id="window">
				<rect x={left} y={0} width={Math.max(0, width - left)} height={tall} />
			</clipPath>
			{view.ticks.map((tick) => {
				const at = x(tick.at);
				if (at < left || at + (tick.text.length * LETTER) / 2 > width) return null;
				return (
					<g key={tick.at}>
						<path d={`M${at} ${HEAD}V${tall + 3}`} className="stroke-hair" strokeWidth="1" />
						<text x={at} y={tall + 17} textAnchor="middle" className="fill-soft font-number text-xs">
							{tick.text}
						</text>
					</g>
				);
			})}
			{view.lanes.map((lane, row) => {
				const y = HEAD + row * TALL + TALL / 2;
				const most = Math.floor((left - 10) / LETTER);
				return (
					<g key={lane.stage}>
						<text x={0} y={y + 4} className="fill-ink font-text text-note">
							{lane.label.length > most ? `${lane.label.slice(0, most - 1)}…` : lane.label}
						</text>
						<path d={`M${left} ${y}H${width - 6}`} className="stroke-hair" strokeWidth="1" />
						<g clipPath="url(#window)">
							<LightThread looks={lane.looks} x={x} y={y} until_s={view.to_s} />
							{lane.loads.length > 0 && <LoadThread loads={lane.loads} x={x} y={y} until_s={view.to_s} />}
						</g>
					</g>
				);
			})}
			<g clipPath="url(#window)">
				{view.spans.map((span, index) => {
					const y = HEAD + span.lane * TALL + TALL / 2;
					const [begins, ends] = [x(span.from_s), Math.max(x(span.to_s), x(span.from_s) + 2.5)];
					const isLamp = (view.lanes[span.lane]?.looks.length ?? 0) > 0;
					if (span.fate === "lost")
						return (
							<path
								// biome-ignore lint/suspicious/noArrayIndexKey: a span has no identity but its place
								key={index}
								d={`M${begins - 5} ${y - 8}l4 16M${begins + 1} ${y - 8}l4 16`}
								className="stroke-cut"
								strokeWidth="2.4"
								strokeLinecap="round"
							/>
						);
					if (isLamp) return null;
					return (
						<path
							// biome-ignore lint/suspicious/noArrayIndexKey: a span has no identity but its place
							key={index}
							d={`M${begins} ${y}H${ends}`}
							className={span.fate === "aside" ? "stroke-soft" : "stroke-ink"}
							strokeWidth={span.fate === "aside" ? 3 : 7}
							strokeDasharray={span.fate === "look" ? "0.1 7" : undefined}
							strokeLinecap={span.fate === "look" ? "round" : "butt"}
							opacity={span.fate === "aside" ? 0.6 : 1}
						/>
					);
				})}
			</g>
		</g>
	);
});

type LoadProps = { loads: Timeline["lanes"][number]["loads"]; x: (at_s: number) => number; y: number; until_s: number };

/** What is drawn from a rail over time, against a dashed line that is what feeds it. */
function LoadThread({ loads, x, y, until_s }: LoadProps) {
	const foot = y + TALL / 2 - 4;
	const high = (share: number) => foot - Math.min(share, 1.3) * (TALL - 12);
	const steps = loads.map(({ t_s, share }, index) => {
		const before = loads[index - 1]?.share ?? share;
		return `${index ? "L" : "M"}${x(t_s)} ${high(before)}L${x(t_s)} ${high(share)}`;
	});
	return (
		<g fill="none">
			<path d={`${steps.join("")}L${x(until_s)} ${high(loads.at(-1)?.share ?? 0)}`} className="stroke-copper" strokeWidth="2.6" />
			<path
				d={`M${x(loads[0]?.t_s ?? 0)} ${high(1)}H${x(until_s)}`}
				className="stroke-soft"
				strokeWidth="1.2"
				strokeDasharray="2 3"
			/>
		</g>
	);
}

type CursorProps = { x: (at_s: number) => number; at_s: number; isPlaying: boolean; tall: number; left: number; right: number };

/** Where one looks: it goes along while it is played. */
function Cursor({ x, at_s, isPlaying, tall, left, right }: CursorProps) {
	const head = usePlayhead();
	const moving = useSyncExternalStore(head.subscribe, () => (isPlaying ? head.at_s : -1));
	const line = useRef<SVGPathElement>(null);
	const at = x(isPlaying && moving >= 0 ? moving : at_s);
	useEffect(() => {
		line.current?.setAttribute("visibility", at < left - 1 || at > right ? "hidden" : "visible");
	}, [at, left, right]);
	return <path ref={line} d={`M${at} 0V${tall + 3}`} className="stroke-copper" strokeWidth="2" />;
}

const ms = (at_s: number) => `${at_s.toFixed(4)} s`;

/** Moments at which something begins, in order, each once. */
const moments = (view: Timeline) => [...new Set(view.spans.map((it) => it.from_s))].sort((a, b) => a - b);

function step(view: Timeline, at_s: number, way: 1 | -1): number {
	const all = moments(view);
	const found = way > 0 ? all.find((it) => it > at_s + 1e-7) : all.findLast((it) => it < at_s - 1e-7);
	return (
		found ??
		(way > 0
			? Math.min(view.whole_s, view.to_s + (view.to_s - view.from_s) / 10)
			: Math.max(0, view.from_s - (view.to_s - view.from_s) / 10))
	);
}

function spanAt(view: Timeline, at_s: number) {
	const begun = view.spans.filter((it) => it.from_s <= at_s + 1e-7 && it.to_s >= at_s - 1e-7);
	return begun.find((it) => it.fate === "lost") ?? begun.findLast((it) => Math.abs(it.from_s - at_s) < 1e-6) ?? begun.at(-1);
}

function nearest(view: Timeline, at_s: number, lane: number, most_s: number): number | undefined {
	let best: number | undefined;
	for (const it of view.spans)
		if (
			it.lane === lane &&
			Math.abs(it.from_s - at_s) <= most_s &&
			(best === undefined || Math.abs(it.from_s - at_s) < Math.abs(best - at_s))
		)
			best = it.from_s;
	return best;
}
