import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { createContext, type ReactNode, useCallback, useContext, useEffect, useMemo, useRef, useState } from "react";
import { useLasting } from "../ui/useLasting";
import { answered, api, type Clash, type Patch, type ProjectState, Refusal, type Scored, type Trial } from "./client";
import { joinPatches } from "./patch";

/** A change of the plan in words; `about` names what it is of, so that a later one of the same replaces it while trying. */
export type EditCall = { patch: Patch; summary: string; about?: string; score?: ScoreCall };
/** A change of a cue that the core makes a patch of: keys come quicker than two requests. */
export type ScoreCall = { cue: string; edit: unknown; onKept: (made: Scored) => void };
type Note = { about: string; text: string };
/** Changes looked at and not kept: held until let go by the reader, or only while a value is being turned. */
export type Attempt = { patch: Patch; notes: readonly Note[]; trial: Trial | null; isHeld: boolean };
/** What did not go through, and how to try it again. */
export type Trouble = { message: string; again?: () => void; isAway: boolean };
export type Conflict = EditCall & { clashes: readonly Clash[] };

/** What can be done with a project; these stay the same functions for as long as it is open. */
export type Edits = {
	/** Change the plan, or only the attempt where one is held; tells the refusal, which a field shows where it stands. */
	change: (call: EditCall, isAtField?: boolean) => Promise<Error | null>;
	/** Look at a change while a value is being turned; `endTurn` keeps it or lets it go, unless an attempt is held. */
	turn: (call: EditCall) => Promise<Error | null>;
	endTurn: (isKept: boolean) => void;
	keep: () => Promise<Error | null>;
	letGo: () => void;
	hold: () => void;
	undo: () => void;
	redo: () => void;
	keepAll: () => void;
	restore: (revision: number) => void;
	settleConflict: (isMine: boolean) => void;
	/** Tell which stage is looked at, so that every answer brings its sheet. */
	look: (stage: string) => void;
};

const BUSY_FROM_MS = 200;
const key = (id: string) => ["project", id];

function used<T>(value: T | undefined): T {
	if (value === undefined) throw new Error("outside a project");
	return value;
}

// One context a concern: what changes in one of them does not redraw who reads only another.
const KeptContext = createContext<ProjectState | undefined>(undefined);
const AttemptContext = createContext<Attempt | null | undefined>(undefined);
const TroubleContext = createContext<{ trouble: Trouble | null; conflict: Conflict | null; isBusy: boolean } | undefined>(
	undefined,
);
const EditsContext = createContext<Edits | undefined>(undefined);

/** The project as it is kept. */
export const useKept = () => used(useContext(KeptContext));
export const useAttempt = () => used(useContext(AttemptContext));
export const useTrouble = () => used(useContext(TroubleContext));
export const useEdits = () => used(useContext(EditsContext));

/** The review on the screen: of what is kept, or of what an attempt would make of it. */
export function useReview() {
	const kept = useKept();
	return useAttempt()?.trial?.review ?? kept.review;
}

export function useProject(id: string, stage: string | null) {
	return useQuery({
		queryKey: key(id),
		queryFn: () => answered(api.GET("/api/projects/{project_id}", { params: { path: { project_id: id }, query: { stage } } })),
	});
}

/** Sheet and numbers of a stage: those that came with the last answer, else fetched; the last ones stay until they are there. */
export function useStage(stage: string) {
	const { id, revision } = useKept();
	const review = useReview();
	const isTried = useAttempt()?.trial != null;
	const { look } = useEdits();
	const sheet = review.sheets[stage];
	const fetched = useQuery({
		queryKey: ["stage", id, revision, stage],
		queryFn: () =>
			answered(api.GET("/api/projects/{project_id}/stage", { params: { path: { project_id: id }, query: { revision, stage } } })),
		enabled: !sheet && !isTried && stage !== "",
		placeholderData: (before) => before,
	});
	useEffect(() => look(stage), [look, stage]);
	return sheet ? { sheet, values: review.values, ways: {} } : fetched.data;
}

/** What is on the screen, as a question about it names it: a revision, and the changes that are only looked at. */
export function useAsked() {
	const { id, revision } = useKept();
	const attempt = useAttempt();
	const patch = attempt?.trial ? attempt.patch : undefined;
	const params = useMemo(() => ({ path: { project_id: id } }), [id]);
	return useMemo(() => ({ params, body: { base_revision: revision, patch: patch ?? {} } }), [params, revision, patch]);
}

/** The revision that is kept at the moment it is asked for: what follows an edit at once stands on that. */
export function useLatest() {
	const client = useQueryClient();
	const { id, revision } = useKept();
	return () => client.getQueryData<ProjectState>(key(id))?.revision ?? revision;
}

export function useShelf() {
	return useQuery({ queryKey: ["shelf"], queryFn: () => answered(api.GET("/api/projects")) });
}

type Params = { path: { project_id: string } };
type Step = ({ kind: "edit" } & EditCall) | { kind: "undo" | "redo" | "keep" } | { kind: "restore"; revision: number };

function write(id: string, step: Step, base_revision: number, stage: string | null): Promise<ProjectState> {
	const params = { path: { project_id: id } };
	const on = { base_revision, stage };
	switch (step.kind) {
		case "edit": {
			if (step.score) return keepScore(params, on, step.score);
			return answered(
				api.POST("/api/projects/{project_id}/edits", { params, body: { ...on, patch: step.patch, summary: step.summary } }),
			);
		}
		case "restore":
			return answered(api.POST("/api/projects/{project_id}/restore", { params, body: { ...on, revision: step.revision } }));
		case "undo":
			return answered(api.POST("/api/projects/{project_id}/undo", { params, body: on }));
		case "redo":
			return answered(api.POST("/api/projects/{project_id}/redo", { params, body: on }));
		case "keep":
			return answered(api.POST("/api/projects/{project_id}/keep", { params, body: on }));
	}
}

async function keepScore(params: Params, on: { base_revision: number; stage: string | null }, score: ScoreCall) {
	const body = { ...on, patch: {}, cue: score.cue, edit: score.edit as never };
	const { state, ...made } = await answered(api.POST("/api/projects/{project_id}/score-kept", { params, body }));
	score.onKept(made);
	return state;
}

const asError = (caught: unknown, otherwise: string) => (caught instanceof Error ? caught : new Error(otherwise));
const isForField = (error: Error) => error instanceof Refusal && error.status === 422;

export function ProjectProvider({ state, children }: { state: ProjectState; children: ReactNode }) {
	const { id } = state;
	const client = useQueryClient();
	const [attempt, setAttempt] = useState<Attempt | null>(null);
	const [trouble, setTrouble] = useState<Trouble | null>(null);
	const [conflict, setConflict] = useState<Conflict | null>(null);
	const tell = useNeighbours(id);
	const stage = useRef<string | null>(null);
	// What the functions below read at the moment they are called.
	const now = useRef({ attempt, conflict, revision: state.revision });
	now.current = { attempt, conflict, revision: state.revision };

	const { mutateAsync, isPending } = useMutation<ProjectState, Error, Step>({
		scope: { id: `edits-${id}` }, // one after the other, each on the revision before it
		mutationFn: (step) =>
			write(id, step, client.getQueryData<ProjectState>(key(id))?.revision ?? now.current.revision, stage.current),
		onSuccess: async (next) => {
			// A reading asked for before this was kept may answer after it, and would put the old state back.
			const isAsked = client.isFetching({ queryKey: key(id) }) > 0;
			await client.cancelQueries({ queryKey: key(id) });
			client.setQueryData(key(id), next);
			if (isAsked) client.invalidateQueries({ queryKey: key(id) });
			client.invalidateQueries({ queryKey: ["history", id] });
			setTrouble(null);
			tell();
		},
	});

	const edits = useMemo<Edits>(() => {
		let asked = 0;
		const failed = (error: Error, again: () => void) => {
			const status = error instanceof Refusal ? error.status : -1;
			if (status === 409) client.invalidateQueries({ queryKey: key(id) });
			setTrouble({ message: error.message, again: status === 409 || status === 422 ? undefined : again, isAway: status === 0 });
		};
		const step = (it: Step) => mutateAsync(it).catch((error: Error) => failed(error, () => step(it)));
		/** Send an edit; tell what came of it at the field, as a conflict to settle, or above the line. */
		const send = async (call: EditCall, isAtField: boolean): Promise<Error | null> => {
			try {
				await mutateAsync({ kind: "edit", ...call });
				return null;
			} catch (caught) {
				const error = asError(caught, "That could not be kept.");
				if (error instanceof Refusal && error.clashes.length && !call.score) {
					// What is chosen is put on top of what is kept there, so that has to be here first.
					await client.refetchQueries({ queryKey: key(id) });
					setConflict({ ...call, clashes: error.clashes });
				} else if (!(isAtField && isForField(error))) failed(error, () => send(call, false));
				return error;
			}
		};
		const tryOut = async ({ patch, summary, about = summary }: EditCall, isAtField: boolean): Promise<Error | null> => {
			const turned = ++asked;
			const before = now.current.attempt;
			const others = (before?.notes ?? []).filter((note) => note.about !== about);
			const notes = summary ? [...others, { about, text: summary }] : others;
			const next = { patch: joinPatches(before?.patch ?? {}, patch), notes, isHeld: before?.isHeld ?? false };
			setAttempt({ ...next, trial: before?.trial ?? null });
			try {
				const base_revision = client.getQueryData<ProjectState>(key(id))?.revision ?? now.current.revision;
				const body = { base_revision, patch: next.patch, stage: stage.current };
				const params = { path: { project_id: id } };
				const trial = await answered(api.POST("/api/projects/{project_id}/trials", { params, body }));
				if (turned === asked) setAttempt({ ...next, trial });
				return null;
			} catch (caught) {
				const error = asError(caught, "That could not be tried.");
				if (turned === asked) setAttempt(before);
				if (!(isAtField && isForField(error))) failed(error, () => tryOut({ patch, summary, about }, false));
				return error;
			}
		};
		const change = (call: EditCall, isAtField = false) =>
			now.current.attempt?.isHeld ? tryOut(call, isAtField) : send(call, isAtField);
		const letGo = () => {
			asked++;
			setAttempt(null);
		};
		const keep = async (): Promise<Error | null> => {
			const held = now.current.attempt;
			letGo();
			if (!held || !Object.keys(held.patch).length) return null;
			const summary = held.notes.map((note) => note.text).join("; ");
			// What was only looked at stays on the screen until it is kept.
			const { trial } = held;
			if (trial) client.setQueryData<ProjectState>(key(id), (it) => it && { ...it, review: trial.review });
			const error = await send({ patch: held.patch, summary: summary.slice(0, 200) }, false);
			if (error) client.invalidateQueries({ queryKey: key(id) });
			return error;
		};
		return {
			change,
			turn: (call) => tryOut(call, true),
			endTurn: (isKept) => {
				if (!now.current.attempt || now.current.attempt.isHeld) return;
				if (isKept) keep();
				else letGo();
			},
			keep,
			letGo,
			hold: () => (now.current.attempt?.isHeld ? letGo() : setAttempt({ patch: {}, notes: [], trial: null, isHeld: true })),
			undo: () => step({ kind: "undo" }),
			redo: () => step({ kind: "redo" }),
			keepAll: () => step({ kind: "keep" }),
			restore: (revision) => step({ kind: "restore", revision }),
			settleConflict: (isMine) => {
				const mine = now.current.conflict;
				if (mine && isMine) change({ patch: mine.patch, summary: mine.summary });
				setConflict(null);
			},
			look: (wanted) => {
				stage.current = wanted;
				const trial = now.current.attempt?.trial;
				// Another stage is looked at while a change is only tried: ask for its sheet as the trial has it.
				if (trial && !trial.review.sheets[wanted]) tryOut({ patch: {}, summary: "" }, false);
			},
		};
	}, [client, id, mutateAsync]);

	const isBusy = useLasting(isPending, BUSY_FROM_MS);
	const told = useMemo(() => ({ trouble, conflict, isBusy }), [trouble, conflict, isBusy]);
	return (
		<EditsContext value={edits}>
			<KeptContext value={state}>
				<AttemptContext value={attempt}>
					<TroubleContext value={told}>{children}</TroubleContext>
				</AttemptContext>
			</KeptContext>
		</EditsContext>
	);
}

/** Windows on the same project tell each other that something was kept. */
function useNeighbours(id: string): () => void {
	const client = useQueryClient();
	const channel = useRef<BroadcastChannel | null>(null);
	useEffect(() => {
		const mine = new BroadcastChannel("oddlamp-kept");
		mine.onmessage = (event: MessageEvent<string>) => {
			if (event.data === id) client.invalidateQueries({ queryKey: key(id) });
		};
		channel.current = mine;
		return () => mine.close();
	}, [client, id]);
	return useCallback(() => channel.current?.postMessage(id), [id]);
}
