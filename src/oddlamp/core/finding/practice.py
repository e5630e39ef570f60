"""The practice bench: something is broken in a simulated build, and what is probed shows what it would show there.

A round follows from its number alone, so that it can be played again. What is wrong is never said before it is named.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Final, Literal, NamedTuple

from oddlamp.core.base import si
from oddlamp.core.behaviour.clock import xorshift
from oddlamp.core.bench.circuit import Tap
from oddlamp.core.bench.devices import State
from oddlamp.core.bench.judge import OPEN_OHM
from oddlamp.core.english import and_list, inner
from oddlamp.core.errors import OutOfRange
from oddlamp.core.finding.broken import Broken, together
from oddlamp.core.finding.build import Build
from oddlamp.core.finding.find import Search
from oddlamp.core.finding.knowledge import MEND_MINUTES, MENDED, Knowledge
from oddlamp.core.finding.metering import step_ids
from oddlamp.core.finding.observe import TESTS
from oddlamp.core.finding.symptoms import symptoms_of
from oddlamp.core.finding.table import BROKEN
from oddlamp.core.finding.way import Way
from oddlamp.core.finding.wired import Unlike

Doing = Literal["nothing", "lit", "pressed"]
LEVELS: Final = {1: "One thing", 2: "Two things", 3: "It comes and goes"}
TWO, COMES_AND_GOES = 2, 3
TRIES_MOST: Final = 60
REASONS_MOST: Final = 3
VOLTS_MINUTES: Final = 1.0
OHMS_MINUTES: Final = 3.0  # power has to go off, and a leg out; common practice, no source
LIT_MINUTES: Final = 4.0  # the program that tries the wiring goes on first; once
STEPS_MOST: Final = 40
DIGITS_V: Final = 2
MEND: Final = "mend"
SAID_MOST: Final = 3
UNPROBED: Final = frozenset({"strip-lost"})  # measured where no pin is
MIX: Final = 0x9E37_79B9
WORD: Final = 0xFFFF_FFFF


class Probe(NamedTuple):
    """Something done: a test by its id; ``volts`` or ``ohms`` between two pins while something is done; or a ``cause`` that is mended."""

    what: str
    red: Tap | None = None
    black: Tap | None = None
    doing: Doing = "nothing"
    cause: str = ""


class Shown(NamedTuple):
    """What a probe shows, in words and where it is measured as a value; what it would show in a build with nothing wrong."""

    text: str
    value: float | None
    right: str
    minutes: float
    is_over: bool = False


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
    def right(self) -> Build:
        """The build with nothing wrong."""
        return Build(self.way)

    @cached_property
    def _builds(self) -> dict[str, Build]:
        return {}

    def build(self, before: Sequence[Probe] = ()) -> Build:
        """Return the build as it is after what was mended in it."""
        gone = {it.cause for it in before if it.what == MEND}
        left = self.broken.without(lambda it: it.cause in gone)
        return self._builds.setdefault(left.cause, Build(self.way, left))

    @property
    def causes(self) -> tuple[str, ...]:
        """What is wrong."""
        return tuple(it.cause for it in self.broken.each)

    @cached_property
    def tests(self) -> tuple[str, ...]:
        """What can be looked at, tried and swapped in it: all that is worked out in the build, and measures nothing."""
        measured = set(step_ids(self.way)) - UNPROBED
        return tuple(it.id for it in self.known.tests if it.id in TESTS and it.id not in measured and TESTS[it.id].fits(self.way))

    @cached_property
    def choices(self) -> tuple[str, ...]:
        """The causes that can be named: those there is a place for."""
        return tuple(it.id for it in self.known.causes if it.id in BROKEN and BROKEN[it.id](self.way) is not None)

    @cached_property
    def points(self) -> tuple[Tap, ...]:
        """Where the probes can go: every pin of what is on the way."""
        way = self.way
        lines = tuple(it for it in dict.fromkeys((way.to_module, way.to_board, way.entry, way.line)) if it)
        kinds = ("source", "converter")
        rails = [net for net in way.circuit.nets if way.rail is not None and net.id == f"rail.{way.rail.id}"]
        names = dict.fromkeys(tap.piece for net in rails for tap in net.taps if way.circuit.pieces[tap.piece].kind in kinds)
        for line in lines:
            names |= dict.fromkeys(piece.id for piece in way.pieces(line))

        def is_on_way(tap: Tap) -> bool:
            net = way.circuit.net_of.get(tap)
            return net is not None and (net.kind != "signal" or net.id.partition(":")[0] in lines)

        return tuple(tap for name in names for pin in way.circuit.pieces[name].pins if is_on_way(tap := Tap(name, pin)))

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
        if probe.what == MEND:
            return self._mended(probe, before)
        if probe.what not in self.tests:
            raise OutOfRange(
                field="what", given=probe.what[:60], allowed="volts, ohms, mend, or one of " + ", ".join(self.tests)[:800]
            )
        test = self.known.test[probe.what]
        outcomes = [TESTS[test.id].shows(it) for it in (self.build(before), self.right)]
        shown, right = (test.outcomes[it] for it in outcomes)
        return Shown(shown, None, right, test.minutes)

    def _mended(self, probe: Probe, before: Sequence[Probe]) -> Shown:
        if probe.cause not in self.choices:
            raise OutOfRange(field="cause", given=probe.cause[:60], allowed="a cause of this round's list")
        was, now = self.build(before), self.build((*before, probe))
        if was is now:
            return Shown("nothing changes: that was whole, and is as it was", None, "", MEND_MINUTES)
        if not now.broken.each:
            return Shown("it does all it should", None, "", MEND_MINUTES, is_over=True)
        return Shown(f"that was one thing. Now: {self.said(now)}", None, "", MEND_MINUTES)

    def said(self, build: Build) -> str:
        """Say what is seen of a build, the first few of what a maker may say."""
        seen = symptoms_of(build)
        words = [it.words for it in self.known.symptoms if it.id in seen][:SAID_MOST]
        return and_list([words[0], *map(inner, words[1:])]) if words else "nothing that is seen"

    def _measured(self, probe: Probe, before: Sequence[Probe]) -> Shown:
        for tap in (probe.red, probe.black):
            if tap is None or tap not in self.points:
                raise OutOfRange(field="red", given=f"{tap}"[:60], allowed="two points of this bench")
        assert probe.red is not None
        assert probe.black is not None
        is_volts = probe.what == "volts"
        value, right = (
            meter(it, probe.red, probe.black, probe.doing, is_volts=is_volts) for it in (self.build(before), self.right)
        )
        has_program = any(it.doing == "lit" for it in before)
        minutes = OHMS_MINUTES if not is_volts else LIT_MINUTES if probe.doing == "lit" and not has_program else VOLTS_MINUTES
        unit = "V" if is_volts else "ohm"
        return Shown(reading_text(value, unit), value, reading_text(right, unit), minutes)

    def best(self) -> tuple[Path, ...]:
        """Return the finder's own way through it: what it would have asked, one thing mended after the other."""
        left, path = self.broken, list[Path]()
        while left.each and len(path) < STEPS_MOST:
            build = Build(self.way, left)
            seen = symptoms_of(build)
            symptom = next((it for it in self.known.symptom if it in seen), None)
            named = self._found(build, symptom, path) if symptom is not None else None
            if named is None:
                break
            left = left.without(lambda it, named=named: it.cause == named)  # type: ignore[misc]
        return tuple(path)

    def search(self, symptom: str) -> Search:
        """Begin a search from what is seen, in which all that can be mended counts."""
        return Search(self.way, self.known, symptom, mended=[f"{MENDED}{it}" for it in self.choices])

    def _found(self, build: Build, symptom: str, path: list[Path]) -> str | None:
        """Ask as the finder does and mend what is likeliest, until something is mended that was wrong; what was whole speaks against itself."""
        search, answers, spent = self.search(symptom), dict[str, str | None](), 0.0
        while len(path) < STEPS_MOST:
            asked = search.next(answers, spent)
            if asked is not None:
                outcome = TESTS[asked.id].shows(build) if asked.id in TESTS else self.known.test[asked.id].usual
                answers[asked.id] = outcome
                path.append(Path(asked.id, outcome, asked.minutes))
            else:
                named = search.to_mend(answers, self.choices)
                if named is None:
                    return None
                path.append(Path(MEND, named, MEND_MINUTES))
                if any(it.cause == named for it in build.broken.each):
                    return named
                answers[f"{MENDED}{named}"] = "as before"
            spent += path[-1].minutes
        return None


def meter(build: Build, red: Tap, black: Tap, doing: Doing, *, is_volts: bool) -> float | None:
    """Return what a meter shows between two pins of a build, V or ohm; None where it cannot be said."""
    held = build.way.entry if doing == "pressed" else ""
    state = State(lit=build.way.line if doing == "lit" else "", closed=held, turned_up=held)
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
    return {name: it for name, it in found.items() if it.is_loose == (level == COMES_AND_GOES)}


def round_of(ways: Sequence[Way], known: Knowledge, level: int, seed: int) -> Round:
    """Make a round.

    Args:
        ways: of the plan.
        known: what is known of faults.
        level: 1 for one thing, 2 for two, 3 for one that comes and goes.
        seed: its number.

    Raises:
        OutOfRange: nothing in this plan can be broken so that it shows.
    """
    numbers = _drawn(seed * len(LEVELS) + level)
    for _ in range(TRIES_MOST if ways else 0):
        way = ways[next(numbers) % len(ways)]
        faults = list(faults_of(way, level).values())
        ones = [faults[next(numbers) % len(faults)]] if faults else []
        if level == TWO and ones:
            others = [it for it in faults if it.place != ones[0].place]
            ones = [*ones, others[next(numbers) % len(others)]] if others else []
        made = round_with(way, known, ones)
        if made is not None:
            return made
    reasons = "; ".join(it for it in (strange(way, known) for way in ways[:REASONS_MOST]) if it)
    raise OutOfRange(field="of", given=reasons or "a plan in which no lamp can be followed", allowed="a plan in which something that is pressed lights an LED, a strip or a chain in a rehearsal: a demo, or a starting point")  # fmt: skip


def round_with(way: Way, known: Knowledge, ones: Sequence[Broken]) -> Round | None:
    """Make a round of given faults; None where one of them does not show, or the build does not do as it should with nothing wrong."""
    if not ones or strange(way, known) or any(not symptoms_of(Build(way, it)) for it in ones):
        return None
    broken = together(*ones)
    seen = symptoms_of(Build(way, broken))
    symptoms = tuple(it.id for it in known.symptoms if it.id in seen)
    return Round(way, known, broken, symptoms) if symptoms else None


def strange(way: Way, known: Knowledge) -> str:
    """Say why nothing can be practised at a lamp; empty where it can: with nothing wrong it does as it should."""
    try:
        seen = symptoms_of(Build(way))
    except Unlike as error:
        return str(error)
    words = next((it.words for it in known.symptoms if it.id in seen), "")
    return f"{way.lamp.label}, with nothing wrong: {inner(words)}" if words else ""
