import { type FormEvent, useRef, useState } from "react";
import { answered, api } from "../../api/client";
import { useEdits, useKept } from "../../api/project";

const FIELDS = [
	["name", "Name of the new word", "Name"],
	["sent", "What is sent for it", "What is sent"],
	["does", "What it does", "What it does, as the list says it"],
] as const;

/** A cell of a table: quoted where it holds a quote (RFC 4180). */
const cell = (text: string) => {
	const plain = text.replaceAll("\t", " ").trim();
	return plain.includes('"') ? `"${plain.replaceAll('"', '""')}"` : plain;
};

/** A word more, by keyboard: type, tab, type, Enter; then the next. */
export function NewWord({ vocabulary }: { vocabulary: string }) {
	const { id, revision } = useKept();
	const { change } = useEdits();
	const first = useRef<HTMLInputElement>(null);
	const [typed, setTyped] = useState<Record<string, string>>({});
	const [refused, setRefused] = useState("");
	const add = async (event: FormEvent) => {
		event.preventDefault();
		setRefused("");
		const text = FIELDS.map(([key]) => cell(typed[key] ?? "")).join("\t");
		try {
			const body = { base_revision: revision, patch: {}, vocabulary, text };
			const params = { path: { project_id: id } };
			const move = await answered(api.POST("/api/projects/{project_id}/pasted-words", { params, body }));
			await change({ patch: move.patch, summary: `Add ${typed.name?.trim()}` });
			setTyped({});
			first.current?.focus();
		} catch (caught) {
			setRefused(caught instanceof Error ? caught.message : "That cannot be a word.");
		}
	};
	return (
		<form onSubmit={add} className="flex flex-wrap items-end gap-x-5 gap-y-1 print:hidden">
			{FIELDS.map(([key, label, hint], at) => (
				<input
					key={key}
					ref={at ? undefined : first}
					aria-label={label}
					placeholder={hint}
					value={typed[key] ?? ""}
					onChange={(event) => setTyped({ ...typed, [key]: event.target.value })}
					spellCheck={false}
					autoComplete="off"
					maxLength={80}
					className={`min-w-0 border-hair border-b-2 bg-transparent pb-0.5 ${key === "does" ? "min-w-44 flex-1" : "w-36"} ${key === "sent" ? "font-number" : ""}`}
				/>
			))}
			<button
				type="submit"
				disabled={!typed.name?.trim()}
				className="font-semibold text-note underline decoration-dotted underline-offset-2 disabled:text-soft disabled:no-underline"
			>
				Add it
			</button>
			{refused && (
				<p role="alert" className="basis-full text-cut text-note">
					{refused}
				</p>
			)}
		</form>
	);
}
