import { type KeyboardEvent, useEffect, useId, useRef, useState } from "react";
import type { Entry } from "../api/client";
import { Refusal } from "../api/client";
import { Origin } from "./Origin";

type Props = {
	entry: Entry;
	/** Keep what was typed, null for what is proposed; tells the refusal. */
	onKeep: (value: string | null) => Promise<Error | null>;
	/** Only look at a value. */
	onTurn: (value: number) => Promise<Error | null>;
	/** Looking ends: what is shown is kept, or let go. */
	onEnd: (isKept: boolean) => void;
	isWide?: boolean;
	/** The label is told, and not shown: what stands around it says it. */
	isBare?: boolean;
};

const LONGEST = 60;
const plain = (text: string) => text.replaceAll("\u00a0", " ");

/**
 * A value turned in place: typed text goes to the core as it is; an empty field goes back to what is proposed.
 * Up and down walk through the usual values, shown everywhere at once and kept only with Enter or on leaving the field.
 */
export function EntryField({ entry, onKeep, onTurn, onEnd, isWide = false, isBare = false }: Props) {
	const id = useId();
	const [typed, setTyped] = useState<string | null>(null);
	const [isTurning, setTurning] = useState(false);
	const [refused, setRefused] = useState("");
	const [isIn, setIn] = useState(false);
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
			onEnd(true);
			return;
		}
		if (typed === null || typed.trim() === plain(entry.text)) return setTyped(null);
		onKeep(typed.trim() || null).then(tell);
	};
	const step = async (value: number | null | undefined) => {
		if (value == null) return;
		setTyped(null);
		setTurning(true);
		tell(await onTurn(value));
	};
	const press = (event: KeyboardEvent<HTMLInputElement>) => {
		if (event.key === "Enter") commit();
		if (event.key === "Escape") {
			if (isTurning) onEnd(false);
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
	const line = refused ? "border-cut" : isTurning ? "border-lamp" : proposed || !entry.text ? "border-hair" : "border-ink";
	return (
		<div
			className="relative max-w-full"
			style={{ width: `${Math.max(isWide ? 14 : 11, Math.min(LONGEST, entry.text.length) * 0.7)}rem` }}
		>
			<div className="flex items-baseline justify-between gap-2">
				<label htmlFor={id} className={isBare ? "sr-only" : "text-note text-soft"}>
					{entry.label}
				</label>
				{!(isBare && entry.origin === "own") && (
					<Origin origin={entry.origin} because={entry.because} value={entry.value} label={entry.label} />
				)}
			</div>
			<input
				ref={field}
				id={id}
				value={typed ?? plain(entry.text)}
				spellCheck={false}
				autoComplete="off"
				aria-invalid={refused !== ""}
				aria-describedby={refused ? `${id}-no` : entry.hint ? `${id}-how` : undefined}
				onFocus={(event) => {
					setIn(true);
					event.currentTarget.select();
				}}
				onChange={(event) => setTyped(event.currentTarget.value)}
				onBlur={() => {
					setIn(false);
					commit();
				}}
				onKeyDown={press}
				className={`w-full border-b-2 bg-transparent pb-0.5 text-lg ${isBare && entry.path.at(-1) === "label" ? "" : "font-number"} ${line} ${proposed ? "text-soft" : ""}`}
			/>
			{entry.hint && !refused && (
				<p
					id={`${id}-how`}
					className={
						isIn
							? "absolute top-full left-0 z-10 w-max max-w-sm rounded-b-lg bg-sheet pt-1 pr-3 pb-1.5 text-note text-soft"
							: "sr-only"
					}
				>
					{entry.hint}
				</p>
			)}
			{refused && (
				<p id={`${id}-no`} role="alert" className="mt-1 text-note text-cut">
					{refused}
				</p>
			)}
		</div>
	);
}
