import { useInfiniteQuery, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answered, api, type EntryShown, type LogFilter } from "../../api/client";
import { useKept } from "../../api/project";

/** The log, found by typing and by kind, a page after the other. */
export function useLog(find: string, only: LogFilter | null) {
	const { id, revision } = useKept();
	return useInfiniteQuery({
		queryKey: ["log", id, revision, find, only],
		queryFn: ({ pageParam }) =>
			answered(
				api.GET("/api/projects/{project_id}/log", {
					params: { path: { project_id: id }, query: { find, skip: pageParam, ...(only && { only }) } },
				}),
			),
		initialPageParam: 0,
		getNextPageParam: (last, pages) => (last.has_more ? pages.reduce((sum, page) => sum + page.rows.length, 0) : undefined),
		placeholderData: (before) => before,
		staleTime: 0, // another window may write in it
	});
}

/** Read the log anew, here and wherever else it is shown. */
export function useAgain() {
	const { id } = useKept();
	const client = useQueryClient();
	return () => client.invalidateQueries({ queryKey: ["log", id] });
}

/** What is done to an entry that is there; each of it can be taken back. */
export function useEntry(entry: EntryShown) {
	const { id } = useKept();
	const again = useAgain();
	const path = { project_id: id, entry_id: entry.id };
	const params = { path };
	const base = "/api/projects/{project_id}/log/entries/{entry_id}";
	const doing = useMutation({
		mutationFn: (what: "throw" | "put back" | "before") => {
			if (what === "throw") return answered(api.PUT(`${base}/thrown`, { params }));
			if (what === "put back") return answered(api.DELETE(`${base}/thrown`, { params }));
			return answered(api.POST(`${base}/before`, { params, body: { version: entry.version } }));
		},
		onSettled: again,
	});
	return { act: doing.mutate, trouble: doing.error?.message ?? "" };
}

/** What is done to a photo that is there. */
export function usePhoto() {
	const { id } = useKept();
	const again = useAgain();
	const base = "/api/projects/{project_id}/log/photos/{photo_id}";
	const doing = useMutation({
		mutationFn: ({ photo, alt, isThrown }: { photo: number; alt?: string; isThrown?: boolean }) => {
			const params = { path: { project_id: id, photo_id: photo } };
			if (alt !== undefined) return answered(api.PUT(base, { params, body: { alt } }));
			if (isThrown) return answered(api.PUT(`${base}/thrown`, { params }));
			return answered(api.DELETE(`${base}/thrown`, { params }));
		},
		onSettled: again,
	});
	return { act: doing.mutateAsync, trouble: doing.error?.message ?? "" };
}

const LATER_MS = 400;

/** Notes for next time from other projects that speak of what is used here; asked for once a change has been drawn. */
export function useOffers() {
	const { id, revision } = useKept();
	const client = useQueryClient();
	const [gone, setGone] = useState<string | null>(null);
	const params = { path: { project_id: id } };
	const offers = useQuery({
		queryKey: ["next-time", id, revision],
		queryFn: async ({ signal }) => {
			await new Promise((done) => setTimeout(done, LATER_MS));
			return answered(api.GET("/api/projects/{project_id}/next-time", { params, signal }));
		},
		placeholderData: (before) => before,
	});
	const put = useMutation({
		mutationFn: async ({ uid, isGone }: { uid: string; isGone: boolean }) => {
			const where = { params: { path: { project_id: id, entry_id: uid } } };
			const call = isGone
				? api.PUT("/api/projects/{project_id}/next-time/{entry_id}/gone", where)
				: api.DELETE("/api/projects/{project_id}/next-time/{entry_id}/gone", where);
			const { response } = await call;
			if (!response.ok) throw new Error("That could not be kept. Try again.");
			setGone(isGone ? uid : null);
		},
		onSettled: () => client.invalidateQueries({ queryKey: ["next-time", id] }),
	});
	return {
		offers: offers.data ?? [],
		gone,
		letGo: (uid: string) => put.mutate({ uid, isGone: true }),
		offerAgain: (uid: string) => put.mutate({ uid, isGone: false }),
		trouble: put.error?.message ?? "",
	};
}
