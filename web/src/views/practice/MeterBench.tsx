import { useState } from "react";
import type { RoundShown } from "../../api/client";
import type { Practice } from "./useRound";

type Props = { round: RoundShown; practice: Practice };
type Doing = "nothing" | "lit" | "pressed";
const DOINGS: readonly (readonly [Doing, string])[] = [
	["nothing", "at rest"],
	["lit", "its lamp lit"],
	["pressed", "its input held"],
];
const PROBES = { red: "var(--wire-red)", black: "var(--wire-black)" } as const;

/** The parts with their pins, two probes to put on them, and a meter that shows what would be there. */
export function MeterBench({ round, practice }: Props) {
	const [red, setRed] = useState("");
	const [black, setBlack] = useState("");
	const [isOhms, setOhms] = useState(false);
	const [doing, setDoing] = useState<Doing>("nothing");
	const nameOf = (id: string) => {
		const part = round.parts.find((it) => it.points.some((point) => point.id === id));
		const pin = part?.points.find((it) => it.id === id)?.pin;
		return part ? `${part.label}, ${pin}` : "";
	};
	const put = (id: string) => {
		// A pin with a probe on it lets go of it; else the red one goes first, then the black one.
		if (id === red) setRed("");
		else if (id === black) setBlack("");
		else if (!red) setRed(id);
		else setBlack(id);
	};
	const what = isOhms ? "ohms" : "volts";
	const state: Doing = isOhms ? "nothing" : doing;
	const found = practice.bench.done.findLast(
		({ probe }) => probe.what === what && probe.red === red && probe.black === black && probe.doing === state,
	);
	const measure = () => {
		const when = isOhms ? "power off" : (DOINGS.find(([id]) => id === state)?.[1] ?? "");
		practice.probe(
			{ what, red, black, doing: state },
			`${isOhms ? "Ohms" : "Volts"}, ${nameOf(red)} to ${nameOf(black)}, ${when}`,
		);
	};
	return (
		<section aria-labelledby="meter" className="space-y-4">
			<h3 id="meter" className="sr-only">
				The meter
			</h3>
			<div className="rounded-2xl bg-night px-6 py-4 text-nightink">
				<p aria-live="polite" className="font-number text-4xl leading-none">
					{found ? found.text : isOhms ? "– – – Ω" : "– . – – V"}
				</p>
				<dl className="mt-3 grid grid-cols-[auto_minmax(0,1fr)] gap-x-3 gap-y-0.5 text-note">
					<dt className="text-nightsoft">red</dt>
					<dd>{nameOf(red) || "press a pin"}</dd>
					<dt className="text-nightsoft">black</dt>
					<dd>{nameOf(black) || (red ? "press another pin" : "")}</dd>
				</dl>
				<div className="mt-3 flex flex-wrap items-baseline gap-x-4 gap-y-2 text-note">
					<Choice
						label="What"
						name="range"
						options={[
							["volts", "volts"],
							["ohms", "ohms, power off"],
						]}
						value={isOhms ? "ohms" : "volts"}
						onPick={(it) => setOhms(it === "ohms")}
					/>
					{!isOhms && <Choice label="While" name="doing" options={DOINGS} value={doing} onPick={setDoing} />}
				</div>
				<button
					type="button"
					disabled={!red || !black || practice.isBusy}
					onClick={measure}
					className="mt-3 rounded-2xl bg-lamp px-5 py-2 font-bold font-said text-[#261c3a] text-name disabled:opacity-40"
				>
					Measure
				</button>
			</div>
			<ul className="grid grid-cols-[repeat(auto-fill,minmax(14rem,1fr))] gap-x-6 gap-y-4">
				{round.parts.map((part) => (
					<li key={part.id}>
						<p className="border-ink border-t-[3px] pt-1 font-semibold text-note leading-tight">{part.label}</p>
						<div className="flex flex-wrap gap-x-1">
							{part.points.map((it) => (
								<Pin
									key={it.id}
									label={it.pin}
									of={part.label}
									probe={it.id === red ? "red" : it.id === black ? "black" : null}
									onPress={() => put(it.id)}
								/>
							))}
						</div>
					</li>
				))}
			</ul>
		</section>
	);
}

function Choice<T extends string>({
	label,
	name,
	options,
	value,
	onPick,
}: {
	label: string;
	name: string;
	options: readonly (readonly [T, string])[];
	value: T;
	onPick: (value: T) => void;
}) {
	return (
		<div role="radiogroup" aria-label={label} className="flex flex-wrap gap-x-1">
			{options.map(([id, told]) => (
				<label
					key={id}
					className={`cursor-pointer rounded-full px-3 py-1 focus-within:outline-2 ${value === id ? "bg-nightsoft font-semibold text-[#261c3a]" : "text-nightsoft"}`}
				>
					<input type="radio" name={name} className="sr-only" checked={value === id} onChange={() => onPick(id)} />
					{told}
				</label>
			))}
		</div>
	);
}

function Pin({ label, of, probe, onPress }: { label: string; of: string; probe: "red" | "black" | null; onPress: () => void }) {
	return (
		<button
			type="button"
			aria-pressed={probe !== null}
			aria-label={`${of}, ${label}${probe ? `, ${probe} probe` : ""}`}
			onClick={onPress}
			className="flex items-center gap-1.5 rounded-full px-2 py-1.5 text-note hover:bg-ground"
		>
			<svg width="14" height="14" aria-hidden="true">
				<circle cx="7" cy="7" r="5" strokeWidth="2.5" className="stroke-ink" fill={probe ? PROBES[probe] : "var(--sheet)"} />
			</svg>
			<span className={probe ? "font-semibold" : ""}>{label}</span>
			{probe && <span className="text-soft">{probe}</span>}
		</button>
	);
}
