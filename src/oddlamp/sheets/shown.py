"""What an answer carries of a review: the whole line and every verdict's sentence, and one stage in full."""

from dataclasses import dataclass
from typing import Annotated

from pydantic import Field

from oddlamp.core.base import Model, Working
from oddlamp.core.checks.findings import Finding, Move
from oddlamp.core.design.passages import Severity
from oddlamp.core.design.values import Value
from oddlamp.sheets.line import Line
from oddlamp.sheets.models import Opening, PhoneButton, Sheet
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
    findings: tuple[ShownFinding, ...]
    not_yet: dict[str, str] = Field(description="Stage id to what is not worked out there yet")
    titles: dict[str, str] = Field(description="What has a sheet, by its name: the stages, and the parts of one's own")
    sheets: dict[str, Sheet] = Field(description="The sheet that was asked for")
    phone: tuple[PhoneButton, ...]
    opening: Opening | None
    sources: dict[str, str] = Field(description="Source key to title, for every working shown")
    news: CatalogNews | None = Field(description="Numbers that moved because shipped figures changed since the plan's version")


IN_FULL = 3  # the verdicts a reader sees first have their ways out at once


def shown(review: Review, stage: str | None, sheet: Sheet | None) -> ShownReview:
    """Show a review with one stage in full: its sheet, its numbers, and its verdicts with their ways out."""
    findings = tuple(shown_finding(it, is_full=it.stage == stage or at < IN_FULL) for at, it in enumerate(review.findings))
    return ShownReview(
        title=review.title,
        sentence=review.sentence,
        line=review.line,
        values=tuple(value for value in review.values if value.stage == stage),
        findings=findings,
        not_yet=review.not_yet,
        titles=review.titles,
        sheets={stage: sheet} if stage is not None and sheet is not None else {},
        phone=review.phone,
        opening=review.opening,
        sources=review.sources,
        news=review.news,
    )


def in_full(review: Review) -> ShownReview:
    """Show a review with all its numbers, all its verdicts in full, and all the sheets it was made with."""
    whole = shown(review, None, None)
    findings = tuple(shown_finding(it, is_full=True) for it in review.findings)
    return whole.model_copy(update={"values": review.values, "findings": findings, "sheets": review.sheets})


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
