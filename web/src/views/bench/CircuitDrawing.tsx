import { type ReactNode, useEffect, useRef, useState } from "react";
import type { CircuitBox, Drawing, DrawnText, Thread } from "../../api/client";

type Props = { drawing: Drawing; marks: readonly string[] };
const NEAR = 0.85; // of a pixel for each unit of the drawing: its text can be read

/** The circuit: boxes and threads where the core put them; the chosen wire stands out. Whole, or near enough to read. */
export function CircuitDrawing({ drawing, marks }: Props) {
	const [isNear, setNear] = useState(true);
	const pane = useRef<HTMLElement>(null);
	const { width, height } = drawing;
	const [x, y] = middleOf(drawing, marks);
	useEffect(() => {
		const it = pane.current;
		if (isNear && it) it.scrollTo({ left: x * NEAR - it.clientWidth / 2, top: y * NEAR - it.clientHeight / 2 });
	}, [isNear, x, y]);
	return (
		<figure className="on-its-side">
			<section
				ref={pane}
				className={
					isNear ? "max-h-[min(36rem,60vh)] overflow-auto max-[720px]:max-h-[38vh] print:max-h-none print:overflow-visible" : ""
				}
				tabIndex={isNear ? 0 : undefined}
				aria-label="Drawing"
			>
				<svg
					viewBox={`0 0 ${width} ${height}`}
					width={isNear ? width * NEAR : "100%"}
					height={isNear ? height * NEAR : undefined}
					role="img"
					aria-label={`Drawing of ${drawing.boxes.length} parts and ${drawing.threads.length} nets; the list beside it says the same`}
					className="max-w-none print:h-auto print:max-h-[170mm] print:w-[250mm]"
				>
					{drawing.threads.map((it) => (
						<ThreadLine key={it.net} thread={it} isMarked={marks.includes(it.net)} />
					))}
					{drawing.boxes.map((it) => (
						<PartBox key={it.piece} box={it} isMarked={marks.includes(it.piece)} />
					))}
				</svg>
			</section>
			<figcaption className="mt-2 print:hidden">
				<button
					type="button"
					aria-pressed={isNear}
					onClick={() => setNear(!isNear)}
					className="border-hair border-b-2 text-note text-soft hover:border-ink"
				>
					{isNear ? "See all of it" : "Nearer"}
				</button>
			</figcaption>
		</figure>
	);
}

/** The middle of the parts that are marked, so that they can be looked at. */
function middleOf({ boxes, width, height }: Drawing, marks: readonly string[]): [number, number] {
	const marked = boxes.filter((it) => marks.includes(it.piece));
	if (!marked.length) return [width / 2, height / 2];
	const mean = (of: (box: CircuitBox) => number) => marked.reduce((sum, it) => sum + of(it), 0) / marked.length;
	return [mean((it) => it.x + it.w / 2), mean((it) => it.y + it.h / 2)];
}

const pointsOf = (stroke: readonly { x: number; y: number }[]) => stroke.map((it) => `${it.x},${it.y}`).join(" ");

function ThreadLine({ thread, isMarked }: { thread: Thread; isMarked: boolean }) {
	const stroke = `var(--wire-${thread.colour})`;
	return (
		<g>
			{isMarked &&
				thread.strokes.map((it) => (
					<polyline
						key={pointsOf(it)}
						points={pointsOf(it)}
						fill="none"
						stroke="var(--lamp)"
						strokeWidth="9"
						strokeLinejoin="round"
						strokeLinecap="round"
						opacity="0.75"
					/>
				))}
			{thread.strokes.map((it) => (
				<polyline
					key={pointsOf(it)}
					points={pointsOf(it)}
					fill="none"
					stroke={stroke}
					strokeWidth={thread.kind === "signal" ? 2.4 : 3}
					strokeLinejoin="round"
					strokeLinecap="round"
				/>
			))}
			{thread.dots.map((it) => (
				<circle key={`${it.x} ${it.y}`} cx={it.x} cy={it.y} r="3.6" fill={stroke} />
			))}
			{thread.label && <Said text={thread.label} />}
		</g>
	);
}

function Said({ text, isSoft = false, isBold = false }: { text: DrawnText; isSoft?: boolean; isBold?: boolean }) {
	return (
		<text
			x={text.x}
			y={text.y}
			textAnchor={text.anchor}
			fontSize="13"
			fontWeight={isBold ? 600 : 400}
			fill={isSoft ? "var(--ink-soft)" : "var(--ink)"}
			className={isBold ? "font-said" : "font-text"}
		>
			{text.told}
		</text>
	);
}

function PartBox({ box, isMarked }: { box: CircuitBox; isMarked: boolean }) {
	const isPlace = box.pins.some((it) => it.told.told);
	return (
		<g stroke="var(--ink)" strokeWidth="1.8" fill={isMarked ? "var(--lamp-soft)" : "var(--sheet)"}>
			{isPlace || !SYMBOLS[box.kind] ? (
				<rect x={box.x} y={box.y} width={box.w} height={box.h} rx={12} />
			) : (
				SYMBOLS[box.kind]?.(box)
			)}
			{isPlace &&
				box.pins.map((it) => (
					<circle
						key={it.told.told}
						cx={it.x}
						cy={it.y}
						r="4"
						fill="var(--sheet)"
						strokeDasharray={it.is_wired ? undefined : "2 2"}
					/>
				))}
			<g stroke="none">
				{isPlace && box.pins.map((it) => <Said key={it.told.told} text={it.told} isSoft />)}
				<Said text={box.label} isBold />
			</g>
		</g>
	);
}

/** The symbols of parts that stand in a thread, as IEC 60617 draws them. */
const SYMBOLS: Record<string, (box: CircuitBox) => ReactNode> = {
	resistor: (it) => <rect x={it.x} y={it.y} width={it.w} height={it.h} />,
	fuse: (it) => (
		<>
			<rect x={it.x} y={it.y} width={it.w} height={it.h} />
			<path d={`M${it.x} ${it.y + it.h / 2}h${it.w}`} />
		</>
	),
	capacitor: (it) => {
		const [x, y] = [it.x + it.w / 2, it.y + it.h / 2];
		return (
			<>
				<path d={`M${it.x} ${y}H${x - 4}M${x + 4} ${y}H${it.x + it.w}`} />
				<path d={`M${x - 4} ${it.y - 2}v${it.h + 4}M${x + 4} ${it.y - 2}v${it.h + 4}`} strokeWidth="2.6" />
			</>
		);
	},
	diode: (it) => <Triangle box={it} isRight={!it.is_turned} />,
	zener: (it) => <Triangle box={it} isRight={it.is_turned} hook={4} />,
};

function Triangle({ box, isRight, hook = 0 }: { box: CircuitBox; isRight: boolean; hook?: number }) {
	const [x, y, way] = [box.x + box.w / 2, box.y + box.h / 2, isRight ? 1 : -1];
	return (
		<>
			<path d={`M${box.x} ${y}h${box.w}`} />
			<path d={`M${x - 8 * way} ${box.y}v${box.h}L${x + 8 * way} ${y}Z`} />
			<path d={`M${x + 8 * way} ${box.y + box.h}v${-box.h}h${hook * way}`} fill="none" strokeWidth="2.6" />
		</>
	);
}
