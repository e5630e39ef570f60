import { DropdownMenu } from "radix-ui";
import { useState } from "react";
import { useAttempt, useEdits, useKept, useTrouble } from "../../api/project";
import type { Action } from "../../keys";

const WORD = "text-note text-soft hover:text-ink disabled:opacity-40 disabled:hover:text-soft";
const CLOCK = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit", second: "2-digit" });
const VIEWS = ["plan", "rehearse", "module", "program", "bench", "log"];
/** Under which word of the bar a view that has none of its own belongs. */
const OF: Record<string, string> = { "": "plan", "bring-up": "bench", why: "bench", practice: "bench", history: "log" };
const ON_BAR = ["undo", "redo", "try", "find", "shelf"];

/** Title, what is kept, and what can be done with the whole. */
export function TopBar({ actions, view }: { actions: readonly Action[]; view: string }) {
	const kept = useKept();
	const attempt = useAttempt();
	const { isBusy, trouble } = useTrouble();
	const told = isBusy
		? "keeping…"
		: trouble?.again
			? "the last change is not kept"
			: attempt?.trial
				? "only tried, not kept"
				: `kept ${CLOCK.format(new Date(kept.kept_at))}, change ${kept.number}`;
	return (
		<header className="flex flex-wrap items-baseline gap-x-5 gap-y-1 px-7 pt-5 pb-2 max-[720px]:px-4 max-[720px]:pt-3 print:hidden">
			<Title key={kept.review.title} title={kept.review.title} />
			<p role="status" className="min-w-40 flex-1 text-note text-soft">
				{told}
			</p>
			<nav aria-label="Views" className="flex flex-wrap gap-x-5 whitespace-nowrap max-[720px]:gap-x-4">
				{actions
					.filter((it) => VIEWS.includes(it.id))
					.map((it) => {
						const isHere = it.id === (VIEWS.includes(view) ? view : (OF[view] ?? ""));
						return (
							<button
								type="button"
								key={it.id}
								aria-current={isHere ? "page" : undefined}
								title={[it.hint, it.key && `(${it.key})`].filter(Boolean).join(" ")}
								className={isHere ? "border-lamp border-b-2 font-bold text-note" : "text-note hover:text-coppertext"}
								onClick={it.run}
							>
								{it.label}
							</button>
						);
					})}
			</nav>
			{actions
				.filter((it) => ON_BAR.includes(it.id))
				.map((it) => (
					<button
						type="button"
						key={it.id}
						className={`${WORD} ${it.id === "try" && attempt?.isHeld ? "font-bold text-ink" : ""}`}
						disabled={it.isOff}
						title={[it.hint, it.key && `(${it.key.replace(" ", " or ")})`].filter(Boolean).join(" ")}
						onClick={it.run}
					>
						{it.label}
					</button>
				))}
			<More actions={actions.filter((it) => ![...ON_BAR, ...VIEWS].includes(it.id))} />
		</header>
	);
}

function More({ actions }: { actions: readonly Action[] }) {
	return (
		<DropdownMenu.Root>
			<DropdownMenu.Trigger className={WORD}>More</DropdownMenu.Trigger>
			<DropdownMenu.Portal>
				<DropdownMenu.Content
					align="end"
					sideOffset={8}
					collisionPadding={12}
					className="z-50 w-64 rounded-2xl bg-sheet p-2 shadow-[var(--shadow)]"
				>
					{actions.map((it) => (
						<DropdownMenu.Item
							key={it.id}
							disabled={it.isOff}
							onSelect={it.run}
							className="flex cursor-pointer items-baseline justify-between gap-3 rounded-xl px-3 py-1.5 outline-none data-[disabled]:cursor-default data-[highlighted]:bg-ground data-[disabled]:text-soft"
						>
							{it.label}
							{it.key && <kbd className="font-number text-soft text-xs">{it.key}</kbd>}
						</DropdownMenu.Item>
					))}
				</DropdownMenu.Content>
			</DropdownMenu.Portal>
		</DropdownMenu.Root>
	);
}

/** The project's name, changed where it stands. */
function Title({ title }: { title: string }) {
	const { change } = useEdits();
	const [typed, setTyped] = useState(title);
	const commit = () =>
		typed.trim() && typed.trim() !== title
			? change({ patch: { title: typed.trim() }, summary: `Called it ${typed.trim()}` })
			: setTyped(title);
	return (
		<h1 className="min-w-0 font-bold font-said text-xl">
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
				className="max-w-[min(22rem,100%)] bg-transparent"
			/>
		</h1>
	);
}
