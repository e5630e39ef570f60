import type { Sheet } from "../../../api/client";
import { useWidth } from "../../../ui/useWidth";

type Data = Sheet["curves"][number];
const TALL = 190;
const LEFT = 54;

/** The curves of a lamp side by side, one for each colour, with one line that says how to read them. */
export function CurvePictures({ pictures }: { pictures: readonly Data[] }) {
	return (
		<div>
			<div className="flex flex-wrap gap-x-3 gap-y-2">
				{pictures.map((picture) => (
					<CurvePicture key={picture.title} picture={picture} />
				))}
			</div>
			<p className="mt-1 text-soft text-xs">
				Thick line: the LED's own curve, its spread behind it. Copper: what resistor and driver allow. Dot: where they meet.
				Across: volts.
			</p>
		</div>
	);
}

/** Current over volts: the curve of the LED with its spread, the resistor's line, and the point where they cross. */
function CurvePicture({ picture }: { picture: Data }) {
	const [box, width] = useWidth<HTMLDivElement>(740);
	const wide = Math.min(width, 560);
	const foot = TALL - 22;
	const x = (v: number) => LEFT + (v / picture.axis_most_v) * (wide - LEFT - 12);
	const y = (a: number) => foot - (a / picture.axis_most_a) * (foot - 14);
	const path = (volts: readonly number[]) =>
		volts.map((v, index) => `${index ? "L" : "M"}${x(v).toFixed(1)} ${y(picture.steps_a[index] ?? 0).toFixed(1)}`).join("");
	const back = [...picture.most_v]
		.reverse()
		.map((v, index) => `L${x(v).toFixed(1)} ${y(picture.steps_a.at(-1 - index) ?? 0).toFixed(1)}`);
	const spread = `${path(picture.least_v)}${back.join("")}Z`;
	const line = `M${x(picture.line_from_v)} ${y(picture.line_from_a)}L${x(picture.line_to_v)} ${foot}`;
	return (
		<div ref={box} className="min-w-50 flex-1 basis-50">
			<svg width={wide} height={TALL} role="img" aria-label={picture.text} className="overflow-visible font-number text-xs">
				<path d={spread} fill="var(--spread)" opacity="0.55" />
				<path d={`M${LEFT} ${y(picture.limit_a)}H${wide - 12}`} className="stroke-cut" strokeWidth="2.4" />
				<path d={`M${LEFT} ${y(picture.wanted_a)}H${wide - 12}`} className="stroke-ink" strokeWidth="1.4" strokeDasharray="2 3" />
				<path d={path(picture.curve_v)} fill="none" className="stroke-ink" strokeWidth="3" />
				<path d={line} fill="none" className="stroke-copper" strokeWidth="2.4" />
				<path d={`M${LEFT} ${foot}H${wide - 12}M${LEFT} ${foot}V10`} className="stroke-ink" strokeWidth="1.5" />
				<circle
					cx={x(picture.point_v)}
					cy={y(picture.point_a)}
					r="6.5"
					fill="var(--lamp)"
					className="stroke-ink"
					strokeWidth="2.6"
				/>
				{picture.amperes
					.filter((_, index) => index % 2 === 0)
					.map((tick) => (
						<text key={tick.at} x={LEFT - 7} y={y(tick.at) + 4} textAnchor="end" className="fill-ink">
							{tick.text}
						</text>
					))}
				{picture.volts.map((tick) => (
					<text key={tick.at} x={x(tick.at)} y={foot + 16} textAnchor="middle" className="fill-ink">
						{tick.text}
					</text>
				))}
				<text x={wide - 14} y={y(picture.limit_a) - 5} textAnchor="end" className="fill-soft font-text">
					harm
				</text>
				<text x={LEFT + 10} y={foot - 10} className="fill-ink font-said font-semibold">
					{picture.title}
				</text>
			</svg>
		</div>
	);
}
