import { useState } from "react";
import { Link } from "wouter";
import type { ShelfItem, State } from "../../api/client";
import { ActionButton } from "../../ui/ActionButton";
import { Mark } from "../../ui/Mark";

type Props = {
	item: ShelfItem;
	onPut: (item: ShelfItem, place: ShelfItem["place"]) => void;
	onCopy: (item: ShelfItem) => void;
	onRename: (item: ShelfItem, title: string) => void;
};

/** One project: its name, its thread in small, and what can be done with it. */
export function ShelfRow({ item, onPut, onCopy, onRename }: Props) {
	const [isNaming, setNaming] = useState(false);
	const named = <span className="sr-only"> {item.title}</span>;
	return (
		<li className="border-hair border-b py-4">
			<div className="flex flex-wrap items-center gap-x-6 gap-y-1">
				<div className="min-w-48 flex-1">
					{isNaming ? (
						<NameForm
							title={item.title}
							onDone={(title) => (title && title !== item.title ? onRename(item, title) : setNaming(false))}
						/>
					) : (
						<Link href={`/projects/${item.id}`} className="font-said font-semibold text-xl hover:text-coppertext">
							{item.title}
						</Link>
					)}
					<p className="text-note text-soft">
						{item.trouble ? `${item.sentence} ${item.trouble}. Opened` : `${item.sentence}, opened`}{" "}
						{new Date(item.opened_at).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" })}
					</p>
				</div>
				{item.trouble ? <Mark state="stop" /> : <SmallThread thread={item.thread} />}
			</div>
			<p className="mt-1.5 flex flex-wrap gap-x-5 gap-y-1.5">
				{item.trouble && (
					<Link href={`/projects/${item.id}`} className="border-copper border-b-2 font-semibold text-note">
						What can be done{named}
					</Link>
				)}
				{item.place === "shelf" && !item.trouble && (
					<>
						<ActionButton isQuiet onPress={() => onCopy(item)}>
							Copy{named}
						</ActionButton>
						<ActionButton isQuiet onPress={() => setNaming(!isNaming)}>
							Rename{named}
						</ActionButton>
					</>
				)}
				{item.place === "shelf" && (
					<ActionButton isQuiet onPress={() => onPut(item, "archive")}>
						Put away{named}
					</ActionButton>
				)}
				{item.place !== "shelf" && (
					<ActionButton isQuiet onPress={() => onPut(item, "shelf")}>
						Bring back{named}
					</ActionButton>
				)}
				{item.place !== "bin" && (
					<ActionButton isQuiet onPress={() => onPut(item, "bin")}>
						Throw away{named}
					</ActionButton>
				)}
			</p>
		</li>
	);
}

function NameForm({ title, onDone }: { title: string; onDone: (title: string) => void }) {
	const [typed, setTyped] = useState(title);
	return (
		<form
			onSubmit={(event) => {
				event.preventDefault();
				onDone(typed.trim());
			}}
		>
			<input
				aria-label={`New name of ${title}`}
				value={typed}
				maxLength={80}
				// biome-ignore lint/a11y/noAutofocus: the reader has just pressed for this field
				autoFocus
				onChange={(event) => setTyped(event.currentTarget.value)}
				onKeyDown={(event) => event.key === "Escape" && onDone("")}
				onBlur={() => onDone(typed.trim())}
				className="w-full border-ink border-b-2 bg-transparent font-said font-semibold text-xl"
			/>
		</form>
	);
}

const PITCH = 27;

/** The line in small: one knot a column, with the states between. */
function SmallThread({ thread }: { thread: readonly State[] }) {
	if (!thread.length) return <span className="text-note text-soft">no line yet</span>;
	const width = thread.length * PITCH;
	return (
		<svg width={width} height="24" viewBox={`0 0 ${width} 24`} role="img" aria-label={`Thread: ${thread.join(", ")}`}>
			{thread.slice(1).map((state, index) => {
				const x = (index + 0.5) * PITCH + 5;
				const to = x + PITCH - 10;
				const at = `${index}`;
				if (state === "stop")
					return (
						<g key={at} strokeLinecap="round">
							<path d={`M${x} 12h1.5M${to - 1.5} 12h1.5`} className="stroke-ink" strokeWidth="2.4" />
							<path d={`M${x + 2.5} 7l2 10M${to - 4.5} 7l2 10`} className="stroke-cut" strokeWidth="2" />
						</g>
					);
				const look =
					state === "look" ? { strokeDasharray: "0.1 4.4", strokeWidth: 3 } : { strokeWidth: state === "unknown" ? 1 : 2.6 };
				return <path key={at} d={`M${x} 12H${to}`} className="stroke-ink" strokeLinecap="round" {...look} />;
			})}
			{thread.map((_, index) => {
				const x = (index + 0.5) * PITCH;
				return <circle key={x} cx={x} cy="12" r="4.2" fill="var(--unlit)" className="stroke-ink" strokeWidth="2" />;
			})}
		</svg>
	);
}
