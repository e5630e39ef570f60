import type { Sheet } from "../../../api/client";
import { useWidth } from "../../../ui/useWidth";

type Data = NonNullable<Sheet["edge"]>;
const TALL = 74;

/** A rising edge drawn against the time of a bit, sampled in its middle, or against what it may take. */
export function EdgePicture({ picture }: { picture: Data }) {
	const [box, width] = useWidth<HTMLDivElement>(740);
	const wide = Math.min(width, 560);
	const x = (s: number) => (s / picture.span_s) * wide;
	const tau = picture.rise_s / 2.197;
	const steps = Array.from({ length: 60 }, (_, index) => ((index / 59) ** 2 * picture.span_s) as number);
	const d = steps
		.map((s, index) => `${index ? "L" : "M"}${x(s).toFixed(1)} ${(54 - 40 * (1 - Math.exp(-s / tau))).toFixed(1)}`)
		.join("");
	return (
		<div ref={box}>
			<svg width={wide} height={TALL} role="img" aria-label={picture.text} className="overflow-visible font-number text-xs">
				<rect x="0" y="10" width={x(picture.span_s / 10)} height="44" fill="var(--lamp-soft)" />
				<path d={d} fill="none" className={picture.state === "stop" ? "stroke-cut" : "stroke-ink"} strokeWidth="3" />
				<path d={`M0 54H${wide}`} className="stroke-ink" strokeWidth="1.5" />
				{picture.is_sampled && <path d={`M${wide / 2} 10V58`} className="stroke-soft" strokeWidth="1" strokeDasharray="2 3" />}
				<text x="0" y="70" className="fill-ink">
					edge {picture.rise}
				</text>
				{picture.is_sampled && (
					<text x={wide / 2} y="70" textAnchor="middle" className="fill-soft font-text">
						sampled here
					</text>
				)}
				<text x={wide} y="70" textAnchor="end" className="fill-ink">
					{picture.span}
				</text>
			</svg>
		</div>
	);
}
