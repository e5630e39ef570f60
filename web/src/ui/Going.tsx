import { ActionButton } from "./ActionButton";

const MB = 1e6;
export type Gone = { what: string; done: number; size: number };

/** How far something long has gone, and a way to stop it. */
export function Going({ gone, onStop }: { gone: Gone; onStop: () => void }) {
	const of = gone.size > 0 ? ` of ${(gone.size / MB).toFixed(1)} MB` : " MB";
	return (
		<p role="status" className="flex flex-wrap items-baseline gap-x-5 gap-y-1 rounded-2xl bg-lampsoft px-5 py-2.5">
			<span className="flex-1">
				{gone.what}: <span className="font-number">{(gone.done / MB).toFixed(1)}</span>
				{of}
			</span>
			<progress aria-label={gone.what} value={gone.done} max={Math.max(1, gone.size)} className="w-40 accent-[var(--copper)]" />
			<ActionButton onPress={onStop}>Stop</ActionButton>
		</p>
	);
}
