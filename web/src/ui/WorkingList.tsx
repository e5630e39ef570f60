import type { Working } from "../api/client";

/** The working of a number: rule, numbers put in, source. */
export function WorkingList({ working, sources }: { working: readonly Working[]; sources: Record<string, string> }) {
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
