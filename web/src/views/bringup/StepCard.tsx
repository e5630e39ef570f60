import { useEffect, useState } from "react";
import { Link } from "wouter";
import { answered, api, type BringUpShown, Refusal, type StepShown } from "../../api/client";
import { useEdits, useKept, useLatest } from "../../api/project";
import { Mark } from "../../ui/Mark";
import { StepToTake } from "./StepToTake";
import { Waiting } from "./Waiting";

type Props = { sheet: BringUpShown; step: StepShown; at: number; onGo: (to: number) => void };
const DRAFTS = "oddlamp-measured";

/** What is typed and not kept yet: in this window, so that a server that is away for a minute costs nothing. */
function draftOf(key: string): string {
	return sessionStorage.getItem(`${DRAFTS}:${key}`) ?? "";
}

function keepDraft(key: string, text: string) {
	if (text) sessionStorage.setItem(`${DRAFTS}:${key}`, text);
	else sessionStorage.removeItem(`${DRAFTS}:${key}`);
}

/** One step: what, where the probes go, what should be there, and what is. */
export function StepCard({ sheet, step, at, onGo }: Props) {
	const { id } = useKept();
	const { change } = useEdits();
	const latest = useLatest();
	const key = `${id} ${sheet.now} ${step.id}`;
	const [typed, setTyped] = useState(() => draftOf(key));
	const [told, setTold] = useState("");
	const [either, setEither] = useState<readonly string[]>([]);
	const [isAway, setAway] = useState(false);
	const [seen, setSeen] = useState<Seen | null>(null);
	const type = (text: string) => {
		setTyped(text);
		keepDraft(key, text);
	};
	const keep = async (text: string, isSure = false): Promise<boolean> => {
		setTold("");
		setEither([]);
		try {
			const read = await answered(
				api.POST("/api/projects/{project_id}/bench/bring-up/read", {
					params: { path: { project_id: id } },
					body: { base_revision: latest(), now: sheet.now, step: step.id, text, is_sure: isSure },
				}),
			);
			setAway(false);
			if (read.either?.length) {
				setEither(read.either);
				return false;
			}
			setSeen(read.verdict ? { verdict: read.verdict, told: read.told ?? "", suggests: read.suggests ?? [] } : null);
			const trouble = await change({ patch: read.patch ?? {}, summary: read.summary ?? "" }, true);
			if (trouble) {
				setTold(trouble.message);
				return false;
			}
			type("");
			return true;
		} catch (error) {
			const isGone = error instanceof Refusal && error.status === 0;
			setAway(isGone);
			setTold(
				isGone
					? "The server is away. What you typed stays here, and is sent when it is back."
					: error instanceof Refusal && error.allowed
						? `Give ${error.allowed}.`
						: String((error as Error).message),
			);
			return false;
		}
	};
	// biome-ignore lint/correctness/useExhaustiveDependencies: tried again while it is away, with what stands there then
	useEffect(() => {
		if (!isAway || !typed) return;
		const again = setInterval(() => void keep(typed), 3000);
		return () => clearInterval(again);
	}, [isAway, typed]);
	const isLast = at === sheet.steps.length - 1;
	const apart = () => onGo(sheet.steps.findIndex((it) => it.id === step.next?.id));
	return (
		<section aria-labelledby="step" className="max-w-2xl space-y-3">
			<p className="text-note text-soft">
				{step.phase}, step {at + 1} of {sheet.steps.length}
			</p>
			<h3 id="step" className="font-bold font-said text-said leading-tight">
				{step.title}
			</h3>
			<p className="max-w-prose">{step.how}</p>
			{step.caution && <p className="max-w-prose font-semibold text-look">{step.caution}</p>}
			{(step.red || step.black) && (
				<dl className="grid w-max grid-cols-[auto_auto] gap-x-3 text-note">
					{step.red && <Probe label="red probe" colour="var(--wire-red)" at={step.red} />}
					{step.black && <Probe label="black probe" colour="var(--wire-black)" at={step.black} />}
				</dl>
			)}
			{step.waits_s && <Waiting step={step} />}
			{step.kind === "measure" ? (
				<form
					onSubmit={(event) => {
						event.preventDefault();
						if (typed.trim()) keep(typed.trim());
						else if (step.verdict) onGo(at + 1);
					}}
				>
					<label htmlFor="measured" className="text-note text-soft">
						You measure
					</label>
					<div className="flex items-baseline border-ink border-b-2">
						<input
							id="measured"
							value={typed}
							placeholder={step.was}
							inputMode="decimal"
							autoComplete="off"
							spellCheck={false}
							aria-describedby="should"
							aria-invalid={told !== "" && !isAway}
							onChange={(event) => type(event.currentTarget.value)}
							className="w-full min-w-0 bg-transparent py-1 font-number text-4xl placeholder:text-soft"
						/>
						<span className="pl-2 font-number text-soft text-xl">{step.unit}</span>
					</div>
					<p id="should" className="mt-2">
						Should be <span className="font-number">{step.should_be}</span>
						{step.because && <span className="text-note text-soft">: {step.because}</span>}
					</p>
				</form>
			) : (
				<p className="flex gap-x-6 pt-1">
					<button type="button" onClick={() => keep("well").then((isKept) => isKept && onGo(at + 1))} className={BIG_QUIET}>
						As it should be
					</button>
					<button type="button" onClick={() => keep("not")} className={BIG_QUIET}>
						Not so
					</button>
				</p>
			)}
			{either.length > 0 && (
				<p role="alert" className="flex flex-wrap items-baseline gap-x-5 gap-y-2">
					<span>Ten times from what it should be. Which is it?</span>
					{either.map((it, place) => (
						<button
							key={it}
							type="button"
							onClick={() => keep(it, place >= 0)}
							className="border-copper border-b-2 font-number font-semibold hover:border-ink"
						>
							{it}
						</button>
					))}
				</p>
			)}
			{told && (
				<p role="alert" className="max-w-prose text-cut">
					{told}
				</p>
			)}
			<Verdict step={step} seen={seen} onForget={() => setSeen(null)} />
			{step.next && <MeasureNext next={step.next} onGo={apart} onOn={isLast ? null : () => onGo(at + 1)} />}
			<div className="sticky bottom-2 flex gap-x-4 bg-sheet pt-2">
				<button type="button" onClick={() => onGo(at - 1)} disabled={at === 0} className={`${BIG_QUIET} disabled:opacity-40`}>
					Back
				</button>
				<button
					type="button"
					onClick={() => {
						if (step.kind === "measure" && typed.trim()) keep(typed.trim());
						else if (step.next) apart();
						else onGo(at + 1);
					}}
					disabled={isLast && !typed.trim() && !step.next}
					className="flex-1 rounded-2xl bg-ink px-6 py-3 font-bold font-said text-name text-sheet hover:opacity-90 disabled:opacity-40"
				>
					{step.kind === "measure" && typed.trim()
						? "Keep it"
						: step.next
							? "Tell them apart"
							: step.verdict
								? "Next"
								: "Later, next"}
				</button>
			</div>
		</section>
	);
}

/** What a value turned out to be, before it is kept. */
type Seen = { verdict: string; told: string; suggests: readonly string[] };

const BIG_QUIET = "rounded-2xl border-2 border-ink px-5 py-3 font-bold font-said text-name hover:bg-ground";

function Probe({ label, colour, at }: { label: string; colour: string; at: string }) {
	return (
		<>
			<dt className="flex items-center gap-2">
				<svg width="14" height="14" aria-hidden="true">
					<circle cx="7" cy="7" r="6" fill={colour} />
				</svg>
				{label}
			</dt>
			<dd className="font-semibold">{at}</dd>
		</>
	);
}

/** The step that tells apart what may be wrong, for the fewest minutes, and what each reading there would speak for. */
function MeasureNext({
	next,
	onGo,
	onOn,
}: {
	next: NonNullable<StepShown["next"]>;
	onGo: () => void;
	onOn: (() => void) | null;
}) {
	return (
		<div className="max-w-prose space-y-1">
			<StepToTake
				lead={`What tells them apart soonest, about ${next.minutes === 1 ? "a minute" : `${next.minutes} minutes`}:`}
				next={next}
				onGo={onGo}
			/>
			{onOn && (
				<button type="button" onClick={onOn} className="border-hair border-b-2 text-note text-soft hover:border-ink">
					Go on in order
				</button>
			)}
		</div>
	);
}

/** What it turned out to be; taken into the plan by one press. */
function Verdict({ step, seen, onForget }: { step: StepShown; seen: Seen | null; onForget: () => void }) {
	const { change } = useEdits();
	const { id } = useKept();
	const found = step.verdict ? step : seen;
	if (!found) return null;
	const suggests = found.suggests.length ? found.suggests : (seen?.suggests ?? []);
	return (
		<div role="status" className="space-y-2">
			<p className="flex items-center gap-3 font-semibold font-said text-name">
				<Mark state={found.verdict === "off" ? "stop" : "clear"} />
				{found.told}
			</p>
			{found.verdict === "off" && suggests.length > 0 && (
				<>
					<p>Most likely:</p>
					<ol className="max-w-prose list-decimal space-y-1 pl-6 marker:font-number">
						{suggests.map((it) => (
							<li key={it}>{it}</li>
						))}
					</ol>
				</>
			)}
			<p className="flex flex-wrap gap-x-6 gap-y-2 text-note">
				{step.take && (
					<button
						type="button"
						onClick={() => step.take && change({ patch: step.take, summary: step.take_label ?? "" })}
						className="border-copper border-b-2 font-semibold hover:border-ink"
					>
						{step.take_label}
					</button>
				)}
				{step.forget && (
					<button
						type="button"
						onClick={() => {
							onForget();
							if (step.forget) change({ patch: step.forget, summary: `Measure again: ${step.title}` });
						}}
						className="border-hair border-b-2 text-soft hover:border-ink"
					>
						Measure again
					</button>
				)}
				{step.stage && (
					<Link
						href={`/projects/${id}?stage=${encodeURIComponent(step.stage)}`}
						className="border-hair border-b-2 text-soft hover:border-ink"
					>
						Its sheet
					</Link>
				)}
			</p>
		</div>
	);
}
