import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answered, api, type ManyBuilds } from "../../api/client";
import { useEdit } from "../../api/project";
import { ActionButton } from "../../ui/ActionButton";
import { useWidth } from "../../ui/useWidth";

/** Ten thousand builds of one line with parts drawn inside their spreads: how its current or its volts fall out. */
export function Builds({ signal }: { signal: string }) {
	const { kept } = useEdit();
	const [isAsked, setAsked] = useState(false);
	const drawn = useQuery({
		queryKey: ["builds", kept.id, kept.revision, signal],
		queryFn: () =>
			answered(
				api.GET("/api/projects/{project_id}/builds", {
					params: { path: { project_id: kept.id }, query: { signal, seed: 1 } },
				}),
			),
		enabled: isAsked,
		placeholderData: (before) => before,
	});
	return (
		<div>
			<ActionButton isQuiet onPress={() => setAsked(!isAsked)}>
				{isAsked ? "Hide the ten thousand builds" : "Build it ten thousand times"}
			</ActionButton>
			{isAsked && (
				<div role="status" className="mt-2">
					<p className="text-note">{drawn.data?.sentence ?? drawn.error?.message ?? "building…"}</p>
					{drawn.data && <Heap builds={drawn.data} />}
				</div>
			)}
		</div>
	);
}

const MOST_WIDE = 400;
const HIGH = 64;
const FOOT = 20;

/** The builds heaped up along an axis; an end they should not go past stands as a dashed line where it is near. */
function Heap({ builds }: { builds: ManyBuilds }) {
	const [box, room] = useWidth<HTMLDivElement>(MOST_WIDE);
	const wide = Math.min(room, MOST_WIDE);
	const span = builds.most - builds.least || Math.abs(builds.most) || 1;
	const near = builds.bounds.filter((it) => it.at > builds.least - 2 * span && it.at < builds.most + 2 * span);
	const from = Math.min(builds.least, ...near.map((it) => it.at));
	const to = Math.max(builds.most, ...near.map((it) => it.at));
	const x = (value: number) => 30 + ((value - from) / (to - from || 1)) * (wide - 60);
	const tallest = Math.max(1, ...builds.bins.map((bin) => bin.count));
	const isPast = (at: number) => builds.bounds.some((it) => (it.is_most ? at > it.at : at < it.at));
	return (
		<div ref={box} className="mt-2">
			<svg width={wide} height={HIGH + FOOT} role="img" aria-label={builds.sentence}>
				<line x1={x(from)} x2={x(to)} y1={HIGH} y2={HIGH} className="stroke-hair" />
				{builds.bins.map((bin) => (
					<rect
						key={bin.least}
						x={x(bin.least)}
						y={HIGH - (bin.count / tallest) * (HIGH - 6)}
						width={Math.max(0.5, x(bin.most) - x(bin.least) - 0.6)}
						height={(bin.count / tallest) * (HIGH - 6)}
						className={isPast((bin.least + bin.most) / 2) ? "fill-cut" : "fill-ink"}
					/>
				))}
				{near.map((it) => (
					<g key={it.text}>
						<line x1={x(it.at)} x2={x(it.at)} y1={4} y2={HIGH} className="stroke-cut" strokeDasharray="3 3" />
						<Foot at={x(it.at)} text={it.text} />
					</g>
				))}
				{near.every((it) => Math.abs(x(it.at) - x(builds.least)) > 56) && <Foot at={x(builds.least)} text={builds.least_text} />}
				{near.every((it) => Math.abs(x(it.at) - x(builds.most)) > 56) && <Foot at={x(builds.most)} text={builds.most_text} />}
			</svg>
		</div>
	);
}

function Foot({ at, text }: { at: number; text: string }) {
	return (
		<text x={at} y={HIGH + FOOT - 5} textAnchor="middle" className="fill-soft font-number text-xs">
			{text}
		</text>
	);
}
