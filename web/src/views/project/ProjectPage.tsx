import { useEffect, useState } from "react";
import { useSearchParams } from "wouter";
import type { Review } from "../../api/client";
import { ProjectProvider, useCurrent, useProject } from "../../api/project";
import { RehearsalProvider } from "../../api/rehearsal";
import { LineView } from "../line/LineView";
import { OpeningView } from "../opening/OpeningView";
import { PhoneTongue } from "../phone/PhoneTongue";
import { SheetView } from "../sheet/SheetView";
import { VerdictList } from "../verdicts/VerdictList";
import { TopBar } from "./TopBar";

/** A project: the line on top, the chosen stage's sheet and the verdicts under it, the phone at the edge. */
export function ProjectPage({ id }: { id: string }) {
	const project = useProject(id);
	if (project.error && !project.data) return <Trouble message={project.error.message} />;
	if (!project.data) return <p className="p-8 text-soft">Working out the line…</p>;
	return (
		<ProjectProvider state={project.data}>
			<RehearsalProvider key={id}>
				<Desk />
			</RehearsalProvider>
		</ProjectProvider>
	);
}

function Trouble({ message }: { message: string }) {
	return (
		<main className="mx-auto max-w-xl p-16">
			<h1 className="font-bold font-said text-said">This project cannot be shown.</h1>
			<p className="mt-2">{message}</p>
			<a href="/" className="mt-4 inline-block border-copper border-b-2 font-semibold">
				Open the last project
			</a>
		</main>
	);
}

/** The stage whose sheet is open: the one in the address, else the worst verdict's, else the first lamp's. */
function chosenStage(review: Review, wanted: string | null): string {
	if (wanted && review.sheets[wanted]) return wanted;
	const worst = review.findings.find((finding) => !finding.accepted && review.sheets[finding.stage]);
	return worst?.stage ?? review.line.stages.find((stage) => stage.kind === "lamp")?.id ?? review.line.stages[0]?.id ?? "";
}

function Desk() {
	const { review } = useCurrent();
	const [search, setSearch] = useSearchParams();
	const [first, setFirst] = useState(() => chosenStage(review, null));
	const [isPhoneOut, setPhoneOut] = useState(true);
	const asked = search.get("stage") ?? first;
	const chosen = chosenStage(review, asked);
	const choose = (stage: string) => {
		setFirst(stage);
		setSearch({ stage }, { replace: true });
	};
	useEffect(() => {
		document.title = `${review.title}, Odd Lamp`;
	}, [review.title]);
	useStageKeys(review, choose);
	const sheet = review.sheets[chosen];
	return (
		<div className="flex h-dvh flex-col overflow-hidden">
			<TopBar />
			{review.opening ? (
				<main className="flex-1 overflow-y-auto">
					<OpeningView opening={review.opening} onLamp={() => choose("lamps.lamp")} />
				</main>
			) : (
				<>
					<LineView line={review.line} chosen={chosen} onChoose={choose} />
					<main className="grid min-h-0 flex-1 grid-cols-[minmax(0,2fr)_minmax(0,1fr)] gap-6 px-7">
						<div className="min-h-0 overflow-y-auto rounded-t-[2rem] bg-sheet">
							{sheet && <SheetView key={chosen} sheet={sheet} />}
						</div>
						<div className="flex min-h-0 flex-col">
							<div className="min-h-0 flex-1 overflow-y-auto pb-4">
								<VerdictList review={review} chosen={chosen} onChoose={choose} />
							</div>
							<PhoneTongue buttons={review.phone} isOut={isPhoneOut} onTurn={() => setPhoneOut(!isPhoneOut)} />
						</div>
					</main>
				</>
			)}
		</div>
	);
}

/** The first nine stages by number keys, outside fields. */
function useStageKeys(review: Review, choose: (stage: string) => void) {
	useEffect(() => {
		const press = (event: KeyboardEvent) => {
			const target = event.target;
			if (
				event.ctrlKey ||
				event.altKey ||
				event.metaKey ||
				(target instanceof HTMLElement && target.matches("input, [role=listbox] *"))
			)
				return;
			const stage = /^[1-9]$/.test(event.key) ? review.line.stages[Number(event.key) - 1] : undefined;
			if (stage) choose(stage.id);
		};
		window.addEventListener("keydown", press);
		return () => window.removeEventListener("keydown", press);
	});
}
