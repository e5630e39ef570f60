import { useQuery } from "@tanstack/react-query";
import { type KeyboardEvent, useDeferredValue, useId, useState } from "react";
import { answered, api } from "../../api/client";
import { useAsked, useEdits, useKept } from "../../api/project";

type Props = { host: string; rule?: string; written?: string; label: string };

/** A sentence that is typed with what could stand next below it: arrows choose, Tab takes, Enter writes it. Several lines at once may be pasted. */
export function SentenceField({ host, rule, written = "", label }: Props) {
	const asked = useAsked();
	const { id: project, revision } = useKept();
	const { change } = useEdits();
	const id = useId();
	const [typed, setTyped] = useState<string | null>(null);
	const [at, setAt] = useState(-1);
	const [isOpen, setOpen] = useState(false);
	const [refused, setRefused] = useState<readonly string[]>([]);
	const text = typed ?? written;
	const begun = useDeferredValue(text);
	const found = useQuery({
		queryKey: ["sentence", asked, host, begun],
		queryFn: () =>
			answered(api.POST("/api/projects/{project_id}/sentence-begun", { ...asked, body: { ...asked.body, host, text: begun } })),
		enabled: isOpen,
		placeholderData: (before) => before,
		retry: false,
	});
	const options = isOpen && found.data ? found.data.goes_on : [];
	const type = (next: string) => {
		setTyped(next);
		setAt(-1);
		setOpen(true);
		setRefused([]);
	};
	const write = async (sentences: string) => {
		setRefused([]);
		try {
			const body = { base_revision: revision, patch: {}, host, text: sentences, rule };
			const params = { path: { project_id: project } };
			const taken = await answered(api.POST("/api/projects/{project_id}/sentences", { params, body }));
			if (taken.move) {
				await change({ patch: taken.move.patch, summary: taken.move.label });
				setTyped(null);
				setOpen(false);
			} else {
				const many = sentences.trim().includes("\n");
				setRefused(taken.wrong.map((it) => (many ? `Line ${it.line}: ${it.message}` : it.message)));
			}
		} catch (caught) {
			setRefused([caught instanceof Error ? caught.message : "That sentence cannot be taken."]);
		}
	};
	const pick = (index: number) => {
		const option = options[index];
		if (option) type(option.text);
	};
	const press = (event: KeyboardEvent<HTMLInputElement>) => {
		const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
		if (step && options.length) {
			event.preventDefault();
			setAt((was) => (was + step + options.length + (was < 0 && step < 0 ? 1 : 0)) % options.length);
		} else if (event.key === "Tab" && !event.shiftKey && options.length && typed !== null && found.data && !found.data.is_whole) {
			event.preventDefault();
			pick(Math.max(at, 0));
		} else if (event.key === "Enter") {
			event.preventDefault();
			if (at >= 0) pick(at);
			else if (text.trim()) write(text);
		} else if (event.key === "Escape" && isOpen) {
			event.stopPropagation();
			setTyped(null);
			setOpen(false);
			setRefused([]);
		}
	};
	return (
		<div className="relative max-w-[46rem] print:hidden">
			<label htmlFor={id} className="text-note text-soft">
				{label}
			</label>
			<input
				id={id}
				role="combobox"
				aria-expanded={options.length > 0}
				aria-controls={`${id}-next`}
				aria-activedescendant={at >= 0 ? `${id}-${at}` : undefined}
				aria-autocomplete="list"
				value={text}
				placeholder="When ..."
				onChange={(event) => type(event.target.value)}
				onFocus={() => setOpen(true)}
				onBlur={() => setOpen(false)}
				onKeyDown={press}
				onPaste={(event) => {
					const pasted = event.clipboardData.getData("text/plain");
					if (!pasted.trim().includes("\n")) return;
					event.preventDefault();
					write(pasted);
				}}
				spellCheck={false}
				autoComplete="off"
				maxLength={2000}
				className="block w-full border-ink border-b-2 bg-transparent pb-0.5 font-said text-name"
			/>
			<div
				id={`${id}-next`}
				role="listbox"
				aria-label="What could stand next"
				className="mt-1 flex min-h-7 flex-wrap gap-x-3 gap-y-1"
			>
				{options.map((option, index) => (
					// biome-ignore lint/a11y/useFocusableInteractive: the field keeps the focus, the arrows choose
					// biome-ignore lint/a11y/useKeyWithClickEvents: the same
					<span
						key={option.text}
						id={`${id}-${index}`}
						role="option"
						aria-selected={index === at}
						onMouseDown={(event) => event.preventDefault()}
						onClick={() => pick(index)}
						className={`cursor-pointer whitespace-pre border-b-2 text-note ${index === at ? "border-ink font-semibold" : "border-hair"} ${option.is_example ? "text-soft italic" : ""}`}
					>
						{option.adds.trim()}
					</span>
				))}
			</div>
			{isOpen && !refused.length && found.data?.wrong && <p className="text-note text-soft">{found.data.wrong}</p>}
			{refused.length > 0 && (
				<ul role="alert" className="max-w-prose text-cut text-note">
					{refused.map((it) => (
						<li key={it}>{it}</li>
					))}
				</ul>
			)}
		</div>
	);
}
