"""The practice bench: every fault is found by what can be probed, nothing is told by name, and the meter shows what ngspice has."""

import random
from pathlib import Path

import pytest

from oddlamp.core.errors import OutOfRange
from oddlamp.core.finding.practice import LEVELS, MEND, Probe, faults_of, meter, round_of, round_with
from oddlamp.core.finding.way import ways_of
from oddlamp.core.plan.document import load_plan
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.practice import round_ended, round_shown
from tests.builders import EMPTY, plan_with
from tests.core.bench.drawn import CATALOG
from tests.core.finding.metered import Asked, solved_by_spice
from tests.core.finding.played import KNOWN, WAYS, solve
from tests.full import IS_PROOF

ROUNDS, PARTS = (10_000, 4) if IS_PROOF else (8, 1)
IDLE_MOST = {1: 3, 2: 8, 3: 3}
MEASURED, PLACES_EACH = (120, 10) if IS_PROOF else (5, 8)
METER_RATIO, DIGIT_V = 0.01, 0.01
PAPER = tuple(it for name, it in WAYS.items() if name.startswith("paper-moon"))


@pytest.mark.parametrize("part", range(PARTS))
@pytest.mark.parametrize("level", LEVELS)
def test_every_fault_is_found_by_what_can_be_probed(level: int, part: int) -> None:
    rng = random.Random(level)
    jobs = [(way, one) for way in WAYS.values() for one in faults_of(way, level).values()]
    rng.shuffle(jobs)
    jobs, rng = jobs[part::PARTS], random.Random(10 * level + part)
    idle, found = list[int](), 0
    for way, one in jobs[:ROUNDS]:
        others = [it for it in faults_of(way, level).values() if it.place != one.place]
        ones = [one, *([rng.choice(others)] if level == 2 and others else [])]
        made = round_with(way, KNOWN, ones)
        if made is None:  # one of them does not show in this plan
            continue
        found += 1
        wrong, done = solve(made, IDLE_MOST[level])
        idle.append(wrong)
        assert made.probed(done[-1], done[:-1]).is_over
    print(
        f"{LEVELS[level]}, part {part + 1} of {PARTS}: {found} rounds, {sum(it == 0 for it in idle)} without mending what was whole, most {max(idle)}"
    )
    assert found > min(ROUNDS, len(jobs)) * 0.8


def test_the_same_number_is_the_same_round_and_others_are_others() -> None:
    first = [round_of(PAPER, KNOWN, 1, seed) for seed in range(1, 7)]
    again = [round_of(PAPER, KNOWN, 1, seed) for seed in range(1, 7)]
    assert [(it.way.lamp.id, it.causes) for it in first] == [(it.way.lamp.id, it.causes) for it in again]
    assert len({(it.way.lamp.id, it.causes) for it in first}) > 3
    assert len(round_of(PAPER, KNOWN, 2, 1).causes) == 2
    assert round_of(PAPER, KNOWN, 3, 1).broken.is_loose


def test_no_probe_says_what_is_wrong() -> None:
    for seed in range(1, 4):
        made = round_of(PAPER, KNOWN, 1, seed)
        begun = round_shown(made, "Paper moon", 1, seed)
        what = KNOWN.cause[made.causes[0]].what
        assert what not in begun.told
        assert {name for group in begun.groups for name in (it.id for it in group.causes)} == set(made.choices)
        for test in made.tests:
            assert what.lower() not in made.probed(Probe(test)).text.lower()


def test_mending_what_is_whole_changes_nothing_and_takes_its_time() -> None:
    made = round_of(PAPER, KNOWN, 1, 2)
    other = next(it for it in made.choices if it not in made.causes)
    shown = made.probed(Probe(MEND, cause=other))
    assert "nothing changes" in shown.text
    assert shown.minutes > 0
    told = round_ended(made, [Probe(MEND, cause=other), Probe(MEND, cause=made.causes[0])])
    assert told.is_right
    assert told.minutes == 2 * shown.minutes
    assert told.best_minutes >= shown.minutes
    given_up = round_ended(made, [Probe("links")])
    assert not given_up.is_right
    assert given_up.wrong[0].id == KNOWN.cause[made.causes[0]].what
    assert given_up.probes[0].could_tell


def test_what_cannot_be_practised_on_says_why() -> None:
    with pytest.raises(OutOfRange, match=r"no lamp can be followed.*demo"):
        round_of(ways_of(resolve(load_plan(EMPTY), CATALOG)), KNOWN, 1, 1)
    dark = ways_of(resolve(plan_with({"rules": None}), CATALOG))
    assert dark == ()
    with pytest.raises(OutOfRange, match="two points"):
        round_of(PAPER, KNOWN, 1, 1).probed(Probe("volts", None, None))
    with pytest.raises(OutOfRange, match="what"):
        round_of(PAPER, KNOWN, 1, 1).probed(Probe("ask the oracle"))


def test_the_meter_shows_what_ngspice_has(tmp_path: Path) -> None:
    """On the broken circuit, between any two points, within one per cent and the meter's last digit."""
    rng, asked, names = random.Random(4), 0, sorted(WAYS)
    for at in range(MEASURED):
        way = WAYS[names[at % len(names)] if IS_PROOF else rng.choice(names)]
        made = round_with(way, KNOWN, [rng.choice(list(faults_of(way, 1).values()))])
        if made is None:
            continue
        build = made.build()
        places = [Asked(*rng.sample(made.points, 2), rng.choice(("nothing", "lit", "pressed"))) for _ in range(PLACES_EACH)]
        for it, spice_v in zip(places, solved_by_spice(build, places, tmp_path), strict=True):
            shown = meter(build, it.red, it.black, it.doing, is_volts=True)
            assert shown == pytest.approx(spice_v, rel=METER_RATIO, abs=DIGIT_V), (way.lamp.id, made.causes, it)
            asked += 1
    assert asked >= 2 * PLACES_EACH
