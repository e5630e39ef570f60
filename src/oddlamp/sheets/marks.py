"""The state of a stage: what its verdicts make of it, worst first."""

from collections.abc import Collection, Mapping
from typing import Literal

State = Literal["clear", "look", "stop", "unknown"]
Marks = Mapping[str, Collection[str]]


def state_at(stage: str, all_marks: Marks, opens: dict[str, str]) -> State:
    """Worst first; what is not worked out is never clear."""
    marks = all_marks.get(stage, ())
    if "stop" in marks:
        return "stop"
    if "look" in marks:
        return "look"
    return "unknown" if stage in opens else "clear"
