import { useId } from "react";
import { type Action, useSingleKeys } from "../../keys";
import { Window } from "../../ui/Window";

const STEADY = [
	["1 to 9", "the first nine stages of the line"],
	["arrows, on the line", "along the thread, and within a stack"],
	["up and down, in a number", "the next usual value; Enter keeps it, Escape lets it go"],
	["Enter, in a field", "keep what was typed; empty goes back to the proposal"],
	["Escape", "let go, close"],
];

/** What each key does, and whether single keys do anything at all. */
export function KeyList({ actions, isOpen, onClose }: { actions: readonly Action[]; isOpen: boolean; onClose: () => void }) {
	const [isOn, setOn] = useSingleKeys();
	const id = useId();
	const rows = [...actions.filter((it) => it.key).map((it) => [it.key?.replace(" ", " or ") ?? "", it.label]), ...STEADY];
	return (
		<Window title="Keys" isOpen={isOpen} onClose={onClose}>
			<p className="mt-3 flex items-baseline gap-2">
				<input
					id={id}
					type="checkbox"
					checked={isOn}
					onChange={(event) => setOn(event.currentTarget.checked)}
					className="accent-ink"
				/>
				<label htmlFor={id}>Single keys do something outside fields</label>
			</p>
			<dl className="mt-3 grid grid-cols-[minmax(7rem,auto)_1fr] gap-x-5 gap-y-1.5">
				{rows.map(([keys, what]) => (
					<div key={what} className="contents">
						<dt className="font-number text-note">{keys}</dt>
						<dd className="text-note">{what}</dd>
					</div>
				))}
			</dl>
			<button type="button" onClick={onClose} className="mt-5 self-start border-copper border-b-2 font-semibold">
				Close
			</button>
		</Window>
	);
}
