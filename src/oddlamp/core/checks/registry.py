"""Every rule, in one place: each file of checks ends with its own, and they are joined here. A rule that is not does not run."""

from collections.abc import Collection, Iterable, Iterator
from functools import partial
from typing import Final

from oddlamp.core.checks import (
    apart,
    built,
    busy,
    carried,
    cells,
    chips,
    commands,
    course,
    drivers,
    fits,
    headroom,
    kept,
    leds,
    levels,
    light,
    linked,
    loads,
    loops,
    modules,
    movers,
    obeyed,
    pin_use,
    pins,
    pixels,
    radios,
    rails,
    regulators,
    setups,
    signs,
    supplies,
    together,
    wires,
    words,
)
from oddlamp.core.checks.findings import Breach, Finding, Move, Rule
from oddlamp.core.design.design import Design
from oddlamp.core.plan.built import rework_patch
from oddlamp.core.plan.model import Plan, Risk

FILES: Final = (
    leds,
    headroom,
    drivers,
    loads,
    together,
    levels,
    pixels,
    fits,
    light,
    supplies,
    rails,
    regulators,
    cells,
    wires,
    pins,
    pin_use,
    chips,
    modules,
    setups,
    radios,
    commands,
    apart,
    carried,
    words,
    built,
    busy,
    loops,
    obeyed,
    linked,
    course,
    movers,
    kept,
    signs,
)
RULES: Final[tuple[Rule, ...]] = tuple(rule for file in FILES for rule in file.RULES)
STOPPING: Final = frozenset(rule.code for rule in RULES if rule.stop)  # of the others none is ever a stop
WORSE_SLACK: Final = 1e-6


def run_rules(design: Design, *, codes: Collection[str] | None = None) -> tuple[Finding, ...]:
    """Run every rule on a design, or those of some codes; stops first, accepted ones last, else in the order of the registry."""
    found = []
    for rule in RULES:
        if codes is None or rule.code in codes:
            found += [_found(design, rule, breach) for breach in rule.check(design)]
    return tuple(sorted(found, key=lambda it: (it.accepted is not None, it.severity != "stop")))


def _found(design: Design, rule: Rule, breach: Breach) -> Finding:
    risk = design.plan.accepted.get(f"{rule.code}@{breach.where}")
    reason = risk.reason if risk is not None and is_no_worse(breach, risk) else None
    return Finding(code=rule.code, breach=breach, accepted=reason, reworked=partial(_reworked, design.plan))


def _reworked(plan: Plan, fixes: Iterable[Move]) -> Iterator[Move]:
    """What is soldered does not move by an edit: a way out that moves it says so, and has it rebuilt."""
    for fix in fixes:
        patch = rework_patch(plan, fix.patch)
        yield fix if patch is None else Move(label=f"{fix.label}, and rebuild it", patch=patch)


def is_no_worse(breach: Breach, risk: Risk) -> bool:
    """An acceptance holds while none of its numbers got worse; bigger is worse."""
    return all(now <= risk.numbers.get(name, now) + WORSE_SLACK * abs(now) for name, now in breach.numbers.items())
