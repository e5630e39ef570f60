import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { createContext, type ReactNode, useContext } from "react";
import { answered, api, type Patch, type ProjectState, type Run } from "./client";

const key = (id: string) => ["project", id];

export function useProject(id: string) {
	return useQuery({
		queryKey: key(id),
		queryFn: () => answered(api.GET("/api/projects/{project_id}", { params: { path: { project_id: id } } })),
	});
}

export function useShelf() {
	return useQuery({ queryKey: ["shelf"], queryFn: () => answered(api.GET("/api/projects")) });
}

const Current = createContext<ProjectState | null>(null);

export function ProjectProvider({ state, children }: { state: ProjectState; children: ReactNode }) {
	return <Current value={state}>{children}</Current>;
}

/** The project on the screen, as the server last told it. */
export function useCurrent(): ProjectState {
	const state = useContext(Current);
	if (state === null) throw new Error("outside a project");
	return state;
}

export type EditCall = { patch: Patch; summary: string };

/** Change the plan, or step through what was changed; the answer becomes the one review all views read. */
export function useEdit() {
	const state = useCurrent();
	const client = useQueryClient();
	const base = () => client.getQueryData<ProjectState>(key(state.id))?.revision ?? state.revision;
	const path = { project_id: state.id };
	const scope = { id: `edits-${state.id}` }; // one after the other, each on the revision before it
	const keep = (next: ProjectState) => {
		client.setQueryData(key(state.id), next);
		client.invalidateQueries({ queryKey: ["shelf"] });
	};
	const failed = () => client.invalidateQueries({ queryKey: key(state.id) });
	const edit = useMutation({
		scope,
		mutationFn: ({ patch, summary }: EditCall) =>
			answered(
				api.POST("/api/projects/{project_id}/edits", {
					params: { path },
					body: { base_revision: base(), patch, summary },
				}),
			),
		onSuccess: keep,
	});
	const undo = useMutation({
		scope,
		mutationFn: () =>
			answered(api.POST("/api/projects/{project_id}/undo", { params: { path }, body: { base_revision: base() } })),
		onSuccess: keep,
		onError: failed,
	});
	const redo = useMutation({
		scope,
		mutationFn: () =>
			answered(api.POST("/api/projects/{project_id}/redo", { params: { path }, body: { base_revision: base() } })),
		onSuccess: keep,
		onError: failed,
	});
	return { edit, undo, redo };
}

/** Build the merge patch that puts one value at a path. */
export function patchAt(path: readonly string[], value: unknown): Patch {
	return path.reduceRight<unknown>((inner, step) => ({ [step]: inner }), value) as Patch;
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
