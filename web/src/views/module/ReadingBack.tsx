import { type DragEvent, useId, useState } from "react";
import { useEdits } from "../../api/project";
import { ActionButton } from "../../ui/ActionButton";
import { Pick } from "../../ui/Pick";
import { SPEEDS } from "./Talk";
import type { Reading } from "./useReading";

const TEXT_MOST = 1_500_000;
const SIDE = "grid grid-cols-[3.5rem_minmax(0,1fr)] gap-x-3 text-note";

/** What another terminal kept: pasted, dropped or opened; who spoke, what each line means, and what is taken into the plan. */
export function ReadingBack({ reading }: { reading: Reading }) {
	const { change } = useEdits();
	const field = useId();
	const [text, setText] = useState("");
	const [heard, setHeard] = useState("9600");
	const open = (file: File | undefined) => file && reading.readFile(file, Number(heard));
	const drop = (event: DragEvent) => {
		event.preventDefault();
		open(event.dataTransfer.files[0]);
	};
	const found = reading.found;
	return (
		<div className="mt-2 space-y-4">
			{/* biome-ignore lint/a11y/noStaticElementInteractions: a file may be dropped here; the button beside it opens one by keyboard */}
			<div onDrop={drop} onDragOver={(event) => event.preventDefault()} className="space-y-2">
				<label htmlFor={field} className="block text-note text-soft">
					Paste what it said, or what you said and it answered; garbage as it is, or in hex. Empty: nothing came.
				</label>
				<textarea
					id={field}
					value={text}
					onChange={(event) => setText(event.currentTarget.value)}
					rows={5}
					maxLength={TEXT_MOST}
					spellCheck={false}
					className="w-full max-w-3xl rounded-2xl bg-ground p-3 font-number text-note"
				/>
				<div className="flex flex-wrap items-end gap-x-6 gap-y-2">
					<ActionButton onPress={() => void reading.readText(text, Number(heard))}>Read it</ActionButton>
					<label className="cursor-pointer border-hair border-b-2 text-note text-soft focus-within:border-ink hover:border-ink">
						Open a file
						<input type="file" className="sr-only" onChange={(event) => open(event.currentTarget.files?.[0])} />
					</label>
					<Pick
						label="The terminal was at"
						value={heard}
						options={SPEEDS.map((one) => [String(one), String(one)] as const)}
						onPick={setHeard}
					/>
				</div>
			</div>
			{reading.isReading && <Sending reading={reading} />}
			{reading.error && (
				<p role="alert" className="text-cut text-note">
					{reading.error}
				</p>
			)}
			{found && (
				<div className="space-y-4" aria-live="polite">
					<div>
						<h3 className="font-said font-semibold text-name">{found.sentence}</h3>
						<p className="max-w-prose text-note text-soft">{found.detail}</p>
					</div>
					{found.settings.length > 0 && (
						<ul className="max-w-2xl text-note">
							{found.settings.map((it) => (
								<li key={it.label} className="flex flex-wrap gap-x-3 border-hair border-t py-1">
									<span className="w-36 text-soft">{it.label}</span>
									<span className="font-number">{it.value}</span>
									{!it.is_sure && <span className="text-soft">doubtful: only one thing says so; ask it once more</span>}
									{it.differs && <span className="text-cut">the plan wants {it.wanted}</span>}
								</li>
							))}
						</ul>
					)}
					{found.take && (
						<ActionButton onPress={() => change({ patch: found.take ?? {}, summary: `Read back: ${found.sentence}` })}>
							{found.take_label}
						</ActionButton>
					)}
					{found.note && (
						<ActionButton
							isQuiet
							onPress={() => change({ patch: found.note ?? {}, summary: `Noted what it answered: ${found.sentence}` })}
						>
							Note that it is so, and leave the plan as it is
						</ActionButton>
					)}
					{found.speeds.length > 0 && (
						<ul className="max-w-2xl text-note">
							{found.speeds.map((it) => (
								<li key={it.text} className="flex flex-wrap items-baseline gap-x-4 border-hair border-t py-1">
									<span className="w-24 font-number">{it.text}</span>
									<span className="flex-1 text-soft">{it.because}</span>
									<ActionButton isQuiet onPress={() => change({ patch: it.patch, summary: `Found to speak at ${it.text}` })}>
										Note that it speaks so
									</ActionButton>
								</li>
							))}
						</ul>
					)}
					{found.causes.length > 0 && (
						<ol className="max-w-prose list-decimal space-y-1 pl-6 text-note">
							{found.causes.map((it) => (
								<li key={it}>{it}</li>
							))}
						</ol>
					)}
					<div className="grid gap-x-10 gap-y-4 desk:grid-cols-[minmax(0,3fr)_minmax(0,2fr)]">
						<ol aria-label="Line by line">
							{found.lines.map((it) => (
								<li key={it.number} className={`${SIDE} border-hair border-t py-0.5`}>
									<span className="text-soft">{it.side === "you" ? "you" : "it"}</span>
									<span className="min-w-0 break-words">
										<span className="font-number">{it.text}</span>{" "}
										<span className={it.is_known ? "text-soft" : "text-cut"}>{it.means || "not understood"}</span>
									</span>
								</li>
							))}
							{found.more > 0 && <li className="text-note text-soft">and {found.more} lines more, read but not shown</li>}
						</ol>
						{found.lines.length > 0 && found.steps.length > 0 && (
							<ol aria-label="Beside the script">
								{found.steps.map((it) => (
									<li key={`${it.text} ${it.sent}`} className={`${SIDE} border-hair border-t py-0.5`}>
										<span className={it.state === "differs" ? "text-cut" : "text-soft"}>
											{{ done: "done", differs: "differs", open: "open" }[it.state]}
										</span>
										<span>
											<code className="font-number">{it.sent}</code>
											{it.state === "differs" && (
												<span className="block text-cut">
													it answered {it.heard || "nothing"}. {it.advice}
												</span>
											)}
										</span>
									</li>
								))}
							</ol>
						)}
					</div>
				</div>
			)}
		</div>
	);
}

/** How far a file has gone to be read, and the way to let it go. */
function Sending({ reading }: { reading: Reading }) {
	const { sent = 0, size = 0 } = reading;
	if (!size) return <p className="text-note">Reading…</p>;
	return (
		<p className="flex flex-wrap items-center gap-x-5 gap-y-2 text-note">
			<progress max={size} value={sent} aria-label="How far it is read" className="h-2 w-48 accent-lamp" />
			<span className="font-number">
				{(sent / 1e6).toFixed(1)} of {(size / 1e6).toFixed(1)} MB
			</span>
			<ActionButton isQuiet onPress={reading.letGo}>
				Let it go
			</ActionButton>
		</p>
	);
}
