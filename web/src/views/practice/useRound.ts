import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answered, api, type ProbeGiven, type RoundAsked, type RoundEnded } from "../../api/client";
import { useKept } from "../../api/project";

const KEPT = "oddlamp-practice";
export type Done = { probe: Required<ProbeGiven>; told: string; text: string; minutes: number };
type Bench = { round: Required<RoundAsked> | null; done: Done[]; named: string; ended: RoundEnded | null };
const NOTHING: Required<ProbeGiven> = { what: "", red: "", black: "", doing: "nothing", cause: "" };
const EMPTY: Bench = { round: null, done: [], named: "", ended: null };

function kept(key: string): Bench {
	try {
		return { ...EMPTY, ...JSON.parse(localStorage.getItem(key) ?? "{}") };
	} catch {
		return EMPTY;
	}
}

/** A round as far as it has got: it stays on this device over a reload; what is wrong is not known here before it is named. */
export function useRound() {
	const { id, revision } = useKept();
	const key = `${KEPT}:${id}`;
	const [bench, setBench] = useState<Bench>(() => kept(key));
	const [trouble, setTrouble] = useState("");
	const [isBusy, setBusy] = useState(false);
	const put = (part: Partial<Bench>) =>
		setBench((before) => {
			const next = { ...before, ...part };
			localStorage.setItem(key, JSON.stringify(next));
			return next;
		});
	const { round, done } = bench;
	const path = { project_id: id };
	const shown = useQuery({
		queryKey: ["round", id, round?.of === "own" ? revision : 0, round],
		queryFn: () =>
			answered(api.POST("/api/projects/{project_id}/practice", { params: { path }, body: round as Required<RoundAsked> })),
		enabled: round !== null,
		retry: false,
	});
	const does = async (what: () => Promise<void>) => {
		setBusy(true);
		setTrouble("");
		try {
			await what();
		} catch (error) {
			setTrouble(String((error as Error).message));
		}
		setBusy(false);
	};
	const over = async (probes: Required<ProbeGiven>[]) => {
		if (!round) return;
		const body = { ...round, probes };
		put({ ended: await answered(api.POST("/api/projects/{project_id}/practice/over", { params: { path }, body })) });
	};
	return {
		bench,
		shown,
		trouble,
		isBusy,
		minutes: done.reduce((sum, it) => sum + it.minutes, 0),
		begin: (next: Required<RoundAsked>) => {
			setTrouble("");
			put({ ...EMPTY, round: next });
		},
		leave: () => put(EMPTY),
		probe: (probe: Partial<ProbeGiven> & { what: string }, told: string) =>
			does(async () => {
				if (!round) return;
				const whole = { ...NOTHING, ...probe };
				const before = done.map((it) => it.probe);
				const body = { ...round, probe: whole, before };
				const it = await answered(api.POST("/api/projects/{project_id}/practice/probe", { params: { path }, body }));
				put({ done: [...done, { probe: whole, told, text: it.text, minutes: it.minutes }], named: "" });
				if (it.is_over) await over([...before, whole]);
			}),
		mark: (named: string) => put({ named }),
		tell: () => does(() => over(done.map((it) => it.probe))),
	};
}

export type Practice = ReturnType<typeof useRound>;
