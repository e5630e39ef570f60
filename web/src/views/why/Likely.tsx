import type { WhyShown } from "../../api/client";
import { WasIt } from "./Mending";
import type { Search } from "./useSearch";

/** What it may be: each as a thread, as long as it is likely; who sees it before the search is over mends it there. */
export function Likely({ shown, search }: { shown: WhyShown; search: Search }) {
	if (!shown.likely.length) return null;
	return (
		<section aria-labelledby="likely">
			<h3 id="likely" className="text-note text-soft">
				What it may be
			</h3>
			<ol className="mt-1 space-y-3">
				{shown.likely.map((it, at) => (
					<li key={it.id} className={at ? "" : "font-semibold"}>
						<svg width="100%" height="10" aria-hidden="true" className="block">
							<line x1="0" y1="5" x2="100%" y2="5" strokeWidth="1" className="stroke-hair" />
							<line
								x1="2"
								y1="5"
								x2={`${Math.max(2, Math.min(it.share_ratio, 0.9) * 100)}%`}
								y2="5"
								strokeWidth="4"
								strokeLinecap="round"
								className={at ? "stroke-ink" : "stroke-lamp"}
							/>
						</svg>
						<p className="flex justify-between gap-x-4 leading-tight">
							<span>{it.what}</span>
							<span className="shrink-0 font-number text-note">{it.share}</span>
						</p>
						<p className="font-normal text-note text-soft leading-tight">
							{it.where}
							{it.because && `; likelier because ${it.because}`}
						</p>
						{shown.mend?.test !== it.test && (
							<details className="mt-1 font-normal text-note">
								<summary className="cursor-pointer py-1 text-soft">It is this: mend it</summary>
								<p className="py-1">{it.mend}</p>
								<WasIt test={it.test} onAnswer={search.answer} />
							</details>
						)}
					</li>
				))}
			</ol>
		</section>
	);
}
