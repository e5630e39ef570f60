import { useEffect, useRef, useState } from "react";
import { Link, useSearchParams } from "wouter";
import { Refusal, type Review } from "../../api/client";
import { ProjectProvider, useCurrent, useEdit, useProject, useSheet } from "../../api/project";
import { RehearsalProvider } from "../../api/rehearsal";
import { useActionKeys } from "../../keys";
import { Window } from "../../ui/Window";
import { Finder } from "../finder/Finder";
import { HistoryView } from "../history/HistoryView";
import { KeyList } from "../keys/KeyList";
import { LineView } from "../line/LineView";
import { NewsBar } from "../news/NewsBar";
import { OpeningView } from "../opening/OpeningView";
import { PhoneTongue } from "../phone/PhoneTongue";
import { SheetView } from "../sheet/SheetView";
import { TrialBar } from "../trial/TrialBar";
import { ConflictWindow, TroubleBar } from "../trouble/TroubleBar";
import { VerdictList } from "../verdicts/VerdictList";
import { useActions, useFound } from "./actions";
import { TopBar } from "./TopBar";

/** A project: the line on top, the chosen stage's sheet and the verdicts under it, the phone at the edge. */
export function ProjectPage({ id }: { id: string }) {
	const [search] = useSearchParams();
	const project = useProject(id, search.get("stage"));
	if (project.error && !project.data) return <NotShown error={project.error} onAgain={() => project.refetch()} />;
	if (!project.data) return <Waiting />;
	return (
		<ProjectProvider state={project.data}>
			<RehearsalProvider key={id}>
				<Desk />
			</RehearsalProvider>
		</ProjectProvider>
	);
}

/** A thread without knots, while the line is worked out. */
function Waiting() {
	return (
		<main className="p-7">
			<svg width="100%" height="120" viewBox="0 0 1000 120" preserveAspectRatio="none" aria-hidden="true">
				<path d="M20 60C200 20 300 100 500 60S800 20 980 60" fill="none" className="stroke-hair" strokeWidth="3" />
			</svg>
			<p role="status" className="text-soft">
				Working out the line…
			</p>
		</main>
	);
}

function NotShown({ error, onAgain }: { error: Error; onAgain: () => void }) {
	const isAway = error instanceof Refusal && error.status === 0;
	return (
		<main className="mx-auto max-w-xl p-16 max-[720px]:p-6">
			<h1 className="font-bold font-said text-said">{isAway ? "The server is away." : "This project cannot be shown."}</h1>
			<p className="mt-2">{error.message}</p>
			<p className="mt-4 flex flex-wrap gap-6">
				<button type="button" onClick={onAgain} className="border-copper border-b-2 font-semibold">
					Try again
				</button>
				<Link href="/shelf" className="border-hair border-b-2">
					Look along the shelf
				</Link>
			</p>
		</main>
	);
}

/** The stage whose sheet is open: the one in the address, else the one the server found worth opening on. */
function chosenStage(review: Review, wanted: string | null): string {
	if (wanted && review.titles[wanted]) return wanted;
	return Object.keys(review.sheets)[0] ?? "";
}

function Desk() {
	const { review } = useCurrent();
	const { kept } = useEdit();
	const [search, setSearch] = useSearchParams();
	const [first, setFirst] = useState(() => chosenStage(review, null));
	const [isPhoneOut, setPhoneOut] = useState(() => window.matchMedia("(min-width: 720px) and (min-height: 560px)").matches);
	const [isFinding, setFinding] = useState(false);
	const [isListing, setListing] = useState(false);
	const [copied, setCopied] = useState("");
	const isHistory = search.get("view") === "history";
	const asked = search.get("stage") ?? first;
	const chosen = chosenStage(review, asked);
	const choose = (stage: string) => {
		setFirst(stage);
		setSearch({ stage }, { replace: true });
	};
	useEffect(() => {
		document.title = `${review.title}, Odd Lamp`;
	}, [review.title]);
	const actions = useActions({
		choose,
		turnHistory: () => setSearch(isHistory ? { stage: chosen } : { view: "history" }, { replace: true }),
		turnPhone: () => setPhoneOut(!isPhoneOut),
		find: () => setFinding(true),
		listKeys: () => setListing(true),
		show: setCopied,
	});
	const sheet = useSheet(chosen);
	const desk = useRef<HTMLDivElement>(null);
	// biome-ignore lint/correctness/useExhaustiveDependencies: another sheet is read from its top, wherever the last one was left
	useEffect(() => {
		desk.current?.scrollTo(0, 0);
		if ((desk.current?.getBoundingClientRect().top ?? 0) < 0) desk.current?.scrollIntoView();
	}, [chosen]);
	const found = useFound(review, sheet, choose);
	useActionKeys([...actions, ...found.filter((it) => it.key)]);
	return (
		<div className="flex min-h-dvh flex-col desk:h-dvh desk:overflow-hidden">
			<TopBar actions={actions} />
			<TroubleBar />
			{review.opening && !isHistory ? (
				<main className="flex-1 desk:overflow-y-auto">
					<OpeningView opening={review.opening} onLamp={() => choose("lamps.lamp")} />
				</main>
			) : (
				<>
					<LineView line={review.line} chosen={isHistory ? "" : chosen} onChoose={choose} />
					<main className="grid flex-1 grid-cols-1 gap-6 px-7 pb-28 desk:pb-0 max-[720px]:px-3 desk:min-h-0 desk:grid-cols-[minmax(0,2fr)_minmax(0,1fr)]">
						<div ref={desk} className="rounded-t-[2rem] bg-sheet desk:min-h-0 desk:overflow-y-auto">
							{isHistory ? <HistoryView /> : sheet && <SheetView key={sheet.stage} sheet={sheet} />}
						</div>
						<div className="flex flex-col desk:min-h-0">
							<div className="flex-1 pb-4 max-[720px]:px-2 desk:min-h-0 desk:overflow-y-auto">
								<NewsBar />
								<TrialBar />
								<VerdictList review={review} chosen={chosen} onChoose={choose} />
							</div>
							<PhoneTongue buttons={review.phone} isOut={isPhoneOut} onTurn={() => setPhoneOut(!isPhoneOut)} />
						</div>
					</main>
				</>
			)}
			<Finder actions={actions} found={found} isOpen={isFinding} onClose={() => setFinding(false)} />
			<KeyList actions={actions} isOpen={isListing} onClose={() => setListing(false)} />
			<Window title="The answers, copied" isOpen={copied !== ""} onClose={() => setCopied("")}>
				<textarea
					aria-label="Answers as text"
					readOnly
					value={copied}
					rows={16}
					className="mt-3 w-full rounded-2xl bg-ground p-4 font-number text-xs"
				/>
			</Window>
			<ConflictWindow key={`${kept.id} conflict`} />
		</div>
	);
}
