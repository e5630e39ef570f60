import { useCallback, useEffect, useRef, useState } from "react";

export type Entry = {
	id: number;
	side: "you" | "module" | "note";
	text: string;
	hex: string;
	means: string;
	at: number;
};
export type Light = {
	mode: string;
	turns_s: number[];
	text: string;
	key: boolean;
	power: boolean;
	linked: boolean;
	speed: number;
};
export type StepState = { state: "done" | "differs"; heard: string; advice: string };
export type Wanted = { port: string; speed: number; version: string; trouble: string };
type Told = {
	kind: string;
	text?: string;
	hex?: string;
	means?: string;
	what?: string;
	why?: string;
	at_s?: number;
	at?: number;
	lines?: { text: string; means: string }[];
} & Partial<Light> &
	Partial<StepState>;

const QUIET_MS = 1500;
const KEPT_MOST = 400;

/** A conversation with a stand-in or a port: what was said and heard, the light, and the steps as they went. */
export function useConsole(project: string, node: string) {
	const [entries, setEntries] = useState<readonly Entry[]>([]);
	const [light, setLight] = useState<Light | null>(null);
	const [steps, setSteps] = useState<Readonly<Record<number, StepState>>>({});
	const [isOpen, setOpen] = useState(false);
	const socket = useRef<WebSocket | null>(null);
	const number = useRef(0);
	const quiet = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
	const walked = useRef<((state: StepState) => void) | null>(null);

	const add = useCallback((entry: Omit<Entry, "id">) => {
		number.current += 1;
		const made = { ...entry, id: number.current };
		setEntries((all) => [...all.slice(-KEPT_MOST), made]);
	}, []);

	const close = useCallback(() => {
		clearTimeout(quiet.current);
		const it = socket.current;
		socket.current = null;
		it?.close();
		setOpen(false);
		setLight(null);
	}, []);

	useEffect(() => close, [close]);

	const hear = useCallback(
		(told: Told) => {
			const at = (told.at_s ?? 0) * 1000;
			if (told.kind === "said") {
				add({ side: "you", text: told.text ?? "", hex: told.hex ?? "", means: told.means ?? "", at });
				clearTimeout(quiet.current);
				quiet.current = setTimeout(
					() => add({ side: "note", text: "quiet", hex: "", means: "nothing came back", at: Date.now() }),
					QUIET_MS,
				);
			} else if (told.kind === "heard") {
				clearTimeout(quiet.current);
				setEntries((all) => {
					const last = all.at(-1);
					if (last?.side === "module" && !last.means)
						return [...all.slice(0, -1), { ...last, text: last.text + (told.text ?? ""), hex: `${last.hex} ${told.hex}` }];
					number.current += 1;
					return [
						...all.slice(-KEPT_MOST),
						{ id: number.current, side: "module", text: told.text ?? "", hex: told.hex ?? "", means: "", at },
					];
				});
			} else if (told.kind === "means") {
				const lines = told.lines ?? [];
				setEntries((all) => {
					const at = all.map((it) => it.side).lastIndexOf("module");
					const it = all[at];
					if (!it) return all;
					const means = lines
						.map((line) => line.means)
						.filter((text, place, texts) => text && text !== "done" && texts.indexOf(text) === place)
						.join("; ");
					const known = lines.some((line) => line.means);
					const text = lines.map((line) => line.text).join("\n") || it.text;
					const told = means || (known ? "done" : "no answer of this family");
					return all.map((one, place) => (place === at ? { ...it, text, means: told } : one));
				});
			} else if (told.kind === "light") setLight(told as unknown as Light);
			else if (told.kind === "turned") add({ side: "note", text: told.what ?? "", hex: "", means: "", at });
			else if (told.kind === "gone") {
				add({ side: "note", text: told.why ?? "gone", hex: "", means: "", at: Date.now() });
				close();
			} else if (told.kind === "step") {
				const state = { state: told.state ?? "done", heard: told.heard ?? "", advice: told.advice ?? "" } as StepState;
				setSteps((all) => ({ ...all, [told.at ?? 0]: state }));
				walked.current?.(state);
				walked.current = null;
			}
		},
		[add, close],
	);

	const open = useCallback(
		(wanted: Wanted) => {
			close();
			setSteps({});
			const asked = new URLSearchParams(Object.entries(wanted).map(([name, value]) => [name, String(value)]));
			if (!wanted.version) asked.delete("version");
			const scheme = location.protocol === "https:" ? "wss:" : "ws:";
			const it = new WebSocket(`${scheme}//${location.host}/api/projects/${project}/module/${node}/console?${asked}`);
			socket.current = it;
			it.onopen = () => setOpen(true);
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
		[close, hear, project, node],
	);

	const send = useCallback((message: object) => {
		if (socket.current?.readyState === WebSocket.OPEN) socket.current.send(JSON.stringify(message));
	}, []);

	/** Let the server do one step, and wait for what came of it. */
	const walk = useCallback(
		(step: number) =>
			new Promise<StepState>((done) => {
				walked.current = done;
				send({ step });
			}),
		[send],
	);

	const markDone = useCallback((step: number) => {
		setSteps((all) => ({ ...all, [step]: { state: "done", heard: "", advice: "" } }));
	}, []);

	return { entries, light, steps, isOpen, open, close, send, walk, markDone };
}
