"""From plan to review: the line, the values with their working, the findings, and a sheet for every stage."""

from collections.abc import Collection
from dataclasses import dataclass

from oddlamp.core.base import si
from oddlamp.core.behaviour.compile import event_of
from oddlamp.core.checks.findings import Finding, Move
from oddlamp.core.checks.registry import run_rules
from oddlamp.core.design.design import Design
from oddlamp.core.design.values import NOT_YET, Value
from oddlamp.core.design.walk import design_values
from oddlamp.core.english import plural
from oddlamp.core.parts.models import Catalog
from oddlamp.core.parts.past import catalog_at
from oddlamp.core.plan.model import Plan
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.behaviour import behaviour_sheet
from oddlamp.sheets.hookup import hookup_sheet, input_sheet
from oddlamp.sheets.keep import keep_all, keep_sheet
from oddlamp.sheets.lamp import lamp_sheet
from oddlamp.sheets.line import Line, draw_line
from oddlamp.sheets.models import Befalls, Opening, PhoneButton, Sheet
from oddlamp.sheets.news import CatalogNews, catalog_news, moved_values
from oddlamp.sheets.opening import opening
from oddlamp.sheets.own_board import own_board_sheet
from oddlamp.sheets.parts import PARTS, TITLE, parts_sheet
from oddlamp.sheets.phone import phone_sheet
from oddlamp.sheets.pins import pins_sheet
from oddlamp.sheets.plain import air_sheet, module_sheet, open_sheet
from oddlamp.sheets.rail import rail_sheet
from oddlamp.sheets.tongue import befalls_of, buttons_of
from oddlamp.sheets.words import words_sheet


@dataclass(frozen=True, kw_only=True)
class Review:
    """Everything the screens, the command line and the exports show of a plan.

    ``sentence`` says how many things are to settle; ``not_yet`` what is not worked out, by stage; ``titles`` names what
    has a sheet: the stages, and the parts of one's own; ``sheets`` are those that were asked for; ``keep`` settles all
    that is proposed, None where nothing is or where not all sheets were asked for; ``sources`` names the source of every
    working; ``news`` are numbers that moved because shipped figures changed since the plan's version.
    """

    title: str
    sentence: str
    line: Line
    values: tuple[Value, ...]
    findings: tuple[Finding, ...]
    not_yet: dict[str, str]
    titles: dict[str, str]
    sheets: dict[str, Sheet]
    keep: Move | None
    phone: tuple[PhoneButton, ...]
    befalls: tuple[Befalls, ...]
    opening: Opening | None
    sources: dict[str, str]
    news: CatalogNews | None

    @property
    def stops(self) -> tuple[Finding, ...]:
        """Findings that stop the build: not accepted."""
        return tuple(finding for finding in self.findings if finding.severity == "stop" and finding.accepted is None)


def review(plan: Plan, catalog: Catalog, *, stages: Collection[str] | None = None) -> Review:
    """Work out everything that is shown of a plan.

    Args:
        plan: a plan whose parts are all in the catalogue (``check_parts``).
        catalog: parts, sources and proposals.
        stages: whose sheets are wanted; None for all. A screen shows one at a time, and a hundred lamps have a hundred.
    """
    return review_design(resolve(plan, catalog), stages=stages)


def review_design(design: Design, *, stages: Collection[str] | None = None) -> Review:
    """Work out everything that is shown of a design that is resolved already."""
    findings = run_rules(design)
    opens = not_worked_out(design)
    line = draw_line(design, findings, opens)
    to_settle = sum(finding.accepted is None for finding in findings)
    boards = {f"{PARTS}.{name}": own.label for name, own in design.plan.parts.items() if name in design.catalog.boards}
    on_line = {stage.id: stage.label for stage in line.stages} | {rail.id: rail.label for rail in line.rails}
    titles = on_line | {PARTS: TITLE} | boards
    sheets = {stage: keep_sheet(_sheet(design, stage, findings)) for stage in titles if stages is None or stage in stages}
    values = design_values(design)
    return Review(
        title=design.plan.title,
        sentence=f"{plural(to_settle, 'thing')} to settle"
        if to_settle
        else "Nothing to settle in what is worked out"
        if opens
        else "Nothing to settle",
        line=line,
        values=values,
        findings=findings,
        not_yet=opens,
        titles=titles,
        sheets=sheets,
        keep=keep_all(design, sheets.values()) if stages is None else None,
        phone=buttons_of(design),
        befalls=befalls_of(design),
        opening=opening(design),
        sources={key: reference.title for key, reference in design.catalog.references.items()},
        news=_news(design, values, titles),
    )


def _news(design: Design, values: tuple[Value, ...], titles: dict[str, str]) -> CatalogNews | None:
    """Work the plan out with the figures it was made with, where shipped ones changed since, and compare."""
    then = catalog_at(design.catalog, design.plan.catalog_version)
    if then is design.catalog:
        return None
    before = design_values(resolve(design.plan, then))
    return catalog_news(design.plan, design.catalog, moved_values(before, values, titles))


def sheet_of(design: Design, findings: tuple[Finding, ...], stage: str) -> Sheet:
    """Build the sheet of one stage of a design's line."""
    return keep_sheet(_sheet(design, stage, findings))


def first_stage(result: Review) -> str | None:
    """Return the stage worth opening on: the worst verdict's, else the first lamp's, else the first; None on an empty line."""
    worst = next((finding.stage for finding in result.findings if not finding.accepted and finding.stage in result.titles), None)
    lamp = next((stage.id for stage in result.line.stages if stage.kind == "lamp"), None)
    return worst or lamp or next((title for title in result.titles if not title.startswith(PARTS)), None)


def _sheet(design: Design, stage: str, findings: tuple[Finding, ...]) -> Sheet:
    collection, _, name = stage.partition(".")
    match collection:
        case "parts" if name:
            return own_board_sheet(design, name)
        case "parts":
            return parts_sheet(design)
        case "rails":
            return rail_sheet(design, design.rails[name])
        case "lamps":
            return lamp_sheet(design, design.lamps[name])
        case "links":
            return air_sheet(design, name) if name in design.airs else hookup_sheet(design, name)
        case "pins":
            return pins_sheet(design, design.nodes[name], findings)
        case "vocabularies":
            return words_sheet(design, design.vocabularies[name], findings)
        case "rules":
            return behaviour_sheet(design, name)
        case "nodes" if name in design.handsets:
            return phone_sheet(design, design.nodes[name])
        case "nodes" if design.nodes[name].node.kind == "module":
            return module_sheet(design, design.nodes[name])
        case "nodes":
            return open_sheet(stage, "open", design.nodes[name].label)
        case _:
            return input_sheet(design, name)


def not_worked_out(design: Design) -> dict[str, str]:
    """Say of every stage what about it no rule judges yet, so that it is never called clear."""
    opens: dict[str, str] = {
        rail.stage: rail.voltage.because or NOT_YET for rail in design.rails.values() if rail.voltage.value is None
    }
    obeyed = {rule.when.input for rule in design.plan.rules.values()}
    receivers = {it.receiver for it in design.handsets.values()}
    for name, it in design.plan.inputs.items():
        if name in receivers:
            continue
        if it.kind == "remote-receiver":
            opens[f"inputs.{name}"] = f"a receiver without its remote: {NOT_YET}"
        elif name not in obeyed:
            opens[f"inputs.{name}"] = "no rule says yet what it sets off"
    for lamp in design.lamps.values():
        missing = [channel.current for channel in lamp.channels if channel.current.value is None]
        if lamp.open_because is not None:
            opens[lamp.stage] = lamp.open_because
        elif lamp.sends_codes:
            opens[lamp.stage] = f"the codes it sends: {NOT_YET}"
        elif missing:
            opens[lamp.stage] = missing[0].because or NOT_YET
    for vocabulary in design.vocabularies.values():
        if vocabulary.open_because is not None:
            opens[vocabulary.stage] = vocabulary.open_because
    for signal in design.signals.values():
        level, line = signal.level, signal.line
        if line.kind == "bus" and level is None:
            opens[line.stage] = f"levels of a bus: {NOT_YET}"
        elif level is not None and line.is_spoken and not level.is_omitted and level.received.value is None:
            opens[line.stage] = level.received.because or NOT_YET
    for host in design.nodes:
        mine = [rule for _, rule in design.rules_of(host)]
        if any(event_of(rule.when) is None for rule in mine):
            opens[f"rules.{host}"] = f"rules that nothing sets off: {NOT_YET}"
        own = design.plan.programs.get(host)
        if own is not None and own.regions:
            most_s = sum(own.takes_s(it) for it in own.regions)
            told = f"what was written into its program by hand, {si(most_s, 's')} at most"
            opens[f"rules.{host}"] = f"{told}: its time is rehearsed, and not what it does"
    for node in design.nodes.values():
        if node.node.kind == "chip" and node.part is None:
            opens[node.stage] = f"chips beside the board: {NOT_YET}"
        elif node.part is not None and (node.logic is None or node.logic.value is None):
            opens[node.stage] = (node.logic.because if node.logic else None) or NOT_YET
    return opens
