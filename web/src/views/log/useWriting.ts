import { useState } from "react";
import { answered, api, type EntryShown } from "../../api/client";
import { sendFile } from "../../api/files";
import { useKept } from "../../api/project";
import { useAgain } from "./useLog";

const DRAFTS = "oddlamp-entry";
const PHOTO_MOST_BYTES = 10 * 2 ** 20;

export type Written = { kind: EntryShown["kind"]; text: string; stage: string; minutes: string; cost: string };
export type Pending = { key: number; file: File; alt: string; trouble: string };

const EMPTY: Written = { kind: "built", text: "", stage: "", minutes: "", cost: "" };

/** What is written and not kept yet stays in this window: a phone that is put down, or a page left, costs nothing. */
function draftOf(key: string): Written {
	try {
		return { ...EMPTY, ...JSON.parse(sessionStorage.getItem(key) ?? "{}") };
	} catch {
		return EMPTY;
	}
}

const writtenIn = (it: EntryShown): Written => ({
	kind: it.kind,
	text: it.text,
	stage: it.stage ?? "",
	minutes: it.minutes == null ? "" : String(it.minutes),
	cost: it.cost == null ? "" : it.cost.toFixed(2),
});

/** Writing an entry, or writing one anew: its words first, then its photos one after the other, with what became of each. */
export function useWriting(entry: EntryShown | null, onKept: () => void) {
	const { id } = useKept();
	const again = useAgain();
	const draft = `${DRAFTS}:${id}:${entry?.id ?? "new"}`;
	const [written, setWritten] = useState<Written>(() =>
		entry && !sessionStorage.getItem(draft) ? writtenIn(entry) : draftOf(draft),
	);
	const [photos, setPhotos] = useState<readonly Pending[]>([]);
	const [keptAs, setKeptAs] = useState<EntryShown | null>(null);
	const [busy, setBusy] = useState("");
	const [trouble, setTrouble] = useState("");

	const write = (part: Partial<Written>) =>
		setWritten((before) => {
			const next = { ...before, ...part };
			sessionStorage.setItem(draft, JSON.stringify(next));
			return next;
		});
	const add = (files: FileList | null) => {
		const chosen = [...(files ?? [])].map((file, at) => ({ key: Date.now() + at, file, alt: "", trouble: tooLarge(file) }));
		setPhotos((before) => [...before, ...chosen]);
	};
	const tell = (key: number, part: Partial<Pending>) =>
		setPhotos((before) => before.map((it) => (it.key === key ? { ...it, ...part } : it)));
	const leaveOut = (key: number) => setPhotos((before) => before.filter((it) => it.key !== key));

	const done = () => {
		sessionStorage.removeItem(draft);
		setWritten({ ...EMPTY, kind: written.kind });
		setPhotos([]);
		setKeptAs(null);
		onKept();
	};
	const keep = async () => {
		setTrouble("");
		setBusy("Writing it down…");
		try {
			const said = keptAs ?? (await keepWords(id, entry, written));
			setKeptAs(said);
			let refused = 0;
			for (const [at, photo] of photos.entries()) {
				setBusy(`Photo ${at + 1} of ${photos.length}…`);
				const told =
					tooLarge(photo.file) ||
					(await send(id, said.id, photo, (share) => setBusy(`Photo ${at + 1} of ${photos.length}, ${share} %`)));
				if (told) {
					refused++;
					tell(photo.key, { trouble: told });
				} else leaveOut(photo.key);
			}
			if (!refused) done();
			else setTrouble("Your words are kept. What did not go along is told at each photo.");
		} catch (caught) {
			setTrouble(caught instanceof Error ? caught.message : "That could not be kept.");
		} finally {
			setBusy("");
			again();
		}
	};
	const forget = () => sessionStorage.removeItem(draft);
	return { written, write, forget, photos, add, tell, leaveOut, keep, done, busy, trouble, isKept: keptAs !== null };
}

export type Writing = ReturnType<typeof useWriting>;

const tooLarge = (file: File) => (file.size > PHOTO_MOST_BYTES ? "Over 10 MB: too large for a photo." : "");

function keepWords(
	project_id: string,
	entry: EntryShown | null,
	{ kind, text, stage, minutes, cost }: Written,
): Promise<EntryShown> {
	// As they are typed: the server reads them, and says what it does not understand.
	const body = { kind, text, stage: stage || null, minutes: minutes as unknown as number, cost: cost as unknown as number };
	if (entry === null)
		return answered(api.POST("/api/projects/{project_id}/log/entries", { params: { path: { project_id } }, body }));
	return answered(
		api.PUT("/api/projects/{project_id}/log/entries/{entry_id}", {
			params: { path: { project_id, entry_id: entry.id } },
			body: { ...body, version: entry.version },
		}),
	);
}

/** Send a photo, telling how far it has gone; what is said against it, empty where it is kept. */
function send(project: string, entry: string, photo: Pending, onGone: (share: number) => void): Promise<string> {
	const path = `/api/projects/${project}/log/entries/${entry}/photos?alt=${encodeURIComponent(photo.alt)}`;
	return sendFile<EntryShown>(path, photo.file, (sent) => onGone(Math.round((100 * sent) / Math.max(1, photo.file.size)))).then(
		() => "",
		(error: Error) => error.message,
	);
}
