import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useId, useState } from "react";
import { answered, api, type TakeName } from "../../api/client";
import { useKept } from "../../api/project";
import { usePhone, useTake } from "../../api/rehearsal";
import type { PlayedEvent } from "../../api/take";
import { ActionButton } from "../../ui/ActionButton";

const WORD = "text-note underline decoration-dotted underline-offset-2";

/** Rehearsals that are kept: played again, held against how they ran then, shared as a file. */
export function TakeList() {
	const { id, revision } = useKept();
	const { events } = useTake();
	const { load } = usePhone();
	const client = useQueryClient();
	const field = useId();
	const path = { project_id: id };
	const [name, setName] = useState("");
	const [thrown, setThrown] = useState<TakeName | null>(null);
	const [compared, setCompared] = useState<number | null>(null);
	const key = ["takes", id];
	const takes = useQuery({
		queryKey: key,
		queryFn: () => answered(api.GET("/api/projects/{project_id}/takes", { params: { path } })),
	});
	const again = () => client.invalidateQueries({ queryKey: key });
	const keep = useMutation({
		mutationFn: () =>
			answered(
				api.POST("/api/projects/{project_id}/takes", {
					params: { path },
					body: {
						name: name.trim() || `Take ${(takes.data?.length ?? 0) + 1}`,
						events: events.map((it) => ({ ...it })),
						revision,
					},
				}),
			),
		onSuccess: () => {
			setName("");
			return again();
		},
	});
	const read = useMutation({
		mutationFn: async (file: File) =>
			answered(api.POST("/api/projects/{project_id}/takes/import", { params: { path }, body: JSON.parse(await file.text()) })),
		onSuccess: again,
	});
	const replay = useMutation({
		mutationFn: (take_id: number) =>
			answered(api.GET("/api/projects/{project_id}/takes/{take_id}", { params: { path: { ...path, take_id } } })),
		onSuccess: (take) => load(take.events as PlayedEvent[]),
	});
	const put = async (take: TakeName, isThrown: boolean) => {
		const params = { path: { ...path, take_id: take.id } };
		if (isThrown) await answered(api.PUT("/api/projects/{project_id}/takes/{take_id}/thrown", { params }));
		else await answered(api.DELETE("/api/projects/{project_id}/takes/{take_id}/thrown", { params }));
		setThrown(isThrown ? take : null);
		again();
	};
	const error = keep.error ?? read.error ?? replay.error ?? takes.error;
	return (
		<section aria-labelledby="takes">
			<h3 id="takes" className="font-bold font-said text-name">
				Takes
			</h3>
			{events.length > 0 && (
				<form
					className="mt-2 flex flex-wrap items-end gap-3"
					onSubmit={(event) => {
						event.preventDefault();
						keep.mutate();
					}}
				>
					<label htmlFor={field} className="flex min-w-40 flex-1 flex-col text-note text-soft">
						Keep this as
						<input
							id={field}
							value={name}
							maxLength={80}
							placeholder={`Take ${(takes.data?.length ?? 0) + 1}`}
							onChange={(event) => setName(event.currentTarget.value)}
							className="border-ink border-b-2 bg-transparent pb-0.5 text-ink text-lg"
						/>
					</label>
					<ActionButton type="submit">Keep the take</ActionButton>
				</form>
			)}
			{error && (
				<p role="alert" className="mt-2 text-cut text-note">
					{error instanceof SyntaxError ? "This is no file of a take." : error.message}
				</p>
			)}
			{thrown && (
				<p role="status" className="mt-2 text-note">
					“{thrown.name}” is thrown away.{" "}
					<button type="button" className={WORD} onClick={() => put(thrown, false)}>
						Put it back
					</button>
				</p>
			)}
			<ul className="mt-2">
				{takes.data?.map((take) => (
					<li key={take.id} className="border-hair border-t py-2">
						<p className="flex flex-wrap items-baseline gap-x-3">
							<span className="font-semibold">{take.name}</span>
							<span className="font-number text-note text-soft">
								{take.events} {take.events === 1 ? "event" : "events"}, {take.lasts_s.toFixed(1)} s, change {take.number}
							</span>
						</p>
						<p className="mt-1 flex flex-wrap gap-x-4 gap-y-1">
							<button type="button" className={WORD} onClick={() => replay.mutate(take.id)}>
								play again
							</button>
							<button
								type="button"
								className={WORD}
								aria-expanded={compared === take.id}
								onClick={() => setCompared(compared === take.id ? null : take.id)}
							>
								then and now
							</button>
							<a className={WORD} href={`/api/projects/${id}/takes/${take.id}/file`} download>
								take away as a file
							</a>
							<button type="button" className={WORD} onClick={() => put(take, true)}>
								throw away
							</button>
						</p>
						{compared === take.id && <ThenAndNow take={take.id} />}
					</li>
				))}
			</ul>
			<label className={`mt-2 inline-block cursor-pointer text-soft ${WORD}`}>
				Read a take from a file
				<input
					type="file"
					accept="application/json,.json"
					className="sr-only"
					onChange={(event) => {
						const file = event.currentTarget.files?.[0];
						if (file) read.mutate(file);
						event.currentTarget.value = "";
					}}
				/>
			</label>
		</section>
	);
}

/** How a take ran on the plan it was kept with, against how it runs now. */
function ThenAndNow({ take }: { take: number }) {
	const { id, revision } = useKept();
	const found = useQuery({
		queryKey: ["compared", id, take, revision],
		queryFn: () =>
			answered(
				api.GET("/api/projects/{project_id}/takes/{take_id}/comparison", {
					params: { path: { project_id: id, take_id: take }, query: { revision } },
				}),
			),
	});
	if (found.error) return <p role="alert">{found.error.message}</p>;
	if (!found.data) return <p role="status">Playing both…</p>;
	return (
		<div className="mt-2 rounded-2xl bg-ground px-4 py-3">
			<p className="font-semibold">{found.data.sentence}</p>
			{found.data.differences.length > 2 && (
				<ul className="mt-1 text-note">
					{found.data.differences.slice(2).map((it) => (
						<li key={it.where + it.text}>{it.text}</li>
					))}
				</ul>
			)}
		</div>
	);
}
