import { useEffect, useState } from "react";
import type { StepShown } from "../../api/client";
import { patchAt } from "../../api/patch";
import { useEdits } from "../../api/project";

/** A wait with its time left: when it began is kept with the project, so it goes on over a reload and on another screen. */
export function Waiting({ step }: { step: StepShown }) {
	const { change } = useEdits();
	const [now, setNow] = useState(() => Date.now());
	const since = step.waits_since ? Date.parse(step.waits_since) : null;
	useEffect(() => {
		if (since === null) return;
		const tick = setInterval(() => setNow(Date.now()), 1000);
		return () => clearInterval(tick);
	}, [since]);
	const begin = () => {
		const moment = `${new Date().toISOString().slice(0, 19)}Z`;
		change({ patch: patchAt(["bench", "waits", step.id], moment), summary: `Began to wait: ${step.title}` });
	};
	if (since === null)
		return (
			<button type="button" onClick={begin} className="border-copper border-b-2 font-semibold hover:border-ink">
				Start the ten minutes
			</button>
		);
	const left = Math.max(0, Math.ceil((step.waits_s ?? 0) - (now - since) / 1000));
	return (
		<p role="timer" className="font-number text-4xl">
			{left > 0 ? `${Math.floor(left / 60)}:${String(left % 60).padStart(2, "0")}` : "Over: now touch."}
		</p>
	);
}
