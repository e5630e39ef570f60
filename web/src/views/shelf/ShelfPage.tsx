import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useLocation } from "wouter";
import { answered, api, type ProjectState, type ShelfItem } from "../../api/client";
import { sendFile } from "../../api/files";
import { useShelf } from "../../api/project";
import { ActionButton } from "../../ui/ActionButton";
import { Going, type Gone as Sent } from "../../ui/Going";
import { ShelfRow } from "./ShelfRow";

type Gone = { item: ShelfItem; from: ShelfItem["place"] };
const PLACES = [
	{ place: "shelf", title: "" },
	{ place: "archive", title: "Put away" },
	{ place: "bin", title: "Thrown away, until you bring it back" },
] as const;

/** All projects, each with its thread in small: open, start, copy, rename, put away, throw away and bring back. */
export default function ShelfPage() {
	const shelf = useShelf();
	const client = useQueryClient();
	const [, go] = useLocation();
	const file = useRef<HTMLInputElement>(null);
	const [trouble, setTrouble] = useState("");
	const [gone, setGone] = useState<Gone | null>(null);
	const [sent, setSent] = useState<Sent | null>(null);
	const going = useRef<AbortController | null>(null);
	useEffect(() => {
		document.title = "Projects, Odd Lamp";
	}, []);
	const refresh = () => client.invalidateQueries({ queryKey: ["shelf"] });
	const say = (caught: unknown) => setTrouble(caught instanceof Error ? caught.message : "That did not work.");
	const show = (next: ProjectState) => {
		client.setQueryData(["project", next.id], next);
		setTrouble("");
		go(`/projects/${next.id}`);
	};
	const start = (demo: string | null) =>
		answered(api.POST("/api/projects", { body: { start: demo === null ? "empty" : "demo", demo } })).then(show, say);
	const demos = useQuery({ queryKey: ["demos"], queryFn: () => answered(api.GET("/api/projects/demos")) });
	const bring = async (chosen: File) => {
		try {
			const head = new Uint8Array(await chosen.slice(0, 2).arrayBuffer());
			const isWhole = head[0] === 0x50 && head[1] === 0x4b; // as every ZIP begins
			if (!isWhole) return show(await answered(api.POST("/api/projects/import", { body: JSON.parse(await chosen.text()) })));
			going.current = new AbortController();
			const told = (done: number) => setSent({ what: chosen.name, done, size: chosen.size });
			told(0);
			show(await sendFile<ProjectState>("/api/projects/import/archive", chosen, told, going.current.signal));
		} catch (caught) {
			say(caught instanceof SyntaxError ? new Error("This file is neither a plan nor a whole project.") : caught);
		} finally {
			setSent(null);
		}
	};
	const put = async (item: ShelfItem, place: ShelfItem["place"]) => {
		try {
			await answered(
				api.POST("/api/projects/{project_id}/place", { params: { path: { project_id: item.id } }, body: { place } }),
			);
			setGone(place === "shelf" ? null : { item, from: item.place });
			setTrouble("");
			refresh();
		} catch (caught) {
			say(caught);
		}
	};
	const copy = (item: ShelfItem) =>
		answered(api.POST("/api/projects/{project_id}/copy", { params: { path: { project_id: item.id } } })).then(show, say);
	const rename = (item: ShelfItem, title: string) =>
		answered(
			api.POST("/api/projects/{project_id}/edits", {
				params: { path: { project_id: item.id } },
				body: { base_revision: item.revision, patch: { title }, summary: `Called it ${title}` },
			}),
		).then(() => {
			client.removeQueries({ queryKey: ["project", item.id] });
			refresh();
		}, say);
	return (
		<main className="mx-auto max-w-3xl px-7 pt-10 pb-24 max-[720px]:px-4 max-[720px]:pt-6">
			<h1 className="font-bold font-said text-4xl">The shelf</h1>
			<p className="mt-3 flex flex-wrap gap-x-6 gap-y-2">
				<ActionButton onPress={() => start(null)}>New, empty</ActionButton>
				<ActionButton onPress={() => file.current?.click()}>Read a plan or a project</ActionButton>
			</p>
			<section aria-label="Demos" className="mt-3">
				<p className="text-note text-soft">Or put a demo on the shelf, with something in it to settle:</p>
				<ul className="mt-1 space-y-1">
					{demos.data?.map((it) => (
						<li key={it.name} className="flex flex-wrap items-baseline gap-x-3">
							<ActionButton onPress={() => start(it.name)}>{it.title}</ActionButton>
							<span className="text-note text-soft">{it.notes}</span>
						</li>
					))}
				</ul>
			</section>
			<input
				ref={file}
				type="file"
				accept="application/json,.json,application/zip,.zip"
				aria-label="Plan file"
				className="hidden"
				onChange={(event) => {
					const chosen = event.currentTarget.files?.[0];
					event.currentTarget.value = "";
					if (chosen) bring(chosen);
				}}
			/>
			{(trouble || shelf.error) && (
				<p role="alert" className="mt-4 rounded-2xl bg-cut px-5 py-2.5 text-sheet">
					{trouble || shelf.error?.message}
				</p>
			)}
			{sent && (
				<div className="mt-4">
					<Going gone={sent} onStop={() => going.current?.abort()} />
				</div>
			)}
			{gone && (
				<p role="status" className="mt-4 flex flex-wrap items-baseline gap-x-5 rounded-2xl bg-lampsoft px-5 py-2.5">
					<span className="flex-1">
						{gone.item.title} is {gone.item.place === gone.from && gone.from !== "shelf" ? "moved" : "off the shelf"}.
					</span>
					<ActionButton onPress={() => put(gone.item, gone.from)}>Undo</ActionButton>
				</p>
			)}
			{shelf.isPending && <p className="mt-6 text-soft">Looking along the shelf…</p>}
			{PLACES.map(({ place, title }) => {
				const items = shelf.data?.filter((item) => item.place === place) ?? [];
				if (!items.length && place !== "shelf") return null;
				return (
					<section key={place} aria-label={title || "On the shelf"} className="mt-8">
						{title && <h2 className="text-soft">{title}</h2>}
						{!items.length && shelf.data && <p className="text-soft">The shelf is empty. Start a light above.</p>}
						<ul>
							{items.map((item) => (
								<ShelfRow key={item.id + item.title} item={item} onPut={put} onCopy={copy} onRename={rename} />
							))}
						</ul>
					</section>
				);
			})}
		</main>
	);
}
