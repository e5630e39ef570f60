"""The machine over time against the naive one, pass by pass, and what the page works out by hand."""

import random
from collections import Counter
from typing import Any

import pytest

from oddlamp.catalog.load import load_catalog
from oddlamp.core.behaviour.clock import WORD, later
from oddlamp.core.behaviour.compile import program_of
from oddlamp.core.behaviour.lamps import LampState
from oddlamp.core.behaviour.machine import Machine
from oddlamp.core.behaviour.program import Say
from oddlamp.core.behaviour.stage import Came
from oddlamp.core.layouts.signs import Manner
from oddlamp.core.resolve.resolve import resolve
from tests.builders import plan_with
from tests.core.program.drawn import SHOWN, VERBS, drawn_events, drawn_plan
from tests.core.program.naive import Naive
from tests.full import IS_PROOF

COUNT = 1940 if IS_PROOF else 20
COUNTED = 60
BATCH = 20
RARE = frozenset({3, 5, 8, 11, 28, 33, 37, 47})
Course = dict[str, list[tuple[int, Any]]]
Events = dict[int, tuple[list[Any], dict[str, int]]]

OVERTAKEN = (
    "fade overtaken",
    "blink or pulse overtaken",
    "wait dropped",
    "wait begun anew",
    "cue overtaken",
    "cue stopped",
    "mover waits",
    "mover of codes waits",
    "silence",
)


def record_of(lamp: dict[str, Any], pixels: int) -> LampState:
    """Bring what the naive machine keeps of a lamp into the other one's words."""
    own = tuple(lamp["pixels"].get(at) for at in range(pixels)) if lamp["pixels"] else ()
    colour = (lamp["red"], lamp["green"], lamp["blue"])
    manner = Manner(lamp["scroll"], lamp["inverted"], lamp["reversed"])
    return LampState(lamp["on"], lamp["level"], colour, lamp["text"], lamp["score"], own, manner, lamp["pitch"])


def noted(course: Course, name: str, now: int, shows: Any) -> None:
    if name not in course or course[name][-1][1] != shows:
        course.setdefault(name, []).append((now, shows))


def plainly(naive: Naive, events: Events, ends_ms: int) -> Course:
    """Let the naive machine make every pass."""
    course: Course = {}
    for now in range(ends_ms):
        came, put = events.get(now, ([], {}))
        naive.tick(came, put)
        for name in SHOWN:
            light, text = naive.shows(name)
            noted(course, name, now, (tuple(light), text))
    return course


def quickly(machine: Machine, events: Events, ends_ms: int) -> tuple[Course, list[tuple[int, str, Any]]]:
    """Let the real machine make the passes in which something comes, or is due."""
    course: Course = {}
    said, begun, now, due = [], machine.now_ms, 0, set(events) | {0}
    while True:
        came, put = events.get(now, ([], {}))
        made = [
            Came(("heard", rest[0]), {name: it[0] for name, it in rest[1].items()}) if what == "word" else Came(("link", *rest))
            for what, *rest in came
        ]
        machine.run(later(begun, now), made, [(name, level, 0) for name, level in put.items()])
        said += [(now, it.step.word, dict(it.said)) for it in machine.done if isinstance(it.step, Say)]
        for name in SHOWN:
            noted(course, name, now, machine.outputs.shown[name])
        gap = machine.next_ms()
        after = [it for it in due if it > now] + ([] if gap is None else [now + gap])
        if not after or min(after) >= ends_ms:
            return course, said
        now = min(after)


def run_both(seed: int) -> Counter[str]:
    """Draw a program and what comes, and hold the machine to the naive one; what was seen on the way."""
    rng = random.Random(seed)
    whole = drawn_plan(rng)
    design = resolve(plan_with(base=whole), load_catalog())
    program = program_of(design, "board")
    ends_ms = rng.choice([800, 1500, 1500, 6500 if seed % 8 == 0 else 2500])
    events = drawn_events(rng, whole, ends_ms)
    starts_at = rng.choice([0, 0, 3, WORD - rng.randrange(ends_ms)])
    clock = rng.choice([None, 43_259_500, 86_399_800])
    levels = {"door": rng.randint(0, 1), "dial": rng.choice([0, 400, 1023]), "dusk": rng.choice([0, 700])}
    ladders = {name: list(program.lamps[name].ladder) for name in SHOWN}
    assert ladders["far"] == [64, 128, 191, 255], "four rungs even in duty, by hand"

    def both(starts_at: int, record: dict[str, Any] | None) -> Naive:
        naive = Naive(
            whole, ladders, {"sign": 99, "panel": 9}, {"chain": 3, "panel": 20}, program.seed, starts_at, record, levels
        )
        kept = None if record is None else {name: record_of(it, {"panel": 20}.get(name, 3)) for name, it in record.items()}
        machine = Machine(program, starts_at_ms=starts_at)
        machine.start(levels, kept)
        if clock is not None:
            naive.by_day = clock
            machine.set_clock(clock)
        wanted = plainly(naive, events, ends_ms)
        found, said = quickly(machine, events, ends_ms)
        assert found == wanted, (seed, starts_at)
        assert said == naive.said, (seed, starts_at)
        now = (
            None
            if naive.record is None
            else {name: record_of(it, {"panel": 20}.get(name, 3)) for name, it in naive.record.items()}
        )
        assert machine.record == now, (seed, starts_at)
        return naive

    first = both(starts_at, None)
    seen = first.seen
    if first.record is not None or seed % 5 == 0:  # power is cut, and comes again
        seen += both(rng.choice([0, WORD - 40]), first.record or first.all_kept()).seen
        seen["power cut"] += 1
    return seen


@pytest.mark.parametrize("batch", range(COUNT // BATCH))
def test_the_machine_does_over_time_what_the_page_says(batch: int) -> None:
    """Drawn programs and events, roll-over of the clock and power cuts among them: light, texts, words and records are the same."""
    seen = Counter[str]()
    for seed in range(COUNTED + batch * BATCH, COUNTED + (batch + 1) * BATCH):
        seen += run_both(seed)
    assert any(seen[it] for it in OVERTAKEN), "a batch in which nothing is overtaken proves little"


def test_every_event_and_step_is_drawn_alone_and_overtaken() -> None:
    """What the drawn programs hold and do, counted over the first few."""
    seen = Counter[str]()
    edges = ("pressed", "released", "on", "off", "moved", "link-lost", "link-back", "power-up")
    events = ("heard", "at", "every", "power cut", *(f"event {it}" for it in edges))
    # Those that hold what is rare come first; where they do so no more, all the others follow.
    for seed in sorted(range(COUNTED), key=lambda it: it not in RARE):
        seen += run_both(seed)
        if all(seen[it] for it in (*VERBS, *OVERTAKEN, *events)):
            return
    pytest.fail(f"never drawn: {[it for it in (*VERBS, *OVERTAKEN, *events) if not seen[it]]}")
