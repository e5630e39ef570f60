import { useId } from "react";
import type { components } from "../../api/schema";

export type Known = { network: string; password: string };
type Asks = components["schemas"]["SetupShown"]["asks"];
const LABELS = { network: "The house's network", password: "Password" } as const;

/** What only the maker knows, typed for the steps that are copied: it is sent to no plan and kept nowhere. */
export function Secrets({ asks, known, onType }: { asks: Asks; known: Known; onType: (known: Known) => void }) {
	const id = useId();
	if (!asks.length) return null;
	return (
		<fieldset className="flex flex-wrap items-end gap-x-6 gap-y-2">
			<legend className="text-note text-soft">For the steps below only; kept nowhere.</legend>
			{asks.map((it) => (
				<label key={it} htmlFor={`${id}-${it}`} className="block text-note">
					{LABELS[it]}
					<input
						id={`${id}-${it}`}
						type="text"
						autoComplete="off"
						spellCheck={false}
						maxLength={64}
						value={known[it]}
						onChange={(event) => onType({ ...known, [it]: event.target.value })}
						className="block border-b border-soft bg-transparent font-number"
					/>
				</label>
			))}
		</fieldset>
	);
}
