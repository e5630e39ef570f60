import type { Timeline } from "../api/client";

const THICK = 15;
type Looks = Timeline["lanes"][number]["looks"];
type Props = { looks: Looks; x: (at_s: number) => number; y: number; until_s: number; thick?: number };

/** A lamp over time: as thick as it is bright to the eye, in its own colour, with an edge that holds on any ground. */
export function LightThread({ looks, x, y, until_s, thick: most = THICK }: Props) {
	const thick = (light: number) => Math.max(1.5, most * Math.min(1, light));
	const parts = looks.map((look, index) => ({ look, from: x(look.t_s), to: x(looks[index + 1]?.t_s ?? until_s) }));
	const lit = parts.filter((it) => it.look.light_ratio > 0);
	const edge = (side: 1 | -1) =>
		lit
			.map((it, index) => {
				const at = y + (side * thick(it.look.light_ratio)) / 2;
				const goesOn = index > 0 && Math.abs((lit[index - 1]?.to ?? 0) - it.from) < 0.01;
				return `${goesOn ? "L" : "M"}${it.from} ${at}H${it.to}`;
			})
			.join("");
	return (
		<>
			{lit.map((it) => (
				<rect
					key={it.look.t_s}
					x={it.from}
					y={y - thick(it.look.light_ratio) / 2}
					width={Math.max(0.6, it.to - it.from + 0.4)}
					height={thick(it.look.light_ratio)}
					fill={it.look.colour}
				/>
			))}
			<path d={edge(-1) + edge(1)} fill="none" className="stroke-ink" strokeWidth="0.75" opacity="0.55" />
		</>
	);
}
