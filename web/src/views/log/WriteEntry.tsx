import { useEffect, useId, useRef } from "react";
import type { EntryShown } from "../../api/client";
import { useReview } from "../../api/project";
import { ActionButton } from "../../ui/ActionButton";
import { Pick } from "../../ui/Pick";
import { type Pending, useWriting, type Writing } from "./useWriting";

export const KINDS = [
	["built", "built", "The divider is in, 1.2k over 2.2k."],
	["measured", "measured", "3.31 V at the middle, idle."],
	["changed", "changed", "The module sits on a socket now."],
	["fault", "fault", "The moon stays dark while the board boots."],
	["fixed", "fixed", "A loose ground at the second breadboard."],
	["idea", "idea", "The star could breathe while nobody is there."],
	["next_time", "next time", "Solder the divider before the module."],
] as const;

type Props = { entry?: EntryShown; onKept?: () => void; onLeave?: () => void };

/** Something to write down: of what kind, in a sentence, where on the line, how long it took, what it cost, with photos. */
export function WriteEntry({ entry, onKept = () => undefined, onLeave: leave }: Props) {
	const { titles } = useReview();
	const writing = useWriting(entry ?? null, onKept);
	const { written, write, busy, trouble, isKept } = writing;
	const field = useId();
	const text = useRef<HTMLTextAreaElement>(null);
	useEffect(() => {
		if (entry) text.current?.focus();
	}, [entry]);
	const onLeave =
		leave &&
		(() => {
			writing.forget();
			leave();
		});
	const hint = KINDS.find(([kind]) => kind === written.kind)?.[2];
	const stages = [["", "all of it"] as const, ...Object.entries(titles)];
	// A stage that is gone stays told until another one is picked.
	if (entry?.stage && !titles[entry.stage]) stages.push([entry.stage, entry.stage_label]);
	return (
		<form
			aria-label={entry ? "Write this entry anew" : "Write in the log"}
			className="space-y-3 print:hidden"
			onSubmit={(event) => {
				event.preventDefault();
				if (written.text.trim() && !busy) writing.keep();
				else text.current?.focus();
			}}
		>
			<fieldset disabled={isKept} className="space-y-3">
				<div role="radiogroup" aria-label="What it is" className="flex flex-wrap gap-x-1 gap-y-1">
					{KINDS.map(([kind, label]) => (
						<label
							key={kind}
							className={`cursor-pointer rounded-full px-3 py-1 text-note focus-within:outline-2 max-[720px]:py-2 max-[720px]:text-base ${written.kind === kind ? "bg-lampsoft font-semibold" : "text-soft hover:bg-ground"}`}
						>
							<input
								type="radio"
								name={`${field}-kind`}
								className="sr-only"
								checked={written.kind === kind}
								onChange={() => write({ kind })}
							/>
							{label}
						</label>
					))}
				</div>
				<div>
					<label htmlFor={field} className="text-note text-soft">
						{entry ? "It says" : "What happened?"}
					</label>
					<textarea
						id={field}
						ref={text}
						value={written.text}
						rows={3}
						maxLength={4000}
						placeholder={`Such as: ${hint}`}
						onChange={(event) => write({ text: event.currentTarget.value })}
						onKeyDown={(event) => {
							if (event.key === "Enter" && event.ctrlKey) event.currentTarget.form?.requestSubmit();
							if (event.key === "Escape") onLeave?.();
						}}
						className="block w-full resize-y border-ink border-b-2 bg-transparent pb-1 text-lg leading-snug placeholder:text-soft"
					/>
				</div>
				<div className="flex flex-wrap items-end gap-x-6 gap-y-2 max-[720px]:gap-x-4">
					<Pick label="About" value={written.stage} options={stages} isWord onPick={(stage) => write({ stage })} />
					<Short label="Took" hint="1 h 20" value={written.minutes} onType={(minutes) => write({ minutes })} />
					<Short label="Cost" hint="3.20" value={written.cost} onType={(cost) => write({ cost })} />
				</div>
			</fieldset>
			<div className="flex flex-wrap gap-x-6 gap-y-2">
				<Choose label="Take a photo" isCamera onChosen={writing.add} />
				<Choose label="Add pictures" onChosen={writing.add} />
			</div>
			{writing.photos.length > 0 && (
				<ul className="space-y-2">
					{writing.photos.map((it) => (
						<PendingRow key={it.key} it={it} writing={writing} />
					))}
				</ul>
			)}
			{trouble && (
				<p role="alert" className="text-cut text-note">
					{trouble}
				</p>
			)}
			<p className="flex flex-wrap items-baseline gap-x-6 gap-y-2">
				<button
					type="submit"
					disabled={busy !== ""}
					className="rounded-2xl border-2 border-ink px-5 py-2 font-bold font-said text-name hover:bg-ground disabled:opacity-60 max-[720px]:py-3"
				>
					{isKept ? "Send the photos again" : entry ? "Keep it so" : "Write it down"}
				</button>
				{isKept && (
					<ActionButton isQuiet onPress={writing.done}>
						Leave those photos out
					</ActionButton>
				)}
				{onLeave && !isKept && (
					<ActionButton isQuiet onPress={onLeave}>
						Leave it as it was
					</ActionButton>
				)}
				<span role="status" className="text-note text-soft">
					{busy}
				</span>
			</p>
		</form>
	);
}

function Short({ label, hint, value, onType }: { label: string; hint: string; value: string; onType: (text: string) => void }) {
	return (
		<label className="text-note text-soft">
			{label}
			<input
				value={value}
				placeholder={hint}
				maxLength={20}
				autoComplete="off"
				onChange={(event) => onType(event.currentTarget.value)}
				className="block w-20 border-hair border-b-2 bg-transparent py-1 font-number text-base text-ink placeholder:text-soft"
			/>
		</label>
	);
}

function Choose({
	label,
	isCamera,
	onChosen,
}: {
	label: string;
	isCamera?: boolean;
	onChosen: (files: FileList | null) => void;
}) {
	return (
		<label className="cursor-pointer border-copper border-b-2 pb-px font-semibold text-note leading-tight focus-within:border-ink focus-within:outline-2 focus-within:outline-offset-3 hover:border-ink max-[720px]:py-1.5 max-[720px]:text-base">
			{label}
			<input
				type="file"
				accept="image/jpeg,image/png,image/webp"
				capture={isCamera ? "environment" : undefined}
				multiple={!isCamera}
				className="sr-only"
				onChange={(event) => {
					onChosen(event.currentTarget.files);
					event.currentTarget.value = "";
				}}
			/>
		</label>
	);
}

/** A photo that goes along with the next writing, with a place to say what is to be seen on it. */
function PendingRow({ it, writing }: { it: Pending; writing: Writing }) {
	const canvas = useRef<HTMLCanvasElement>(null);
	useEffect(() => {
		let isGone = false;
		createImageBitmap(it.file, { resizeHeight: 128, resizeQuality: "low" })
			.then((picture) => {
				const drawn = canvas.current;
				if (isGone || !drawn) return;
				drawn.width = picture.width;
				drawn.height = picture.height;
				drawn.getContext("2d")?.drawImage(picture, 0, 0);
			})
			.catch(() => undefined); // the server says what it is, if it is no picture
		return () => {
			isGone = true;
		};
	}, [it.file]);
	return (
		<li className="flex items-start gap-3">
			<canvas ref={canvas} className="h-16 w-auto max-w-32 shrink-0 rounded-lg bg-ground" />
			<div className="min-w-0 flex-1">
				<label className="block text-note text-soft">
					What is to be seen on it?
					<input
						value={it.alt}
						maxLength={300}
						onChange={(event) => writing.tell(it.key, { alt: event.currentTarget.value })}
						className="block w-full border-hair border-b-2 bg-transparent py-1 text-base text-ink"
					/>
				</label>
				{it.trouble && (
					<p role="alert" className="text-cut text-note">
						{it.trouble}
					</p>
				)}
				<ActionButton isQuiet onPress={() => writing.leaveOut(it.key)}>
					Leave it out<span className="sr-only"> {it.file.name}</span>
				</ActionButton>
			</div>
		</li>
	);
}
