import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useSearchParams } from "wouter";
import { answered, api, type BringUpShown } from "../../api/client";
import { useEdits, useKept } from "../../api/project";
import { ActionButton } from "../../ui/ActionButton";
import { StepCard } from "./StepCard";
import { StepThread } from "./StepThread";
import { useAwake } from "./useAwake";

/** The bring-up sheet: one step a screen, meter in hand; the thread above it leads to every other. */
export default function BringUpView() {
	const { id, revision } = useKept();
	const { change } = useEdits();
	const [search, setSearch] = useSearchParams();
	const [isList, setList] = useState(false);
	const awake = useAwake();
	const wanted = search.get("step");
	const shown = useQuery({
		queryKey: ["bring-up", id, revision, wanted],
		queryFn: () =>
			answered(
				api.GET("/api/projects/{project_id}/bench/bring-up", {
					params: { path: { project_id: id }, query: { revision, step: wanted } },
				}),
			),
		placeholderData: (before) => before,
	});
	const sheet = shown.data;
	const first = sheet?.steps.find((it) => !it.verdict) ?? sheet?.steps[0];
	useEffect(() => {
		// The step stays when it is done, so that its verdict can be read: one goes on by pressing.
		if (first && !wanted) setSearch({ step: first.id }, { replace: true });
	}, [first, wanted, setSearch]);
	if (!sheet) return <p className="px-8 py-5">{shown.error?.message ?? "Laying out the steps…"}</p>;
	const step = sheet.steps.find((it) => it.id === wanted) ?? first;
	if (!step) return <p className="px-8 py-5">Nothing to bring up yet: nothing is fed, and nothing is lit.</p>;
	const at = sheet.steps.indexOf(step);
	const go = (to: number) => {
		const next = sheet.steps[to];
		if (next) setSearch({ step: next.id }, { replace: true });
	};
	return (
		<article
			aria-labelledby="bringup"
			className="runs-on mx-auto max-w-4xl space-y-4 px-8 py-5 pb-24 max-[720px]:space-y-2 max-[720px]:px-4 max-[720px]:py-3"
		>
			<header className="space-y-1">
				<h2 id="bringup" className="font-bold font-said text-said leading-tight max-[720px]:font-normal max-[720px]:text-note">
					{sheet.sentence}
				</h2>
				<p className="max-w-prose text-note text-soft max-[720px]:hidden">{sheet.detail}</p>
				<p className="flex flex-wrap items-baseline gap-x-5 gap-y-1 print:hidden">
					{sheet.passes.map((it) => (
						<button
							key={it.id}
							type="button"
							aria-pressed={it.id === sheet.now}
							onClick={() => change({ patch: { bench: { now: it.id } }, summary: `At the bench: ${it.label}` })}
							className={`border-b-2 text-note ${it.id === sheet.now ? "border-lamp font-semibold" : "border-hair text-soft hover:border-ink"}`}
						>
							{it.label}
							{it.done > 0 && `, ${it.done} found`}
						</button>
					))}
					<Link href={`/projects/${id}/bench`} className="border-hair border-b-2 text-note text-soft hover:border-ink">
						The wires
					</Link>
					<Link href={`/projects/${id}/why`} className="border-hair border-b-2 text-note text-soft hover:border-ink">
						It does not work
					</Link>
				</p>
			</header>
			<StepThread steps={sheet.steps} at={at} onGo={go} />
			<div className="print:hidden">
				<StepCard key={`${sheet.now} ${step.id}`} sheet={sheet} step={step} at={at} onGo={go} />
			</div>
			<p className="flex flex-wrap items-baseline gap-x-6 gap-y-2 print:hidden">
				<ActionButton isQuiet onPress={() => setList(!isList)}>
					{isList ? "Fold the list" : "All steps as a list"}
				</ActionButton>
				<ActionButton isQuiet onPress={() => window.print()}>
					Print
				</ActionButton>
				<a
					href={`/api/projects/${id}/bench/file?revision=${revision}&what=bringup`}
					download
					className="border-hair border-b-2 text-note text-soft leading-tight hover:border-ink"
				>
					As a table
				</a>
				<span className="text-note text-soft">{awake}</span>
			</p>
			<div className={isList ? "" : "hidden print:block"}>
				<StepList sheet={sheet} onGo={go} />
			</div>
		</article>
	);
}

/** Every step in a row of its own: to look over, and on paper with room to write. */
function StepList({ sheet, onGo }: { sheet: BringUpShown; onGo: (to: number) => void }) {
	return (
		<ol className="space-y-2">
			{sheet.steps.map((it, at) => (
				<li key={it.id} className="grid grid-cols-[2rem_minmax(0,1fr)] border-hair border-t pt-2 text-note">
					<span className="font-number text-soft">{at + 1}</span>
					<div>
						<p className="flex flex-wrap justify-between gap-x-4">
							<button type="button" onClick={() => onGo(at)} className="text-left font-semibold hover:text-coppertext">
								{it.title}
							</button>
							<span className={it.verdict === "off" ? "text-cut" : "text-soft"}>{it.was || "…………"}</span>
						</p>
						<p className="text-soft">
							{it.how} {it.should_be && `Should be ${it.should_be}.`} {it.caution}
						</p>
					</div>
				</li>
			))}
		</ol>
	);
}
