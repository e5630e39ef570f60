import type { Patch } from "./client";

/** Build the merge patch that puts one value at a path. */
export function patchAt(path: readonly string[], value: unknown): Patch {
	return path.reduceRight<unknown>((inner, step) => ({ [step]: inner }), value) as Patch;
}

/** The same list with one value put in at a place of it; null takes it out. */
export function putIn(items: readonly unknown[], place: readonly (string | number)[], value: unknown): unknown[] {
	const copy = structuredClone(items) as unknown[];
	let here = copy as unknown as Record<string | number, unknown>;
	for (const step of place.slice(0, -1)) {
		here[step] ??= {};
		here = here[step] as Record<string | number, unknown>;
	}
	const last = place.at(-1);
	if (last === undefined) return copy;
	if (value === null) delete here[last];
	else here[last] = value;
	return copy;
}

const isObject = (value: unknown): value is Patch => typeof value === "object" && value !== null && !Array.isArray(value);

/** Two merge patches as one; nulls of both stay. */
export function joinPatches(one: Patch, other: Patch): Patch {
	const joined: Patch = { ...one };
	for (const [step, value] of Object.entries(other)) {
		const inner = joined[step];
		joined[step] = isObject(inner) && isObject(value) ? joinPatches(inner, value) : value;
	}
	return joined;
}
