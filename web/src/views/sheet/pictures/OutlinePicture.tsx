import type { Picture } from "../../../api/client";
import { useWidth } from "../../../ui/useWidth";

type Data = Extract<Picture, { kind: "outline" }>;
type Pin = Data["pins"][number];

/** The board seen from above: which pin carries what. Its names stand upright beside the pins. */
export function OutlinePicture({ picture }: { picture: Data }) {
	const [box, width] = useWidth<HTMLDivElement>(740);
	const rows = (["top", "bottom"] as const).map((row) => picture.pins.filter((pin) => pin.row === row));
	const most = Math.max(...rows.map((row) => row.length), 1);
	const pitch = Math.min(52, (width - 24) / most);
	const board = { top: 88, tall: 64 };
	return (
		<div ref={box}>
			<svg
				width={width}
				height={rows[1]?.some((pin) => pin.line) ? 236 : 172}
				role="img"
				aria-label={picture.text}
				className="overflow-visible font-number text-xs"
			>
				<rect
					x={1}
					y={board.top}
					width={most * pitch + 22}
					height={board.tall}
					rx={16}
					fill="none"
					className="stroke-ink"
					strokeWidth="2.5"
				/>
				<text x={most * pitch * 0.5 + 12} y={board.top + board.tall / 2 + 4} textAnchor="middle" className="fill-soft font-text">
					{picture.label}
				</text>
				{rows.map((row, side) =>
					row.map((pin, index) => (
						<PinMark
							key={pin.label}
							pin={pin}
							x={12 + pitch * (index + 0.5)}
							y={side ? board.top + board.tall : board.top}
							out={side ? 1 : -1}
						/>
					)),
				)}
			</svg>
		</div>
	);
}

function PinMark({ pin, x, y, out }: { pin: Pin; x: number; y: number; out: 1 | -1 }) {
	const isUsed = pin.line !== "";
	const tone = pin.state === "stop" ? "stroke-cut" : "stroke-ink";
	return (
		<g>
			{isUsed && (
				<path
					d={`M${x} ${y}v${out * 15}`}
					className={tone}
					strokeWidth="3"
					strokeDasharray={pin.state === "look" ? "0.1 5" : undefined}
					strokeLinecap="round"
				/>
			)}
			{pin.state === "stop" && <path d={`M${x - 6} ${y + out * 6}l12 4`} className="stroke-cut" strokeWidth="2.4" />}
			<circle
				cx={x}
				cy={y}
				r={6}
				className={`stroke-ink ${isUsed ? (pin.is_proposed ? "fill-sheet" : "fill-ink") : "fill-sheet"}`}
				strokeWidth={isUsed ? 2.6 : 1.2}
			/>
			<text x={x} y={y - out * 13 + 4} textAnchor="middle" className={isUsed ? "fill-ink font-bold" : "fill-soft"}>
				{pin.label}
			</text>
			{isUsed && (
				<text
					transform={`translate(${x + 4} ${y + out * 20}) rotate(${out * 38})`}
					textAnchor={out < 0 ? "start" : "start"}
					className="fill-ink font-text"
				>
					{pin.line.length > 16 ? `${pin.line.slice(0, 15)}…` : pin.line}
				</text>
			)}
			<title>{[pin.label, pin.line, pin.remark].filter(Boolean).join(": ")}</title>
		</g>
	);
}
