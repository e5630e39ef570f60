import type { Picture } from "../../../api/client";
import { useWidth } from "../../../ui/useWidth";

type Data = Extract<Picture, { kind: "bytes" }>;
type OneByte = Data["rows"][number]["bytes"][number];
const ROW = 46;
const NAME_MOST = 104;
const TICK_ROOM = 62;
const NAMED = 42; // room for a name of five letters

/** Words as they stand on the wire: every byte with its ten bits, on a time axis. */
export function BytesPicture({ picture }: { picture: Data }) {
	const [box, width] = useWidth<HTMLDivElement>(740);
	const name = Math.min(NAME_MOST, width * 0.22);
	const right = width - 64;
	const ticks = picture.ticks.filter((_, index) => index % Math.ceil((TICK_ROOM * picture.ticks.length) / (right - name)) === 0);
	const x = (s: number) => name + (s / picture.axis_most_s) * (right - name);
	const foot = picture.rows.length * ROW + 4;
	return (
		<div ref={box}>
			<svg width={width} height={foot + 22} role="img" aria-label={picture.text} className="overflow-visible font-number text-xs">
				{picture.rows.map((row, index) => (
					<g key={row.word}>
						<text x={0} y={index * ROW + 28} className="fill-ink font-text text-note">
							{row.word.length > name / 7 ? `${row.word.slice(0, name / 7 - 1)}…` : row.word}
						</text>
						{row.bytes.map((byte) => (
							<ByteWave key={byte.starts_s} byte={byte} x1={x(byte.starts_s)} x2={x(byte.ends_s)} y={index * ROW} />
						))}
						<text x={width} y={index * ROW + 28} textAnchor="end" className="fill-soft">
							{row.takes}
						</text>
					</g>
				))}
				<path d={`M${name} ${foot}H${right}`} className="stroke-ink" strokeWidth="1.5" />
				{ticks.map((tick) => (
					<text key={tick.at} x={x(tick.at)} y={foot + 16} textAnchor={tick.at ? "middle" : "start"} className="fill-ink">
						{tick.text}
					</text>
				))}
			</svg>
		</div>
	);
}

function ByteWave({ byte, x1, x2, y }: { byte: OneByte; x1: number; x2: number; y: number }) {
	const bit = (x2 - x1) / byte.bits.length;
	const high = y + 20;
	const low = y + 34;
	let d = `M${x1} ${high}`;
	[...byte.bits].forEach((level, index) => {
		d += `V${level === "1" ? high : low}H${(x1 + (index + 1) * bit).toFixed(1)}`;
	});
	const isUnwanted = byte.role === "unwanted";
	const isNarrow = x2 - x1 < 92;
	return (
		<g>
			{(byte.role === "word" || byte.role === "value") && (
				<rect
					x={x1}
					y={y + 16}
					width={x2 - x1 - 1}
					height={22}
					fill={byte.role === "value" ? "var(--lamp)" : "var(--lamp-soft)"}
				/>
			)}
			<path
				d={d}
				fill="none"
				className={isUnwanted ? "stroke-cut" : "stroke-ink"}
				strokeWidth="2"
				strokeDasharray={isUnwanted ? "4 3" : undefined}
			/>
			<text x={(x1 + x2) / 2} y={y + 12} textAnchor="middle" className={isUnwanted ? "fill-cut" : "fill-ink"}>
				{isNarrow
					? x2 - x1 < NAMED
						? byte.shown.replace("space", "sp")
						: byte.shown
					: `${byte.shown} ${byte.hex} ${byte.decimal}`}
			</text>
		</g>
	);
}
