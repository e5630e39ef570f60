import type { Opening } from "../../api/client";
import { useEdits } from "../../api/project";
import { PlanChoice } from "../plan/PlanChoice";
import { StartCards } from "./StartCards";

/** The first questions of an empty project. Picking a lamp brings all the rest, proposed. */
export function OpeningView({
	opening,
	onLamp,
	onBegun,
}: {
	opening: Opening;
	onLamp: () => void;
	onBegun: (stage: string) => void;
}) {
	const { change } = useEdits();
	return (
		<section aria-labelledby="opening" className="mx-auto max-w-5xl space-y-8 px-8 pt-8 pb-10">
			<div>
				<h2 id="opening" className="font-bold font-said text-4xl">
					{opening.sentence}
				</h2>
				<p className="mt-1 text-soft">
					Pick one. Everything between your thumb and it is then proposed, worked out and ready to rehearse.
				</p>
			</div>
			<ul className="flex flex-wrap gap-x-3 gap-y-5">
				{opening.lamps.map((lamp) => (
					<li key={lamp.label} className={lamp.state ? "max-w-80" : ""}>
						<button
							type="button"
							disabled={lamp.state === "stop"}
							onClick={() => change({ patch: lamp.patch, summary: lamp.label }).then((error) => !error && onLamp())}
							className="flex items-center gap-2 text-left enabled:hover:text-coppertext"
						>
							<LampKnot glow={lamp.glow} />
							<span>
								<span className="block font-said font-semibold text-lg">{lamp.label}</span>
								<span className="block text-note text-soft">{lamp.detail}</span>
							</span>
						</button>
					</li>
				))}
			</ul>
			<StartCards onBegun={onBegun} />
			<div>
				<h3 className="mb-3 text-soft">Or something else that is switched</h3>
				<ul aria-label="Or something else" className="grid gap-x-9 gap-y-3 min-[720px]:grid-cols-3">
					{opening.others.map((other) => (
						<li key={other.label}>
							<button
								type="button"
								disabled={other.state === "stop"}
								onClick={() => change({ patch: other.patch, summary: other.label }).then((error) => !error && onLamp())}
								className="text-left enabled:hover:text-coppertext disabled:[&>span:first-child]:text-soft"
							>
								<span className="block border-hair border-b-2 font-said font-semibold">{other.label}</span>
								<span className="block text-note text-soft">{other.detail}</span>
							</button>
						</li>
					))}
				</ul>
			</div>
			<div className="space-y-5">
				{opening.choices.map((choice) => (
					<PlanChoice key={choice.label} choice={choice} />
				))}
			</div>
		</section>
	);
}

/** A lit ring for a colour; three for a lamp that mixes its own. */
function LampKnot({ glow }: { glow?: string | null }) {
	const rings = glow ? [glow] : ["#ff4a33", "#35e07a", "#4a8dff"];
	return (
		<svg width="52" height="52" viewBox="-26 -26 52 52" aria-hidden="true" className="overflow-visible">
			{rings.map((colour, index) => {
				const at = rings.length === 1 ? { x: 0, y: 0 } : { x: [-7, 7, 0][index], y: [5, 5, -7][index] };
				return (
					<g key={colour} transform={`translate(${at.x} ${at.y})`}>
						<circle r={rings.length === 1 ? 20 : 13} fill={colour} opacity="0.5" style={{ filter: "blur(6px)" }} />
						<circle r={rings.length === 1 ? 11 : 7} fill={colour} className="stroke-ink" strokeWidth="3" />
					</g>
				);
			})}
		</svg>
	);
}
