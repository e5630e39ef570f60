import { useState } from "react";

const SECONDS: Record<string, number> = { ms: 0.001, s: 1, "": 1, min: 60 };

/** A moment or a time that is typed, as 0.8 s, 300 ms or 2 min. */
export function TimeField({ label, at_s, onKeep }: { label: string; at_s: number; onKeep: (at_s: number) => void }) {
	const [typed, setTyped] = useState<string | null>(null);
	const keep = () => {
		const read = /^\s*(\d*[.,]?\d+)\s*(ms|s|min|)\s*$/.exec(typed ?? "");
		if (read) onKeep(Number(read[1]?.replace(",", ".")) * (SECONDS[read[2] ?? ""] ?? 1));
		setTyped(null);
	};
	return (
		<label className="text-note text-soft">
			{label}
			<input
				value={typed ?? `${Number(at_s.toFixed(3))} s`}
				onChange={(event) => setTyped(event.target.value)}
				onKeyDown={(event) => {
					if (event.key === "Enter") keep();
					if (event.key === "Escape") setTyped(null);
				}}
				onBlur={() => typed !== null && keep()}
				spellCheck={false}
				autoComplete="off"
				maxLength={20}
				className="block w-28 border-ink border-b-2 bg-transparent pb-0.5 font-number text-ink text-lg"
			/>
		</label>
	);
}
