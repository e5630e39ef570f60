import { useLook } from "../../api/rehearsal";
import type { Point } from "./layout";

type Props = { at: Point; isChosen: boolean; isTight: boolean; isSmall: boolean; stage: string };

const SIGNS = 10; // what fits over a knot of what a display shows

/** A ring knot; the lamp's own glows with the light the rehearsal worked out. */
export function Knot({ at, isChosen, isTight, isSmall, stage }: Props) {
	const look = useLook([stage]);
	const light = Math.min(1, look?.light ?? 0);
	const radius = (isSmall ? 7 : 10) + (isChosen ? 2 : 0);
	return (
		<g transform={`translate(${at.x} ${at.y})`}>
			{light > 0 && (
				<>
					<circle
						r={isTight ? 10 + 7 * light : 12 + 15 * light}
						fill={look?.colour}
						opacity={0.3 + 0.4 * light}
						style={{ filter: "blur(7px)" }}
					/>
					<circle r={11} className="fill-unlit" />
				</>
			)}
			<circle r={radius} fill={isChosen && !light ? "var(--lamp)" : "var(--unlit)"} className="stroke-ink" strokeWidth="3" />
			{light > 0 && <circle r={isChosen ? 9.5 : 8} fill={look?.colour} opacity={0.3 + 0.7 * light} />}
			{look?.text && (
				<text y={-17} textAnchor="middle" className="fill-ink font-number text-note">
					{look.text.length > SIGNS ? `${look.text.slice(0, SIGNS)}…` : look.text}
				</text>
			)}
			{isChosen && light > 0 && <circle r={16} fill="none" stroke="var(--lamp)" strokeWidth="3" />}
		</g>
	);
}
