"""Ways out where a board has too few pins, each tried on the whole plan before it is offered: fewer wires, fewer dimmed lamps, shared pins."""

from collections.abc import Callable, Iterable, Iterator, Sequence
from functools import lru_cache
from typing import Any

from oddlamp.core.base import Same
from oddlamp.core.checks.findings import Move
from oddlamp.core.checks.ways import may_be_left_out
from oddlamp.core.design.design import Design
from oddlamp.core.design.lines import PinDesign
from oddlamp.core.english import and_list, inner
from oddlamp.core.errors import PlanInvalid
from oddlamp.core.plan.document import Document, at_path, edit_plan, join_patches
from oddlamp.core.plan.lights import LedLamp
from oddlamp.core.plan.rules import Action
from oddlamp.core.resolve.resolve import resolve

STEPS_MOST = 6  # lamps changed by one press
Verdict = tuple[str, str, str]


def brings_a_stop(design: Design, patch: Document) -> bool:
    """Try a patch: a way out of one stop that leads into another is none."""
    return bool(_stops(resolve(edit_plan(design.plan, patch), design.catalog)) - _stops(design))


def that_clear(design: Design, code: str, where: str, moves: Iterable[Move], *, most: int = 2) -> Iterator[Move]:
    """Offer, of several ways out, the first that clear a verdict and bring no new stop, each tried on the whole plan."""
    left = most
    for move in moves:
        try:
            after = resolve(edit_plan(design.plan, move.patch), design.catalog)
        except PlanInvalid:
            continue
        if _clears(after, code, where) and not _stops(after) - _stops(design):
            yield move
            left -= 1
            if not left:
                return


def tried(design: Design, code: str, where: str, ways: Callable[[], Iterable[Move]], *, most: int = 4) -> Iterator[Move]:
    """Offer the ways out that clear a verdict and bring no new stop, asked for and tried only when somebody looks."""
    yield from that_clear(design, code, where, ways(), most=most)


def verdicts(design: Design) -> frozenset[Verdict]:
    """Return the code, place and severity of every verdict on a design."""
    return _verdicts(Same(design))


@lru_cache(maxsize=2)
def _verdicts(of: Same[Design]) -> frozenset[Verdict]:
    from oddlamp.core.checks.registry import run_rules

    return frozenset((it.code, it.where, it.severity) for it in run_rules(of.it))


def _clears(design: Design, code: str, where: str) -> bool:
    """Tell whether a verdict is gone; asked first, because its rule alone is soon asked."""
    from oddlamp.core.checks.registry import run_rules  # which itself lists the rules that this serves

    return not any(it.where == where for it in run_rules(design, codes={code}))


def _stops(design: Design) -> frozenset[Verdict]:
    """Return the code, place and severity of every stop on a design, to see what a way out would bring."""
    return _stops_of(Same(design))


@lru_cache(maxsize=2)
def _stops_of(of: Same[Design]) -> frozenset[Verdict]:
    from oddlamp.core.checks.registry import STOPPING, run_rules

    return frozenset((it.code, it.where, it.severity) for it in run_rules(of.it, codes=STOPPING) if it.severity == "stop")


def fewer(design: Design, missing: Sequence[PinDesign], rivals: Sequence[PinDesign]) -> Iterator[Move]:
    """Offer what makes the lines of a host fit without another board.

    Args:
        design: the plan as it stands.
        missing: lines that have no pin, all alike in what they need.
        rivals: what competes with them for too little, themselves included.
    """
    for kind in (_wires(design, rivals), _undimmed(design, missing, rivals), _shared(design, missing)):
        fitting = next((move for move in kind if _fits(design, move.patch, missing[0].host)), None)
        if fitting is not None:
            yield fitting


def _fits(design: Design, patch: Document, host: str) -> bool:
    there = resolve(edit_plan(design.plan, patch), design.catalog)
    return not any(pin.host == host and pin.label is None for pin in there.pins) and not _stops(there) - _stops(design)


def _wires(design: Design, rivals: Sequence[PinDesign]) -> Iterator[Move]:
    """A wire to the module that nothing is said on may go."""
    for pin in rivals:
        level = design.signals[pin.line.id].level
        if level is not None and pin.signal.is_built is not True and may_be_left_out(design, level):
            yield Move(label=f"Leave out {inner(pin.name)}", patch=at_path(pin.line.path, {"is_omitted": True}))


def _undimmed(design: Design, missing: Sequence[PinDesign], rivals: Sequence[PinDesign]) -> Iterator[Move]:
    """Lamps that are too many are only switched on and off, as few as will do; those of a group or a cue cannot be told apart."""
    dimmed = [it.line.owner_id for it in (*rivals, *missing) if it.line.owner[0] == "lamps" and "pwm" in it.needs]
    plain = [name for name in dict.fromkeys(reversed(dimmed)) if _may_be_plain(design, name)]
    for count in range(len(missing), min(len(plain), STEPS_MOST) + 1):
        chosen, patches = plain[:count], []
        for name, rule in design.plan.rules.items():
            steps = [_switched(it) if it.target in chosen and it.verb == "level" else it for it in rule.do]
            if steps != list(rule.do):
                do: list[Any] = [it.model_dump(mode="json", exclude_unset=True) for it in steps]
                patches.append(at_path(("rules", name, "do"), do))
        labels = and_list([design.lamps[name].label for name in reversed(chosen)])
        yield Move(label=f"Let {labels} be only on or off", patch=join_patches(patches))


def _may_be_plain(design: Design, name: str) -> bool:
    plan = design.plan
    in_groups = any(name in group.members for group in plan.groups.values())
    in_cues = any(step.target == name for cue in plan.cues.values() for step in cue.steps)
    return plan.lamps[name].kind == "led" and not in_groups and not in_cues and not _is_built(design, name)


def _is_built(design: Design, name: str) -> bool:
    return any(it.is_built for key, it in design.plan.signals.items() if key.partition(".")[0] == name)


def _switched(action: Action) -> Action:
    level = action.values.level if action.values is not None else None
    return Action(verb="on" if level else "off", target=action.target)


def _shared(design: Design, missing: Sequence[PinDesign]) -> Iterator[Move]:
    """A lamp that is always told what another one is told may hang on its pin, beside it."""
    pairs, beside = list[str](), dict[str, int]()
    gone = list(dict.fromkeys(pin.line.owner_id for pin in missing if pin.line.owner[0] == "lamps"))
    if len(gone) != len(missing) or len(missing) > STEPS_MOST:
        return
    for name in gone:
        lamp = design.plan.lamps[name]
        if not isinstance(lamp, LedLamp):
            return
        alike = [it for it in design.plan.lamps if it not in gone and _is_alike(design, it, name)]
        partner = min(alike, key=lambda it: beside.get(it, 0), default=None)
        if partner is None:
            return
        beside[partner] = beside.get(partner, _count(design, partner)) + _count(design, name)
        pairs.append(f"{design.lamps[partner].label} and {design.lamps[name].label}")
    patches = [at_path(("lamps", name, "channels", "main", "in_parallel"), count) for name, count in beside.items()]
    if pairs:
        patch = join_patches([design.taking_out.without_lamps(gone), *patches])
        yield Move(label=f"Put {', '.join(pairs)} side by side on one pin", patch=patch)


def _count(design: Design, name: str) -> int:
    return design.lamps[name].channels[0].in_parallel


def _is_alike(design: Design, one: str, other: str) -> bool:
    """Tell whether two lamps are the same but for their names, and every rule tells both the same."""
    plan = design.plan
    mine, theirs = plan.lamps[one], plan.lamps[other]
    same = mine.model_copy(update={"label": None}) == theirs.model_copy(update={"label": None})
    if not same or _is_built(design, one) or design.lamps[one].channels[0].sharing == "one":
        return False
    rules = [
        [[it.model_copy(update={"target": None}) for it in rule.do if it.target == name] for rule in plan.rules.values()]
        for name in (one, other)
    ]
    groups = [[group for group, it in plan.groups.items() if name in it.members] for name in (one, other)]
    cues = any(step.target in (one, other) for cue in plan.cues.values() for step in cue.steps)
    return rules[0] == rules[1] and groups[0] == groups[1] and not cues
