"""What a wrong value suggests, held against a circuit solver: faults in builds whose parts lie anywhere within their tolerance.

The figures are those the sheet is held to: of all faults nine in ten are named among three classes and seven in ten first, those
that show nothing counted as missed; of right builds 98 in a hundred show nothing off.
"""

import random
from collections import Counter
from collections.abc import Iterator
from functools import lru_cache
from pathlib import Path
from typing import NamedTuple

from oddlamp.core.bench.devices import HEALTHY
from oddlamp.core.bench.faults import Finder
from oddlamp.core.bench.judge import judged
from oddlamp.core.bench.netlist import netlist
from oddlamp.core.bench.step import Step
from oddlamp.core.bench.steps import steps_of
from oddlamp.core.bench.wiring import Wiring, wiring
from oddlamp.core.design.design import Design
from oddlamp.core.plan.bench import Checked
from oddlamp.core.plan.document import load_plan
from oddlamp.core.resolve.resolve import resolve
from tests.core.bench.drawn import CATALOG, drawn_design
from tests.core.bench.spiced import Build, Wrong, readings, wrongs
from tests.core.bench.test_wiring import shipped
from tests.full import IS_PROOF

UNSEEN, PLANS = 9000, 120 if IS_PROOF else 8
RIGHT, EACH = (500, 3) if IS_PROOF else (40, 1)
NOW = "2026-01-31T18:30:00Z"
KNEE_RATIO = 0.05  # by which a knee in a model may lie beside the one the review draws
METER, DIGIT = 0.01, {"V": 0.01, "ohm": 0.1}


class Group(NamedTuple):
    """The lines of one lamp, link or input of a plan, with the steps that measure them."""

    design: Design
    of: Wiring
    finder: Finder
    lines: frozenset[str]
    steps: tuple[Step, ...]


@lru_cache(maxsize=1)
def groups() -> tuple[Group, ...]:
    return tuple(_groups())


def _groups() -> Iterator[Group]:
    """Of what ships, and of plans nobody looked at while this was built; what a verdict stops is not powered."""
    designs = [resolve(load_plan(it), CATALOG) for it in shipped().values()]
    for design in [*designs, *map(drawn_design, range(UNSEEN, UNSEEN + PLANS))]:
        of = wiring(design, netlist(design))
        finder, steps = Finder(design, of), [it for it in steps_of(design, of, "mock_up") if it.kind == "measure"]
        mine: dict[tuple[str, str], set[str]] = {}
        for step in steps:
            line = finder.model.line_of(step)
            if line:
                mine.setdefault(design.signals[line].line.owner, set()).add(line)
        for lines in mine.values():
            if not any(it.severity == "stop" for line in lines for it in design.passages[line].obstacles):
                there = tuple(it for it in steps if it.id.startswith("fed.") or finder.model.line_of(it) in lines)
                yield Group(design, of, finder, frozenset(lines), there)


def measured(group: Group, wrong: Wrong | None, rng: random.Random, folder: Path) -> dict[str, float]:
    """Measure all steps of a build with a meter of 1 % and a digit."""
    build = Build(group.design, group.of.circuit, rng, wrong)
    lines = [(step, group.finder.model.line_of(step)) for step in group.steps]
    found = {}
    for (step, _), value in zip(lines, readings(build, lines, folder), strict=True):
        if value is not None:
            shown = abs(value) if step.id.startswith(("lit.", "dark.")) else value
            found[step.id] = round(shown * rng.uniform(1 - METER, 1 + METER) / DIGIT[step.unit]) * DIGIT[step.unit]
    return found


def off_steps(group: Group, found: dict[str, float]) -> list[Step]:
    def is_off(step: Step) -> bool:
        verdict = judged(step, Checked(value=found[step.id], unit=step.unit, taken_at=NOW))  # type: ignore[arg-type]
        return verdict is not None and verdict.verdict == "off"

    return [it for it in group.steps if it.id in found and is_off(it)]


def test_right_builds_show_nothing_off(tmp_path: Path) -> None:
    rng, off = random.Random(11), []
    for at in range(RIGHT):
        group = groups()[at % len(groups())] if IS_PROOF else rng.choice(groups())
        found = measured(group, None, rng, tmp_path)
        assert len(found) == len(group.steps), "the solver gave a figure for every step"
        off += [(min(group.lines), it.id) for it in off_steps(group, found)[:1]]
    print(f"{len(off)} of {RIGHT} right builds show something off: {off}")
    assert len(off) <= 0.02 * RIGHT


def test_faults_are_named(tmp_path: Path) -> None:
    rng, seen, named, first = random.Random(5), Counter[str](), 0, 0
    kinds, missed = set(), Counter[str]()
    for group in groups():
        around = list(wrongs(group.of.circuit, set(group.lines)))
        for wrong in rng.sample(around, min(EACH, len(around))):
            kind = f"{wrong.kind} of {group.of.circuit.pieces[wrong.at].kind}, {group.design.signals[min(group.lines)].line.kind}"
            kinds.add(kind)
            seen["faults"] += 1
            found = measured(group, wrong, rng, tmp_path)
            off = off_steps(group, found)
            if not off:
                missed[kind] += 1
                continue
            at = off[0]
            before = {it.id: found[it.id] for it in group.steps[: group.steps.index(at)] if it.id in found}
            told = group.finder.suggestions(at, found[at.id], before, group.steps)
            rank = next(
                (
                    place
                    for place, it in enumerate(told)
                    if any((one.kind, one.at) == wrong.key(group.of.circuit) for one in it.faults)
                ),
                None,
            )
            missed[kind] += rank is None
            named, first = named + (rank is not None), first + (rank == 0)
    total = seen["faults"]
    print(
        f"{total} faults of {len(kinds)} kinds: {named / total:.1%} named among three classes, {first / total:.1%} first; missed {+missed}"
    )
    assert named >= 0.9 * total
    assert first >= 0.7 * total
    assert len(kinds) >= 40


def test_a_right_model_shows_what_the_review_says() -> None:
    """The model that faults are tried in, without one, agrees with every expected value of what ships."""
    for group in groups():
        for step in group.steps:
            shown = group.finder.model.reading(step, HEALTHY)
            least, most = step.slack
            assert shown is not None, step.id
            is_near = step.nominal is not None and abs(shown - step.nominal) <= KNEE_RATIO * abs(step.nominal)
            assert least <= shown <= most or is_near, (step.id, shown)


def told_at(name: str, step_id: str, value: float) -> list[str]:
    """Every fault that one value suggests, class by class."""
    design = resolve(load_plan(shipped()[name]), CATALOG)
    of = wiring(design, netlist(design))
    steps = steps_of(design, of, "mock_up")
    step = next(it for it in steps if it.id == step_id)
    return [it.told for it in Finder(design, of).suggestions(step, value, {}, steps)]


def test_the_middle_of_a_divider_tells_what_is_open() -> None:
    """By hand: with its module there, 5 V through 2 kΩ lift the middle no further than a clamp diode over 3.3 V; nothing is 0 V."""
    high = told_at("paper-moon", "idle.serial.b_to_a", 3.9)
    assert "R2 4.7\u00a0kΩ is open" in high[0]
    nothing = told_at("paper-moon", "idle.serial.b_to_a", 0.02)
    assert any("R1 2\u00a0kΩ is open" in it and "Board, pin 8 is off" in it for it in nothing)


def test_a_reversed_led_and_a_wrong_band_are_told() -> None:
    assert "the wrong way round" in " ".join(told_at("paper-moon", "lit.foot.main", 0.0))
    assert told_at("paper-moon", "ohms.moon.red.resistor", 1500.0)[0].startswith("R3 150\u00a0Ω is one of ten times as much")
    assert "no ground" in " ".join(told_at("paper-moon", "fed.lantern", 0.0))
