import { ActionButton } from "../../ui/ActionButton";
import { BeginRound } from "./BeginRound";
import { Ended } from "./Ended";
import { MeterBench } from "./MeterBench";
import { Naming } from "./Naming";
import { Record } from "./Record";
import { Tries } from "./Tries";
import { useRound } from "./useRound";

/** The practice bench: something is broken in a simulated build, and it is found with meter, eyes and hands before it is needed. */
export default function PracticeView() {
	const practice = useRound();
	const { bench, shown, trouble } = practice;
	const round = shown.data;
	const refused = shown.error?.message ?? trouble;
	return (
		<article
			aria-labelledby="practice"
			className="runs-on mx-auto max-w-5xl space-y-5 px-8 py-5 pb-24 max-[720px]:px-4 max-[720px]:py-3"
		>
			{refused && (
				<p role="alert" className="max-w-prose">
					{refused}
				</p>
			)}
			{(!bench.round || shown.error) && <BeginRound practice={practice} />}
			{bench.round && !round && !shown.error && <p>Breaking something…</p>}
			{bench.round && round && (
				<>
					<header className="space-y-1">
						<p className="flex flex-wrap items-baseline gap-x-5 gap-y-1 text-note text-soft">
							<span>
								{round.plan}, {round.lamp}: round {round.seed}, {round.level[0]?.toLowerCase() + round.level.slice(1)}
							</span>
							<span className="font-number">
								{practice.minutes} {practice.minutes === 1 ? "minute" : "minutes"}
							</span>
							<ActionButton isQuiet onPress={practice.leave}>
								Another round
							</ActionButton>
						</p>
						<h2 id="practice" className="font-bold font-said text-said leading-tight">
							{round.told}
						</h2>
						{!bench.ended && (
							<p className="max-w-prose text-note text-soft">
								{round.things === 1 ? "One thing is wrong." : `${round.things} things are wrong.`} All else is as the plan has it.
								Probe, look, try; then mend it.
							</p>
						)}
					</header>
					{bench.ended ? (
						<Ended ended={bench.ended} practice={practice} />
					) : (
						<div className="grid grid-cols-[minmax(0,1fr)_22rem] items-start gap-x-12 gap-y-8 max-[900px]:grid-cols-1">
							<div className="min-w-0 space-y-8">
								<MeterBench round={round} practice={practice} />
								<Record practice={practice} />
							</div>
							<div className="space-y-8">
								<Tries round={round} practice={practice} />
								<Naming round={round} practice={practice} />
							</div>
						</div>
					)}
				</>
			)}
		</article>
	);
}
