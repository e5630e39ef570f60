import { type KeyboardEvent, useEffect, useId, useRef, useState } from "react";
import type { Entry } from "../api/client";
import { Refusal } from "../api/client";
import { patchAt, useEdit } from "../api/project";
import { Origin } from "./Origin";

const LONGEST = 60;
const plain = (text: string) => text.replaceAll("\u00a0", " ");

/**
 * A value turned in place: typed text goes to the core as it is; an empty field goes back to what is proposed.
 * Up and down walk through the usual values, shown everywhere at once and kept only with Enter or on leaving the field.
 */
export function EntryField({ entry, isWide = false }: { entry: Entry; isWide?: boolean }) {
	const id = useId();
	const { change, turn, keep, letGo, attempt } = useEdit();
	const [typed, setTyped] = useState<string | null>(null);
	const [isTurning, setTurning] = useState(false);
	const [refused, setRefused] = useState("");
	const field = useRef<HTMLInputElement>(null);
	// A new text from the server replaces what was typed, unless the field is being typed in.
	useEffect(() => {
		if (document.activeElement !== field.current && entry.text) setTyped(null);
	}, [entry.text]);
	const tell = (error: Error | null) => {
		setRefused(
			error instanceof Refusal && error.status === 422 ? (error.allowed ? `Give ${error.allowed}.` : error.message) : "",
		);
		if (!error) setTyped(null);
	};
	const commit = () => {
		if (isTurning) {
			setTurning(false);
			if (attempt && !attempt.isHeld) keep();
			return;
		}
		if (typed === null || typed.trim() === plain(entry.text)) return setTyped(null);
		const value = typed.trim() === "" ? null : typed.trim();
		change({ patch: patchAt(entry.path, value), summary: `${entry.label}: ${value ?? "as proposed"}` }, true).then(tell);
	};
	const step = async (value: number | null | undefined) => {
		if (value == null) return;
		setTyped(null);
		setTurning(true);
		tell(await turn({ patch: patchAt(entry.path, value), summary: `${entry.label}: ${plain(String(value))}` }));
	};
	const press = (event: KeyboardEvent<HTMLInputElement>) => {
		if (event.key === "Enter") commit();
		if (event.key === "Escape") {
			if (isTurning && attempt && !attempt.isHeld) letGo();
			setTurning(false);
			setTyped(null);
			setRefused("");
		}
		if (event.key === "ArrowUp" || event.key === "ArrowDown") {
			if (entry.higher == null && entry.lower == null) return;
			event.preventDefault();
			step(event.key === "ArrowUp" ? entry.higher : entry.lower);
		}
	};
	const proposed = entry.origin === "proposed" || entry.origin === "part";
	const line = refused ? "border-cut" : isTurning ? "border-lamp" : proposed ? "border-hair" : "border-ink";
	return (
		<div className="max-w-full" style={{ width: `${Math.max(isWide ? 14 : 11, Math.min(LONGEST, entry.text.length) * 0.7)}rem` }}>
			<div className="flex items-baseline justify-between gap-2">
				<label htmlFor={id} className="text-note text-soft">
					{entry.label}
				</label>
				<Origin origin={entry.origin} because={entry.because} value={entry.value} label={entry.label} />
			</div>
			<input
				ref={field}
				id={id}
				value={typed ?? plain(entry.text)}
				spellCheck={false}
				autoComplete="off"
				aria-invalid={refused !== ""}
				aria-describedby={refused ? `${id}-no` : undefined}
				onFocus={(event) => event.currentTarget.select()}
				onChange={(event) => setTyped(event.currentTarget.value)}
				onBlur={commit}
				onKeyDown={press}
				className={`w-full border-b-2 bg-transparent pb-0.5 font-number text-lg ${line} ${proposed ? "text-soft" : ""}`}
			/>
			{refused && (
				<p id={`${id}-no`} role="alert" className="mt-1 text-note text-cut">
					{refused}
				</p>
			)}
		</div>
	);
}
