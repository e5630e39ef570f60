"""Where to begin with a lamp that is not as it should be: what is told makes it look so, and what would, is told."""

from functools import lru_cache

import pytest

from oddlamp.catalog.load import demo_names, demo_plan, load_catalog
from oddlamp.core.bench.asking import WRONGS, Wrong, first_step, seen
from oddlamp.core.bench.devices import HEALTHY, Fault
from oddlamp.core.bench.faults import Finder
from oddlamp.core.bench.step import Step
from oddlamp.core.errors import OutOfRange
from oddlamp.core.plan.document import load_plan
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.bringup import all_steps, first_shown
from tests.full import some

DEMOS = {name: resolve(load_plan(demo_plan(name)), load_catalog()) for name in demo_names()}
LINES = [(name, it.id.removeprefix("lit.")) for name, design in DEMOS.items() for it in all_steps(design, "mock_up")[0] if it.id.startswith("lit.")]  # fmt: skip


@lru_cache
def finder_of(name: str) -> tuple[Finder, tuple[Step, ...]]:
    steps, made = all_steps(DEMOS[name], "mock_up")
    return Finder(DEMOS[name], made), steps


def looks(name: str, line: str) -> dict[str, Wrong | None]:
    """How the lamp of a line looks with each usual fault around it, by what is told of the fault."""
    finder, steps = finder_of(name)
    right_a = finder.model.light_a(line, HEALTHY, is_lit=True)
    assert right_a is not None
    faults = finder.faults(line, next(it for it in steps if it.id == f"lit.{line}"))
    return {it.told: seen(finder, line, it, right_a) for it in faults}


@pytest.mark.parametrize(("name", "line"), LINES)
def test_a_right_lamp_takes_what_the_review_says_and_looks_right(name: str, line: str) -> None:
    """The same figure by two roads, near enough for what an eye tells: the circuit solved around the line with the LED's curve, and the review's current by its drop."""
    finder, _ = finder_of(name)
    channel = next(it for lamp in DEMOS[name].lamps.values() for it in lamp.channels if it.signal_id == line)
    assert finder.model.light_a(line, HEALTHY, is_lit=True) == pytest.approx(channel.current_with_pin.known, rel=0.2)
    assert (finder.model.light_a(line, HEALTHY, is_lit=False) or 0.0) < 1e-5


@pytest.mark.parametrize("wrong", WRONGS)
@pytest.mark.parametrize(("name", "line"), some(LINES, 3))
def test_what_is_told_makes_it_look_so_and_nothing_else_does(name: str, line: str, wrong: Wrong) -> None:
    finder, steps = finder_of(name)
    first, there = first_step(finder, line, wrong, {}, steps), looks(name, line)
    makers = {told for told, look in there.items() if look == wrong}
    assert set(first.told) <= makers
    assert bool(first.told) == bool(makers)
    if first.next is not None:
        assert finder.model.line_of(first.next.step) == line
        assert {told for _, told in first.next.told} <= makers


def test_by_hand_an_open_resistor_is_dark_a_tenth_too_bright_and_ten_times_dim() -> None:
    told = looks("paper-moon", "moon.red")
    assert {look for it, look in told.items() if "is open" in it and "R3" in it} == {"dark"}
    assert {look for it, look in told.items() if "one of a tenth" in it} == {"bright"}
    assert {look for it, look in told.items() if "ten times" in it} == {"dim"}
    finder, _ = finder_of("paper-moon")
    assert (
        seen(finder, "moon.red", Fault("nothing", "", "nothing"), finder.model.light_a("moon.red", HEALTHY, is_lit=True) or 0.0)
        is None
    )


def test_what_was_measured_counts() -> None:
    """A reading that an open resistor could not show takes it from its place."""
    finder, steps = finder_of("paper-moon")
    before = first_step(finder, "moon.red", "dark", {}, steps).told
    after = first_step(finder, "moon.red", "dark", {"ohms.moon.red.resistor": 150.0}, steps)
    place = next(at for at, it in enumerate(before) if it.startswith("R3"))
    assert not any(it.startswith("R3") for it in after.told[: place + 1])
    assert after.next is None or after.next.step.id != "ohms.moon.red.resistor"


def test_where_nothing_in_its_circuit_does_it_that_is_said_and_what_has_no_light_is_refused() -> None:
    shown = first_shown(DEMOS["two-wings"], "cue.main", "on")
    assert (shown.likely, shown.next) == ((), None)
    assert "the program" in shown.sentence
    with pytest.raises(OutOfRange, match="one of"):
        first_shown(DEMOS["two-wings"], "nothing.here", "dark")
