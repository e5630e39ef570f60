"""The current answers as plain text, to paste into a letter or a log."""

from typing import Final

from oddlamp.core.design.values import Value
from oddlamp.sheets.review import Review

MARKS: Final = {"stop": "STOP", "look": "look"}


def answers_text(review: Review) -> str:
    """Write a review as text: the sentence of every stage with its numbers, then the verdicts. Lines end with LF."""
    lines = [review.title, "=" * len(review.title), ""]
    by_stage: dict[str, list[Value]] = {}
    for value in review.values:
        by_stage.setdefault(value.stage, []).append(value)
    for stage in review.line.stages:
        sheet = review.sheets[stage.id]
        lines += [f"{sheet.title}: {sheet.sentence}", f"    {sheet.detail}"]
        for value in by_stage.get(stage.id, ()):
            if value.value is not None:
                spread = f" ({value.spread_text} at worst)" if value.spread_text else ""
                lines.append(f"    {value.id}: {value.text}{spread}, {value.origin}")
    for rail in review.line.rails:
        lines.append(f"{rail.label}: {rail.numbers}")
    lines += ["", review.sentence]
    for finding in review.findings:
        mark = f"kept ({finding.accepted})" if finding.accepted else MARKS[finding.severity]
        lines.append(f"  {mark}: {finding.message} [{finding.code}]")
        lines += [f"      {step.formula}: {step.substituted}" for step in finding.working]
    lines += ["", *(f"Not judged: {because}" for because in dict.fromkeys(review.not_yet.values()))]
    return "\n".join(lines).rstrip() + "\n"
