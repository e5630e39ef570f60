import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

type Schemas = components["schemas"];
export type ProjectState = Schemas["ProjectState"];
export type Review = Schemas["ShownReview"];
export type Line = Schemas["Line"];
export type Stage = Schemas["Stage"];
export type State = Stage["state"];
export type Scored = Omit<components["schemas"]["ScoreKept"], "state">;
export type StartCard = components["schemas"]["StartCard"];
export type Score = components["schemas"]["Score"];
export type Sheet = Schemas["Sheet"];
export type Panel = Schemas["Panel"];
export type Choice = Schemas["Choice"];
export type Option = Schemas["Option"];
export type Entry = Schemas["Entry"];
export type Value = Schemas["Value"];
export type Finding = Schemas["ShownFinding"];
export type Ways = Schemas["Ways"];
export type Picture = Sheet["pictures"][number];
export type Chart = Schemas["ChartPicture"];
export type Move = Schemas["Move"];
export type Working = Schemas["Working"];
export type Opening = Schemas["Opening"];
export type PhoneButton = Schemas["PhoneButton"];
export type Befalls = Schemas["Befalls"];
export type Run = Schemas["Run"];
export type Timeline = Schemas["Timeline"];
export type TakeName = Schemas["TakeName"];
export type TakeCompared = Schemas["TakeCompared"];
export type Journey = Schemas["Journey"];
export type ShelfItem = Schemas["ShelfItem"];
export type HistoryItem = Schemas["HistoryItem"];
export type LogShown = Schemas["LogShown"];
export type LogRow = LogShown["rows"][number];
export type EntryShown = Schemas["EntryShown"];
export type RunShown = Schemas["RunShown"];
export type LogFilter = LogShown["kinds"][number]["id"];
export type VersionsCompared = Schemas["VersionsCompared"];
export type Comparison = Schemas["Comparison"];
export type BoardsCompared = Schemas["BoardsCompared"];
export type Trial = Schemas["Trial"];
export type ProgramShown = Schemas["ProgramShown"];
export type BenchShown = Schemas["BenchShown"];
export type CircuitShown = Schemas["CircuitShown"];
export type BoughtShown = Schemas["BoughtShown"];
export type BringUpShown = Schemas["BringUpShown"];
export type StepShown = Schemas["StepShown"];
export type WhyShown = Schemas["WhyShown"];
export type WhyAsked = Schemas["WhyAsked"];
export type RoundShown = Schemas["RoundShown"];
export type RoundAsked = Schemas["RoundAsked"];
export type RoundEnded = Schemas["RoundEnded"];
export type ProbeGiven = Schemas["ProbeGiven"];
export type WireShown = Schemas["WireShown"];
export type TableShown = Schemas["TableShown"];
export type Drawing = Schemas["Drawing"];
export type CircuitBox = Schemas["Box"];
export type Thread = Schemas["NetThread"];
export type DrawnText = Schemas["Text"];
export type TakenBack = Schemas["TakenBack"];
export type DrawnUp = Schemas["DrawnUp"];
/** One place that two edits want differently, as the server tells it. */
export type Clash = { label: string; was: string; theirs: string; yours: string };
export type Patch = Move["patch"];

export const api = createClient<paths>({ baseUrl: "/" });

/** A refusal by the server: where, what was given, and what is allowed. */
export class Refusal extends Error {
	constructor(
		readonly status: number,
		readonly field: string,
		readonly allowed: string,
		detail: string,
		readonly clashes: readonly Clash[] = [],
	) {
		super(detail);
	}
}

function text(body: unknown, key: string): string {
	if (typeof body !== "object" || body === null || !(key in body)) return "";
	const value: unknown = Reflect.get(body, key);
	return typeof value === "string" ? value : "";
}

function clashesOf(body: unknown): Clash[] {
	const list: unknown = typeof body === "object" && body !== null && "clashes" in body ? body.clashes : [];
	const items: unknown[] = Array.isArray(list) ? list : [];
	return items.map((item) => ({
		label: text(item, "label"),
		was: text(item, "was"),
		theirs: text(item, "theirs"),
		yours: text(item, "yours"),
	}));
}

/** Unwrap an answer, or throw what the server said against it. */
export async function answered<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
	const { data, error, response } = await call.catch(() => {
		throw new Refusal(0, "", "", "The server does not answer. Is it still running? Nothing you kept is lost.");
	});
	if (data !== undefined) return data;
	throw new Refusal(
		response.status,
		text(error, "field"),
		text(error, "allowed"),
		text(error, "detail") || `The server answered ${response.status}.`,
		clashesOf(error),
	);
}
