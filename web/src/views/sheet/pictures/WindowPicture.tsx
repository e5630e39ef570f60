import type { Sheet } from "../../../api/client";
import { useWidth } from "../../../ui/useWidth";
import { Hatch } from "./CurrentPicture";

type Data = Extract<NonNullable<Sheet["picture"]>, { kind: "window" }>;
type Row = Data["windows"][number];
const ROW = 122;

/** The band between what is heard as high and what harms, with what arrives inside it; one row a direction. */
export function WindowPicture({ picture }: { picture: Data }) {
	const [box, width] = useWidth<HTMLDivElement>(740);
	const x = (v: number) => (v / picture.axis_most_v) * width;
	return (
		<div ref={box}>
			<svg
				width={width}
				height={picture.windows.length * ROW}
				role="img"
				aria-label={picture.text}
				className="overflow-visible font-number text-xs"
			>
				{picture.windows.map((row, index) => (
					<WindowRow key={row.label} row={row} y={index * ROW} x={x} width={width} />
				))}
				<Hatch />
			</svg>
		</div>
	);
}

function WindowRow({ row, y, x, width }: { row: Row; y: number; x: (v: number) => number; width: number }) {
	const top = y + 46;
	const tall = 38;
	const foot = top + tall;
	return (
		<g>
			<rect x={0} y={top} width={x(row.low.at)} height={tall} fill="url(#hatch)" />
			<rect x={x(row.high.at)} y={top} width={x(row.limit.at) - x(row.high.at)} height={tall} fill="var(--lamp-soft)" />
			<rect x={x(row.limit.at)} y={top} width={Math.max(0, width - x(row.limit.at))} height={tall} fill="url(#hatch)" />
			<path d={`M0 ${foot}H${width}`} className="stroke-ink" strokeWidth="1.5" />
			<path
				d={`M${x(row.low.at)} ${top - 5}V${foot}M${x(row.high.at)} ${top - 5}V${foot}`}
				className="stroke-ink"
				strokeWidth="1.6"
			/>
			<path d={`M${x(row.limit.at)} ${top - 5}V${foot + 5}`} className="stroke-cut" strokeWidth="3" />
			{row.least_v != null && row.most_v != null && (
				<rect x={x(row.least_v)} y={top + 14} width={x(row.most_v) - x(row.least_v)} height={11} rx={5.5} fill="var(--spread)" />
			)}
			{row.level_v != null && (
				<path d={`M${x(row.level_v)} ${top + 5}v28`} className="stroke-ink" strokeWidth="4.5" strokeLinecap="round" />
			)}
			<g className="fill-soft font-text">
				<text x={4} y={top - 9}>
					heard as low
				</text>
				<text x={x(row.high.at)} y={top - 9}>
					{x(row.limit.at) - x(row.high.at) > 84 ? "heard as high" : "high"}
				</text>
				<text
					x={x(row.limit.at) + (width - x(row.limit.at) > 40 ? 6 : -4)}
					y={top - 9}
					textAnchor={width - x(row.limit.at) > 40 ? "start" : "end"}
				>
					harm
				</text>
			</g>
			<g className="fill-ink" textAnchor="middle">
				{[row.low, row.high, row.limit].map((tick) => (
					<text key={tick.text} x={x(tick.at)} y={foot + 17}>
						{tick.text}
					</text>
				))}
			</g>
			<text x={0} y={y + 14} className="fill-ink font-semibold font-text text-note">
				{row.label}
			</text>
			<text x={width} y={y + 14} textAnchor="end" className="fill-ink">
				{row.note}
			</text>
		</g>
	);
}
