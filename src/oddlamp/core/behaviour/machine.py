"""The machine that runs a program: small states, and steps that change them. It knows of no time yet, and nothing of wires."""

from collections.abc import Iterable, Iterator, Mapping
from types import MappingProxyType
from typing import Final, NamedTuple

from oddlamp.core.behaviour.arithmetic import LADDER_TOP, scaled, times
from oddlamp.core.behaviour.program import (
    START,
    Add,
    Colour,
    Event,
    LampSpec,
    Level,
    Next,
    Now,
    Program,
    Remember,
    Restore,
    Rung,
    Say,
    Score,
    Step,
    Switch,
    Text,
)
from oddlamp.core.plan.rules import carried_name
from oddlamp.core.words.frames import FieldValue

COLOURS: Final = {"red": 0, "green": 1, "blue": 2}
NOTHING: Final[Mapping[str, FieldValue]] = MappingProxyType({})
PLAIN: Final = LampSpec((0, LADDER_TOP))


class LampState(NamedTuple):
    """On or off, how bright and in which colour, each 0 to 255; of a display its text, which it shows, and its score."""

    is_on: bool = False
    level: int = LADDER_TOP
    colour: tuple[int, int, int] = (LADDER_TOP, LADDER_TOP, LADDER_TOP)
    text: str = ""
    score: int = 0

    def duty(self, channel_id: str, cap: int = LADDER_TOP) -> int:
        """Return the duty of one channel, 0 to 255: the level, its cap, then the share of its colour."""
        if not self.is_on:
            return 0
        at = COLOURS.get(channel_id)
        level = times(self.level, cap)
        return level if at is None else times(level, self.colour[at])

    @property
    def bright(self) -> int:
        """How bright it is now: 0 where it is off."""
        return self.level if self.is_on else 0


DARK: Final = LampState()


class Machine:
    """A program and its states; everything begins dark."""

    def __init__(self, program: Program) -> None:
        self.program = program
        self.lamps: dict[str, LampState] = dict.fromkeys(program.lamps, DARK)
        self._kept: dict[str, LampState] = {}
        self._at: dict[str, int] = {}

    def steps(self, event: Event) -> tuple[Step, ...]:
        """Return what an event sets off, in order."""
        return self.program.handlers.get(event, ())

    def obey(self, event: Event, values: Mapping[str, FieldValue] = NOTHING) -> list[str]:
        """Take all steps of an event that change lamps; the lamps they set."""
        return [lamp for step in self.steps(event) for lamp in self.take(step, values)]

    def start(self) -> list[str]:
        """Begin anew, as after power-on: all dark, then what the standing orders want."""
        self.lamps = dict.fromkeys(self.program.lamps, DARK)
        self._kept, self._at = {}, {}
        return self.obey(START)

    def begin_at(self, state: LampState, pictures: Mapping[str, int]) -> None:
        """Let every lamp be and have been in a state, and cues stand at a picture, to see what comes of that."""
        self.lamps, self._at = dict.fromkeys(self.program.lamps, state), dict(pictures)
        self._kept = dict(self.lamps)

    def take(self, step: Step, values: Mapping[str, FieldValue] = NOTHING) -> Iterable[str]:
        """Take one step; the lamps it set, in order. What is said and what is open changes none."""
        match step:
            case Next():
                return list(self._next(step.cue))
            case Remember():
                self._kept |= {lamp: self.lamps[lamp] for lamp in step.lamps}
                return ()
            case Restore():
                for lamp in step.lamps:
                    self.lamps[lamp] = self._kept.get(lamp, self.lamps[lamp])
                return step.lamps
            case Switch() | Level() | Colour() | Add() | Rung() | Text() | Score():
                for lamp in step.lamps:
                    self.lamps[lamp] = _after(self.lamps[lamp], step, self.program.lamps.get(lamp, PLAIN), values)
                return step.lamps
            case _:
                return ()

    def said(self, step: Say, values: Mapping[str, FieldValue] = NOTHING) -> dict[str, FieldValue]:
        """Return the values of a word that is said: settled, carried by the word before it, or how a lamp is now."""
        told = dict[str, FieldValue]()
        for name, given in step.fill.items():
            source = carried_name(given)
            if isinstance(given, Now):
                told[name] = now_of(self.lamps[given.lamp], given)
            elif source is not None and source in values:
                told[name] = values[source]
            elif source is None:
                told[name] = given if isinstance(given, str) else round(given)
        return told

    def _next(self, cue: str) -> Iterator[str]:
        pictures = self.program.cues.get(cue, ())
        if not pictures:
            return
        self._at[cue] = (self._at.get(cue, -1) + 1) % len(pictures)
        for lamps, level in pictures[self._at[cue]]:
            for lamp in lamps:
                if level is not None:
                    self.lamps[lamp] = _bright(self.lamps[lamp], level)
                yield lamp


def lit_and_dark(program: Program, event: Event, carried: Mapping[str, tuple[int, int]]) -> tuple[set[str], set[str]]:
    """Return the lamps that an event may light in the dark, and those it leaves dark whatever was lit before.

    It is let happen from dark and from all lit and remembered so, at every picture of the cues it moves, with every value it
    carries at its least and at its most.
    """
    cues = {step.cue: len(program.cues.get(step.cue, ())) for step in program.handlers.get(event, ()) if isinstance(step, Next)}
    lit, dark = set[str](), set(program.lamps)
    for begins in (DARK, LampState(is_on=True)):
        for place in range(max(cues.values(), default=1)):
            for end in (0, 1):
                machine = Machine(program)
                machine.begin_at(begins, dict.fromkeys(cues, place))
                machine.obey(event, {name: span[end] for name, span in carried.items()})
                now = {name for name, state in machine.lamps.items() if state.bright}
                dark -= now
                if begins is DARK:
                    lit |= now
    return lit, dark


def now_of(state: LampState, asked: Now) -> FieldValue:
    """Tell how a lamp is: whether it is on, how bright, a share of its colour (0 in the dark), its text or its score."""
    match asked.part:
        case "text":
            return state.text if state.is_on else ""
        case "score":
            return state.score
        case "on":
            return asked.most if state.bright else asked.least
        case "level":
            now = state.bright
        case part:
            now = state.colour[COLOURS[part]] if state.bright else 0
    return asked.least + scaled(now, 0, LADDER_TOP, asked.most - asked.least)


def _bright(state: LampState, level: int) -> LampState:
    return state._replace(is_on=level > 0, level=level)


def _after(
    state: LampState, step: Switch | Level | Colour | Add | Rung | Text | Score, spec: LampSpec, values: Mapping[str, FieldValue]
) -> LampState:
    match step:
        case Switch(to="off"):
            return state._replace(is_on=False)
        case Switch(to="toggle"):
            return state._replace(is_on=not state.is_on)
        case Switch():
            return state._replace(is_on=True, level=state.level or LADDER_TOP)
        case Level():
            level = step.level.of(values)
            return state if level is None else _bright(state, level)
        case Colour():
            given = [None if share is None else share.of(values) for share in step.shares]
            red, green, blue = (old if new is None else new for new, old in zip(given, state.colour, strict=True))
            return state._replace(is_on=red + green + blue > 0, colour=(red, green, blue))
        case Add():
            return _bright(state, _ended(state.bright + step.by, state.bright, LADDER_TOP, goes_round=step.goes_round))
        case Rung():
            return _bright(state, rung_after(spec.ladder, state.bright, goes_up=step.goes_up, goes_round=step.goes_round))
        case Text():
            text = step.text if step.carried is None else str(values.get(step.carried, state.text))
            return state._replace(is_on=True, level=state.level or LADDER_TOP, text=text)
        case Score():
            told = None if step.to is None else step.to.of(values)
            moved = state.score + step.by if told is None else told
            score = _ended(moved, state.score, spec.score_most, goes_round=step.goes_round)
            return state._replace(is_on=True, level=state.level or LADDER_TOP, score=score, text=str(score))


def _ended(wanted: int, now: int, most: int, *, goes_round: bool) -> int:
    """Return a number between 0 and its most: past an end that end, or the other one where it stood at the end already."""
    inside = min(max(wanted, 0), most)
    if inside == wanted or not goes_round or inside != now:
        return inside
    return 0 if wanted > most else most


def rung_after(ladder: tuple[int, ...], level: int, *, goes_up: bool, goes_round: bool) -> int:
    """Return the next rung above or under a level; past the last the last, or where it goes round the other end. Darker than off is off."""
    if not level and not goes_up:
        return 0
    if goes_up:
        return next((it for it in ladder if it > level), ladder[0] if goes_round else ladder[-1])
    return next((it for it in reversed(ladder) if it < level), ladder[-1] if goes_round else ladder[0])
