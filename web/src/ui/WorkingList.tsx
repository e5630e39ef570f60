import { createContext, useContext } from "react";
import type { Working } from "../api/client";

/** Titles of the sources that workings name, by their key. */
export const Sources = createContext<Record<string, string>>({});

/** The working of a number: rule, numbers put in, source. */
export function WorkingList({ working }: { working: readonly Working[] }) {
	const sources = useContext(Sources);
	if (!working.length) return null;
	return (
		<ol className="mt-2 space-y-1.5">
			{working.map((step) => (
				<li key={step.formula + step.substituted} className="text-xs">
					<span className="text-soft">{step.formula}</span>
					<br />
					<span className="font-number">{step.substituted}</span>
					<br />
					<span className="text-soft italic">{sources[step.source] ?? step.source}</span>
				</li>
			))}
		</ol>
	);
}
