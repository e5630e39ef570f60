import { useRef, useState } from "react";
import { useEdits } from "../../api/project";
import { ActionButton } from "../../ui/ActionButton";
import type { Module } from "./ModuleView";
import type { useConsole } from "./useConsole";

type Props = { module: Module; console: ReturnType<typeof useConsole>; onTold: (text: string) => void };

/** The script as knots on a thread: done, differing, the next one. It walks by itself and stops where an answer is another. */
export function ScriptThread({ module, console: it, onTold }: Props) {
	const [isWalking, setWalking] = useState(false);
	const steps = it.steps[module.node] ?? {};
	const next = module.steps.findIndex((_, at) => steps[at]?.state !== "done");
	const isReal = it.isOpen && it.isReal;
	const [secrets, setSecrets] = useState<Secrets>({ network: "", password: "" });
	const isDone = next < 0 && module.steps.length > 0;
	const isBusy = useRef(false);
	const one = async (at: number) => {
		if (isBusy.current) return false; // one step at a time
		if (isReal && module.steps[at]?.is_by_hand) {
			it.markDone(module.node, at);
			return true;
		}
		isBusy.current = true;
		const state = await it.walk(at, secrets);
		isBusy.current = false;
		if (state.state === "differs")
			onTold(state.heard ? `It did not answer as it should: ${state.heard}.` : state.advice || "The line is gone.");
		else if (at === module.steps.length - 1) onTold("It is what the plan says.");
		else onTold("");
		return state.state === "done";
	};
	const all = async () => {
		setWalking(true);
		for (let at = Math.max(0, next); at < module.steps.length; at++) {
			if (isReal && module.steps[at]?.is_by_hand && at !== next) break; // a hand has to do it first
			if (!(await one(at))) break;
		}
		setWalking(false);
	};
	if (!module.steps.length) return null;
	return (
		<section aria-label="The script" className="min-w-0">
			<h3 className="font-said font-semibold text-name">Its script</h3>
			<ol className="mt-2">
				{module.steps.map((step, at) => {
					const state = steps[at];
					const isNext = at === next;
					const knot = state?.state === "done" ? "border-ink bg-ink" : isNext ? "border-ink bg-lamp" : "border-hair bg-sheet";
					return (
						// biome-ignore lint/suspicious/noArrayIndexKey: a step has no identity but its place
						<li key={at} className="relative grid grid-cols-[1.5rem_minmax(0,1fr)] gap-x-3 pb-3">
							<span
								aria-hidden="true"
								className={`absolute inset-y-0 left-[10.5px] w-[3px] ${state?.state === "done" ? "bg-ink" : "bg-hair"}`}
							/>
							<span aria-hidden="true" className={`relative mt-0.5 ml-[3px] size-[18px] rounded-full border-[3px] ${knot}`} />
							<div className="min-w-0 text-note">
								<p className={isNext ? "font-semibold" : state ? "" : "text-soft"}>
									<span className="sr-only">
										{state ? (state.state === "done" ? "Done: " : "Differs: ") : isNext ? "Next: " : ""}
									</span>
									{isNext || !step.sent ? step.text : ""} {step.sent && <code className="font-number">{step.sent}</code>}
								</p>
								{isNext && step.answer && <p className="text-soft">It answers {step.answer}</p>}
								{state?.state === "differs" && (
									<p className="text-cut">
										{state.heard && `It answered ${state.heard}. `}
										{state.advice}
									</p>
								)}
							</div>
						</li>
					);
				})}
			</ol>
			{isReal && <SecretFields steps={module.steps} secrets={secrets} onType={setSecrets} />}
			{it.isOpen ? (
				<div className="mt-2 flex flex-wrap gap-x-6 gap-y-2">
					{!isDone && (
						<>
							<ActionButton onPress={() => void one(next)}>
								{module.steps[next]?.is_by_hand ? (isReal ? "I did that" : "Do the next one") : "Say the next one"}
							</ActionButton>
							<ActionButton isQuiet onPress={() => void all()}>
								{isWalking ? "It walks…" : "Walk the rest by itself"}
							</ActionButton>
						</>
					)}
					{isDone && <p className="text-note">All of it is done.</p>}
					{isReal && next !== 0 && (
						<ActionButton isQuiet onPress={() => it.anew(module.node)}>
							From the beginning
						</ActionButton>
					)}
					{isDone && isReal && <NoteSet module={module} />}
				</div>
			) : (
				<div className="space-y-2">
					<p className="text-note text-soft">Open a conversation, and it can be walked here.</p>
					<NoteSet module={module} />
				</div>
			)}
		</section>
	);
}

/** One press that notes what was done at a real module: its believed state follows. */
function NoteSet({ module }: { module: Module }) {
	const { change } = useEdits();
	if (module.is_set) return null;
	return (
		<ActionButton isQuiet onPress={() => change({ patch: module.done, summary: `${module.label} is set as the plan says` })}>
			Note that it is set so
		</ActionButton>
	);
}

type Secrets = { network: string; password: string };
type FieldProps = { steps: Module["steps"]; secrets: Secrets; onType: (secrets: Secrets) => void };
const SECRETS = [
	["network", "<your network>", "Your network", "text"],
	["password", "<password>", "Its password, sent and not kept", "password"],
] as const;

/** What only the maker knows of a network: typed for the script, and let go with the page. */
function SecretFields({ steps, secrets, onType }: FieldProps) {
	const asked = SECRETS.filter(([, stands]) => steps.some((it) => it.sent.includes(stands)));
	return (
		<div className="mb-3 flex flex-wrap gap-x-6 gap-y-2">
			{asked.map(([name, , label, type]) => (
				<label key={name} className="text-note text-soft">
					{label}
					<input
						type={type}
						autoComplete="off"
						value={secrets[name]}
						onChange={(event) => onType({ ...secrets, [name]: event.currentTarget.value })}
						className="block border-ink border-b-2 bg-transparent py-1 font-number text-ink"
					/>
				</label>
			))}
		</div>
	);
}
