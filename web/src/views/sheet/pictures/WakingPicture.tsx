import { scaleLinear } from "d3-scale";
import type { Picture } from "../../../api/client";
import { useWidth } from "../../../ui/useWidth";

type Data = Extract<Picture, { kind: "waking" }>;
type Row = Data["rows"][number];

const TALL = 26;
const [HIGH, LOW] = [4, 22];
const PULSE = 16;
const NAMES = 190;
const SAID = 230;
const GAP = 16;

/** Every pin on one axis of time, from power-on until the program runs, and what hangs on it does meanwhile. */
export function WakingPicture({ picture }: { picture: Data }) {
	const [box, width] = useWidth<HTMLDivElement>(740);
	const isNarrow = width < 560;
	const lane = isNarrow ? width : width - NAMES - SAID - 2 * GAP;
	const x = scaleLinear([0, picture.most_s], [0, lane]);
	const columns = isNarrow ? undefined : { gridTemplateColumns: `${NAMES}px ${lane}px ${SAID}px`, columnGap: GAP };
	return (
		<div ref={box}>
			<ul aria-label="Until the program runs" className="space-y-2">
				{picture.rows.map((row) => (
					<li key={`${row.pin} ${row.name}`} className="grid items-center text-note" style={columns}>
						<p>
							<span className="font-number">{row.pin}</span> {row.name}
						</p>
						<svg width={lane} height={TALL} aria-hidden="true" className="overflow-visible">
							<rect
								x={x(picture.least_s)}
								y={0}
								width={Math.max(0, x(picture.latest_s) - x(picture.least_s))}
								height={TALL}
								className="fill-hair"
								opacity={0.5}
							/>
							<Way row={row} to={x(picture.boot_s)} />
							<path d={`M${x(picture.boot_s)} ${HIGH - 4}V${LOW + 4}`} className="stroke-ink" strokeWidth="1.5" />
						</svg>
						<p>
							<span className={row.is_quiet ? "" : "font-semibold"}>{row.does}</span>
							<span className="block text-soft">{[row.volts, row.because].filter(Boolean).join(", ")}</span>
						</p>
					</li>
				))}
			</ul>
			<div className="mt-1 grid" style={columns}>
				{!isNarrow && <span />}
				<svg width={lane} height={40} aria-hidden="true" className="overflow-visible font-number text-xs">
					<path d={`M0 4H${lane}`} className="stroke-ink" strokeWidth="1.5" />
					{picture.ticks.map((tick) => (
						<text key={tick.text} x={x(tick.at)} y={20} textAnchor={tick.at === 0 ? "start" : "middle"} className="fill-soft">
							{tick.text}
						</text>
					))}
					<text x={x(picture.boot_s)} y={36} textAnchor="middle" className="fill-ink font-text">
						your program runs
					</text>
				</svg>
			</div>
		</div>
	);
}

/** A line nobody drives is dots at the height it rests at, or wandering where nothing holds it; a driven one is drawn out. */
function Way({ row, to }: { row: Row; to: number }) {
	const at = row.height_ratio == null ? (HIGH + LOW) / 2 : LOW - (LOW - HIGH) * row.height_ratio;
	const isFree = row.way === "floats";
	return (
		<path
			d={isFree && row.height_ratio == null ? wandering(to) : isFree ? `M0 ${at}H${to}` : driven(row.way, to)}
			fill="none"
			className="stroke-ink"
			strokeWidth={isFree ? 3 : 2}
			strokeDasharray={isFree ? "0.1 6" : undefined}
			strokeLinecap="round"
		/>
	);
}

function wandering(to: number): string {
	const middle = (HIGH + LOW) / 2;
	const turns = Math.max(1, Math.round(to / 30));
	return `M0 ${middle}${`q${to / turns / 4} -7 ${to / turns / 2} 0t${to / turns / 2} 0`.repeat(turns)}`;
}

function driven(way: Row["way"], to: number): string {
	if (way === "high" || way === "low") return `M0 ${way === "high" ? HIGH : LOW}H${to}`;
	const step = way === "talks" ? PULSE / 3 : PULSE;
	const turns = Math.max(1, Math.floor(to / step / 2));
	return `M0 ${HIGH}${`h${to / turns / 2}V${LOW}h${to / turns / 2}V${HIGH}`.repeat(turns)}`;
}
