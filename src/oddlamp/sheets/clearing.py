"""What would clear a verdict: each value that bears on it, moved until the rule itself is satisfied.

The rules are asked, not copied: a value clears a verdict when the review of the plan with that value has it no more.
"""

import math
from collections.abc import Callable, Iterable, Sequence
from functools import cache
from typing import Final

from oddlamp.core.base import Model, si
from oddlamp.core.checks.findings import Finding, Move
from oddlamp.core.checks.registry import RULES, run_rules
from oddlamp.core.design.design import Design
from oddlamp.core.electrical.preferred import DECADES_OHM, SERIES, Series, preferred
from oddlamp.core.errors import DomainError
from oddlamp.core.parts.check import check_parts
from oddlamp.core.parts.models import Catalog
from oddlamp.core.plan.document import at_path, edit_plan
from oddlamp.core.plan.edits import TakingOut
from oddlamp.core.plan.model import Plan
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.models import Entry
from oddlamp.sheets.review import sheet_of
from oddlamp.sheets.steps import SPEEDS_BD, TOLERANCES

REACH: Final = 100.0
FARTHEST: Final = 12
ONE_LAMP: Final = ("LED", "DRV", "TONE", "PIN")


class Clearing(Model):
    """One value that would clear a verdict on its own, and from where."""

    label: str
    text: str
    move: Move


def what_clears(plan: Plan, catalog: Catalog, key: str) -> tuple[Clearing, ...]:
    """Search every value near a verdict for where the verdict clears and no other stop comes in its place.

    Args:
        plan: the plan that has the verdict.
        catalog: parts, sources and proposals.
        key: CODE@where of the finding; one that the plan does not have is cleared by nothing.
    Returns:
        One entry a value, in the order of the sheet; the text says ``from 62 ohm up`` or ``up to`` only where the next
        twelve usual values, or all there are, were found clear as well.
    """
    found = next((it for it in run_rules(resolve(plan, catalog)) if it.key == key), None)
    if found is None:
        return ()
    small = _only_what_matters(plan, found)
    design = resolve(small, catalog)
    rule = next(it for it in RULES if it.code == found.code)
    if not any(breach.where == found.where for breach in rule.check(design)):
        small, design = plan, resolve(plan, catalog)  # what was left out has a part in it
    findings = run_rules(design)
    stops = {it.key for it in findings if it.severity == "stop"}

    @cache
    def clears(path: tuple[str, ...], value: float) -> bool:
        try:
            tried = edit_plan(small, at_path(path, value))
            check_parts(tried, catalog)
        except DomainError:
            return False
        there = resolve(tried, catalog, design)
        if any(breach.where == found.where for breach in rule.check(there)):
            return False
        return all(it.severity != "stop" or it.key in stops for it in run_rules(there))

    out: list[Clearing] = []
    for entry in _entries(design, findings, found):
        out += _both_ways(entry, design.series, clears)
    return tuple(out)


def _only_what_matters(plan: Plan, found: Finding) -> Plan:
    """Leave other lamps out where they have no part in it: a hundred of them would be worked out at every step."""
    collection, _, name = found.stage.partition(".")
    if collection == "lamps" and found.code.partition("-")[0] in ONE_LAMP:
        gone = set(plan.lamps) - {name}
    elif collection in ("links", "inputs"):
        gone = set(plan.lamps)
    else:
        return plan
    return edit_plan(plan, TakingOut(plan).without_lamps(gone)) if gone else plan


def _entries(design: Design, findings: tuple[Finding, ...], found: Finding) -> Iterable[Entry]:
    """Walk what can be decided on the sheet of a verdict; the figures of a part are what they are."""
    for panel in sheet_of(design, findings, found.stage).panels:
        for entry in panel.entries:
            is_figure = "overrides" in entry.path or "figures" in entry.path
            if not is_figure and (entry.value is not None or entry.higher is not None) and _bears_on(entry, found):
                yield entry


def _bears_on(entry: Entry, found: Finding) -> bool:
    """Leave out the values of a lamp's other colours, and of a wire's other direction."""
    if entry.path[:1] == ("lamps",) and "channels" in entry.path and "." in found.where:
        return entry.path[3] == found.where.partition(".")[2]
    return entry.path[:1] != ("signals",) or entry.path[1] == found.where


def _both_ways(entry: Entry, series: Series, clears: Callable[[tuple[str, ...], float], bool]) -> Iterable[Clearing]:
    unit = entry.value.unit if entry.value is not None else ""
    now = entry.value.value if entry.value is not None else _count(entry)
    if now is None or now <= 0:
        return
    for is_up in (True, False):
        grid = _grid(now, unit, series, is_up=is_up)
        first = _first(grid, lambda value: clears(entry.path, value))
        if first is None:
            continue
        text = si(grid[first], unit)
        last = first
        while last + 1 < len(grid) and last - first < FARTHEST and clears(entry.path, grid[last + 1]):
            last += 1
        if last == len(grid) - 1 > first or last - first == FARTHEST:
            told = f"from {text} up" if is_up else f"up to {text}"
        else:
            ends = [text, si(grid[last], unit)][:: 1 if is_up else -1]
            told = f"from {ends[0]} to {ends[1]}" if last > first else f"at {text}"
        yield Clearing(
            label=entry.label, text=told, move=Move(label=f"{entry.label}: {text}", patch=at_path(entry.path, grid[first]))
        )


def _count(entry: Entry) -> float | None:
    return float(entry.text) if entry.text.isdigit() else None


def _first(grid: Sequence[float], is_clear: Callable[[float], bool]) -> int | None:
    """Find the nearest place of a grid that is clear: in growing strides, then halving back."""
    before, stride = -1, 1
    while before < len(grid) - 1:
        at = min(before + stride, len(grid) - 1)
        if is_clear(grid[at]):
            low, high = before, at
            while high - low > 1:
                middle = (low + high) // 2
                low, high = (low, middle) if is_clear(grid[middle]) else (middle, high)
            return high
        before, stride = at, 2 * stride
    return None


def _grid(now: float, unit: str, series: Series, *, is_up: bool) -> list[float]:
    """List the values a hand would try, going away from ``now``: preferred, usual, whole, or of two digits."""
    if unit == "ohm":
        values: Iterable[float] = _ohms(series)
    elif unit in ("ratio", "Bd"):
        values = TOLERANCES if unit == "ratio" else SPEEDS_BD
    elif unit == "" and now == int(now):
        values = map(float, range(1, int(now) + 1 + int(REACH)))
    else:
        decade = math.floor(math.log10(now))
        values = (float(f"{tens}e{power - 1}") for power in range(decade - 2, decade + 3) for tens in range(10, 100))
    slack = 1e-9 * now
    if is_up:
        return [value for value in values if now + slack < value <= max(REACH * now, 1e7 if unit == "ohm" else 0)]
    return [value for value in values if now / REACH <= value < now - slack][::-1]


@cache
def _ohms(series: Series) -> tuple[float, ...]:
    return tuple(preferred(decade, mantissa) for decade in DECADES_OHM for mantissa in SERIES[series])
