import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { createContext, type ReactNode, useCallback, useContext, useEffect, useMemo, useRef, useState } from "react";
import { answered, api, type Clash, type Patch, type ProjectState, Refusal, type Run, type Sheet, type Trial } from "./client";

const key = (id: string) => ["project", id];

export function useProject(id: string, stage: string | null) {
	return useQuery({
		queryKey: key(id),
		queryFn: () => answered(api.GET("/api/projects/{project_id}", { params: { path: { project_id: id }, query: { stage } } })),
	});
}

/** The sheet of a stage: the one that came with the last answer, else fetched; the last one stays until it is there. */
export function useSheet(stage: string): Sheet | undefined {
	const { shown, attempt, look } = useEdit();
	const here = shown.review.sheets[stage];
	const fetched = useQuery({
		queryKey: ["sheet", shown.id, shown.revision, stage],
		queryFn: () =>
			answered(
				api.GET("/api/projects/{project_id}/sheet", {
					params: { path: { project_id: shown.id }, query: { revision: shown.revision, stage } },
				}),
			),
		enabled: !here && !attempt?.trial && stage !== "",
		placeholderData: (before) => before,
	});
	useEffect(() => look(stage), [look, stage]);
	return here ?? fetched.data;
}

export function useShelf() {
	return useQuery({ queryKey: ["shelf"], queryFn: () => answered(api.GET("/api/projects")) });
}

export type EditCall = { patch: Patch; summary: string };
/** Changes looked at and not kept: held until let go by the reader, or only while a value is being turned. */
export type Attempt = { patch: Patch; notes: readonly string[]; trial: Trial | null; isHeld: boolean };
/** What did not go through, and how to try it again. */
export type Trouble = { message: string; again?: () => void; isAway: boolean };
export type Conflict = EditCall & { clashes: readonly Clash[] };

type Project = {
	kept: ProjectState;
	shown: ProjectState;
	/** Change the plan, or only the attempt where one is held; tells the refusal, which a field shows where it stands. */
	change: (call: EditCall, isAtField?: boolean) => Promise<Error | null>;
	undo: ReturnType<typeof useMutation<ProjectState, Error, void>>;
	redo: ReturnType<typeof useMutation<ProjectState, Error, void>>;
	keepAll: ReturnType<typeof useMutation<ProjectState, Error, void>>;
	restore: ReturnType<typeof useMutation<ProjectState, Error, number>>;
	isBusy: boolean;
	attempt: Attempt | null;
	/** Look at a change while a value is being turned; `keep` or `letGo` ends it. */
	turn: (call: EditCall) => Promise<Error | null>;
	keep: () => Promise<Error | null>;
	letGo: () => void;
	hold: () => void;
	trouble: Trouble | null;
	conflict: Conflict | null;
	settleConflict: (isMine: boolean) => void;
	/** Tell which stage is looked at, so that every answer brings its sheet. */
	look: (stage: string) => void;
};

const Current = createContext<Project | null>(null);

/** The project on the screen: what is kept, or what an attempt would make of it. */
export function useEdit(): Project {
	const project = useContext(Current);
	if (project === null) throw new Error("outside a project");
	return project;
}

export function useCurrent(): ProjectState {
	return useEdit().shown;
}

/** Build the merge patch that puts one value at a path. */
export function patchAt(path: readonly string[], value: unknown): Patch {
	return path.reduceRight<unknown>((inner, step) => ({ [step]: inner }), value) as Patch;
}

const isObject = (value: unknown): value is Patch => typeof value === "object" && value !== null && !Array.isArray(value);

/** Two merge patches as one; nulls of both stay. */
function joinPatches(one: Patch, other: Patch): Patch {
	const joined: Patch = { ...one };
	for (const [step, value] of Object.entries(other)) {
		const inner = joined[step];
		joined[step] = isObject(inner) && isObject(value) ? joinPatches(inner, value) : value;
	}
	return joined;
}

export function ProjectProvider({ state, children }: { state: ProjectState; children: ReactNode }) {
	const { id } = state;
	const client = useQueryClient();
	const path = useMemo(() => ({ project_id: id }), [id]);
	const [attempt, setAttempt] = useState<Attempt | null>(null);
	const [trouble, setTrouble] = useState<Trouble | null>(null);
	const [conflict, setConflict] = useState<Conflict | null>(null);
	const base = useCallback(() => client.getQueryData<ProjectState>(key(id))?.revision ?? state.revision, [client, id, state]);
	const tell = useNeighbours(id);
	const stage = useRef<string | null>(null);

	const shared = {
		scope: { id: `edits-${id}` }, // one after the other, each on the revision before it
		onSuccess: async (next: ProjectState) => {
			// A reading asked for before this was kept may answer after it, and would put the old state back.
			const isAsked = client.isFetching({ queryKey: key(id) }) > 0;
			await client.cancelQueries({ queryKey: key(id) });
			client.setQueryData(key(id), next);
			if (isAsked) client.invalidateQueries({ queryKey: key(id) });
			client.invalidateQueries({ queryKey: ["history", id] });
			setTrouble(null);
			tell();
		},
	};
	const failed = (error: Error, again: () => void) => {
		const status = error instanceof Refusal ? error.status : -1;
		if (status === 409) client.invalidateQueries({ queryKey: key(id) });
		setTrouble({ message: error.message, again: status === 409 || status === 422 ? undefined : again, isAway: status === 0 });
	};
	const edit = useMutation<ProjectState, Error, EditCall>({
		...shared,
		mutationFn: ({ patch, summary }) =>
			answered(
				api.POST("/api/projects/{project_id}/edits", {
					params: { path },
					body: { base_revision: base(), patch, summary, stage: stage.current },
				}),
			),
	});
	const undo = useMutation<ProjectState, Error, void>({
		...shared,
		mutationFn: () =>
			answered(
				api.POST("/api/projects/{project_id}/undo", { params: { path }, body: { base_revision: base(), stage: stage.current } }),
			),
		onError: (error) => failed(error, () => undo.mutate()),
	});
	const redo = useMutation<ProjectState, Error, void>({
		...shared,
		mutationFn: () =>
			answered(
				api.POST("/api/projects/{project_id}/redo", { params: { path }, body: { base_revision: base(), stage: stage.current } }),
			),
		onError: (error) => failed(error, () => redo.mutate()),
	});
	const keepAll = useMutation<ProjectState, Error, void>({
		...shared,
		mutationFn: () =>
			answered(
				api.POST("/api/projects/{project_id}/keep", {
					params: { path },
					body: { base_revision: base(), stage: stage.current },
				}),
			),
		onError: (error) => failed(error, () => keepAll.mutate()),
	});
	const restore = useMutation<ProjectState, Error, number>({
		...shared,
		mutationFn: (revision) =>
			answered(
				api.POST("/api/projects/{project_id}/restore", {
					params: { path },
					body: { base_revision: base(), revision, stage: stage.current },
				}),
			),
		onError: (error, revision) => failed(error, () => restore.mutate(revision)),
	});

	/** Send an edit; tell what came of it at the field, as a conflict to settle, or above the line. */
	const send = async (call: EditCall, isAtField: boolean): Promise<Error | null> => {
		try {
			await edit.mutateAsync(call);
			return null;
		} catch (caught) {
			const error = caught instanceof Error ? caught : new Error("That could not be kept.");
			if (error instanceof Refusal && error.clashes.length) {
				// What is chosen is put on top of what is kept there, so that has to be here first.
				await client.refetchQueries({ queryKey: key(id) });
				setConflict({ ...call, clashes: error.clashes });
			} else if (!(isAtField && error instanceof Refusal && error.status === 422)) failed(error, () => send(call, false));
			return error;
		}
	};
	const change = (call: EditCall, isAtField = false) => (attempt?.isHeld ? turn(call, isAtField) : send(call, isAtField));
	const asked = useRef(0);
	const turn = async ({ patch, summary }: EditCall, isAtField = true): Promise<Error | null> => {
		const turned = ++asked.current;
		const before = attempt;
		const about = summary.split(":")[0];
		const others = (before?.notes ?? []).filter((note) => note.split(":")[0] !== about);
		const notes = summary ? [...others, summary] : others;
		const next = { patch: joinPatches(before?.patch ?? {}, patch), notes, isHeld: before?.isHeld ?? false };
		setAttempt({ ...next, trial: before?.trial ?? null });
		try {
			const body = { base_revision: base(), patch: next.patch, stage: stage.current };
			const trial = await answered(api.POST("/api/projects/{project_id}/trials", { params: { path }, body }));
			if (turned === asked.current) setAttempt({ ...next, trial });
			return null;
		} catch (caught) {
			const error = caught instanceof Error ? caught : new Error("That could not be tried.");
			if (turned === asked.current) setAttempt(before);
			if (!(isAtField && error instanceof Refusal && error.status === 422)) failed(error, () => turn({ patch, summary }));
			return error;
		}
	};
	const letGo = () => {
		asked.current++;
		setAttempt(null);
	};
	const keep = async (): Promise<Error | null> => {
		const held = attempt;
		letGo();
		if (!held || !Object.keys(held.patch).length) return null;
		const call = { patch: held.patch, summary: held.notes.join("; ").slice(0, 200) };
		// What was only looked at stays on the screen until it is kept.
		const { trial } = held;
		if (trial) client.setQueryData<ProjectState>(key(id), (now) => now && { ...now, review: trial.review });
		const error = await send(call, false);
		if (error) client.invalidateQueries({ queryKey: key(id) });
		return error;
	};
	const hold = () => (attempt?.isHeld ? letGo() : setAttempt({ patch: {}, notes: [], trial: null, isHeld: true }));
	const settleConflict = (isMine: boolean) => {
		if (conflict && isMine) change({ patch: conflict.patch, summary: conflict.summary });
		setConflict(null);
	};

	const look = useCallback((wanted: string) => {
		stage.current = wanted;
	}, []);
	const unseen = attempt?.trial && stage.current !== null && !attempt.trial.review.sheets[stage.current];
	const again = useRef(turn);
	again.current = turn;
	useEffect(() => {
		// Another stage was chosen while a change is only tried: ask for its sheet as the trial has it.
		if (unseen) again.current({ patch: {}, summary: "" });
	}, [unseen]);

	const value: Project = {
		kept: state,
		shown: attempt?.trial ? { ...state, review: attempt.trial.review } : state,
		change,
		undo,
		redo,
		keepAll,
		restore,
		look,
		isBusy: [edit, undo, redo, restore, keepAll].some((it) => it.isPending),
		attempt,
		turn,
		keep,
		letGo,
		hold,
		trouble,
		conflict,
		settleConflict,
	};
	return <Current value={value}>{children}</Current>;
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

export type PlayedEvent = { kind: "control"; t_s: number; control: string; gesture: string };

export function playEvents(id: string, events: PlayedEvent[], since_s: number): Promise<Run> {
	return answered(
		api.POST("/api/projects/{project_id}/rehearsals", {
			params: { path: { project_id: id } },
			body: { events, since_s },
		}),
	);
}
