import type { Practice } from "./useRound";

/** All that was probed, the last first. */
export function Record({ practice }: { practice: Practice }) {
	const { done } = practice.bench;
	if (!done.length) return null;
	return (
		<section aria-labelledby="record">
			<h3 id="record" className="text-note text-soft">
				What was found
			</h3>
			<ol reversed className="mt-1 space-y-2">
				{done.toReversed().map((it, at) => (
					// biome-ignore lint/suspicious/noArrayIndexKey: counted from the first, which stays the first
					<li key={done.length - at} className="grid grid-cols-[minmax(0,1fr)_auto] gap-x-4 text-note leading-tight">
						<span className="text-soft">{it.told}</span>
						<span className="font-number text-soft">{it.minutes} min</span>
						<span className="font-semibold">{it.text[0]?.toUpperCase() + it.text.slice(1)}</span>
					</li>
				))}
			</ol>
		</section>
	);
}
