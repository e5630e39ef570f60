import { useCallback, useEffect, useRef, useState } from "react";
import { type Entry, heardAt, type Light, type Member, MOST, QUIET, type StepState, type Told, withTold } from "./conversation";

export type Wanted = { port: string; speed: number; version: string; trouble: string; begins: string };
type Steps = Readonly<Record<string, Readonly<Record<number, StepState>>>>;

const QUIET_MS = 1500;
const FRAME_MS = 16;

/** A conversation with stand-ins or a port: what was said and heard, the lights, and the steps as they went. */
export function useConsole(project: string) {
	const [entries, setEntries] = useState<readonly Entry[]>([]);
	const [lights, setLights] = useState<Readonly<Record<string, Light>>>({});
	const [steps, setSteps] = useState<Steps>({});
	const [members, setMembers] = useState<readonly Member[]>([]);
	const [isOpen, setOpen] = useState(false);
	const [isReal, setReal] = useState(false);
	const [heardBytes, setHeardBytes] = useState(0);
	const socket = useRef<WebSocket | null>(null);
	const quiet = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
	const walked = useRef<((state: StepState) => void) | null>(null);
	const coming = useRef<Told[]>([]);
	const flushing = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
	const flushed = useRef(0);
	const kept = useRef<{ lines: string[]; size: number; last: string }>({ lines: [], size: 0, last: "" });

	/** Keep all that is said, as a file would have it, the oldest let go where it grows too large. */
	const keep = useCallback((side: "<<" | ">>", text: string) => {
		const all = kept.current;
		if (side === all.last && side === "<<") all.lines[all.lines.length - 1] += text;
		else all.lines.push(`${side} ${text}`);
		all.last = text.endsWith("\n") ? "" : side;
		all.size += text.length;
		while (all.size > MOST.kept && all.lines.length > 1) all.size -= all.lines.shift()?.length ?? 0;
	}, []);

	const close = useCallback(() => {
		clearTimeout(quiet.current);
		const it = socket.current;
		socket.current = null;
		it?.close();
		setOpen(false);
		setLights({});
	}, []);

	useEffect(() => close, [close]);

	/** What has come since the last picture is shown at once: a stream of bytes is no stream of pictures. */
	const flush = useCallback(() => {
		flushing.current = undefined;
		flushed.current = performance.now();
		const all = coming.current;
		coming.current = [];
		setEntries((before) => withTold(before, all));
		const bytes = all.reduce((sum, it) => sum + heardAt(it), 0);
		if (bytes) setHeardBytes((count) => count + bytes);
	}, []);

	const tell = useCallback(
		(told: Told) => {
			coming.current.push(told);
			if (flushing.current) return;
			const since = performance.now() - flushed.current;
			if (since > FRAME_MS) flush();
			else flushing.current = setTimeout(flush, FRAME_MS - since);
		},
		[flush],
	);

	const hear = useCallback(
		(told: Told) => {
			if (told.kind === "open") {
				setOpen(true); // and not before: what is refused was never open
				setMembers(told.members ?? []);
				setReal(told.is_real ?? false);
			} else if (told.kind === "light") setLights((all) => ({ ...all, [told.who ?? ""]: told as unknown as Light }));
			else if (told.kind === "step") {
				const state = { state: told.state ?? "done", heard: told.heard ?? "", advice: told.advice ?? "" } as StepState;
				const who = told.who ?? "";
				setSteps((all) => ({ ...all, [who]: { ...all[who], [told.at ?? 0]: state } }));
				walked.current?.(state);
				walked.current = null;
			} else {
				if (told.kind === "said") {
					keep(">>", `${told.text}\n`);
					clearTimeout(quiet.current);
					quiet.current = setTimeout(
						() => tell({ kind: "note", what: QUIET, means: "nothing came back", at_s: Date.now() / 1000 }),
						QUIET_MS,
					);
				} else if (told.kind === "heard") {
					keep("<<", told.text ?? "");
					clearTimeout(quiet.current);
				}
				tell(told);
				if (told.kind === "gone") close();
			}
		},
		[tell, keep, close],
	);

	const open = useCallback(
		(node: string, wanted: Wanted) => {
			close();
			// A stand-in is a new one each time; a real module keeps what was set in it, unplugged or not.
			if (!wanted.port) setSteps({});
			setHeardBytes(0);
			kept.current = { lines: [], size: 0, last: "" };
			const asked = new URLSearchParams(Object.entries(wanted).map(([name, value]) => [name, String(value)]));
			if (!wanted.version) asked.delete("version");
			const scheme = location.protocol === "https:" ? "wss:" : "ws:";
			const it = new WebSocket(`${scheme}//${location.host}/api/projects/${project}/module/${node}/console?${asked}`);
			socket.current = it;
			it.onmessage = (event) => hear(JSON.parse(String(event.data)) as Told);
			it.onclose = () => {
				if (socket.current === it) {
					socket.current = null;
					setOpen(false);
				}
				walked.current?.({ state: "differs", heard: "", advice: "" });
				walked.current = null;
			};
		},
		[close, hear, project],
	);

	const send = useCallback((message: object) => {
		if (socket.current?.readyState === WebSocket.OPEN) socket.current.send(JSON.stringify(message));
	}, []);

	/** Let the server do one step, and wait for what came of it. */
	const walk = useCallback(
		(step: number, secrets: object) =>
			new Promise<StepState>((done) => {
				walked.current = done;
				send({ step, ...secrets });
			}),
		[send],
	);

	const markDone = useCallback((node: string, step: number) => {
		setSteps((all) => ({ ...all, [node]: { ...all[node], [step]: { state: "done", heard: "", advice: "" } } }));
	}, []);

	const anew = useCallback((node: string) => setSteps((all) => ({ ...all, [node]: {} })), []);

	/** All that was said, as a terminal would have saved it. */
	const transcript = useCallback(() => kept.current.lines.map((it) => it.replace(/\n?$/, "\n")).join(""), []);

	return { entries, lights, steps, members, isOpen, isReal, heardBytes, open, close, send, walk, markDone, anew, transcript };
}
