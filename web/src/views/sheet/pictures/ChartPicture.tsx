import { scaleLinear } from "d3-scale";
import { line } from "d3-shape";
import type { Chart } from "../../../api/client";
import { useWidth } from "../../../ui/useWidth";
import { Lanes } from "./Lanes";

const SIZES = { wide: { most: 2000, tall: 190 }, half: { most: 560, tall: 190 }, small: { most: 300, tall: 120 } };
const LETTER = 7.3;
const FILL = {
	ink: "var(--ink)",
	soft: "var(--ink-soft)",
	copper: "var(--copper)",
	cut: "var(--cut)",
	lamp: "var(--lamp-soft)",
	hatch: "url(#hatch)",
	spread: "var(--spread)",
};

export type Scale = (value: number) => number;
export const colourOf = (tone: keyof typeof FILL) => FILL[tone];

/** A chart in the units of what it shows: rows with bands and marks, or a plane with two axes. */
export function ChartPicture({ picture }: { picture: Chart }) {
	const [box, room] = useWidth<HTMLDivElement>(740);
	const size = SIZES[picture.size];
	const wide = Math.min(room, size.most);
	const grows = picture.size === "wide" ? "" : picture.size === "half" ? "min-w-50 flex-1 basis-50" : "min-w-0 basis-[300px]";
	return (
		<div ref={box} className={grows}>
			{picture.lanes.length ? (
				<Lanes picture={picture} width={wide} />
			) : (
				<Plane picture={picture} width={wide} tall={size.tall} />
			)}
			{picture.legend.length > 0 && (
				<ul className="mt-2 flex flex-wrap gap-x-5 gap-y-1 text-note">
					{picture.legend.map((key) => (
						<li key={key.label} className="flex items-center gap-2">
							<span className="inline-block size-3.5 border border-ink" style={{ background: key.glow }} />
							{key.label}
						</li>
					))}
				</ul>
			)}
		</div>
	);
}

/** Hatching for what is out of bounds. */
export function Hatch() {
	return (
		<defs>
			<pattern id="hatch" width="8" height="8" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
				<path d="M0 0V8" stroke="var(--hatch)" strokeWidth="3" />
			</pattern>
		</defs>
	);
}

function Plane({ picture, width, tall }: { picture: Chart; width: number; tall: number }) {
	const across = picture.y?.ticks ?? [];
	const left = across.length ? 12 + LETTER * Math.max(...across.map((tick) => tick.text.length)) : 0;
	const right = width - (across.length ? 12 : 0);
	const foot = tall - 22;
	const top = picture.title && !across.length ? 26 : 10;
	const x = scaleLinear([picture.x.least, picture.x.most], [left, right]);
	const y = scaleLinear([picture.y?.least ?? 0, picture.y?.most ?? 1], [foot, top]);
	const draw = line<readonly number[]>(
		(point) => x(point[0] ?? 0),
		(point) => y(point[1] ?? 0),
	);
	const isWhole = picture.has_axis;
	return (
		<svg width={width} height={tall} role="img" aria-label={picture.text} className="overflow-visible font-number text-xs">
			<Hatch />
			{picture.bands.map((band, index) => {
				const [x1, x2] = [x(band.from_x ?? picture.x.least), x(band.to_x ?? picture.x.most)];
				const [y1, y2] = [band.to_y == null ? top : y(band.to_y), band.from_y == null ? foot : y(band.from_y)];
				return (
					// biome-ignore lint/suspicious/noArrayIndexKey: a band has no identity but its place
					<g key={index}>
						<rect
							x={x1}
							y={y1}
							width={Math.max(0.5, x2 - x1)}
							height={Math.max(0, y2 - y1)}
							fill={band.glow ?? colourOf(band.tone)}
							className={band.glow ? "stroke-ink" : ""}
						/>
						{band.label && (
							<text x={(x1 + x2) / 2} y={foot + 15} textAnchor="middle" className="fill-ink text-[10px]">
								{band.label}
							</text>
						)}
					</g>
				);
			})}
			{picture.strokes.map((stroke, index) => (
				<path
					// biome-ignore lint/suspicious/noArrayIndexKey: a line has no identity but its place
					key={index}
					d={`${draw(stroke.points) ?? ""}${stroke.is_area ? "Z" : ""}`}
					fill={stroke.is_area ? colourOf(stroke.tone) : "none"}
					stroke={stroke.is_area ? "none" : colourOf(stroke.tone)}
					strokeWidth={stroke.weight}
					strokeDasharray={stroke.is_dashed ? "2 4" : undefined}
				/>
			))}
			{picture.marks.map((mark, index) => {
				const d = mark.is_across ? `M${left} ${y(mark.at)}H${right}` : `M${x(mark.at)} ${top}V${foot + 4}`;
				const at = mark.is_across
					? { x: right - 2, y: y(mark.at) - 5, textAnchor: "end" as const }
					: { x: x(mark.at), y: foot + 16, textAnchor: "middle" as const };
				return (
					// biome-ignore lint/suspicious/noArrayIndexKey: a mark has no identity but its place
					<g key={index}>
						<path
							d={d}
							stroke={colourOf(mark.tone)}
							strokeWidth={mark.weight}
							strokeDasharray={mark.is_dashed ? "2 3" : undefined}
						/>
						<text {...at} className="fill-soft font-text">
							{mark.label}
						</text>
					</g>
				);
			})}
			{isWhole && (
				<path
					d={across.length ? `M${left} ${foot}H${right}M${left} ${foot}V${top}` : `M${left} ${foot}H${right}`}
					fill="none"
					className="stroke-ink"
					strokeWidth="1.5"
				/>
			)}
			{picture.dots.map((dot, index) => (
				<circle
					// biome-ignore lint/suspicious/noArrayIndexKey: a dot has no identity but its place
					key={index}
					cx={x(dot.x)}
					cy={y(dot.y)}
					r="6.5"
					fill={dot.glow ?? "var(--lamp)"}
					className="stroke-ink"
					strokeWidth={dot.glow ? 1.6 : 2.6}
				/>
			))}
			{across.map((tick) => (
				<text key={tick.at} x={left - 7} y={y(tick.at) + 4} textAnchor="end" className="fill-ink">
					{tick.text}
				</text>
			))}
			{picture.x.ticks.map((tick) => {
				const at = x(tick.at);
				const half = (tick.text.length * LETTER) / 2;
				const end = at - half < left - half ? "start" : at + half > width ? "end" : at - half < 0 ? "start" : "middle";
				return (
					<text key={tick.text} x={at} y={foot + 16} textAnchor={end} className="fill-ink">
						{tick.text}
					</text>
				);
			})}
			{picture.title && (
				<text
					x={left + (across.length ? 10 : 0)}
					y={across.length ? foot - 10 : 12}
					className={across.length ? "fill-ink font-said font-semibold" : "fill-ink font-semibold font-text text-xs"}
				>
					{picture.title}
				</text>
			)}
		</svg>
	);
}
