import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answered, api, type WhyAsked } from "../../api/client";
import { useKept } from "../../api/project";

const KEPT = "oddlamp-why";
type Asked = Required<WhyAsked>;
const EMPTY: Asked = { lamp: "", symptom: "", answers: [], lacking: [] };

function kept(key: string): Asked {
	try {
		const found = { ...EMPTY, ...JSON.parse(localStorage.getItem(key) ?? "{}") };
		return Array.isArray(found.answers) && Array.isArray(found.lacking) ? found : EMPTY;
	} catch {
		return EMPTY;
	}
}

/** A search as far as it has got: it stays on this device over a reload, and every answer in it can be changed. */
export function useSearch() {
	const { id, revision } = useKept();
	const key = `${KEPT}:${id}`;
	const [asked, setAsked] = useState<Asked>(() => kept(key));
	const put = (part: Partial<Asked>) => {
		const next = { ...asked, ...part };
		setAsked(next);
		localStorage.setItem(key, JSON.stringify(next));
	};
	const shown = useQuery({
		queryKey: ["why", id, revision, asked],
		queryFn: () => answered(api.POST("/api/projects/{project_id}/why", { params: { path: { project_id: id } }, body: asked })),
		placeholderData: (before) => before,
		retry: false,
	});
	return {
		asked,
		shown,
		begin: (symptom: string) => put({ symptom, answers: [] }),
		pick: (lamp: string) => put({ lamp, answers: [] }),
		answer: (test: string, outcome: string | null) => {
			const others = asked.answers.map((it) => (it.test === test ? { test, outcome } : it));
			put({ answers: others.some((it) => it.test === test) ? others : [...asked.answers, { test, outcome }] });
		},
		takeBack: (test: string) => put({ answers: asked.answers.filter((it) => it.test !== test) }),
		lack: (need: Asked["lacking"][number], isLacking: boolean) =>
			put({ lacking: isLacking ? [...asked.lacking, need] : asked.lacking.filter((it) => it !== need) }),
		leave: () => put({ symptom: "", answers: [] }),
		forget: () => put(EMPTY),
	};
}

export type Search = ReturnType<typeof useSearch>;
