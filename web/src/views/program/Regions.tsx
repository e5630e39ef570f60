import { useId, useState } from "react";
import type { ProgramShown } from "../../api/client";
import { useEdits } from "../../api/project";
import { ActionButton } from "../../ui/ActionButton";
import { Folded } from "../../ui/Folded";
import { Window } from "../../ui/Window";

type Region = ProgramShown["regions"][number];
const CODE_MOST = 4000;

/** A region that is there already, opened where it stands. */
export function RegionEditor({ region, program }: { region: Region; program: ProgramShown }) {
	const [isOpen, setOpen] = useState(false);
	return (
		<span className="sticky right-0 ml-auto bg-lampsoft pr-2 pl-4">
			<ActionButton isQuiet onPress={() => setOpen(true)}>
				Change<span className="sr-only"> {region.told}</span>
			</ActionButton>
			<Window title={region.told} isOpen={isOpen} onClose={() => setOpen(false)}>
				<Editor
					key={region.code}
					program={program}
					place={region.place}
					code={region.code}
					longest_s={region.longest_s}
					onDone={() => setOpen(false)}
				/>
			</Window>
		</span>
	);
}

/** A place for something of one's own that has nothing yet. */
export function NewRegion({ program }: { program: ProgramShown }) {
	const [place, setPlace] = useState("");
	const free = Object.entries(program.places ?? {}).filter(([it]) => !program.regions.some((one) => one.place === it));
	if (!free.length) return null;
	return (
		<Folded summary="Add something of your own" className="print:hidden">
			<ul className="mt-2 space-y-1">
				{free.map(([it, told]) => (
					<li key={it}>
						<ActionButton isQuiet onPress={() => setPlace(it)}>
							{told}
						</ActionButton>
					</li>
				))}
			</ul>
			<Window title={program.places?.[place] ?? ""} isOpen={place !== ""} onClose={() => setPlace("")}>
				<Editor key={place} program={program} place={place} code="" longest_s={0.001} onDone={() => setPlace("")} />
			</Window>
		</Folded>
	);
}

type EditorProps = { program: ProgramShown; place: string; code: string; longest_s: number; onDone: () => void };

function Editor({ program, place, code, longest_s, onDone }: EditorProps) {
	const { change } = useEdits();
	const id = useId();
	const [typed, setTyped] = useState(code);
	const [longest, setLongest] = useState(String(Math.round(longest_s * 1e6) / 1000));
	const [refused, setRefused] = useState("");
	const keep = async (region: { code: string; longest_s: number } | null) => {
		const patch = { programs: { [program.host]: { regions: { [place]: region } } } };
		const why = await change(
			{
				patch,
				summary: region ? "Wrote something of one's own into the program" : "Took something of one's own out of the program",
			},
			true,
		);
		if (why) setRefused(why.message);
		else onDone();
	};
	const ms = Number(longest.replace(",", "."));
	return (
		<div className="mt-3 space-y-3">
			<textarea
				aria-label="Lines of your own"
				aria-describedby={id}
				value={typed}
				onChange={(event) => setTyped(event.target.value)}
				onKeyDown={(event) => {
					if (event.key === "Enter" && event.ctrlKey) keep({ code: typed, longest_s: ms / 1000 });
				}}
				rows={10}
				maxLength={CODE_MOST}
				spellCheck={false}
				className="w-full rounded-2xl bg-lampsoft p-3 font-number text-xs leading-5"
			/>
			<label className="flex items-baseline gap-2">
				takes at most
				<input
					value={longest}
					inputMode="decimal"
					onChange={(event) => setLongest(event.target.value)}
					className="w-20 border-hair border-b-2 bg-transparent text-right font-number"
				/>
				ms
			</label>
			<p id={id} className="text-note text-soft">
				C++, as the rest of it. Nothing else is done while it runs; bytes that come meanwhile wait in the port, 63 at most.
			</p>
			{refused && (
				<p role="alert" className="text-cut text-note">
					{refused}
				</p>
			)}
			<p className="flex gap-5">
				<ActionButton isOff={!typed.trim() || !(ms >= 0)} onPress={() => keep({ code: typed, longest_s: ms / 1000 })}>
					Keep it
				</ActionButton>
				{code && (
					<ActionButton isQuiet onPress={() => keep(null)}>
						Take it out
					</ActionButton>
				)}
			</p>
		</div>
	);
}
