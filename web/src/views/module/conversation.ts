/** What is shown of a conversation: messages in, entries out. */
export type Entry = {
	id: number;
	side: "you" | "module" | "note";
	who: string;
	text: string;
	hex: string;
	means: string;
	at: number;
};
export type Member = { id: string; label: string };
export type Light = {
	mode: string;
	turns_s: number[];
	text: string;
	key: boolean;
	power: boolean;
	linked: boolean;
	speed: number;
};
export type StepState = { state: "done" | "differs"; heard: string; advice: string };
export type Told = {
	kind: string;
	who?: string;
	text?: string;
	hex?: string;
	means?: string;
	what?: string;
	why?: string;
	at_s?: number;
	at?: number;
	lines?: { text: string; means: string }[];
	members?: Member[];
	is_real?: boolean;
} & Partial<Light> &
	Partial<StepState>;

/** How much is shown and kept: an entry in signs, entries, signs in all, and signs kept to be saved. */
export const MOST = { entry: 1000, entries: 400, signs: 16_000, kept: 4_000_000 };
/** What stands where nothing came back. */
export const QUIET = "quiet";
let number = 0;

/** How many bytes a message brought. */
export const heardAt = (told: Told) => (told.kind === "heard" ? (told.text ?? "").length : 0);

/** Add what was told to what is shown; the oldest goes where it would be too much to look at. */
export function withTold(before: readonly Entry[], all: readonly Told[]): readonly Entry[] {
	const entries = [...before];
	for (const told of all) put(entries, told);
	let signs = 0;
	let from = entries.length;
	while (from > 0 && entries.length - from < MOST.entries && signs < MOST.signs) {
		from -= 1;
		signs += entries[from]?.text.length ?? 0;
	}
	return from > 0 ? entries.slice(from) : entries;
}

function put(entries: Entry[], told: Told) {
	const at = (told.at_s ?? Date.now() / 1000) * 1000;
	const who = told.who ?? "";
	const add = (entry: Partial<Entry>) => {
		number += 1;
		entries.push({ id: number, side: "note", who, text: "", hex: "", means: "", at, ...entry });
	};
	if (told.kind === "said") add({ side: "you", text: told.text, hex: told.hex, means: told.means });
	else if (told.kind === "heard") {
		const last = entries.at(-1);
		if (last?.side === "module" && last.who === who && !last.means && last.text.length < MOST.entry)
			entries[entries.length - 1] = { ...last, text: last.text + (told.text ?? ""), hex: `${last.hex} ${told.hex}`.trim() };
		else add({ side: "module", text: told.text, hex: told.hex });
	} else if (told.kind === "means") explain(entries, told, who);
	else if (told.kind === "turned" || told.kind === "note") add({ text: told.what, means: told.means ?? "" });
	else if (told.kind === "gone") add({ text: told.why ?? "gone" });
}

/** Write beside the last answer what it means, line by line. */
function explain(entries: Entry[], told: Told, who: string) {
	const at = entries.findLastIndex((it) => it.side === "module" && it.who === who);
	const it = entries[at];
	if (!it) return;
	const lines = told.lines ?? [];
	const means = lines
		.map((line) => line.means)
		.filter((text, place, texts) => text && text !== "done" && texts.indexOf(text) === place)
		.join("; ");
	const isKnown = lines.some((line) => line.means);
	const text = lines.map((line) => line.text).join("\n");
	const isWhole = text.length <= MOST.entry;
	entries[at] = {
		...it,
		text: isWhole && text ? text : it.text,
		means: means || (isKnown ? "done" : "no answer of this family"),
	};
}
