import { useQuery } from "@tanstack/react-query";
import { type UIEvent, useEffect, useLayoutEffect, useRef, useState } from "react";
import { Redirect, useLocation, useSearchParams } from "wouter";
import type { Review } from "../../api/client";
import { useKept, useReview, useStage } from "../../api/project";
import { useActionKeys } from "../../keys";
import { ActionButton } from "../../ui/ActionButton";
import { Going } from "../../ui/Going";
import { useMedia } from "../../ui/useMedia";
import { useSteady } from "../../ui/useSteady";
import { Window } from "../../ui/Window";
import { Sources } from "../../ui/WorkingList";
import { Finder } from "../finder/Finder";
import { KeyList } from "../keys/KeyList";
import { LanWindow } from "../lan/LanWindow";
import { LineView } from "../line/LineView";
import { NextTime } from "../log/NextTime";
import { NewsBar } from "../news/NewsBar";
import { OpeningView } from "../opening/OpeningView";
import { PhoneTongue } from "../phone/PhoneTongue";
import { SheetView } from "../sheet/SheetView";
import { TrialBar } from "../trial/TrialBar";
import { ConflictWindow, TroubleBar } from "../trouble/TroubleBar";
import { VerdictList } from "../verdicts/VerdictList";
import { useActions, useFound } from "./actions";
import { TopBar } from "./TopBar";
import { useWhole } from "./useWhole";

/** The wide views of a project by the last part of their address. */
const VIEWS = new Map([
	["history", () => import("../history/HistoryView")],
	["boards", () => import("../boards/BoardsView")],
	["rehearse", () => import("../rehearse/RehearseView")],
	["program", () => import("../program/ProgramView")],
	["bench", () => import("../bench/BenchView")],
	["bring-up", () => import("../bringup/BringUpView")],
	["module", () => import("../module/ModuleView")],
	["log", () => import("../log/LogView")],
	["why", () => import("../why/WhyView")],
	["practice", () => import("../practice/PracticeView")],
]);
/** Views that need the whole width: what is to settle is told in them, and stands beside the plan. */
const WHOLE = new Set(["bench", "bring-up", "module", "log", "why", "practice"]);
/** Views for the bench, on a phone beside the iron: there they have the screen to themselves. */
const ALONE = new Set(["bring-up", "log", "why", "practice"]);
const FOLD_FROM = 260; // more than a folded line gives back, so that what is read can stay where it is

/** The stage whose sheet is open: the one in the address, else the one the server found worth opening on. */
function chosenStage(review: Review, wanted: string | null): string {
	if (wanted && review.titles[wanted]) return wanted;
	return Object.keys(review.sheets)[0] ?? "";
}

/** The line on top, the chosen stage's sheet or a wide view and the verdicts under it, the phone at the edge. */
export function Desk({ view }: { view: string }) {
	const { id } = useKept();
	const review = useReview();
	const [search] = useSearchParams();
	const [, go] = useLocation();
	const [first] = useState(() => chosenStage(review, null));
	const chosen = chosenStage(review, search.get("stage") ?? first);
	const last = useRef(chosen); // where a wide view goes back to
	const isWide = VIEWS.has(view);
	const isWhole = WHOLE.has(view);
	const isAlone = ALONE.has(view);
	const Wide = useWide(view);
	if (!isWide) last.current = chosen;
	const choose = useSteady((stage: string, isStep?: boolean) => {
		if (stage !== chosen || isWide) go(`/projects/${id}?stage=${encodeURIComponent(stage)}`, { replace: isStep ?? false });
	});
	const isDesk = useMedia("(min-width: 720px) and (min-height: 560px)");
	const [isPhoneOut, setPhoneOut] = useState(false);
	const phoneRow = useRef<HTMLDivElement>(null);
	const [isFinding, setFinding] = useState(false);
	const [isListing, setListing] = useState(false);
	const [isLetIn, setLetIn] = useState(false);
	const [copied, setCopied] = useState("");
	const whole = useWhole();
	useEffect(() => {
		document.title = `${review.title}, Odd Lamp`;
	}, [review.title]);
	const actions = useActions({
		choose,
		turn: (wide) => (wide === "" || view === wide ? choose(last.current) : go(`/projects/${id}/${wide}`)),
		turnPhone: () => {
			setPhoneOut(!isPhoneOut);
			if (!isPhoneOut) phoneRow.current?.querySelector("button")?.focus();
		},
		find: () => setFinding(true),
		listKeys: () => setListing(true),
		letIn: () => setLetIn(true),
		show: setCopied,
		takeWhole: whole.take,
	});
	const stage = useStage(chosen);
	const found = useFound(review, stage?.sheet, choose, isFinding);
	useActionKeys([...actions, ...found.filter((it) => it.key)]);
	const { desk, isRibbon, onScroll, open } = useRibbon(`${view} ${chosen}`, isWide);
	if (view && !isWide) return <Redirect to={`/projects/${id}`} replace />;
	const phone = (
		<PhoneTongue
			buttons={review.phone}
			befalls={review.befalls}
			isOut={isPhoneOut}
			onTurn={() => setPhoneOut(!isPhoneOut)}
			row={phoneRow}
		/>
	);
	return (
		<Sources value={review.sources}>
			<div className="flex flex-col sheeted:h-dvh sheeted:overflow-hidden">
				<div className="flex min-h-0 flex-1 flex-col sheeted:overflow-y-auto desk:overflow-hidden">
					<TopBar actions={actions} view={view} />
					<TroubleBar />
					{whole.gone && (
						<div className="px-7 pb-2">
							<Going gone={whole.gone} onStop={whole.stop} />
						</div>
					)}
					{whole.trouble && (
						<p role="alert" className="flex flex-wrap items-baseline gap-x-5 px-7 pb-2 text-note">
							{whole.trouble}
							<ActionButton isQuiet onPress={whole.close}>
								Close
							</ActionButton>
						</p>
					)}
					{review.opening && !isWide ? (
						<main className="flex-1 desk:overflow-y-auto">
							<OpeningView
								opening={review.opening}
								onLamp={() => review.opening && choose(review.opening.leads_to)}
								onBegun={choose}
							/>
						</main>
					) : (
						<>
							<div className={`${isWhole ? "print:hidden" : ""} ${isAlone ? "max-[720px]:hidden" : ""}`}>
								<LineView
									line={review.line}
									chosen={isWide ? "" : chosen}
									isRibbon={isDesk && isRibbon}
									onOpen={open}
									onChoose={choose}
								/>
							</div>
							<main
								className={`grid flex-1 grid-cols-1 gap-6 px-7 pb-6 desk:pb-0 max-[720px]:px-3 desk:min-h-0 ${isWhole ? "" : "desk:grid-cols-[minmax(0,2fr)_minmax(0,1fr)]"}`}
							>
								<div ref={desk} onScroll={onScroll} className="rounded-t-[2rem] bg-sheet desk:min-h-0 desk:overflow-y-auto">
									{isWhole && <TrialBar />}
									{isWide
										? Wide && <Wide />
										: stage && <SheetView key={stage.sheet.stage} sheet={stage.sheet} values={stage.values} />}
								</div>
								{!isWhole && (
									<div className="flex flex-col desk:min-h-0">
										{/* Where nothing is to settle there is nothing to press in it, and it still has to be scrolled by keyboard. */}
										<div
											{...(review.findings.length ? {} : { tabIndex: 0, role: "group", "aria-label": "What is to settle" })}
											className="flex-1 pb-4 max-[720px]:px-2 desk:min-h-0 desk:overflow-y-auto"
										>
											<NewsBar />
											<NextTime onChoose={choose} />
											<TrialBar />
											<VerdictList review={review} ways={stage?.ways ?? {}} chosen={chosen} onChoose={choose} />
										</div>
										{isDesk && phone}
									</div>
								)}
							</main>
						</>
					)}
				</div>
				{(!isDesk || isWhole) && !isAlone && phone}
			</div>
			<Finder actions={actions} found={found} isOpen={isFinding} onClose={() => setFinding(false)} />
			<KeyList actions={actions} isOpen={isListing} onClose={() => setListing(false)} />
			<LanWindow isOpen={isLetIn} onClose={() => setLetIn(false)} />
			<Window title="The answers, copied" isOpen={copied !== ""} onClose={() => setCopied("")}>
				<textarea
					aria-label="Answers as text"
					readOnly
					value={copied}
					rows={16}
					className="mt-3 w-full rounded-2xl bg-ground p-4 font-number text-xs"
				/>
			</Window>
			<ConflictWindow key={`${id} conflict`} />
		</Sources>
	);
}

/** A wide view, fetched when it is first gone to: as a query, because React holds back what a placeholder stood for. */
function useWide(view: string) {
	const load = VIEWS.get(view);
	return useQuery({
		queryKey: ["view", view],
		queryFn: async () => (await load?.())?.default,
		enabled: load !== undefined,
		staleTime: Number.POSITIVE_INFINITY,
	}).data;
}

/**
 * Whether the line lies as a ribbon: over a wide view, or a sheet that is scrolled down, until it is opened.
 * It folds again with the next scrolling, never while something is pressed. Another sheet is read from its top.
 */
function useRibbon(shown: string, isWide: boolean) {
	const desk = useRef<HTMLDivElement>(null);
	const [isRibbon, setRibbon] = useState(isWide);
	const before = useRef<{ top: number; scrolled: number } | null>(null);
	useLayoutEffect(() => {
		if (!isRibbon || before.current === null || !desk.current) return;
		// The sheet has moved up with its frame: scrolled back by as much, what is read and pressed stays in its place.
		// By its place before, not its place now: at its foot a taller frame has moved it already.
		desk.current.scrollTop = before.current.scrolled - (before.current.top - desk.current.getBoundingClientRect().top);
		before.current = null;
	}, [isRibbon]);
	// biome-ignore lint/correctness/useExhaustiveDependencies: told by what is shown
	useLayoutEffect(() => {
		setRibbon(isWide);
		desk.current?.scrollTo(0, 0);
		if ((desk.current?.getBoundingClientRect().top ?? 0) < 0) desk.current?.scrollIntoView();
	}, [shown]);
	const onScroll = ({ currentTarget: it }: UIEvent<HTMLElement>) => {
		if (it.scrollTop === 0) setRibbon(isWide);
		else if (it.scrollTop > FOLD_FROM && !isRibbon) {
			before.current = { top: it.getBoundingClientRect().top, scrolled: it.scrollTop };
			setRibbon(true);
		}
	};
	return { desk, isRibbon, onScroll, open: () => setRibbon(false) };
}
