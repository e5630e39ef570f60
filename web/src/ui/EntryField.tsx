import { useEffect, useId, useRef, useState } from "react";
import type { Entry } from "../api/client";
import { Refusal } from "../api/client";
import { patchAt, useEdit } from "../api/project";
import { Origin } from "./Origin";

/** A value turned in place: typed text goes to the core as it is; an empty field goes back to what is proposed. */
export function EntryField({ entry, isWide = false }: { entry: Entry; isWide?: boolean }) {
	const id = useId();
	const { edit } = useEdit();
	const [typed, setTyped] = useState<string | null>(null);
	const [refused, setRefused] = useState("");
	const field = useRef<HTMLInputElement>(null);
	// A new text from the server replaces what was typed, unless the field is being typed in.
	useEffect(() => {
		if (document.activeElement !== field.current && entry.text) setTyped(null);
	}, [entry.text]);
	const commit = () => {
		if (typed === null || typed.trim() === entry.text.replaceAll("\u00a0", " ")) return setTyped(null);
		const value = typed.trim() === "" ? null : typed.trim();
		edit.mutate(
			{ patch: patchAt(entry.path, value), summary: `${entry.label}: ${value ?? "as proposed"}` },
			{
				onSuccess: () => {
					setTyped(null);
					setRefused("");
				},
				onError: (error) => setRefused(error instanceof Refusal && error.allowed ? `Give ${error.allowed}.` : error.message),
			},
		);
	};
	const proposed = entry.origin === "proposed" || entry.origin === "part";
	const line = refused ? "border-cut" : proposed ? "border-hair" : "border-ink";
	return (
		<div className={isWide ? "w-56" : "w-44"}>
			<div className="flex items-baseline justify-between gap-2">
				<label htmlFor={id} className="text-note text-soft">
					{entry.label}
				</label>
				<Origin origin={entry.origin} because={entry.because} value={entry.value} label={entry.label} />
			</div>
			<input
				ref={field}
				id={id}
				value={typed ?? entry.text.replaceAll("\u00a0", " ")}
				spellCheck={false}
				autoComplete="off"
				aria-invalid={refused !== ""}
				aria-describedby={refused ? `${id}-no` : undefined}
				onFocus={(event) => event.currentTarget.select()}
				onChange={(event) => setTyped(event.currentTarget.value)}
				onBlur={commit}
				onKeyDown={(event) => {
					if (event.key === "Enter") commit();
					if (event.key === "Escape") {
						setTyped(null);
						setRefused("");
					}
				}}
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
