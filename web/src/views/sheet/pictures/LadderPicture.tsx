import type { Panel } from "../../../api/client";

type Data = NonNullable<Panel["ladder"]>;
type Rung = Data["by_eye"][number];
const WIDE = 300;
const TALL = 84;
const NUMBERED_MOST = 12;

/** Brightness steps as stairs of what the eye sees, even to the eye beside even in duty, with the duty under each. */
export function LadderPicture({ picture }: { picture: Data }) {
	return (
		<div role="img" aria-label={picture.text} className="flex flex-wrap gap-x-8 gap-y-3">
			<Stairs label="Even to the eye" rungs={picture.by_eye} glow={picture.glow} isUsed={picture.used === "eye"} />
			<Stairs label="Even in duty" rungs={picture.by_duty} glow={picture.glow} isUsed={picture.used === "duty"} />
		</div>
	);
}

function Stairs({ label, rungs, glow, isUsed }: { label: string; rungs: readonly Rung[]; glow: string; isUsed: boolean }) {
	const step = WIDE / rungs.length;
	const every = Math.ceil(rungs.length / NUMBERED_MOST);
	const isNumbered = (index: number) => (rungs.length - 1 - index) % every === 0;
	return (
		<svg width={WIDE} height={TALL + 36} className="max-w-full overflow-visible font-number" aria-hidden="true">
			<text x="0" y="12" className={isUsed ? "fill-ink font-bold font-text text-xs" : "fill-soft font-text text-xs"}>
				{isUsed ? `${label}, used` : label}
			</text>
			{rungs.map((rung, index) => {
				const height = Math.max(2, rung.seen_ratio * (TALL - 20));
				return (
					// biome-ignore lint/suspicious/noArrayIndexKey: a step has no identity but its place
					<g key={index}>
						<rect
							x={index * step + 1}
							y={TALL + 18 - height}
							width={Math.max(1, step - 2)}
							height={height}
							fill={glow}
							className="stroke-ink"
							strokeWidth={isUsed ? 1.5 : 0.75}
						/>
						{isNumbered(index) && (
							<text
								x={(index + 0.5) * step}
								y={TALL + 32}
								textAnchor="middle"
								className={isUsed ? "fill-ink text-[10px]" : "fill-soft text-[10px]"}
							>
								{rung.duty}
							</text>
						)}
					</g>
				);
			})}
			<path d={`M0 ${TALL + 18}L${WIDE} 38`} className="stroke-soft" strokeWidth="1" strokeDasharray="2 4" />
		</svg>
	);
}
