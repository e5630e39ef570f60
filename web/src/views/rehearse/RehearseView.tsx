import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { answered, api } from "../../api/client";
import { useAttempt, useEdits, useKept, useReview } from "../../api/project";
import { usePhone, usePlayhead, useTake } from "../../api/rehearsal";
import { ActionButton } from "../../ui/ActionButton";
import { TakeList } from "./TakeList";
import { TimeLanes } from "./TimeLanes";
import { Troubles } from "./Troubles";

type Window = { from_s: number; to_s: number | null };
const WHOLE: Window = { from_s: 0, to_s: null };
const CLOSER = 0.4;

/** A rehearsal over time: a lane a stage, troubles to put in, and takes to keep and hold against each other. */
export default function RehearseView() {
	const { id, revision } = useKept();
	const { befalls } = useReview();
	const attempt = useAttempt();
	const { events, error } = useTake();
	const { load, startOver } = usePhone();
	const { change } = useEdits();
	const head = usePlayhead();
	const [shown, setShown] = useState<Window>(WHOLE);
	const [at_s, setAt] = useState(0);
	const [isPlaying, setPlaying] = useState(false);
	const patch = attempt?.patch ?? {};
	const run = useQuery({
		queryKey: ["timeline", id, revision, patch, events, shown],
		queryFn: () =>
			answered(
				api.POST("/api/projects/{project_id}/rehearsals/timeline", {
					params: { path: { project_id: id } },
					body: { events: events.map((it) => ({ ...it })), patch, base_revision: revision, ...shown },
				}),
			),
		placeholderData: keepPreviousData,
		gcTime: 10_000,
	});
	useEffect(() => () => head.halt(), [head]);
	const view = run.data;
	const whole_s = view?.whole_s ?? 1;
	const [from_s, to_s] = [shown.from_s, shown.to_s ?? whole_s];
	const place = (next_s: number) => {
		setPlaying(false);
		const kept_s = Math.min(Math.max(next_s, 0), whole_s);
		setAt(kept_s);
		head.moveTo(kept_s);
		const long_s = to_s - from_s;
		if (kept_s < from_s || kept_s > to_s) setShown({ from_s: Math.max(0, kept_s - long_s / 2), to_s: kept_s + long_s / 2 });
	};
	const zoom = (factor: number, about_s = at_s) => {
		const long_s = Math.max(0.002, (to_s - from_s) * factor);
		if (long_s >= whole_s) return setShown(WHOLE);
		const begin_s = Math.min(Math.max(0, about_s - ((about_s - from_s) / (to_s - from_s)) * long_s), whole_s - long_s);
		setShown({ from_s: begin_s, to_s: begin_s + long_s });
	};
	const move = (share: number) => {
		const long_s = to_s - from_s;
		const begin_s = Math.min(Math.max(0, from_s + share * long_s), Math.max(0, whole_s - long_s));
		setShown({ from_s: begin_s, to_s: begin_s + long_s });
	};
	const evening = view?.evening;
	const play = () => {
		if (isPlaying) {
			head.halt();
			setAt(head.at_s);
			return setPlaying(false);
		}
		const begin_s = at_s >= whole_s - 0.01 ? 0 : at_s;
		head.moveTo(begin_s);
		setPlaying(true);
		head.goOn(whole_s, false, () => {
			setPlaying(false);
			setAt(whole_s);
		});
	};
	return (
		<article aria-labelledby="rehearse" className="space-y-6 px-8 py-6 pb-24 max-[720px]:px-4">
			<header>
				<h2 id="rehearse" className="font-bold font-said text-said leading-tight">
					{view?.sentence ?? "Working out what happens…"}
				</h2>
				<p className="mt-1 text-soft">
					Press on the phone, or turn what is there: it is put together here. Arrows step from one thing to the next, + and −
					bring it closer.
				</p>
				{(error || run.error) && (
					<p role="alert" className="mt-2 text-cut">
						{error || run.error?.message}
					</p>
				)}
			</header>
			{view && events.length > 0 && (
				<>
					<TimeLanes view={view} at_s={at_s} isPlaying={isPlaying} onPlace={place} onZoom={zoom} />
					<p className="flex flex-wrap gap-x-5 gap-y-2">
						<ActionButton onPress={play}>{isPlaying ? "Hold" : "Play"}</ActionButton>
						<ActionButton onPress={() => zoom(CLOSER)}>Closer</ActionButton>
						<ActionButton onPress={() => zoom(1 / CLOSER)} isOff={shown.to_s === null}>
							Farther
						</ActionButton>
						<ActionButton onPress={() => move(-0.5)} isOff={from_s <= 0}>
							Earlier
						</ActionButton>
						<ActionButton onPress={() => move(0.5)} isOff={shown.to_s === null || to_s >= whole_s}>
							Later
						</ActionButton>
						<ActionButton onPress={() => setShown(WHOLE)} isOff={shown.to_s === null}>
							All of it
						</ActionButton>
						<ActionButton
							onPress={() => {
								startOver();
								setShown(WHOLE);
								setAt(0);
							}}
						>
							All dark
						</ActionButton>
						{evening && (
							<ActionButton isQuiet onPress={() => change({ patch: evening.patch, summary: evening.label })}>
								{evening.label}
							</ActionButton>
						)}
					</p>
				</>
			)}
			<Troubles befalls={befalls} />
			<div className="grid grid-cols-2 gap-8 max-[900px]:grid-cols-1">
				<section aria-labelledby="done">
					<h3 id="done" className="font-bold font-said text-name">
						What was done
					</h3>
					{!events.length && <p className="mt-1 text-soft">Nothing yet.</p>}
					<ol className="mt-2">
						{view?.deeds.length === events.length &&
							view.deeds.map((deed, index) => (
								// biome-ignore lint/suspicious/noArrayIndexKey: an event has no identity but its place
								<li key={index} className="flex items-baseline gap-3 border-hair border-t py-1.5">
									<button
										type="button"
										onClick={() => place(deed.t_s)}
										className="w-20 shrink-0 text-left font-number text-note text-soft underline decoration-dotted underline-offset-2"
									>
										{deed.t_s.toFixed(2)} s
									</button>
									<span className="min-w-0 flex-1">{deed.text}</span>
									<button
										type="button"
										aria-label={`Take out: ${deed.text}`}
										onClick={() => load(events.filter((_, other) => other !== index))}
										className="shrink-0 text-note text-soft underline decoration-dotted underline-offset-2"
									>
										take out
									</button>
								</li>
							))}
					</ol>
				</section>
				<TakeList />
			</div>
		</article>
	);
}
