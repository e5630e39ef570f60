import type { State } from "../api/client";

const WORDS: Record<State, string> = { clear: "clear", look: "look", stop: "stop", unknown: "not worked out yet" };

/** The thread's own marks: whole, gone to dots, cut, or only pencilled. Told by shape, then by colour; copper where it is a rail's. */
export function Mark({ state, width = 24, isSupply = false }: { state: State; width?: number; isSupply?: boolean }) {
	const thread = isSupply ? "stroke-copper" : "stroke-ink";
	return (
		<svg width={width} height="12" viewBox="0 0 24 12" role="img" aria-label={WORDS[state]} className="shrink-0">
			{state === "clear" && <path d="M1 6H23" className={thread} strokeWidth="3" strokeLinecap="round" />}
			{state === "look" && (
				<path d="M2 6H23" className={thread} strokeWidth="3.5" strokeLinecap="round" strokeDasharray="0.1 6.6" />
			)}
			{state === "stop" && (
				<g strokeLinecap="round">
					<path d="M1 6H6M18 6H23" className={thread} strokeWidth="3" />
					<path d="M8 1.5L11 10.5M13 1.5L16 10.5" className="stroke-cut" strokeWidth="2.2" />
				</g>
			)}
			{state === "unknown" && <path d="M1 4H23M1 8H23" className="stroke-soft" strokeWidth="1" />}
		</svg>
	);
}
