"""Searches and rounds played by what a simulated build would show: what is not simulated answers as the knowledge file says."""

import random
from collections.abc import Collection
from functools import cache
from typing import NamedTuple

from oddlamp.catalog.knowledge import load_knowledge
from oddlamp.core.bench.circuit import Tap
from oddlamp.core.bench.step import Step
from oddlamp.core.finding.build import Build
from oddlamp.core.finding.find import Search, features, has_place
from oddlamp.core.finding.knowledge import MENDED
from oddlamp.core.finding.metering import reading_class, step_ids
from oddlamp.core.finding.observe import TESTS
from oddlamp.core.finding.practice import MEND, Probe, Round
from oddlamp.core.finding.symptoms import symptoms_of
from oddlamp.core.finding.table import BROKEN
from oddlamp.core.finding.way import Way
from tests.core.finding.builds import ways

KNOWN = load_knowledge()
WAYS = dict(ways())


class Played(NamedTuple):
    """How a search went: whether it was right, by what, and what it took, minutes; and whether all that could be asked would have been."""

    cause: str
    is_right: bool
    minutes: float
    is_seen: bool


@cache
def build_of(name: str, cause: str) -> Build | None:
    broken = BROKEN[cause](WAYS[name]) if cause in BROKEN else None
    return None if broken is None else Build(WAYS[name], broken)


@cache
def shows(name: str, cause: str, test: str) -> str:
    """What a test shows where a cause is: in the simulated build, else as the file says."""
    build = build_of(name, cause)
    if build is not None and test in TESTS:
        return TESTS[test].shows(build)
    return random.Random(f"{name} {cause} {test}").choice(KNOWN.test[test].given(cause, features(WAYS[name])))


@cache
def seen(name: str, cause: str) -> tuple[str, ...]:
    build = build_of(name, cause)
    if build is not None:
        return tuple(sorted(symptoms_of(build)))
    return tuple(sorted(KNOWN.cause[cause].makes_on(features(WAYS[name]))))


@cache
def places() -> dict[str, list[str]]:
    """The ways on which each cause has a place."""
    return {it.id: [name for name, way in WAYS.items() if has_place(way, it)] for it in KNOWN.causes}


class Limited(Search):
    """A search in which some tests cannot be made."""

    def __init__(self, way: Way, symptom: str, without: Collection[str] = ()) -> None:
        super().__init__(way, KNOWN, symptom)
        self.possible = tuple(it.id for it in self.tests if it.id not in without)  # type: ignore[misc]


@cache
def whole(name: str, symptom: str) -> Search:
    return Search(WAYS[name], KNOWN, symptom)


def play(rng: random.Random, cause: str, *, wrong: float = 0.0, lacks: float = 0.0) -> Played:
    """Search from one of its symptoms, on one of the ways it has a place on; a wrong answer is drawn once for a test, and stays."""
    order = rng.sample(places()[cause], len(places()[cause]))
    name = next(it for it in order if seen(it, cause))
    symptom = rng.choice(seen(name, cause))
    search = whole(name, symptom)
    if lacks:
        tests = [it.id for it in search.tests]
        search = Limited(WAYS[name], symptom, rng.sample(tests, round(lacks * len(tests))))
    answers, spent = dict[str, str | None](), 0.0
    while (asked := search.next(answers, spent)) is not None:
        outcome = shows(name, cause, asked.id)
        if rng.random() < wrong:
            outcome = rng.choice([it for it in KNOWN.test[asked.id].outcomes if it != outcome])
        answers[asked.id], spent = outcome, spent + asked.minutes
    everything = {it: shows(name, cause, it) for it in search.possible} if lacks else answers
    return Played(cause, _is_told(search, answers, cause), spent, _is_told(search, everything, cause))


def _is_told(search: Search, answers: dict[str, str | None], cause: str) -> bool:
    shares = search.shares(answers)
    return cause in search.alike(max(shares, key=lambda it: shares[it]))


# Rounds, by what can be probed alone


def probe_of(made: Round, test: str) -> tuple[Probe, Step] | None:
    """Where the probes go for a measuring test; None where no two points are on the nets it is measured at."""
    way = made.way
    step = next((it for it in way.steps if it.id == step_ids(way).get(test)), None)
    if step is None:
        return None
    kind, _, rest = step.id.partition(".")
    ground = next(Tap(net.id, "") for net in way.circuit.nets if net.kind == "ground")
    red, black = step.red, step.black
    if kind == "ohms":
        red, black = Tap(step.piece, "1"), Tap(step.piece, "2")
    elif kind in ("short", "load"):
        red, black = Tap(rest if kind == "short" else f"rail.{rest}", ""), ground
    red, black = _point(made, red), _point(made, black)
    if red is None or black is None:
        return None
    told = way.design.plan.signals.get(way.entry)
    is_down = told is not None and told.pull_ohm is not None and told.pull_to == "ground"
    is_held = kind in ("low", "high") and (kind == "high") == is_down
    doing = "lit" if kind in ("lit", "drop", "on", "load") else "pressed" if is_held else "nothing"
    return Probe("ohms" if step.unit == "ohm" else "volts", red, black, doing), step  # type: ignore[arg-type]


def _point(made: Round, tap: Tap | None) -> Tap | None:
    if tap is None or tap in made.points:
        return tap
    net_of, pieces = made.way.circuit.net_of, made.way.circuit.pieces
    wanted = tap.piece if tap.pin == "" else net_of[tap].id if tap in net_of else ""
    there = [it for it in made.points if net_of[it].id == wanted]
    return min(there, key=lambda it: pieces[it.piece].kind not in ("source", "converter"), default=None)


def solve(made: Round, mends_most: int) -> tuple[int, list[Probe]]:
    """Find what is wrong by probing as the finder would: how often something whole was mended, and all that was done."""
    done, idle = list[Probe](), 0
    while made.build(done).broken.each:
        now = symptoms_of(made.build(done))
        symptom = next(it for it in KNOWN.symptom if it in now)
        measured = {it.id: probe for it in KNOWN.tests if (probe := probe_of(made, it.id)) is not None}
        search, before = made.search(symptom), made.build(done)
        search.possible = tuple(it.id for it in search.tests if it.id in made.tests or it.id in measured)  # type: ignore[misc]
        answers, spent = dict[str, str | None](), 0.0
        while made.build(done) is before:
            asked = search.next(answers, spent)
            if asked is None:
                cause = search.to_mend(answers, made.choices)
                assert cause is not None
                done.append(Probe(MEND, cause=cause))
                answers[f"{MENDED}{cause}"] = "as before"
                spent += KNOWN.test[f"{MENDED}{cause}"].minutes
                idle += made.build(done) is before
                assert idle <= mends_most, (made.causes, [it.cause for it in done if it.cause])
                continue
            if asked.id in made.tests:
                probe = Probe(asked.id)
                text = made.probed(probe, done).text
                answers[asked.id] = next(name for name, words in KNOWN.test[asked.id].outcomes.items() if words == text)
            else:
                probe, step = measured[asked.id]
                value = made.probed(probe, done).value
                value = abs(value) if value is not None and step.id.startswith(("lit.", "dark.")) else value
                answers[asked.id] = None if value is None else reading_class(step, value)
            done.append(probe)
            spent += asked.minutes
    return idle, done
