import { memo } from "react";
import type { Choice, Panel } from "../../api/client";
import { folds } from "../../ui/ChoiceRow";
import { Folded } from "../../ui/Folded";
import { Origin } from "../../ui/Origin";
import { PlanChoice } from "../plan/PlanChoice";
import { PlanEntry } from "../plan/PlanEntry";
import { PlanMoves } from "../plan/PlanMoves";
import { Builds } from "./Builds";
import { Pictures } from "./pictures/Pictures";
import { Resistor } from "./Resistor";
import { SentenceField } from "./SentenceField";
import { SheetLink } from "./SheetLink";

/** Values that belong together: schools first, then what to turn, then what comes of it. */
type Props = {
	panel: Panel;
	host?: string /** Where it stands, for the options of its long lists. */;
	stage?: string;
	at?: number;
};

export const PanelView = memo(function PanelView({ panel, host, stage, at }: Props) {
	if (!panel.is_folded) return <Unfolded panel={panel} stage={stage} at={at} />;
	return (
		<Folded summary={panel.note ? `${panel.title}: ${panel.note}` : <span className="text-base text-ink">{panel.title}</span>}>
			<div className="mt-3">
				{panel.writes && host && <SentenceField host={host} rule={panel.writes} written={panel.title} label="As a sentence" />}
				<Unfolded panel={{ ...panel, title: "", note: "" }} stage={stage} at={at} />
			</div>
		</Folded>
	);
});

function Unfolded({ panel, stage, at }: Props) {
	const rowOf = (choice: Choice) => `panels.${at}.${panel.choices.indexOf(choice)}`;
	const narrow = panel.choices.filter(folds);
	const wide = panel.choices.filter((choice) => !folds(choice));
	const hasValues = panel.entries.length + narrow.length > 0;
	return (
		<section aria-label={panel.title || undefined} className="space-y-3">
			{panel.title && (
				<h3 className="font-said font-semibold text-name">
					{panel.title} {panel.note && <span className="font-normal font-text text-note text-soft">{panel.note}</span>}
				</h3>
			)}
			{!panel.title && panel.note && <p className="text-note text-soft">{panel.note}</p>}
			{wide.map((choice) => (
				<PlanChoice key={choice.label} choice={choice} stage={stage} row={rowOf(choice)} />
			))}
			{hasValues && (
				<div className="flex flex-wrap items-end gap-x-7 gap-y-3">
					{narrow.map((choice) => (
						<PlanChoice key={choice.label} choice={choice} stage={stage} row={rowOf(choice)} />
					))}
					{panel.entries.map((entry) => (
						<PlanEntry key={[...entry.path, ...(entry.place ?? [])].join(".")} entry={entry} isWide={!entry.value} />
					))}
				</div>
			)}
			{panel.steps.length > 0 && (
				<ol className="max-w-prose list-decimal space-y-1 pl-5">
					{panel.steps.map((step) => (
						<li key={step}>{step}</li>
					))}
				</ol>
			)}
			{panel.lines.length > 0 && (
				<ul className="max-w-prose space-y-1">
					{panel.lines.map((line) => (
						<li key={line}>{line}</li>
					))}
				</ul>
			)}
			{panel.resistors.length > 0 && (
				<ul aria-label="Resistors to reach for" className="flex flex-wrap gap-x-7 gap-y-3">
					{panel.resistors.map((resistor) => (
						<Resistor key={resistor.label} resistor={resistor} />
					))}
				</ul>
			)}
			<Pictures pictures={panel.pictures.filter((it) => it.kind !== "circuit")} />
			{panel.facts.length > 0 && (
				<dl className="flex flex-wrap gap-x-8 gap-y-2">
					{panel.facts.map((fact) => (
						<div key={fact.id}>
							<dt className="text-note text-soft">{fact.label}</dt>
							<dd className="flex items-baseline gap-2">
								<span className="font-number">{fact.text}</span>
								<Origin origin={fact.origin} because={fact.because} value={fact} label={fact.label} />
							</dd>
						</div>
					))}
				</dl>
			)}
			<Pictures pictures={panel.pictures.filter((it) => it.kind === "circuit")} />
			{panel.opens && <SheetLink to={panel.opens.stage}>{panel.opens.label}</SheetLink>}
			<PlanMoves moves={panel.moves} />
			{panel.builds && <Builds signal={panel.builds} />}
		</section>
	);
}
