import { scaleLinear } from "d3-scale";
import { type KeyboardEvent, useEffect, useRef, useState, useSyncExternalStore } from "react";
import { answered, api, type Score, type Scored } from "../../api/client";
import { useAttempt, useEdits, useKept, useLatest } from "../../api/project";
import { usePhone, usePlayhead, useTake } from "../../api/rehearsal";
import { ActionButton } from "../../ui/ActionButton";
import { LightThread } from "../../ui/LightThread";
import { useWidth } from "../../ui/useWidth";
import { PlanEntry } from "../plan/PlanEntry";
import { PlanMoves } from "../plan/PlanMoves";
import { ScoreStep } from "./ScoreStep";
import { TimeField } from "./TimeField";

const TALL = 40;
const NAMES = 118;
const HEAD = 6;
const COARSE_S = 0.1;
const FINE_S = 0.01;
const REACH = 24; // as large as a finger needs
const BRIGHTER = 0.1;
const NEXT_S = 0.5;

type Touched = { step: number; at_s: number; target: string };
const NOBODY: Touched = { step: -1, at_s: 0, target: "" };
type Edit = { kind: string; [field: string]: unknown };

/** A cue as threads of light: a knot for each step, moved by arrows, turned below. */
export function ScoreView({ score, targets }: { score: Score; targets: Readonly<Record<string, string>> }) {
	const { id: project } = useKept();
	const latest = useLatest();
	const { change } = useEdits();
	const attempt = useAttempt();
	const isHeld = attempt?.isHeld;
	const { play } = usePhone();
	const [box, room] = useWidth<HTMLDivElement>(740);
	const [chosen, setChosen] = useState<number | null>(null);
	const [picked, setPicked] = useState("");
	const [refused, setRefused] = useState("");
	const [touched, setTouched] = useState(0);
	const [ahead, setAhead] = useState<{ step: number; at_s: number } | null>(null); // where a knot is on its way to
	const now = useRef<Touched>(NOBODY);
	const turn = useRef(Promise.resolve());
	const waiting = useRef(0);
	const follow = useRef<number | null>(null);
	const knots = useRef(new Map<number, HTMLButtonElement>());
	const x = scaleLinear([0, score.whole_s], [NAMES, room - 14]);
	const tall = HEAD + Math.max(score.threads.length, 1) * TALL;
	useEffect(() => {
		const knot = follow.current === null ? undefined : knots.current.get(follow.current);
		if (!knot?.isConnected || !touched) return;
		knot.focus();
		follow.current = null;
	}, [touched]);
	const edit = async (made: (knot: Touched) => Edit) => {
		setRefused("");
		try {
			const edit = made(now.current);
			const goOn = (next: Scored) => {
				now.current = { step: next.step ?? -1, at_s: next.at_s, target: next.target };
				follow.current = next.step;
				setChosen(next.step);
			};
			if (isHeld) {
				const body = { base_revision: latest(), patch: attempt?.patch ?? {}, cue: score.cue, edit: edit as never };
				const params = { path: { project_id: project } };
				const next = await answered(api.POST("/api/projects/{project_id}/score", { params, body }));
				await change({ patch: next.move.patch, summary: next.move.label });
				goOn(next);
			} else {
				const error = await change({ patch: {}, summary: score.label, score: { cue: score.cue, edit, onKept: goOn } }, true);
				if (error) throw error;
			}
			setTouched((count) => count + 1); // so that it is looked for even where it is the one of before
		} catch (caught) {
			setRefused(caught instanceof Error ? caught.message : "That step cannot be.");
		}
	};
	/** Keys come quicker than answers: each stands on what the one before it made of the step. */
	const inTurn = (made: (knot: Touched) => Edit) => {
		waiting.current += 1;
		turn.current = turn.current
			.then(() => edit(made))
			.finally(() => {
				waiting.current -= 1;
				if (!waiting.current) setAhead(null);
			});
	};
	const press = (event: KeyboardEvent) => {
		const by = event.shiftKey ? FINE_S : COARSE_S;
		const made = new Map<string, (knot: Touched) => Edit>([
			["ArrowRight", ({ step, at_s }) => ({ kind: "move", step, at_s: at_s + by })],
			["ArrowLeft", ({ step, at_s }) => ({ kind: "move", step, at_s: Math.max(0, at_s - by) })],
			["ArrowUp", ({ step }) => ({ kind: "brighten", step, by_ratio: BRIGHTER })],
			["ArrowDown", ({ step }) => ({ kind: "brighten", step, by_ratio: -BRIGHTER })],
			["+", ({ target, at_s }) => ({ kind: "add", target, at_s: at_s + NEXT_S })],
			["Insert", ({ target, at_s }) => ({ kind: "add", target, at_s: at_s + NEXT_S })],
			["Delete", ({ step }) => ({ kind: "remove", step })],
			["Backspace", ({ step }) => ({ kind: "remove", step })],
		]).get(event.key);
		if (!made || event.ctrlKey || event.metaKey || event.altKey) return;
		event.preventDefault();
		event.stopPropagation();
		const from_s = ahead?.step === shown?.step ? ahead?.at_s : shown?.at_s;
		if (shown && from_s !== undefined && event.key.startsWith("Arrow") && !/Up|Down/.test(event.key))
			setAhead({ step: shown.step, at_s: Math.max(0, from_s + (event.key === "ArrowRight" ? by : -by)) });
		inTurn(made);
	};
	const all = score.threads.flatMap((thread) => thread.knots);
	const shown = all.find((knot) => knot.step === chosen);
	const aim = picked || Object.keys(targets)[0] || "";
	return (
		<section aria-label={`Cue ${score.label}`} className="space-y-2">
			<h3 className="flex flex-wrap items-baseline gap-x-4 font-said font-semibold text-name">
				{score.sentence}
				<span className="font-normal font-text">
					<ActionButton onPress={() => play({ kind: "cue", cue: score.cue })}>Play</ActionButton>
				</span>
			</h3>
			<div ref={box} className="relative print:hidden">
				{score.threads.length > 0 && (
					<svg width={room} height={tall + 22} aria-hidden="true" className="block overflow-visible">
						{score.ticks.map((tick) => (
							<g key={tick.at}>
								<path d={`M${x(tick.at)} ${HEAD}V${tall + 3}`} className="stroke-hair" strokeWidth="1" />
								<text x={x(tick.at)} y={tall + 17} textAnchor="middle" className="fill-soft font-number text-xs">
									{tick.text}
								</text>
							</g>
						))}
						{score.threads.map((thread, row) => {
							const y = HEAD + row * TALL + TALL / 2;
							return (
								<g key={thread.lamp}>
									<text x={0} y={y + 4} className="fill-ink font-text text-note">
										{thread.label.length > 15 ? `${thread.label.slice(0, 14)}…` : thread.label}
									</text>
									<path d={`M${NAMES} ${y}H${room - 14}`} className="stroke-hair" strokeWidth="1.5" />
									<LightThread looks={thread.looks} x={x} y={y} until_s={score.whole_s} thick={24} />
								</g>
							);
						})}
						<Here score={score} x={x} tall={tall} />
					</svg>
				)}
				{score.threads.map((thread, row) =>
					thread.knots.map((knot) => (
						<button
							key={`${thread.lamp} ${knot.step}`}
							ref={(element) => {
								if (element && !knots.current.get(knot.step)?.isConnected) knots.current.set(knot.step, element);
							}}
							type="button"
							aria-label={`${knot.text}. Arrows move it, up and down dim it, + adds one after it, Delete takes it out`}
							aria-pressed={chosen === knot.step}
							onClick={() => setChosen(chosen === knot.step ? null : knot.step)}
							onFocus={() => {
								setChosen(knot.step);
								if (!waiting.current) now.current = knot;
							}}
							onKeyDown={press}
							style={{
								left: x(ahead?.step === knot.step ? ahead.at_s : knot.at_s) - REACH / 2,
								top: HEAD + row * TALL + (TALL - REACH) / 2,
								width: REACH,
								height: REACH,
							}}
							className="absolute grid place-items-center rounded-full"
						>
							<span
								className={`size-3.5 rounded-full border-[2.5px] border-ink ${chosen === knot.step ? "bg-lamp" : "bg-sheet"}`}
							/>
						</button>
					)),
				)}
			</div>
			{score.hidden > 0 && <p className="text-note text-soft">{score.hidden} more lamps are not drawn.</p>}
			{shown && (
				<ScoreStep
					key={`${score.cue} ${shown.step}`}
					score={score}
					step={shown.step}
					at_s={shown.at_s}
					text={shown.text}
					onMove={(at_s) => inTurn(() => ({ kind: "move", step: shown.step, at_s }))}
					onRemove={() => inTurn(() => ({ kind: "remove", step: shown.step }))}
				/>
			)}
			<p className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
				<label className="text-note text-soft">
					{"Lamp or group "}
					<select
						value={aim}
						onChange={(event) => setPicked(event.target.value)}
						className="border-hair border-b-2 bg-transparent text-base text-ink"
					>
						{Object.entries(targets).map(([key, label]) => (
							<option key={key} value={key}>
								{label}
							</option>
						))}
					</select>
				</label>
				<ActionButton onPress={() => inTurn(() => ({ kind: "add", target: aim }))}>Add a step</ActionButton>
				{score.threads
					.filter((thread) => thread.lamp !== aim && !thread.within.includes(aim) && targets[aim])
					.slice(0, 3)
					.map((thread) => (
						<ActionButton key={thread.lamp} onPress={() => inTurn(() => ({ kind: "copy", source: thread.lamp, to: aim }))}>
							{`Let ${targets[aim]} do what ${thread.label} does`}
						</ActionButton>
					))}
			</p>
			{refused && (
				<p role="alert" className="text-cut text-note">
					{refused}
				</p>
			)}
			<div className="flex flex-wrap items-end gap-x-7 gap-y-3">
				{score.entries.map((entry) => (
					<PlanEntry key={entry.path.join(".")} entry={entry} isWide />
				))}
				{score.round_s !== null && score.round_s !== undefined && (
					<TimeField label="Comes round after" at_s={score.round_s} onKeep={(at_s) => inTurn(() => ({ kind: "round", at_s }))} />
				)}
				<PlanMoves moves={score.moves} />
			</div>
		</section>
	);
}

const GLANCES = 50; // a second: finer than the eye follows

/** Where the cue stands while it is played. */
function Here({ score, x, tall }: { score: Score; x: (at_s: number) => number; tall: number }) {
	const head = usePlayhead();
	const { events } = useTake();
	const begun_s = events.findLast((it) => it.kind === "cue" && it.cue === score.cue)?.t_s;
	const gone_s = useSyncExternalStore(head.subscribe, () =>
		begun_s === undefined ? -1 : Math.round((head.at_s - begun_s) * GLANCES) / GLANCES,
	);
	const at_s = score.round_s ? gone_s % score.round_s : gone_s;
	if (begun_s === undefined || at_s < 0 || at_s > score.whole_s) return null;
	return <path d={`M${x(at_s)} 0V${tall + 3}`} className="stroke-copper" strokeWidth="2" />;
}
