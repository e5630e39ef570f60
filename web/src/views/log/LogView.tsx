import { useState } from "react";
import { useLocation } from "wouter";
import type { LogFilter } from "../../api/client";
import { useKept, useReview } from "../../api/project";
import { ActionButton } from "../../ui/ActionButton";
import { LogRows } from "./LogRows";
import { NextTime } from "./NextTime";
import { useLog } from "./useLog";
import { WriteEntry } from "./WriteEntry";

const LINK = "border-hair border-b-2 text-note text-soft leading-tight hover:border-ink";

/** What was written beside what was done: to write in at the bench, to find again, and to take along. */
export default function LogView() {
	const { id } = useKept();
	const { title } = useReview();
	const [, go] = useLocation();
	const [find, setFind] = useState("");
	const [only, setOnly] = useState<LogFilter | null>(null);
	const log = useLog(find, only);
	const first = log.data?.pages[0];
	const rows = log.data?.pages.flatMap((page) => page.rows) ?? [];
	const choose = (stage: string) => go(`/projects/${id}?stage=${encodeURIComponent(stage)}`);
	return (
		<article aria-labelledby="log" className="runs-on space-y-5 px-8 py-5 pb-24 max-[720px]:px-4">
			<p className="hidden font-bold font-said text-said print:block">{title}: log</p>
			<header aria-live="polite">
				<h2 id="log" className="font-bold font-said text-said leading-tight">
					{first?.sentence ?? (log.error ? "The log cannot be read." : "Reading the log…")}
				</h2>
				<p className="mt-1 text-soft">{log.error?.message ?? first?.detail}</p>
			</header>
			<div className="grid gap-x-12 gap-y-8 min-[1000px]:grid-cols-[minmax(0,5fr)_minmax(0,3fr)]">
				<div className="space-y-6 min-[1000px]:order-2 print:hidden">
					<WriteEntry />
					<NextTime onChoose={choose} />
					{(first?.sums.length ?? 0) > 0 && (
						<section aria-label="Where time and money went" className="max-[999px]:hidden">
							<h3 className="text-note text-soft">Where it went</h3>
							<ul className="text-note">
								{first?.sums.map((it) => (
									<li key={it.label} className="flex flex-wrap justify-between gap-x-4 border-hair border-b py-1">
										<span>{it.label}</span>
										<span className="font-number">{it.took}</span>
									</li>
								))}
							</ul>
						</section>
					)}
				</div>
				<div className="min-w-0 space-y-4">
					<div className="space-y-2 print:hidden">
						<label className="block max-w-md text-note text-soft">
							Find in it
							<input
								type="search"
								value={find}
								maxLength={200}
								onChange={(event) => setFind(event.currentTarget.value)}
								className="block w-full border-hair border-b-2 bg-transparent py-1 text-base text-ink"
							/>
						</label>
						<fieldset className="flex flex-wrap gap-x-4 gap-y-1">
							<legend className="sr-only">Only of one kind</legend>
							{first?.kinds.map((it) => (
								<button
									type="button"
									key={it.id}
									aria-pressed={only === it.id}
									onClick={() => setOnly(only === it.id ? null : it.id)}
									className={`border-b-2 text-note max-[720px]:py-1 ${only === it.id ? "border-lamp font-semibold" : "border-hair text-soft hover:border-ink"}`}
								>
									{it.label} {it.count}
								</button>
							))}
							{only && !first?.kinds.some((it) => it.id === only) && (
								<ActionButton isQuiet onPress={() => setOnly(null)}>
									Show all again
								</ActionButton>
							)}
						</fieldset>
					</div>
					<LogRows rows={rows} onChoose={choose} />
					{log.hasNextPage && (
						<ActionButton isBusy={log.isFetchingNextPage} onPress={() => log.fetchNextPage()}>
							Show what was before
						</ActionButton>
					)}
					<p className="flex flex-wrap items-baseline gap-x-6 gap-y-2 print:hidden">
						<ActionButton isQuiet onPress={() => go(`/projects/${id}/history`)}>
							Compare changes
						</ActionButton>
						<a href={`/api/projects/${id}/log/file?form=md`} download className={LINK}>
							As text to read
						</a>
						<a href={`/api/projects/${id}/log/file?form=csv`} download className={LINK}>
							As a table
						</a>
						<a href={`/api/projects/${id}/bench/file?what=measured`} download className={LINK}>
							The readings as a table
						</a>
						<ActionButton isQuiet onPress={() => window.print()}>
							Print
						</ActionButton>
					</p>
				</div>
			</div>
		</article>
	);
}
