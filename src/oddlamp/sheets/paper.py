"""All sheets of a project as text to read: the sentence of every stage, its numbers, what was chosen, and what is to settle."""

from collections.abc import Iterator

from oddlamp.core.bench.tables import as_text
from oddlamp.core.design.values import Value
from oddlamp.sheets.models import Choice, Sheet
from oddlamp.sheets.review import Review

MARKS = {"stop": "stop", "look": "look"}


def sheets_markdown(review: Review) -> str:
    """Write a review with all its sheets as Markdown; what people typed cannot become markup. Lines end with LF."""
    lines = [f"# {as_text(review.title)}", "", f"{review.sentence}.", ""]
    lines += [f"- **{_mark(it.severity, it.accepted)}** {as_text(it.message)} ({it.code})" for it in review.findings]
    by_stage: dict[str, list[Value]] = {}
    for value in review.values:
        by_stage.setdefault(value.stage, []).append(value)
    for stage, title in review.titles.items():
        lines += ["", f"## {as_text(title)}", "", *_sheet(review.sheets[stage], by_stage.get(stage, []))]
        lines += [f"Not judged yet: {as_text(review.not_yet[stage])}"] if stage in review.not_yet else []
    return "\n".join(lines).rstrip() + "\n"


def _mark(severity: str, accepted: str | None) -> str:
    return f"kept ({as_text(accepted)})" if accepted else MARKS[severity]


def _sheet(sheet: Sheet, values: list[Value]) -> Iterator[str]:
    yield f"{as_text(sheet.sentence)} {as_text(sheet.detail)}".strip()
    yield ""
    for panel in sheet.panels:
        if panel.title:
            yield f"- {as_text(panel.title)}{f': {as_text(panel.note)}' if panel.note else ''}"
        for choice in panel.choices:
            yield from _chosen(choice)
        yield from (f"- {as_text(it.label)}: {as_text(it.text)} ({it.origin})" for it in panel.entries if it.text)
        yield from (f"- {as_text(it)}" for it in (*panel.steps, *panel.lines))
    yield from (f"- {as_text(it.label)}: {as_text(it.characters)} ({it.hex})" for it in sheet.words)
    for row in sheet.pins:
        yield from _chosen(row.pin, row.label)
    yield from (f"- {as_text(it)}" for it in sheet.orders)
    known = [it for it in values if it.value is not None]
    if known:
        yield from ("", "| What | Value | At worst | From |", "|---|---|---|---|")
        yield from (f"| {as_text(it.label)} | {as_text(it.text)} | {as_text(it.spread_text)} | {it.origin} |" for it in known)


def _chosen(choice: Choice, label: str = "") -> Iterator[str]:
    for option in choice.options:
        if option.is_chosen:
            yield f"- {as_text(label or choice.label)}: {as_text(option.label)} ({choice.origin})"
