import { useQuery } from "@tanstack/react-query";
import { memo, useEffect, useState, useSyncExternalStore } from "react";
import { answered, api, type StartCard } from "../../api/client";
import { Playhead } from "../../api/playhead";
import { useEdits, useKept } from "../../api/project";
import { coloursOf, isDark } from "../sheet/pictures/dots";

const WIDE = 104;
const HIGH = 60;
const EDGE = 7;

/** Small whole projects to begin with: each by what it does, and its light going on and off. */
export function StartCards({ onBegun }: { onBegun: (stage: string) => void }) {
	const { id, revision } = useKept();
	const { change } = useEdits();
	const [refused, setRefused] = useState("");
	const starts = useQuery({
		queryKey: ["starts"],
		queryFn: () => answered(api.GET("/api/projects/starts")),
		staleTime: Number.POSITIVE_INFINITY,
	});
	const head = useRound(starts.data);
	const begin = async (start: StartCard) => {
		setRefused("");
		try {
			const body = { base_revision: revision, start: start.name };
			const params = { path: { project_id: id } };
			const begun = await answered(api.POST("/api/projects/{project_id}/begin", { params, body }));
			const error = await change({ patch: begun.move.patch, summary: `Begun as ${begun.move.label}` });
			if (error) setRefused(error.message);
			else onBegun(begun.leads_to);
		} catch (caught) {
			setRefused(caught instanceof Error ? caught.message : "That could not be begun.");
		}
	};
	return (
		<div>
			<h3 id="starts" className="mb-3 text-soft">
				Or begin with something whole, and change it
			</h3>
			{starts.isError && <p className="text-note">The starting points could not be read. {starts.error.message}</p>}
			<ul
				aria-labelledby="starts"
				className="grid min-h-[82rem] content-start gap-x-8 gap-y-4 min-[720px]:min-h-[46rem] min-[720px]:grid-cols-2 min-[1080px]:min-h-[31rem] min-[1080px]:grid-cols-3"
			>
				{starts.data?.map((start) => (
					<li key={start.name}>
						<button type="button" onClick={() => begin(start)} className="group flex items-start gap-3 text-left">
							<Lit start={start} head={head} />
							<span>
								<span className="block font-said font-semibold leading-tight group-hover:text-coppertext">{start.title}</span>
								<span className="mt-0.5 block text-note text-soft leading-snug">{start.does}</span>
							</span>
						</button>
					</li>
				))}
			</ul>
			<p role="alert" className="mt-2 text-cut text-note empty:hidden">
				{refused}
			</p>
		</div>
	);
}

/** One moment for all pictures, going round and round; where motion is not wanted it stands still. */
function useRound(starts: readonly StartCard[] | undefined): Playhead {
	const [head] = useState(() => new Playhead());
	useEffect(() => {
		if (!starts) return;
		const looks = Object.fromEntries(
			starts.flatMap((start) => start.lights.map((light) => [`${start.name} ${light.label}`, light.looks])),
		);
		const ends_s = Math.max(...starts.map((it) => it.ends_at_s));
		head.take({ looks });
		if (window.matchMedia("(prefers-reduced-motion: reduce)").matches) return head.moveTo(ends_s / 5);
		const round = () => {
			head.moveTo(0);
			head.goOn(ends_s, false, round);
		};
		round();
		return () => head.halt();
	}, [starts, head]);
	return head;
}

const Lit = memo(function Lit({ start, head }: { start: StartCard; head: Playhead }) {
	const each = (WIDE - 2 * EDGE) / start.lights.length;
	return (
		<svg width={WIDE} height={HIGH} aria-hidden="true" className="shrink-0">
			<rect width={WIDE} height={HIGH} rx="10" className="fill-night" />
			{start.lights.map((light, at) => (
				<One
					key={light.label}
					light={light}
					stage={`${start.name} ${light.label}`}
					head={head}
					from={EDGE + each * at}
					wide={each}
				/>
			))}
		</svg>
	);
});

type OneProps = { light: StartCard["lights"][number]; stage: string; head: Playhead; from: number; wide: number };

/** A lamp: a knot that glows, or its pixels where they stand. */
function One({ light, stage, head, from, wide }: OneProps) {
	const look = useSyncExternalStore(head.subscribe, () => head.look([stage]));
	const [x, y] = [from + wide / 2, HIGH / 2];
	if (light.places.length) {
		const xs = light.places.map((it) => it[0] as number);
		const ys = light.places.map((it) => it[1] as number);
		const [left, top] = [Math.min(...xs), Math.min(...ys)];
		const [across, down] = [Math.max(...xs) - left, Math.max(...ys) - top];
		const unit = Math.min((wide - 6) / (across + 1), (HIGH - 2 * EDGE) / (down + 1), 9);
		const colours = look?.pixels ? coloursOf(look.pixels, light.places.length) : [];
		return light.places.map((_, at) => (
			<circle
				// biome-ignore lint/suspicious/noArrayIndexKey: a pixel is its place in the chain
				key={at}
				cx={x + ((xs[at] ?? 0) - left - across / 2) * unit}
				cy={y + ((ys[at] ?? 0) - top - down / 2) * unit}
				r={unit * 0.38}
				fill={isDark(colours[at]) ? "var(--night-soft)" : colours[at]}
				opacity={isDark(colours[at]) ? 0.22 : 1}
			/>
		));
	}
	const lit = Math.min(1, look?.light ?? 0);
	const radius = Math.min(9, wide / 3);
	return (
		<g>
			{lit > 0 && (
				<circle cx={x} cy={y} r={radius * 2} fill={look?.colour} opacity={0.45 * lit} style={{ filter: "blur(5px)" }} />
			)}
			<circle cx={x} cy={y} r={radius} className="fill-night stroke-nightsoft" strokeWidth="1.5" />
			{lit > 0 && <circle cx={x} cy={y} r={radius - 1} fill={look?.colour} opacity={0.3 + 0.7 * lit} />}
		</g>
	);
}
