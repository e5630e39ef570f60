"""What an answer carries of a review: the whole line and every verdict's sentence, and one stage in full."""

from dataclasses import dataclass
from typing import Annotated, Final

from pydantic import Field

from oddlamp.core.base import Model, Working
from oddlamp.core.checks.findings import Finding, Move
from oddlamp.core.design.passages import Severity
from oddlamp.core.design.values import Value
from oddlamp.sheets.line import Line
from oddlamp.sheets.models import Befalls, Choice, Opening, Panel, PhoneButton, Sheet
from oddlamp.sheets.news import CatalogNews
from oddlamp.sheets.review import Review


@dataclass(frozen=True, slots=True, kw_only=True)
class Ways:
    """How a verdict came, and the ways out of it."""

    working: tuple[Working, ...]
    fixes: tuple[Move, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class ShownFinding:
    """A verdict as it is listed; in full where its stage is the one asked for, or where it is among the first."""

    code: str
    key: Annotated[str, Field(description="CODE@where, the key of an acceptance")]
    severity: Severity
    stage: str
    message: str
    numbers: Annotated[dict[str, float], Field(description="What an acceptance is held to; bigger is worse")]
    accepted: Annotated[str | None, Field(description="The reason, where accepted and not worse since")]
    ways: Annotated[Ways | None, Field(description="None where it has to be asked for")]


class ShownReview(Model):
    """A review as a screen that looks at one stage needs it."""

    title: str
    sentence: str = Field(description="How many things are to settle, in words")
    line: Line
    values: tuple[Value, ...] = Field(description="The numbers of the stage that was asked for")
    findings: tuple[ShownFinding, ...] = Field(description="The first of them, and the first of the stage that was asked for")
    more_findings: int = Field(description="How many verdicts stay out until they are asked for")
    not_yet: dict[str, str] = Field(description="Stage id to what is not worked out there yet")
    titles: dict[str, str] = Field(description="What has a sheet, by its name: the stages, and the parts of one's own")
    sheets: dict[str, Sheet] = Field(description="The sheet that was asked for")
    phone: tuple[PhoneButton, ...]
    befalls: tuple[Befalls, ...]
    opening: Opening | None
    sources: dict[str, str] = Field(description="Source key to title, for every working shown")
    news: CatalogNews | None = Field(description="Numbers that moved because shipped figures changed since the plan's version")


# Two hundred lamps on a board of twenty pins have two hundred verdicts. Nobody reads them at once, and an answer stays small.
IN_FULL: Final = 3  # the verdicts a reader sees first have their ways out at once
IN_FULL_HERE: Final = 8  # and so have the first of the stage that is looked at
LISTED: Final = 30
LONG_FOLDED: Final = 8  # in what is folded itself
LONG: Final = 100  # options: more than an input of a few lamps may do


def shown(review: Review, stage: str | None, sheet: Sheet | None) -> ShownReview:
    """Show a review with one stage in full: its sheet, its numbers, and its first verdicts with their ways out."""
    first = [it.key for it in review.findings[:LISTED]]
    here = [it.key for it in review.findings if it.stage == stage][:LISTED]
    listed, full = {*first, *here}, {*first[:IN_FULL], *here[:IN_FULL_HERE]}
    findings = tuple(shown_finding(it, is_full=it.key in full) for it in review.findings if it.key in listed)
    return ShownReview(
        title=review.title,
        sentence=review.sentence,
        line=review.line,
        values=tuple(value for value in review.values if value.stage == stage),
        findings=findings,
        more_findings=len(review.findings) - len(findings),
        not_yet=review.not_yet,
        titles=review.titles,
        sheets={stage: closed_sheet(sheet)} if stage is not None and sheet is not None else {},
        phone=review.phone,
        befalls=review.befalls,
        opening=review.opening,
        sources=review.sources,
        news=review.news,
    )


def first_of(review: Review, stage: str) -> list[Finding]:
    """Give the verdicts of a stage that a reader sees first."""
    return [it for it in review.findings if it.stage == stage][:IN_FULL_HERE]


def in_full(review: Review) -> ShownReview:
    """Show a review with all its numbers, all its verdicts in full, and all the sheets it was made with."""
    whole = shown(review, None, None)
    findings = tuple(shown_finding(it, is_full=True) for it in review.findings)
    full = {"values": review.values, "findings": findings, "more_findings": 0, "sheets": review.sheets}
    return whole.model_copy(update=full)


def closed_sheet(sheet: Sheet) -> Sheet:
    """Leave the options of rows and of long lists out until they are opened: six words of two hundred lamps have seven thousand."""
    sheet = sheet.model_copy(update={"panels": tuple(map(_with_long_ones_closed, sheet.panels))})
    if not sheet.words and not sheet.pins:
        return sheet
    words = tuple(
        row.model_copy(update={"does": _closed(row.does), "answers": row.answers and _closed(row.answers)}) for row in sheet.words
    )
    pins = tuple(row.model_copy(update={"pin": _closed(row.pin)}) for row in sheet.pins)
    return sheet.model_copy(update={"words": words, "pins": pins})


def _with_long_ones_closed(panel: Panel) -> Panel:
    most = LONG_FOLDED if panel.is_folded else LONG
    if all(len(it.options) <= most for it in panel.choices):
        return panel
    return panel.model_copy(update={"choices": tuple(_closed(it) if len(it.options) > most else it for it in panel.choices)})


def _closed(choice: Choice) -> Choice:
    chosen = tuple(option for option in choice.options if option.is_chosen)
    return choice.model_copy(update={"options": chosen, "more": len(choice.options) - len(chosen)})


def choice_of(sheet: Sheet, row: str) -> Choice | None:
    """Give the choice of one row with all its options; None where there is no such row."""
    rows = {word.id: word.does for word in sheet.words} | {pin.id: pin.pin for pin in sheet.pins}
    rows |= {f"{word.id}.answers": word.answers for word in sheet.words if word.answers is not None}
    rows |= {f"panels.{at}.{place}": it for at, panel in enumerate(sheet.panels) for place, it in enumerate(panel.choices)}
    return rows.get(row)


def shown_finding(it: Finding, *, is_full: bool) -> ShownFinding:
    """Show one verdict, with its working and ways out where it is wanted in full."""
    return ShownFinding(
        code=it.code,
        key=it.key,
        severity=it.severity,
        stage=it.stage,
        message=it.message,
        numbers=it.numbers,
        accepted=it.accepted,
        ways=ways_of(it) if is_full else None,
    )


def ways_of(it: Finding) -> Ways:
    """Give the working of a verdict and its ways out."""
    return Ways(working=it.working, fixes=it.fixes)
