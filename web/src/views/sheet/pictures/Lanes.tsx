import { scaleLinear } from "d3-scale";
import type { Chart } from "../../../api/client";
import { colourOf, Hatch, type Scale } from "./ChartPicture";

const TALL = 38;
const MARK_ROOM = 22;
const NAME_ROOM = 24;
const NAME_WIDE = 64;
const LETTER = 6.2;

type Mark = Chart["marks"][number];

/** A chart of rows on one axis, or each with marks of its own: bands, what stands in them, and where it harms. */
export function Lanes({ picture, width }: { picture: Chart; width: number }) {
	const hasOwnTicks = picture.lanes.some((lane) => lane.ticks.length);
	const left = hasOwnTicks ? 0 : picture.lanes.some((lane) => lane.label) ? NAME_WIDE : 8;
	const x = scaleLinear([picture.x.least, picture.x.most], [left, width - (hasOwnTicks ? 0 : 8)]);
	const head = hasOwnTicks ? NAME_ROOM + MARK_ROOM : 12;
	const pitch = hasOwnTicks ? head + TALL + 38 : TALL + 12;
	const start = hasOwnTicks ? head : MARK_ROOM + 4;
	const foot = start + (picture.lanes.length - 1) * pitch + TALL;
	const axis = foot + 8;
	return (
		<svg
			width={width}
			height={hasOwnTicks ? foot + 26 : axis + 26}
			role="img"
			aria-label={picture.text}
			className="overflow-visible font-number text-xs"
		>
			<Hatch />
			{picture.lanes.map((lane, row) => {
				const y = start + row * pitch;
				return (
					<g key={lane.label}>
						<Row picture={picture} row={row} x={x} y={y} width={width} />
						{hasOwnTicks ? (
							<>
								<path d={`M0 ${y + TALL}H${width}`} className="stroke-ink" strokeWidth="1.5" />
								<Ticks ticks={lane.ticks} x={x} y={y + TALL + 17} width={width} />
								<text x={0} y={y - MARK_ROOM - 8} className="fill-ink font-semibold font-text text-note">
									{lane.label}
								</text>
								<text x={width} y={y - MARK_ROOM - 8} textAnchor="end" className="fill-ink">
									{lane.note}
								</text>
							</>
						) : (
							<text x={0} y={y + TALL / 2 + 5} className="fill-ink font-text text-note">
								{lane.label}
							</text>
						)}
					</g>
				);
			})}
			{picture.has_axis && (
				<>
					<path d={`M${left} ${axis}H${x(picture.x.most)}`} className="stroke-ink" strokeWidth="1.5" />
					<Ticks ticks={picture.x.ticks} x={x} y={axis + 18} width={width} />
				</>
			)}
		</svg>
	);
}

type RowProps = { picture: Chart; row: number; x: Scale; y: number; width: number };

function Row({ picture, row, x, y, width }: RowProps) {
	const bands = picture.bands.filter((band) => band.lane === row);
	const marks = picture.marks.filter((mark) => mark.lane === row).sort((a, b) => a.at - b.at);
	return (
		<g>
			{bands.map((band, index) => {
				const [x1, x2] = [x(band.from_x ?? picture.x.least), x(band.to_x ?? picture.x.most)];
				return (
					<rect
						// biome-ignore lint/suspicious/noArrayIndexKey: a band has no identity but its place
						key={index}
						x={x1}
						y={band.is_thin ? y + 14 : y}
						width={Math.max(0, x2 - x1)}
						height={band.is_thin ? 11 : TALL}
						rx={band.is_thin ? 5.5 : 0}
						fill={band.glow ?? colourOf(band.tone)}
						className={picture.legend.length ? "stroke-ink" : ""}
						strokeWidth="1.5"
					/>
				);
			})}
			{marks.map((mark, index) => (
				// biome-ignore lint/suspicious/noArrayIndexKey: a mark has no identity but its place
				<g key={index}>
					{mark.weight > 0 && (
						<path
							d={`M${x(mark.at)} ${y - 5}V${y + TALL + 4}`}
							stroke={colourOf(mark.tone)}
							strokeWidth={mark.weight}
							strokeDasharray={mark.is_dashed ? "2 3" : undefined}
						/>
					)}
					<Named mark={mark} before={marks[index - 1]} after={marks[index + 1]} x={x} y={y - 9} width={width} />
				</g>
			))}
			{picture.dots
				.filter((dot) => dot.lane === row)
				.map((dot) =>
					dot.shape === "ring" ? (
						<circle key={dot.shape} cx={x(dot.x)} cy={y + 19.5} r={4} className="fill-sheet stroke-ink" strokeWidth="2" />
					) : (
						<path key={dot.shape} d={`M${x(dot.x)} ${y + 5}v28`} className="stroke-ink" strokeWidth="4.5" strokeLinecap="round" />
					),
				)}
		</g>
	);
}

type NamedProps = { mark: Mark; before?: Mark; after?: Mark; x: Scale; y: number; width: number };

/** A mark's word, right of it where there is room, else left of it or in short. */
function Named({ mark, before, after, x, y, width }: NamedProps) {
	if (!mark.label) return null;
	const at = x(mark.at);
	const roomRight = (after ? x(after.at) : width) - at - 8;
	const roomLeft = at - (before ? x(before.at) : 0) - 8;
	const isFree = roomLeft > mark.label.length * LETTER && !before?.label;
	const isRight = roomRight > (mark.short || mark.label).length * LETTER || !isFree;
	const text = (isRight ? roomRight : roomLeft) > mark.label.length * LETTER ? mark.label : mark.short || mark.label;
	const isOver = isRight && at + 6 + text.length * LETTER > width;
	return (
		<text
			x={at + (isRight && !isOver ? 5 : -5)}
			y={y}
			textAnchor={isRight && !isOver ? "start" : "end"}
			className="fill-soft font-text"
		>
			{text}
		</text>
	);
}

/** Marks of an axis; one that would stand on the one before it moves to its right. */
function Ticks({ ticks, x, y, width }: { ticks: Chart["x"]["ticks"]; x: Scale; y: number; width: number }) {
	let free = Number.NEGATIVE_INFINITY;
	return [...ticks]
		.sort((a, b) => a.at - b.at)
		.map((tick) => {
			const half = (tick.text.length * 7.3) / 2;
			const at = Math.max(free + half, Math.min(Math.max(half, x(tick.at)), width - half));
			free = at + half + 4;
			return (
				<text key={tick.at} x={at} y={y} textAnchor="middle" className="fill-ink">
					{tick.text}
				</text>
			);
		});
}
