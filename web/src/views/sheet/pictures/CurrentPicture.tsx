import type { Sheet } from "../../../api/client";
import { useWidth } from "../../../ui/useWidth";

type Data = Extract<NonNullable<Sheet["picture"]>, { kind: "current" }>;
const ROW = 50;

/** Operating current against what is wanted and what the LED can stand, one row a channel. */
export function CurrentPicture({ picture }: { picture: Data }) {
	const [box, width] = useWidth<HTMLDivElement>(740);
	const left = picture.bars.length > 1 ? 64 : 8;
	const x = (a: number) => left + (a / picture.axis_most_a) * (width - left - 8);
	const foot = 22 + picture.bars.length * ROW;
	return (
		<div ref={box}>
			<svg width={width} height={foot + 26} role="img" aria-label={picture.text} className="overflow-visible font-number text-xs">
				{picture.bars.map((bar, row) => {
					const y = 22 + row * ROW;
					return (
						<g key={bar.label}>
							{picture.bars.length > 1 && (
								<text x={0} y={y + 28} className="fill-ink font-text text-note">
									{bar.label}
								</text>
							)}
							<rect x={left} y={y + 4} width={x(bar.wanted_a) - left} height={ROW - 12} fill="var(--lamp-soft)" />
							<rect
								x={x(bar.limit_a)}
								y={y + 4}
								width={Math.max(0, x(picture.axis_most_a) - x(bar.limit_a))}
								height={ROW - 12}
								fill="url(#hatch)"
							/>
							{bar.least_a !== null && bar.most_a !== null && (
								<rect
									x={x(bar.least_a ?? 0)}
									y={y + 17}
									width={x(bar.most_a ?? 0) - x(bar.least_a ?? 0)}
									height={11}
									rx={5.5}
									fill="var(--spread)"
								/>
							)}
							<path d={`M${x(bar.wanted_a)} ${y}v${ROW - 4}`} className="stroke-ink" strokeWidth="1.6" strokeDasharray="2 3" />
							<path d={`M${x(bar.limit_a)} ${y}v${ROW - 4}`} className="stroke-cut" strokeWidth="3" />
							{bar.with_pin_a != null && (
								<circle cx={x(bar.with_pin_a)} cy={y + 22.5} r={4} className="fill-sheet stroke-ink" strokeWidth="2" />
							)}
							{bar.current_a != null && (
								<path d={`M${x(bar.current_a)} ${y + 8}v29`} className="stroke-ink" strokeWidth="4.5" strokeLinecap="round" />
							)}
						</g>
					);
				})}
				<Named at={x(picture.bars[0]?.wanted_a ?? 0)} end="end" text="wanted" />
				<Named at={x(picture.bars[0]?.limit_a ?? 0)} end="start" text="harm" />
				<path d={`M${left} ${foot}H${x(picture.axis_most_a)}`} className="stroke-ink" strokeWidth="1.5" />
				{picture.ticks.map((tick) => (
					<text key={tick.at} x={x(tick.at)} y={foot + 18} textAnchor={tick.at ? "middle" : "start"} className="fill-ink">
						{tick.text}
					</text>
				))}
				<Hatch />
			</svg>
			<p className="mt-1 text-soft text-xs">Bar: what flows. Ring: with the pin's own resistance. Grey: at worst.</p>
		</div>
	);
}

function Named({ at, end, text }: { at: number; end: "start" | "end"; text: string }) {
	return (
		<text x={at + (end === "end" ? -5 : 5)} y={14} textAnchor={end} className="fill-soft font-text">
			{text}
		</text>
	);
}

export function Hatch() {
	return (
		<defs>
			<pattern id="hatch" width="8" height="8" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
				<path d="M0 0V8" stroke="var(--hatch)" strokeWidth="3" />
			</pattern>
		</defs>
	);
}
