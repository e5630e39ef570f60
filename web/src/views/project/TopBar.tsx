import { useEffect, useState } from "react";
import { useCurrent, useEdit } from "../../api/project";
import { turnTheme } from "../../theme";
import { ShelfMenu } from "../shelf/ShelfMenu";

const WORD = "text-note text-soft hover:text-ink disabled:opacity-40 disabled:hover:text-soft";

/** Title, what is kept, and the ways back and forth. */
export function TopBar() {
	const state = useCurrent();
	const { edit, undo, redo } = useEdit();
	useUndoKeys(
		() => state.undo && undo.mutate(),
		() => state.redo && redo.mutate(),
	);
	const isBusy = edit.isPending || undo.isPending || redo.isPending;
	return (
		<header className="flex items-baseline gap-5 px-7 pt-5 pb-2">
			<Title key={state.review.title} title={state.review.title} />
			<p role="status" className="flex-1 text-note text-soft">
				{isBusy ? "keeping…" : `kept ${clock(state.kept_at)}, change ${state.number}`}
			</p>
			<button
				type="button"
				className={WORD}
				disabled={!state.undo}
				title={state.undo ? `Take back: ${state.undo}` : undefined}
				onClick={() => undo.mutate()}
			>
				Undo
			</button>
			<button
				type="button"
				className={WORD}
				disabled={!state.redo}
				title={state.redo ? `Bring again: ${state.redo}` : undefined}
				onClick={() => redo.mutate()}
			>
				Redo
			</button>
			<ShelfMenu />
			<button type="button" className={WORD} onClick={turnTheme}>
				Light or dark
			</button>
		</header>
	);
}

function clock(moment: string): string {
	return new Date(moment).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit", second: "2-digit" });
}

/** The project's name, changed where it stands. */
function Title({ title }: { title: string }) {
	const { edit } = useEdit();
	const [typed, setTyped] = useState(title);
	const commit = () =>
		typed.trim() && typed.trim() !== title
			? edit.mutate({ patch: { title: typed.trim() }, summary: `Called it ${typed.trim()}` })
			: setTyped(title);
	return (
		<h1 className="font-bold font-said text-xl">
			<input
				aria-label="Name of the project"
				value={typed}
				size={Math.max(8, typed.length)}
				maxLength={80}
				onChange={(event) => setTyped(event.currentTarget.value)}
				onBlur={commit}
				onKeyDown={(event) => {
					if (event.key === "Enter") event.currentTarget.blur();
					if (event.key === "Escape") setTyped(title);
				}}
				className="max-w-[22rem] bg-transparent"
			/>
		</h1>
	);
}

/** Ctrl+Z and Ctrl+Shift+Z; in a field being typed in they belong to the field. */
function useUndoKeys(back: () => void, forth: () => void) {
	useEffect(() => {
		const press = (event: KeyboardEvent) => {
			if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== "z") return;
			if (event.target instanceof HTMLInputElement) return;
			event.preventDefault();
			if (event.shiftKey) forth();
			else back();
		};
		window.addEventListener("keydown", press);
		return () => window.removeEventListener("keydown", press);
	});
}
