import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "wouter";
import { answered, api } from "../../api/client";
import { useKept } from "../../api/project";
import { Pick } from "../../ui/Pick";
import type { Practice } from "./useRound";

const LEVELS = [
	["1", "one thing"],
	["2", "two things"],
	["3", "one that comes and goes"],
] as const;
const SEEDS = 9999;

/** Which build, how hard, which round: the same number is the same round. */
export function BeginRound({ practice }: { practice: Practice }) {
	const { id } = useKept();
	const before = practice.bench.round;
	const [of, setOf] = useState(before?.of ?? "own");
	const [level, setLevel] = useState(before?.level ?? 1);
	const [seed, setSeed] = useState(() => String(before?.seed ?? 1 + Math.floor(Math.random() * SEEDS)));
	const plans = useQuery({
		queryKey: ["practice-plans", id],
		queryFn: () => answered(api.GET("/api/projects/{project_id}/practice/plans", { params: { path: { project_id: id } } })),
	});
	const number = Number(seed);
	return (
		<form
			className="max-w-2xl space-y-5"
			onSubmit={(event) => {
				event.preventDefault();
				if (number >= 1) practice.begin({ of, level, seed: number });
			}}
		>
			<header className="space-y-1">
				<h2 id="practice" className="font-bold font-said text-said leading-tight">
					Something is broken. Find it.
				</h2>
				<p className="max-w-prose text-note text-soft">
					A simulated build with a fault in it. Each look and each measurement costs minutes; the fault finder takes part, and its
					minutes are yours to beat. Nothing here touches your plan.
				</p>
			</header>
			<div className="flex flex-wrap gap-x-8 gap-y-3">
				<Pick label="Which build" value={of} options={(plans.data ?? []).map((it) => [it.id, it.words])} isWord onPick={setOf} />
				<Pick label="What is wrong" value={String(level)} options={LEVELS} isWord onPick={(it) => setLevel(Number(it))} />
				<label className="text-note text-soft">
					Round
					<input
						value={seed}
						inputMode="numeric"
						autoComplete="off"
						onChange={(event) => setSeed(event.currentTarget.value.replace(/\D/g, "").slice(0, 9))}
						className="block w-24 border-hair border-b-2 bg-transparent py-1 font-number text-base text-ink"
					/>
				</label>
			</div>
			<p className="flex flex-wrap items-baseline gap-x-6 gap-y-3">
				<button
					type="submit"
					disabled={!(number >= 1) || !plans.data}
					className="rounded-2xl bg-ink px-6 py-3 font-bold font-said text-name text-sheet hover:opacity-90 disabled:opacity-40"
				>
					Break it
				</button>
				<Link href={`/projects/${id}/why`} className="border-hair border-b-2 text-note text-soft hover:border-ink">
					Something of my own does not work
				</Link>
			</p>
		</form>
	);
}
