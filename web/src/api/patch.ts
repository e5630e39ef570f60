import type { Patch } from "./client";

/** Build the merge patch that puts one value at a path. */
export function patchAt(path: readonly string[], value: unknown): Patch {
	return path.reduceRight<unknown>((inner, step) => ({ [step]: inner }), value) as Patch;
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
