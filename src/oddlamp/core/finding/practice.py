"""The practice bench: something is broken in a simulated build, and what is probed shows what it would show there.

A round follows from its number alone, so that it can be played again. What is wrong is never said before it is named.
"""

from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Final, Literal, NamedTuple

from oddlamp.core.base import si
from oddlamp.core.behaviour.clock import xorshift
from oddlamp.core.bench.circuit import Tap
from oddlamp.core.bench.devices import State
from oddlamp.core.bench.judge import OPEN_OHM
from oddlamp.core.errors import OutOfRange
from oddlamp.core.finding.broken import Broken, together
from oddlamp.core.finding.build import Build
from oddlamp.core.finding.find import Search
from oddlamp.core.finding.knowledge import Knowledge
from oddlamp.core.finding.observe import TESTS, step_ids
from oddlamp.core.finding.symptoms import symptoms_of
from oddlamp.core.finding.table import BROKEN
from oddlamp.core.finding.way import Way

Doing = Literal["nothing", "lit", "pressed"]
LEVELS: Final = {1: "One thing", 2: "Two things", 3: "It comes and goes"}
TRIES_MOST: Final = 60
VOLTS_MINUTES: Final = 1.0
OHMS_MINUTES: Final = 3.0  # power has to go off, and a leg out; common practice, no source
LIT_MINUTES: Final = 4.0  # the program that tries the wiring goes on first; once
STEPS_MOST: Final = 40
LOOSE: Final = frozenset({"lamp-loose", "supply-loose", "serial-loose"})
DIGITS_V: Final = 2
MIX: Final = 0x9E37_79B9
WORD: Final = 0xFFFF_FFFF


class Probe(NamedTuple):
    """Something done: a test by its id, or ``volts`` or ``ohms`` between two pins while something is done."""

    what: str
    red: Tap | None = None
    black: Tap | None = None
    doing: Doing = "nothing"


class Shown(NamedTuple):
    """What a probe shows, in words and where it is measured as a value; what it would show in a build with nothing wrong."""

    text: str
    value: float | None
    right: str
    minutes: float


class Path(NamedTuple):
    """One step of the finder's own way through a round."""

    test: str
    outcome: str
    minutes: float


@dataclass(frozen=True)
class Round:
    """One round: what is broken, and what was seen of it."""

    way: Way
    known: Knowledge
    broken: Broken
    symptoms: tuple[str, ...]

    @cached_property
    def build(self) -> Build:
        """The broken build."""
        return Build(self.way, self.broken)

    @cached_property
    def right(self) -> Build:
        """The same with nothing wrong."""
        return Build(self.way)

    @property
    def causes(self) -> tuple[str, ...]:
        """What is wrong."""
        return tuple(it.cause for it in self.broken.each)

    @cached_property
    def tests(self) -> tuple[str, ...]:
        """What can be looked at, tried and swapped in it: all that is worked out in the build, and measures nothing."""
        measured = step_ids(self.way)
        return tuple(it.id for it in self.known.tests if it.id in TESTS and it.id not in measured and TESTS[it.id].fits(self.way))

    @cached_property
    def choices(self) -> tuple[str, ...]:
        """The causes that can be named: those there is a place for."""
        return tuple(it.id for it in self.known.causes if it.id in BROKEN and BROKEN[it.id](self.way) is not None)

    @cached_property
    def points(self) -> tuple[Tap, ...]:
        """Where the probes can go: every pin of what is on the way."""
        way = self.way
        lines = (way.line, way.to_module, way.to_board, way.entry)
        names = dict.fromkeys(piece.id for line in lines if line for piece in way.pieces(line))
        rails = [net for net in way.circuit.nets if way.rail is not None and net.id == f"rail.{way.rail.id}"]
        names |= dict.fromkeys(
            tap.piece for net in rails for tap in net.taps if way.circuit.pieces[tap.piece].kind in ("source", "converter")
        )
        return tuple(
            tap for name in names for pin in way.circuit.pieces[name].pins if (tap := Tap(name, pin)) in way.circuit.net_of
        )

    def probed(self, probe: Probe, before: Sequence[Probe] = ()) -> Shown:
        """Return what a probe shows.

        Args:
            probe: what is done.
            before: what was done before it: the program that tries the wiring goes on but once.

        Raises:
            OutOfRange: no such test here, or no such point.
        """
        if probe.what in ("volts", "ohms"):
            return self._measured(probe, before)
        if probe.what not in self.tests:
            raise OutOfRange(field="what", given=probe.what[:60], allowed="volts, ohms, or one of " + ", ".join(self.tests)[:800])
        test = self.known.test[probe.what]
        outcomes = [TESTS[test.id].shows(it) for it in (self.build, self.right)]
        shown, right = (test.outcomes[it] for it in outcomes)
        return Shown(shown, None, right, test.minutes)

    def _measured(self, probe: Probe, before: Sequence[Probe]) -> Shown:
        if probe.red not in self.points or probe.black not in self.points:
            at = probe.red if probe.red not in self.points else probe.black
            raise OutOfRange(field="red", given=f"{at}"[:60], allowed="a point of this bench")
        assert probe.red is not None
        assert probe.black is not None
        value, right = (meter(it, probe.what == "volts", probe.red, probe.black, probe.doing) for it in (self.build, self.right))
        unit = "V" if probe.what == "volts" else "ohm"
        has_program = any(it.doing == "lit" for it in before)
        minutes = OHMS_MINUTES if unit == "ohm" else LIT_MINUTES if probe.doing == "lit" and not has_program else VOLTS_MINUTES
        return Shown(reading_text(value, unit), value, reading_text(right, unit), minutes)

    def best(self) -> tuple[Path, ...]:
        """Return the finder's own way through it: what it would have asked, one thing mended after the other."""
        left, path = self.broken, list[Path]()
        while left.each and len(path) < STEPS_MOST:
            build = Build(self.way, left)
            seen = [it for it in self.known.symptom if it in symptoms_of(build)]
            if not seen:
                break
            named = self._searched(build, seen[0], path)
            gone = [it for it in left.each if it.cause in named] or [left.each[0]]
            left = left.without(lambda it, gone=gone: it is gone[0])  # type: ignore[misc]
        return tuple(path)

    def _searched(self, build: Build, symptom: str, path: list[Path]) -> tuple[str, ...]:
        search, answers, spent = Search(self.way, self.known, symptom), dict[str, str | None](), 0.0
        while (asked := search.next(answers, spent)) is not None:
            outcome = TESTS[asked.id].shows(build) if asked.id in TESTS else self.known.test[asked.id].usual
            answers[asked.id] = outcome
            spent += asked.minutes
            path.append(Path(asked.id, outcome, asked.minutes))
        shares = search.shares(answers)
        return search.alike(max(shares, key=lambda it: shares[it]))

    def is_named(self, causes: Collection[str]) -> bool:
        """Tell whether what was named is what is wrong: each thing, or what no test tells from it."""
        alike = Search(self.way, self.known, self.symptoms[0])
        groups = [set(alike.alike(it)) for it in self.causes]
        return all(group & set(causes) for group in groups) and all(any(it in group for group in groups) for it in causes)


def meter(build: Build, is_volts: bool, red: Tap, black: Tap, doing: Doing) -> float | None:
    """Return what a meter shows between two pins of a build, V or ohm; None where it cannot be said."""
    state = State(lit=build.way.line if doing == "lit" else "", closed=build.way.entry if doing == "pressed" else "", turned_up=build.way.entry if doing == "pressed" else "")  # fmt: skip
    return build.volts(red, black, state) if is_volts else build.ohms(red, black, state)


def reading_text(value: float | None, unit: str) -> str:
    """Write a reading as a usual meter shows it."""
    if value is None:
        return "it does not stand still"
    if unit == "V":
        return f"{round(value, DIGITS_V) + 0.0:.2f} V".replace("-", "−")
    return "open" if value >= OPEN_OHM else si(value, "ohm") if value >= 1 else f"{value:.1f} Ω"


def _drawn(seed: int) -> Iterator[int]:
    """Yield numbers that follow from a seed, the same in every run."""
    now = (seed * MIX + 1) & WORD or MIX
    while True:
        now = xorshift(now)
        yield now >> 8


def faults_of(way: Way, level: int) -> dict[str, Broken]:
    """Return the faults that can be put in at a level, each with its symptoms seen: those that come and go at the last."""
    found = {name: broken for name, put in BROKEN.items() if (broken := put(way)) is not None}
    return {name: it for name, it in found.items() if it.is_loose == (level == 3)}


def round_of(ways: Sequence[Way], known: Knowledge, level: int, seed: int, wanted: Mapping[str, str] | None = None) -> Round:
    """Make a round.

    Args:
        ways: of the plan.
        known: what is known of faults.
        level: 1 for one thing, 2 for two, 3 for one that comes and goes.
        seed: its number.
        wanted: not drawn but given, for tests: the ``cause``.

    Raises:
        OutOfRange: nothing in this plan can be broken so that it shows.
    """
    numbers = _drawn(seed * 4 + level)
    for _ in range(TRIES_MOST if ways else 0):
        way = ways[next(numbers) % len(ways)]
        faults = faults_of(way, level)
        if wanted:
            faults = {name: it for name, it in faults.items() if name == wanted["cause"]}
        if not faults:
            continue
        names = sorted(faults)
        one = faults[names[next(numbers) % len(names)]]
        ones = [one]
        if level == 2:
            others = [it for name, it in faults_of(way, level).items() if it.place != one.place and name != one.cause]
            if not others:
                continue
            ones.append(others[next(numbers) % len(others)])
        made = _round(way, known, ones)
        if made is not None:
            return made
    raise OutOfRange(field="of", given="this plan", allowed="a plan in which something that is pressed lights an LED, a strip or a chain in a rehearsal: a demo, or a starting point")  # fmt: skip


def _round(way: Way, known: Knowledge, ones: Sequence[Broken]) -> Round | None:
    if symptoms_of(Build(way)):
        return None  # it does not do as it should with nothing wrong
    if any(not symptoms_of(Build(way, it)) for it in ones):
        return None
    broken = together(*ones)
    seen = symptoms_of(Build(way, broken))
    symptoms = tuple(it.id for it in known.symptoms if it.id in seen)
    return Round(way, known, broken, symptoms) if symptoms else None
