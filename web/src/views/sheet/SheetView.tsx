import { Fragment } from "react";
import type { Sheet, Value } from "../../api/client";
import { useReview } from "../../api/project";
import { PlanMoves } from "../plan/PlanMoves";
import { ReadBoard, SaveBoard } from "./BoardFile";
import { DrawWords } from "./DrawWords";
import { Elsewhere } from "./Elsewhere";
import { NewWord } from "./NewWord";
import { PanelView } from "./PanelView";
import { PasteWords } from "./PasteWords";
import { PinRows } from "./PinRows";
import { Pictures } from "./pictures/Pictures";
import { ScoreView } from "./ScoreView";
import { Sentences } from "./Sentences";
import { SetupSteps } from "./SetupSteps";
import { SlotRows } from "./SlotRows";
import { StageNumbers } from "./StageNumbers";
import { TypeLine } from "./TypeLine";
import { WordRows } from "./WordRows";

/** What lies under a stage: the answer in one sentence, one picture, then the schools and the values to turn. */
export function SheetView({ sheet, values }: { sheet: Sheet; values: readonly Value[] }) {
	const { title } = useReview();
	const vocabulary = sheet.kind === "words" && sheet.moves.length > 0 && sheet.stage.slice("vocabularies.".length);
	const host = sheet.kind === "behaviour" ? sheet.stage.slice("rules.".length) : undefined;
	const rules = sheet.panels.filter((panel) => panel.writes);
	const composed = host && (
		<>
			<Sentences host={host} written={[...rules.map((it) => it.title), ...sheet.orders]} />
			{sheet.scores.map((score) => (
				<ScoreView key={score.cue} score={score} targets={sheet.targets} />
			))}
		</>
	);
	return (
		<article aria-labelledby="sheet-sentence" className="space-y-5 px-8 py-5 pb-24 max-[720px]:px-5">
			<header>
				<p className="sr-only print:not-sr-only">
					<span className="hidden print:inline">{title}: </span>
					{sheet.title}
				</p>
				<h2 id="sheet-sentence" className="text-balance font-bold font-said text-said leading-tight">
					{sheet.sentence}
				</h2>
				<p className="mt-1 text-soft">{sheet.detail}</p>
				{sheet.keep && (
					<div className="mt-2 print:hidden">
						<PlanMoves moves={[sheet.keep]} />
					</div>
				)}
			</header>
			<Pictures pictures={sheet.pictures} />
			{sheet.try_text && <TypeLine vocabulary={sheet.stage.slice("vocabularies.".length)} example={sheet.try_text} />}
			{sheet.panels.map((panel, index) => (
				<Fragment key={panel.writes ?? (panel.title || String(index))}>
					{index === rules.length && composed}
					<PanelView panel={panel} host={host} stage={sheet.stage} at={index} />
				</Fragment>
			))}
			{rules.length === sheet.panels.length && composed}
			{sheet.sets_up && (
				<SetupSteps node={sheet.sets_up} over={sheet.kind === "air" ? sheet.stage.slice("links.".length) : null} />
			)}
			{sheet.slots.length > 0 && <SlotRows sheet={sheet} node={sheet.stage.slice("nodes.".length)} />}
			{sheet.file && <SaveBoard part={sheet.file} />}
			{sheet.kind === "parts" && !sheet.file && (
				<>
					<ReadBoard />
					<Elsewhere />
				</>
			)}
			{vocabulary && <DrawWords vocabulary={vocabulary} isFirst={!sheet.words.length} />}
			{sheet.words.length > 0 && <WordRows stage={sheet.stage} words={sheet.words} />}
			{vocabulary && (
				<>
					<NewWord vocabulary={vocabulary} />
					<PasteWords vocabulary={vocabulary} />
				</>
			)}
			{sheet.pins.length > 0 && <PinRows stage={sheet.stage} pins={sheet.pins} />}
			<PlanMoves moves={sheet.moves} />
			<StageNumbers values={values} />
		</article>
	);
}
