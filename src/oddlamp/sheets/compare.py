"""Two reviews side by side: what was decided otherwise, which numbers moved, which verdicts came and went."""

from typing import Final, Literal

from pydantic import Field

from oddlamp.core.base import Model
from oddlamp.core.checks.findings import Finding
from oddlamp.core.english import plural
from oddlamp.core.plan.changes import Change, changes
from oddlamp.core.plan.document import dump_plan
from oddlamp.core.plan.model import Plan
from oddlamp.sheets.news import MovedValue, moved_values
from oddlamp.sheets.review import Review

Mark = Literal["clear", "look", "stop"]
RANK: Final = {"clear": 0, "look": 1, "stop": 2}


class MovedFinding(Model):
    """A verdict that came, went or changed its severity or its words."""

    key: str
    stage: str
    before: Mark
    after: Mark
    message: str = Field(description="The sentence after, or before where it went")


class Comparison(Model):
    """What differs from one plan to another."""

    sentence: str
    changes: tuple[Change, ...]
    values: tuple[MovedValue, ...]
    findings: tuple[MovedFinding, ...]


def compare(before: tuple[Plan, Review], after: tuple[Plan, Review]) -> Comparison:
    """Compare two plans with their reviews: decisions, numbers and verdicts, worst news first."""
    decided = changes(dump_plan(before[0]), dump_plan(after[0]))
    titles = {**before[1].titles, **after[1].titles}
    values, findings = moved_values(before[1].values, after[1].values, titles), _findings(before[1], after[1])
    return Comparison(sentence=_sentence(decided, values, findings), changes=decided, values=values, findings=findings)


def _mark(finding: Finding | None) -> Mark:
    return "clear" if finding is None or finding.accepted is not None else finding.severity


def _findings(before: Review, after: Review) -> tuple[MovedFinding, ...]:
    old, new = ({finding.key: finding for finding in side.findings} for side in (before, after))
    moved = []
    for key in dict.fromkeys([*new, *old]):
        here, there = old.get(key), new.get(key)
        named = there or here
        told = (_mark(here), here.message if here else "") != (_mark(there), there.message if there else "")
        if named is not None and told:
            moved.append(MovedFinding(key=key, stage=named.stage, before=_mark(here), after=_mark(there), message=named.message))
    return tuple(sorted(moved, key=lambda it: RANK[it.before] - RANK[it.after]))


def _sentence(decided: tuple[Change, ...], values: tuple[MovedValue, ...], findings: tuple[MovedFinding, ...]) -> str:
    if not decided:
        return "Nothing differs."
    worse = sum(RANK[it.after] > RANK[it.before] for it in findings)
    better = sum(RANK[it.after] < RANK[it.before] for it in findings)
    told = [plural(worse, "verdict gets worse", "verdicts get worse")] if worse else []
    told += [plural(better, "verdict clears or eases", "verdicts clear or ease")] if better else []
    told += [f"{plural(len(values), 'number moves', 'numbers move')}"] if values else []
    return f"{plural(len(decided), 'decision')} differ{'s' if len(decided) == 1 else ''}: {', '.join(told) or 'no number moves'}."
