import { Refusal } from "./client";

const LET_GO = "Let go: nothing of it was kept.";
const AWAY = "The server does not answer. Is it still running? Nothing you kept is lost.";
/** What is held whole while it is fetched: more goes straight to the disk, and the browser tells how far it is. */
const HELD_MOST_BYTES = 300 * 2 ** 20;

/** Send a file, telling how far it has gone; the answer, or what was said against it. Not fetch: only this tells how far. */
export function sendFile<T>(path: string, file: File, onGone: (sent: number) => void, signal?: AbortSignal): Promise<T> {
	return new Promise((done, failed) => {
		const it = new XMLHttpRequest();
		it.upload.onprogress = (event) => onGone(event.loaded);
		it.onload = () => {
			const body: unknown = it.response;
			const said = typeof body === "object" && body !== null && "detail" in body ? String(body.detail) : "";
			if (it.status < 300 && body !== null) done(body as T);
			else failed(new Refusal(it.status, "", "", said || `The server answered ${it.status}.`));
		};
		it.onerror = () => failed(new Refusal(0, "", "", AWAY));
		it.onabort = () => failed(new Refusal(-1, "", "", LET_GO));
		signal?.addEventListener("abort", () => it.abort());
		it.open("POST", path);
		it.responseType = "json";
		it.setRequestHeader("content-type", "application/octet-stream");
		it.send(file);
	});
}

/** Save what stands at an address as a file. */
export function takeAway(href: string, name: string) {
	const link = document.createElement("a");
	link.href = href;
	link.download = name;
	link.click();
}

/** Fetch a file, telling how far it has come, and save it; it can be stopped. */
export async function fetchFile(href: string, name: string, onCome: (got: number, size: number) => void, signal: AbortSignal) {
	const answer = await fetch(href, { signal }).catch(() => {
		throw new Refusal(0, "", "", signal.aborted ? "Stopped: nothing was saved." : AWAY);
	});
	if (!answer.ok || !answer.body) {
		const said: { detail?: string } | null = await answer.json().catch(() => null);
		throw new Refusal(answer.status, "", "", said?.detail || `The server answered ${answer.status}.`);
	}
	const size = Number(answer.headers.get("content-length"));
	if (size > HELD_MOST_BYTES) {
		await answer.body.cancel();
		return takeAway(href, name);
	}
	const pieces: BlobPart[] = [];
	const reader = answer.body.getReader();
	let got = 0;
	try {
		for (let it = await reader.read(); !it.done; it = await reader.read()) {
			pieces.push(it.value);
			got += it.value.length;
			onCome(got, size);
		}
	} catch {
		throw new Refusal(0, "", "", signal.aborted ? "Stopped: nothing was saved." : AWAY);
	}
	const whole = URL.createObjectURL(new Blob(pieces, { type: answer.headers.get("content-type") ?? "" }));
	takeAway(whole, name);
	setTimeout(() => URL.revokeObjectURL(whole), 60_000);
}
