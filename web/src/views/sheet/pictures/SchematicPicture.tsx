import type { Picture } from "../../../api/client";
import { useWidth } from "../../../ui/useWidth";

type Data = Extract<Picture, { kind: "circuit" }>;
const STEP = 54;
const X = 150;
const LETTER = 7.3;
const LINE = 15;

/** The drive's small circuit with standard symbols: from plus or pin at the top down to ground or pin. */
export function SchematicPicture({ picture }: { picture: Data }) {
	const bottom = 26 + picture.chain.length * STEP;
	const tall = bottom + (picture.switch ? 98 : 34);
	const [box, room] = useWidth<HTMLDivElement>(740);
	const letters = Math.floor((room - X - 40) / LETTER);
	const coilAt = picture.chain.findIndex((part) => part.symbol === "coil" || part.symbol === "buzzer");
	return (
		<div ref={box}>
			<svg width={room} height={tall} role="img" aria-label={picture.text} className="font-number text-xs">
				<g className="stroke-ink" strokeWidth="2" fill="none" strokeLinecap="round">
					<path d={`M${X} 14V26`} />
					<circle cx={X} cy="11" r="3" />
					{picture.chain.map((part, index) => (
						<Part key={part.symbol + part.label} symbol={part.symbol} y={26 + index * STEP} />
					))}
					{picture.across && <Across y={26 + coilAt * STEP} />}
					{picture.has_flyback && <Flyback y={26 + coilAt * STEP} />}
					{picture.lacks_flyback && (
						<g className="stroke-cut" strokeDasharray="3 5">
							<Flyback y={26 + coilAt * STEP} />
						</g>
					)}
					{picture.switch ? (
						<Switch kind={picture.switch} y={bottom} hasPull={Boolean(picture.pull_down)} />
					) : (
						<End kind={picture.bottom} y={bottom} />
					)}
				</g>
				<g className="fill-ink">
					<text x={X + 12} y="15">
						{picture.top}
					</text>
					{picture.chain.map((part, index) => (
						<text key={part.symbol + part.label} y={26 + index * STEP + 31}>
							{inLines(part.label, letters).map((line, at, all) => (
								<tspan key={line} x={X + (part.symbol === "buzzer" ? 36 : 26)} dy={at ? LINE : (1 - all.length) * (LINE / 2)}>
									{line}
								</tspan>
							))}
						</text>
					))}
					{picture.across && (
						<text x={X - 58} y={26 + coilAt * STEP + 31} textAnchor="end">
							{picture.across}
						</text>
					)}
					{picture.lacks_flyback && (
						<text x={X - 66} y={26 + coilAt * STEP + 31} textAnchor="end" className="fill-cut font-text">
							no diode
						</text>
					)}
					{picture.switch && (
						<>
							<text x={X - 92} y={bottom + 20} textAnchor="middle">
								{picture.series}
							</text>
							<text x={0} y={bottom + 24}>
								pin
							</text>
							{picture.pull_down && (
								<text x={X - 62} y={bottom + 59} textAnchor="end">
									{picture.pull_down}
								</text>
							)}
						</>
					)}
					{!picture.switch && picture.bottom === "pin" && (
						<text x={X + 12} y={bottom + 20}>
							pin, low when on
						</text>
					)}
				</g>
			</svg>
		</div>
	);
}

/** A label in as many lines as it takes, word by word. */
function inLines(label: string, letters: number): string[] {
	const lines: string[] = [];
	for (const word of label.split(" ")) {
		const last = lines.at(-1);
		if (last !== undefined && last.length + 1 + word.length <= letters) lines[lines.length - 1] = `${last} ${word}`;
		else lines.push(word);
	}
	return lines;
}

function Part({ symbol, y }: { symbol: Data["chain"][number]["symbol"]; y: number }) {
	switch (symbol) {
		case "resistor":
			return <path d={`M${X} ${y}v10h-7v32h14v-32h-7M${X} ${y + 42}v12`} />;
		case "led":
			return (
				<path
					d={`M${X} ${y}v16M${X - 11} ${y + 16}h22l-11 18zM${X - 11} ${y + 34}h22M${X} ${y + 34}v20M${X + 13} ${y + 18}l7 -6m-5 0h5v5M${X + 13} ${y + 26}l7 -6`}
				/>
			);
		case "coil":
			return <path d={`M${X} ${y}v6a8 7 0 0 1 0 14a8 7 0 0 1 0 14a8 7 0 0 1 0 14v6`} />;
		case "buzzer":
			return <path d={`M${X} ${y}v17h8M${X} ${y + 54}v-17h8M${X + 8} ${y + 9}v36a18 18 0 0 0 0 -36`} />;
		default:
			return (
				<>
					<path d={`M${X} ${y}v10M${X} ${y + 44}v10`} />
					<circle cx={X} cy={y + 27} r="17" />
					<path d={`M${X - 12} ${y + 15}l24 24M${X + 12} ${y + 15}l-24 24`} />
				</>
			);
	}
}

const Across = ({ y }: { y: number }) => <path d={`M${X} ${y}h-46v11h-6v32h12v-32h-6M${X - 46} ${y + 43}v11h46`} />;

const Flyback = ({ y }: { y: number }) => (
	<path d={`M${X} ${y}h-46v18M${X - 57} ${y + 36}h22l-11 -18zM${X - 57} ${y + 18}h22M${X - 46} ${y + 36}v18h46`} />
);

function Switch({ kind, y, hasPull }: { kind: "npn" | "mosfet"; y: number; hasPull: boolean }) {
	const input = `M${X - 130} ${y + 32}h22M${X - 108} ${y + 26}h32v12h-32zM${X - 76} ${y + 32}h${kind === "npn" ? 56 : 50}`;
	const body =
		kind === "npn"
			? `M${X - 20} ${y + 16}v32M${X} ${y}v12l-20 12M${X - 20} ${y + 40}l20 12v12m-6 -16l6 4l-7 2`
			: `M${X - 26} ${y + 18}v28M${X - 20} ${y + 16}v8M${X - 20} ${y + 28}v8M${X - 20} ${y + 40}v8M${X} ${y}v20h-20M${X - 20} ${y + 32}h20v32M${X - 20} ${y + 44}h20M${X - 12} ${y + 28}l-7 4l7 4`;
	return (
		<>
			<path d={input + body} />
			{hasPull && <path d={`M${X - 52} ${y + 32}v12h-6v22h12v-22h-6M${X - 52} ${y + 66}v5h52`} />}
			<End kind="ground" y={y + 64} />
		</>
	);
}

function End({ kind, y }: { kind: Data["bottom"]; y: number }) {
	return kind === "ground" ? (
		<path d={`M${X} ${y}v14M${X - 12} ${y + 14}h24M${X - 7} ${y + 19}h14M${X - 3} ${y + 24}h6`} />
	) : (
		<path d={`M${X} ${y}v12m-4 0h8`} />
	);
}
