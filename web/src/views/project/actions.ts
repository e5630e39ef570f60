import { useQuery } from "@tanstack/react-query";
import { useLocation } from "wouter";
import { answered, api, type Review, type Sheet } from "../../api/client";
import { takeAway } from "../../api/files";
import { useAttempt, useEdits, useKept } from "../../api/project";
import { usePhone } from "../../api/rehearsal";
import { type Befallen, doingOf } from "../../api/take";
import type { Action } from "../../keys";
import { turnTheme } from "../../theme";

type Ways = {
	choose: (stage: string) => void;
	turn: (view: string) => void;
	turnPhone: () => void;
	find: () => void;
	listKeys: () => void;
	letIn: () => void;
	show: (text: string) => void;
	takeWhole: (href: string, name: string) => void;
};

/** A title as the name of a file: letters of any script and digits stay, all else becomes a hyphen. */
const fileName = (title: string) =>
	title
		.toLowerCase()
		.replace(/[^\p{L}\p{N}]+/gu, "-")
		.replace(/^-|-$/g, "") || "plan";

/** What can be done with the project as a whole: one list for the bar, the keys and the finder. */
export function useActions(ways: Ways): Action[] {
	const kept = useKept();
	const attempt = useAttempt();
	const { undo, redo, keepAll, hold } = useEdits();
	const [, go] = useLocation();
	const copyAnswers = async () => {
		const call = api.GET("/api/projects/{project_id}/answers", {
			params: { path: { project_id: kept.id } },
			parseAs: "text",
		});
		const text = String(await answered(call).catch((error: Error) => error.message));
		await navigator.clipboard?.writeText(text).catch(() => undefined); // the window below shows it in any case
		ways.show(text);
	};
	return [
		{ id: "plan", label: "Plan", hint: "the line, its sheets and verdicts", run: () => ways.turn("") },
		{ id: "rehearse", label: "Rehearse", hint: "over time, with troubles and takes", key: "r", run: () => ways.turn("rehearse") },
		{ id: "program", label: "Program", hint: "to read, and to take away", key: "c", run: () => ways.turn("program") },
		{
			id: "module",
			label: "At the module",
			hint: "talk to it, and read back what it said",
			key: "o",
			run: () => ways.turn("module"),
		},
		{ id: "bench", label: "At the bench", hint: "wires to make, drawing, parts", key: "n", run: () => ways.turn("bench") },
		{ id: "log", label: "Log", hint: "what was built, measured, changed and thought of", key: "l", run: () => ways.turn("log") },
		{ id: "bring-up", label: "Bring it up", hint: "step by step, with a meter", key: "g", run: () => ways.turn("bring-up") },
		{ id: "why", label: "It does not work", hint: "the shortest way to why", key: "f", run: () => ways.turn("why") },
		{
			id: "practice",
			label: "Practice bench",
			hint: "find a fault in a simulated build",
			key: "y",
			run: () => ways.turn("practice"),
		},
		{ id: "undo", label: "Undo", hint: kept.undo ?? "", key: "Ctrl+z", isOff: !kept.undo, run: undo },
		{ id: "redo", label: "Redo", hint: kept.redo ?? "", key: "Ctrl+Shift+z", isOff: !kept.redo, run: redo },
		{ id: "try", label: attempt?.isHeld ? "End what if" : "What if", hint: "look before keeping", key: "w", run: hold },
		{
			id: "history",
			label: "History",
			hint: "every change, to compare and bring back",
			key: "h",
			run: () => ways.turn("history"),
		},
		{ id: "find", label: "Find", hint: "anything, by typing", key: "/ Ctrl+k", run: ways.find },
		{ id: "parts", label: "My parts", hint: "drawer, series and parts of your own", key: "m", run: () => ways.choose("parts") },
		{ id: "shelf", label: "Projects", hint: "the shelf", key: "s", run: () => go("/shelf") },
		{ id: "phone", label: "To the phone, all its buttons", key: "p", run: ways.turnPhone },
		{
			id: "thumb",
			label: "The phone by itself",
			hint: "its controls big enough for a thumb, at an address of their own",
			run: () => go(`/projects/${kept.id}/phone`),
		},
		{
			id: "keep",
			label: "Keep all proposals",
			hint: "settle all that is proposed",
			run: keepAll,
		},
		{ id: "copy", label: "Copy the answers as text", run: copyAnswers },
		{
			id: "export",
			label: "Save this plan as a file",
			run: () => takeAway(`/api/projects/${kept.id}/plan`, `${fileName(kept.review.title)}.json`),
		},
		{
			id: "archive",
			label: "Save the whole project as a file",
			hint: "this one, with its history, takes, log and photos",
			run: () => ways.takeWhole(`/api/projects/${kept.id}/archive`, `${fileName(kept.review.title)}.zip`),
		},
		{
			id: "sheets",
			label: "Save all sheets as text",
			hint: "to read, or to print",
			run: () => takeAway(`/api/projects/${kept.id}/sheets`, `${fileName(kept.review.title)}.md`),
		},
		{
			id: "everything",
			label: "Save a copy of everything",
			hint: "all projects with their history, as one file",
			run: () => takeAway("/api/copy", `oddlamp-${new Date().toISOString().slice(0, 10)}.sqlite3`),
		},
		{ id: "lan", label: "Open on a phone", hint: "the address on your own network", run: ways.letIn },
		{
			id: "boards",
			label: "Boards compared",
			hint: "this plan on every board there is",
			key: "b",
			run: () => ways.turn("boards"),
		},
		{ id: "print", label: "Print this sheet", run: () => window.print() },
		{ id: "theme", label: "Light or dark", key: "d", run: turnTheme },
		{ id: "keys", label: "Keys", hint: "what each key does", key: "?", run: ways.listKeys },
		{
			id: "notice",
			label: "Licences",
			hint: "of all it is built from",
			run: () => window.open("/notice.txt", "_blank", "noopener"),
		},
	];
}

/** What the finder knows beside those: every stage, way out, move, button of the phone and number. */
export function useFound(
	review: Review,
	sheet: Sheet | undefined,
	choose: (stage: string) => void,
	isFinding: boolean,
): (Action & { group: string })[] {
	const { change } = useEdits();
	const { play } = usePhone();
	const { id, revision } = useKept();
	const numbers = useQuery({
		queryKey: ["numbers", id, revision],
		queryFn: () =>
			answered(api.GET("/api/projects/{project_id}/numbers", { params: { path: { project_id: id }, query: { revision } } })),
		enabled: isFinding,
	});
	const found: (Action & { group: string })[] = [];
	for (const [index, stage] of [...review.line.stages, ...review.line.rails].entries())
		found.push({
			group: "Go to",
			id: stage.id,
			label: stage.label,
			hint: stage.numbers,
			key: index < 9 ? String(index + 1) : undefined,
			run: () => choose(stage.id),
		});
	for (const [stage, label] of Object.entries(review.titles))
		if (stage.startsWith("parts."))
			found.push({ group: "Go to", id: stage, label, hint: "the pins of a board of yours", run: () => choose(stage) });
	for (const finding of review.findings)
		for (const fix of finding.ways?.fixes ?? [])
			found.push({
				group: "Settle",
				id: `${finding.key} ${fix.label}`,
				label: fix.label,
				hint: finding.message,
				run: () => change({ patch: fix.patch, summary: fix.label }),
			});
	for (const button of review.phone)
		for (const gesture of button.gestures)
			found.push({
				group: "Press",
				id: `${button.kind} ${button.control} ${gesture}`,
				label: button.gestures.length > 1 ? `${button.label}, ${gesture}` : button.label,
				hint: button.says,
				run: () => play(doingOf(button, gesture)),
			});
	for (const { node, label, what_ifs } of review.befalls)
		for (const it of what_ifs)
			found.push({
				group: "What if",
				id: `${node} ${it.label}`,
				label: `${label.charAt(0).toUpperCase()}${label.slice(1)} ${it.label}`,
				hint: "in the rehearsal",
				run: () => play(it.event as Befallen),
			});
	for (const move of sheet
		? [...sheet.moves, ...sheet.panels.flatMap((panel) => panel.moves), ...(sheet.keep ? [sheet.keep] : [])]
		: [])
		found.push({
			group: "Change",
			id: move.label,
			label: move.label,
			hint: sheet?.title,
			run: () => change({ patch: move.patch, summary: move.label }),
		});
	for (const value of numbers.data ?? [])
		found.push({
			group: "Numbers",
			id: value.id,
			label: `${value.label} ${value.text}`,
			hint: review.titles[value.stage] ?? "",
			run: () => choose(value.stage),
		});
	return found;
}
