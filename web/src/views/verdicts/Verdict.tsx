import { useQuery } from "@tanstack/react-query";
import { memo, useId, useState } from "react";
import { answered, api, type Finding, type Ways } from "../../api/client";
import { useAsked, useEdits } from "../../api/project";
import { ActionButton } from "../../ui/ActionButton";
import { Mark } from "../../ui/Mark";
import { WorkingList } from "../../ui/WorkingList";
import { Clearings } from "./Clearings";

type Props = { finding: Finding; ways: Ways | null | undefined; isHere: boolean; onChoose: (stage: string) => void };

/** One verdict: a sentence with its numbers, ways out that take one press, and the working. */
export const Verdict = memo(function Verdict({ finding, ways, isHere, onChoose }: Props) {
	const { change } = useEdits();
	const [isOpen, setOpen] = useState(false);
	const [isKeeping, setKeeping] = useState(false);
	return (
		<li className={`flex gap-3 border-hair border-b py-3 ${finding.accepted ? "opacity-75" : ""}`}>
			<span className="pt-1">
				<Mark state={finding.severity} isSupply={finding.stage.startsWith("rails.")} />
			</span>
			<div className="min-w-0 flex-1">
				<button
					type="button"
					onClick={() => onChoose(finding.stage)}
					className={`text-left font-said leading-snug hover:text-coppertext ${isHere ? "font-bold" : "font-semibold"}`}
				>
					{finding.message}
				</button>
				{finding.accepted && <p className="text-note text-soft">Kept, with the risk noted: {finding.accepted}</p>}
				<div className="mt-1.5 flex flex-wrap gap-x-4 gap-y-2">
					{ways && <Fixes ways={ways} />}
					<ActionButton isQuiet onPress={() => setOpen(!isOpen)}>
						{isOpen ? "Hide working" : ways ? "Show working" : "Ways out and working"}
					</ActionButton>
					{finding.accepted ? (
						<ActionButton
							isQuiet
							onPress={() => change({ patch: { accepted: { [finding.key]: null } }, summary: `Took back: ${finding.code}` })}
						>
							Take that back
						</ActionButton>
					) : (
						!isKeeping && (
							<ActionButton isQuiet onPress={() => setKeeping(true)}>
								Keep, note the risk
							</ActionButton>
						)
					)}
				</div>
				{isKeeping && !finding.accepted && <KeepForm finding={finding} onDone={() => setKeeping(false)} />}
				{isOpen && <Opened finding={finding.key} code={finding.code} known={ways} />}
			</div>
		</li>
	);
});

function Fixes({ ways }: { ways: Ways }) {
	const { change } = useEdits();
	return ways.fixes.map((fix) => (
		<ActionButton key={fix.label} onPress={() => change({ patch: fix.patch, summary: fix.label })}>
			{fix.label}
		</ActionButton>
	));
}

/** How a verdict came and what would clear it: what came with it, else fetched. */
function Opened({ finding, code, known }: { finding: string; code: string; known: Ways | null | undefined }) {
	const asked = useAsked();
	const fetched = useQuery({
		queryKey: ["ways", asked, finding],
		queryFn: () => answered(api.POST("/api/projects/{project_id}/ways", { ...asked, body: { ...asked.body, key: finding } })),
		enabled: !known,
	});
	const ways = known ?? fetched.data;
	return (
		<>
			{!known && ways && (
				<div className="mt-1.5 flex flex-wrap gap-x-4 gap-y-2">
					<Fixes ways={ways} />
				</div>
			)}
			<Clearings finding={finding} />
			{ways ? (
				<WorkingList working={ways.working} />
			) : (
				<p role="status" className="mt-2 text-note text-soft">
					{fetched.error?.message ?? "working it out…"}
				</p>
			)}
			<p className="mt-1 font-number text-soft text-xs">{code}</p>
		</>
	);
}

function KeepForm({ finding, onDone }: { finding: Finding; onDone: () => void }) {
	const { change } = useEdits();
	const id = useId();
	const [reason, setReason] = useState("");
	return (
		<form
			className="mt-2 flex items-end gap-3"
			onSubmit={(event) => {
				event.preventDefault();
				if (!reason.trim()) return;
				const risk = { reason: reason.trim(), taken_at: new Date().toISOString(), numbers: finding.numbers };
				change({ patch: { accepted: { [finding.key]: risk } }, summary: `Kept, risk noted: ${finding.code}` }).then(
					(error) => !error && onDone(),
				);
			}}
		>
			<span className="flex-1">
				<label htmlFor={id} className="block text-note text-soft">
					Why it may stay
				</label>
				<input
					id={id}
					value={reason}
					// biome-ignore lint/a11y/noAutofocus: the reader has just pressed for this field
					autoFocus
					onChange={(event) => setReason(event.currentTarget.value)}
					onKeyDown={(event) => event.key === "Escape" && onDone()}
					className="w-full border-ink border-b-2 bg-transparent"
				/>
			</span>
			<button type="submit" className="border-copper border-b-2 font-semibold text-note">
				Keep
			</button>
		</form>
	);
}
