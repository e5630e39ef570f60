import {
	createContext,
	type ReactNode,
	useContext,
	useEffect,
	useMemo,
	useReducer,
	useRef,
	useState,
	useSyncExternalStore,
} from "react";
import { answered, api } from "./client";
import { type Look, Playhead } from "./playhead";
import { useAttempt, useKept } from "./project";
import { type Doing, type Leg, type LightLook, type PlayedEvent, reduceTake, stepsOf, type Take, UNPLAYED } from "./take";

type Hands = {
	play: (doing: Doing) => void;
	wait: () => void;
	/** Let other events have been done: a take that is played again, or one with something taken out. */
	load: (events: readonly PlayedEvent[]) => void;
	startOver: () => void;
	/** What has been done until this moment, the answer to the last of it come or not. */
	done: () => readonly PlayedEvent[];
};

const LEG_MS = 300;
/** How long what goes on by itself is followed while nobody presses anything, s. */
const FOLLOWED_S = 120;
const TakeContext = createContext<Take | null>(null);
const HandsContext = createContext<Hands | null>(null);
const HeadContext = createContext<Playhead>(new Playhead());

/** What the first lit one of some lamps looks like at the moment that is shown; nothing where it was never told anything. */
export function useLook(stages: readonly string[]): Look | undefined {
	const head = useContext(HeadContext);
	return useSyncExternalStore(head.subscribe, () => head.look(stages));
}

/** What can be done with the phone; the same functions for as long as the project is open. */
export function usePhone(): Hands {
	const hands = useContext(HandsContext);
	if (hands === null) throw new Error("outside a rehearsal");
	return hands;
}

/** The moment that is shown, to be moved or played on; the same for as long as the project is open. */
export function usePlayhead(): Playhead {
	return useContext(HeadContext);
}

/** What was done so far. */
export function useTake() {
	const take = useContext(TakeContext);
	if (take === null) throw new Error("outside a rehearsal");
	return { events: take.events, error: take.error, isPlayed: take.run !== null };
}

/** How far the last message has run, what it reached, and what the lamps look like. */
export function useRehearsal() {
	const take = useContext(TakeContext);
	if (take === null) throw new Error("outside a rehearsal");
	return useMemo(() => {
		const steps = stepsOf(take);
		const isRunning = take.run !== null && take.step < steps.length;
		const reached = new Map<string, Leg>();
		for (const legs of steps.slice(0, take.step + 1)) for (const leg of legs) reached.set(leg.stage, leg);
		// The press itself is what is summed up; a reply of the board only runs back along the thread.
		const first = take.journey > 0 || !isRunning ? take.run?.journeys[0] : undefined;
		return {
			reached,
			moving: isRunning ? (steps[take.step] ?? []) : [],
			moveKey: `${take.run?.journeys[take.journey]?.message ?? 0}.${take.step}`,
			sentence: first?.sentence ?? "",
			isLost: first?.is_lost ?? false,
			isDoubted: first?.is_doubted ?? false,
			error: take.error,
			hasPlayed: take.run !== null,
			...cameBack(take, isRunning),
		};
	}, [take]);
}

/** What has come back to the phone, once the message has run: what a light shows, by its control, and the last answer in words. */
function cameBack(take: Take, isRunning: boolean) {
	const until_s = isRunning ? (take.run?.journeys[0]?.starts_s ?? 0) : Number.POSITIVE_INFINITY;
	const lights: Record<string, LightLook> = {};
	for (const [control, course] of Object.entries(take.run?.lights ?? {})) {
		const last = course.findLast((look) => look.t_s < until_s);
		if (last) lights[control] = last;
	}
	const since_s = take.run?.journeys[0]?.starts_s ?? 0;
	const answer = isRunning ? "" : (take.run?.answers.filter((it) => it.t_s >= since_s).at(-1)?.text ?? "");
	return { lights, answer };
}

type Props = { children: ReactNode; isInstant?: boolean };

/**
 * Play what is pressed through the plan on the screen: the kept one, or the one an attempt makes of it. Where no line shows
 * the message running, nothing waits for it.
 */
export function RehearsalProvider({ children, isInstant = false }: Props) {
	const { id, revision } = useKept();
	const attempt = useAttempt();
	const [take, dispatch] = useReducer(reduceTake, UNPLAYED);
	const isStill = useMemo(() => isInstant || window.matchMedia("(prefers-reduced-motion: reduce)").matches, [isInstant]);
	const [head] = useState(() => new Playhead());
	const now = useRef({ take, revision, patch: attempt?.patch });
	now.current = { take, revision, patch: attempt?.patch };
	const hands = useMemo<Hands>(() => {
		// Presses quicker than their answers are put together here, so that none is forgotten.
		let pressed: { events: readonly PlayedEvent[]; begun_ms: number } = UNPLAYED;
		const made: Hands = {
			/** Follow what goes on by itself for some more seconds. */
			wait: async () => {
				const mine = pressed;
				const last_s = Math.max(0, ...mine.events.map((it) => it.t_s));
				if (!now.current.take.run?.goes_on || !mine.events.length || head.at_s > last_s + FOLLOWED_S) return;
				const { revision: base_revision, patch = {} } = now.current;
				const wait = { kind: "wait", t_s: head.at_s };
				const body = { events: [...mine.events.map((it) => ({ ...it })), wait], since_s: head.at_s, patch, base_revision };
				try {
					const run = await answered(
						api.POST("/api/projects/{project_id}/rehearsals", { params: { path: { project_id: id } }, body }),
					);
					if (pressed !== mine) return;
					head.take(run);
					head.goOn(run.ends_at_s, isStill, () => made.wait());
				} catch {
					// What is shown stays; the next press tells what is wrong.
				}
			},
			play: async (doing) => {
				const begun_ms = pressed.events.length ? pressed.begun_ms : performance.now();
				// In whole milliseconds, as passes are: the same press is told the same way whenever it comes.
				const since_s = Math.round(performance.now() - begun_ms) / 1000;
				const event: PlayedEvent = { ...doing, t_s: since_s };
				const mine = { events: [...pressed.events, event], begun_ms };
				pressed = mine;
				try {
					const { revision: base_revision, patch = {} } = now.current;
					const body = { events: mine.events.map((it) => ({ ...it })), since_s, patch, base_revision };
					const params = { path: { project_id: id } };
					const run = await answered(api.POST("/api/projects/{project_id}/rehearsals", { params, body }));
					if (pressed !== mine) return;
					head.take(run);
					// A press may cut an earlier message's run short: its lamps are where they were just before this one.
					head.moveTo(since_s - 1e-4);
					dispatch({ kind: "played", ...mine, run });
				} catch (caught) {
					if (pressed === mine) pressed = now.current.take;
					dispatch({ kind: "failed", error: caught instanceof Error ? caught.message : "The rehearsal could not be played." });
				}
			},
			load: async (events) => {
				const last_s = Math.max(0, ...events.map((it) => it.t_s));
				const mine = { events, begun_ms: performance.now() - 1000 * (last_s + 1) };
				pressed = mine;
				try {
					const { revision: base_revision, patch = {} } = now.current;
					const body = { events: events.map((it) => ({ ...it })), since_s: 0, patch, base_revision };
					const params = { path: { project_id: id } };
					const run = await answered(api.POST("/api/projects/{project_id}/rehearsals", { params, body }));
					if (pressed !== mine) return;
					head.take(run);
					dispatch({ kind: "loaded", ...mine, run });
				} catch (caught) {
					dispatch({ kind: "failed", error: caught instanceof Error ? caught.message : "The take could not be played." });
				}
			},
			startOver: () => {
				pressed = UNPLAYED;
				head.clear();
				dispatch({ kind: "over" });
			},
			done: () => pressed.events,
		};
		return made;
	}, [id, head, isStill]);
	useEffect(() => {
		if (take.run === null) return;
		if (take.isLoaded) return; // it is looked at over time, and no message runs
		const legs = stepsOf(take)[take.step];
		if (legs) head.moveTo(Math.max(head.at_s, ...legs.map((leg) => leg.at_s)));
		if (take.step >= stepsOf(take).length && take.journey + 1 >= take.run.journeys.length) {
			head.goOn(take.run.ends_at_s, isStill, () => hands.wait());
			return () => head.halt();
		}
		const wait = isStill ? 0 : take.step === 0 ? LEG_MS / 6 : LEG_MS;
		const timer = setTimeout(() => dispatch({ kind: "step" }), wait);
		return () => clearTimeout(timer);
	}, [take, isStill, head, hands]);
	return (
		<HeadContext value={head}>
			<HandsContext value={hands}>
				<TakeContext value={take}>{children}</TakeContext>
			</HandsContext>
		</HeadContext>
	);
}
