import { type FormEvent, type KeyboardEvent, memo, useEffect, useRef, useState } from "react";
import { ActionButton } from "../../ui/ActionButton";
import { Pick } from "../../ui/Pick";
import { type Entry, QUIET } from "./conversation";
import type { Module } from "./ModuleView";
import { MovingLight } from "./MovingLight";
import { Opening } from "./Opening";
import type { useConsole } from "./useConsole";

type Conversation = { module: Module; console: ReturnType<typeof useConsole> };
type Props = Conversation & { onRead: () => void; onSilent: () => void };
export const SPEEDS = [1200, 2400, 4800, 9600, 19200, 38400, 57600, 74880, 115200, 230400, 460800, 921600];
const ENDINGS = [
	["cr-lf", "CR LF"],
	["cr", "CR"],
	["lf", "LF"],
	["none", "none"],
] as const;
const MENDS = [
	["wires swapped", "Swap TX and RX"],
	["grounds joined", "Join the grounds"],
	["another module", "Take another module"],
] as const;
const CLOCK = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit", second: "2-digit" });

/** A conversation on a thread: you on its left, the module on its right, and below it what is said next. */
export function Talk({ module, console: it, onRead, onSilent }: Props) {
	const list = useRef<HTMLOListElement>(null);
	// biome-ignore lint/correctness/useExhaustiveDependencies: told by what was said last
	useEffect(() => {
		list.current?.scrollTo(0, list.current.scrollHeight);
	}, [it.entries]);
	const labelOf = (id: string) => it.members.find((one) => one.id === id)?.label ?? "";
	return (
		<section aria-label="Conversation" className="min-w-0 desk:sticky desk:top-4 desk:self-start">
			<Opening module={module} console={it} />
			{(it.isOpen || it.entries.length > 0) && (
				<ol
					ref={list}
					aria-live="polite"
					// biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls has to be reachable by keyboard
					tabIndex={0}
					aria-label="What was said"
					className="mt-3 max-h-[min(26rem,55vh)] overflow-y-auto py-1"
				>
					{it.entries.map((entry) => (
						<Said key={entry.id} entry={entry} who={it.members.length > 1 ? labelOf(entry.who) : ""} />
					))}
				</ol>
			)}
			{it.isOpen && <SayBar key={module.node} module={module} console={it} />}
			{it.entries.length > 0 && <Afterwards module={module} console={it} onRead={onRead} onSilent={onSilent} />}
		</section>
	);
}

/** What may be done with all that was said: saved as a file, and where it was a real module, read back into the plan. */
function Afterwards({ module, console: it, onRead, onSilent }: Props) {
	const save = () => {
		const link = document.createElement("a");
		link.href = URL.createObjectURL(new Blob([it.transcript()], { type: "text/plain" }));
		link.download = `${module.label}.txt`.replace(/[^\w .-]/g, "_");
		link.click();
		URL.revokeObjectURL(link.href);
	};
	return (
		<p className="mt-3 flex flex-wrap items-baseline gap-x-6 gap-y-2 text-note text-soft">
			{it.entries.at(-1)?.text === QUIET && (
				<ActionButton isQuiet onPress={onSilent}>
					Why nothing comes
				</ActionButton>
			)}
			{it.isReal && (
				<ActionButton isQuiet onPress={onRead}>
					Read this conversation back
				</ActionButton>
			)}
			<ActionButton isQuiet onPress={save}>
				Save it as a text
			</ActionButton>
			<span>
				<span className="font-number">{it.heardBytes}</span> {it.heardBytes === 1 ? "byte" : "bytes"} heard
			</span>
		</p>
	);
}

/** One thing that was said or heard, a switch that was turned, or quiet. */
const Said = memo(function Said({ entry, who }: { entry: Entry; who: string }) {
	const time = `${CLOCK.format(entry.at)}.${String(Math.floor(entry.at % 1000)).padStart(3, "0")}`;
	if (entry.side === "note")
		return (
			<li className="grid grid-cols-[minmax(0,1fr)_1.5rem_minmax(0,2fr)] gap-x-2 text-note text-soft">
				<span />
				<span aria-hidden="true" className="mx-auto w-[3px] border-hair border-l-[3px] border-dotted" />
				<span className="py-1">
					{entry.text}
					{entry.means && `: ${entry.means}`}
					{who && ` (${who})`}
				</span>
			</li>
		);
	const isYou = entry.side === "you";
	const said = (
		<div className={`min-w-0 py-1 ${isYou ? "text-right" : ""}`}>
			<p className="whitespace-pre-wrap break-words font-number leading-snug">{plain(entry.text) || "·"}</p>
			{who && <p className="text-note text-soft leading-snug">{isYou ? `to ${who}` : who}</p>}
			{entry.hex && <p className="truncate font-number text-soft text-xs">{entry.hex}</p>}
			{entry.means && <p className="text-note text-soft leading-snug">{entry.means}</p>}
		</div>
	);
	const when = (
		<span className={`pt-1.5 font-number text-[0.6875rem] text-soft ${isYou ? "" : "text-right"}`}>
			{isYou ? "" : ""}
			{time}
		</span>
	);
	return (
		<li className="grid grid-cols-[minmax(0,1fr)_1.5rem_minmax(0,2fr)] gap-x-2">
			{isYou ? said : when}
			<span aria-hidden="true" className="relative mx-auto w-[3px] bg-ink">
				<span
					className={`absolute top-1.5 -left-[5px] size-[13px] rounded-full border-[3px] border-ink ${isYou ? "bg-sheet" : "bg-lamp"}`}
				/>
			</span>
			{isYou ? when : said}
		</li>
	);
});

/** What no reader sees is shown as a mark of its own. */
const plain = (text: string) =>
	[...text.replaceAll("\r\n", "\n").replace(/\n+$/, "")]
		.map((it) => (it === "\n" || (it >= " " && it <= "~") || it > "\u00a0" ? it : "▯"))
		.join("");

/** What is said next, how it ends and how fast; the key, the power and the phone of a stand-in; and its light. */
function SayBar({ module, console: it }: Conversation) {
	const [text, setText] = useState("");
	const [ending, setEnding] = useState<string>(module.ending);
	const light = it.lights[module.node];
	const [speed, setSpeed] = useState(light?.speed ?? module.speed_bd);
	const [past, setPast] = useState<readonly string[]>([]);
	const place = useRef(0);
	const heardSpeed = light?.speed;
	useEffect(() => {
		if (heardSpeed) setSpeed(heardSpeed);
	}, [heardSpeed]);
	const say = (event: FormEvent) => {
		event.preventDefault();
		if (!text && ending === "none") return;
		it.send({ say: text, ending, speed });
		// What carries the password of a network is not called up again.
		if (!/AT\+CW[JS]AP/i.test(text)) setPast([...past.filter((one) => one !== text), text].slice(-50));
		place.current = 0;
		setText("");
	};
	const walkBack = (event: KeyboardEvent) => {
		const by = event.key === "ArrowUp" ? 1 : event.key === "ArrowDown" ? -1 : 0;
		if (!by || !past.length) return;
		event.preventDefault();
		place.current = Math.min(past.length, Math.max(0, place.current + by));
		setText(place.current ? (past[past.length - place.current] ?? "") : "");
	};
	return (
		<form onSubmit={say} className="mt-3 flex flex-wrap items-end gap-x-5 gap-y-3 border-hair border-t pt-3">
			<label className="min-w-48 flex-1 text-note text-soft">
				Say to the module
				<input
					value={text}
					onChange={(event) => setText(event.currentTarget.value)}
					onKeyDown={walkBack}
					maxLength={500}
					spellCheck={false}
					autoCapitalize="off"
					className="mt-1 block w-full border-ink border-b-2 bg-transparent py-1 font-number text-base text-ink"
				/>
			</label>
			<Pick label="then" value={ending} options={ENDINGS} onPick={setEnding} />
			<Pick
				label="at"
				value={String(speed)}
				options={SPEEDS.map((one) => [String(one), String(one)] as const)}
				onPick={(to) => {
					setSpeed(Number(to));
					it.send({ speed: Number(to) });
				}}
			/>
			<button type="submit" className="border-copper border-b-2 pb-1 font-semibold text-note">
				Say it
			</button>
			{light && (
				<div className="flex flex-wrap items-end gap-x-5 gap-y-2 text-note">
					{module.has_key && (
						<Switch
							label="Key"
							isOn={light.key}
							on="up"
							off="down"
							onTurn={(on) => it.send({ turn: on ? "key up" : "key down" })}
						/>
					)}
					<Switch
						label="Power"
						isOn={light.power}
						on="on"
						off="off"
						onTurn={(on) => it.send({ turn: on ? "power on" : "power off" })}
					/>
					<Switch
						label={it.members.length > 1 ? "Its other half" : "A phone"}
						isOn={light.linked}
						on="linked"
						off="away"
						onTurn={(on) => it.send({ turn: on ? "link" : "leave" })}
					/>
					<div>
						<span className="block text-soft">Its light</span>
						<span className="flex items-center gap-2">
							<MovingLight turns={light.turns_s} />
							{light.text}: {light.mode === "setup" ? "set-up mode" : light.mode}
						</span>
					</div>
				</div>
			)}
			{light && (
				<div className="flex flex-wrap gap-x-5 gap-y-2 text-note">
					<span className="text-soft">At its wires</span>
					{MENDS.map(([turn, label]) => (
						<ActionButton key={turn} isQuiet onPress={() => it.send({ turn })}>
							{label}
						</ActionButton>
					))}
				</div>
			)}
			<ActionButton isQuiet onPress={it.close}>
				Hang up
			</ActionButton>
		</form>
	);
}

type SwitchProps = { label: string; isOn: boolean; on: string; off: string; onTurn: (on: boolean) => void };

function Switch({ label, isOn, on, off, onTurn }: SwitchProps) {
	return (
		<button type="button" aria-pressed={isOn} onClick={() => onTurn(!isOn)} className="text-left">
			<span className="block text-soft">{label}</span>
			<span className={`border-b-2 ${isOn ? "border-lamp font-semibold" : "border-hair"}`}>{isOn ? on : off}</span>
		</button>
	);
}
