"""The program of one host: what every event sets off, in whole numbers. The rehearsal runs it, the checks read it, firmware prints it.

`docs/program.md` is the contract: what each step reads and writes. Nothing about behaviour exists outside of it.
"""

from collections.abc import Mapping
from typing import Final, NamedTuple

from oddlamp.core.behaviour.arithmetic import LADDER_TOP, scaled
from oddlamp.core.words.frames import FieldValue

Event = tuple[str, ...]  # ("heard", word) | ("input", input, what) | ("start",)
START: Final[Event] = ("start",)


class Given(NamedTuple):
    """A number that a step takes: settled, or carried by the word that set it off and brought from its range into 0 to ``top``.

    ``top`` 0 takes a value as it was carried.
    """

    value: int = 0
    carried: str | None = None
    least: int = 0
    most: int = 0
    top: int = LADDER_TOP

    def of(self, values: Mapping[str, FieldValue]) -> int | None:
        """Return the number; None where nothing carried it, so that what it is for stays as it is."""
        if self.carried is None:
            return self.value
        given = values.get(self.carried)
        if not isinstance(given, int):
            return None
        return scaled(given, self.least, self.most, self.top) if self.top else given


class Switch(NamedTuple):
    """Lamps on, off, or each the other way round. On is as bright as they were last, full where that was nothing."""

    lamps: tuple[str, ...]
    to: str


class Level(NamedTuple):
    """Lamps as bright as a number says, 0 to 255; 0 is off."""

    lamps: tuple[str, ...]
    level: Given


class Colour(NamedTuple):
    """Lamps in a colour; a share that is not given stays."""

    lamps: tuple[str, ...]
    shares: tuple[Given | None, Given | None, Given | None]


class Add(NamedTuple):
    """Lamps brighter or darker by so much; at an end they stay, or go round to the other."""

    lamps: tuple[str, ...]
    by: int
    goes_round: bool = False


class Rung(NamedTuple):
    """Lamps one rung up or down their own ladders; at an end they stay, or go round to the other."""

    lamps: tuple[str, ...]
    goes_up: bool
    goes_round: bool = False


class Next(NamedTuple):
    """The next picture of a cue; after the last the first."""

    cue: str


class Text(NamedTuple):
    """A text on displays: settled, or carried."""

    lamps: tuple[str, ...]
    text: str
    carried: str | None = None


class Score(NamedTuple):
    """A score on displays: set, where ``to`` is given, else moved by so many; at an end it stays, or goes round."""

    lamps: tuple[str, ...]
    to: Given | None
    by: int = 0
    goes_round: bool = False


class Remember(NamedTuple):
    """Keep how lamps are now."""

    lamps: tuple[str, ...]


class Restore(NamedTuple):
    """Lamps as they were when they were last remembered; those that never were stay."""

    lamps: tuple[str, ...]


class Now(NamedTuple):
    """How a lamp is when it is told: its ``part``, brought from 0 to 255 into the range of the value that tells it."""

    lamp: str
    part: str
    least: int = 0
    most: int = LADDER_TOP


class Say(NamedTuple):
    """Say a word on a talk, with values that are settled, in braces those that the word before it carried, or a lamp's as it is now."""

    talk: str
    word: str
    fill: Mapping[str, float | str | Now]


class Open(NamedTuple):
    """A step that is kept and not obeyed yet, and why."""

    target: str
    because: str


Step = Switch | Level | Colour | Add | Rung | Next | Text | Score | Remember | Restore | Say | Open


class LampSpec(NamedTuple):
    """What a program must know of a lamp: its colours, the rungs of its ladder, its cap, 0 to 255, and what it can count to.

    ``score_most`` is 0 for what shows no digits.
    """

    ladder: tuple[int, ...]
    cap: int = LADDER_TOP
    score_most: int = 0


class Picture(NamedTuple):
    """One step of a cue in a table: lamps and how bright each is, None for as it was."""

    lamps: tuple[str, ...]
    level: int | None


class Told(NamedTuple):
    """A step in words, and the part of the plan it is for."""

    ref: str
    says: str


class Program(NamedTuple):
    """The program of one host. ``says`` tells each step in words, in the order of its event's steps."""

    host: str
    lamps: Mapping[str, LampSpec]
    cues: Mapping[str, tuple[tuple[Picture, ...], ...]]
    handlers: Mapping[Event, tuple[Step, ...]]
    says: Mapping[Event, tuple[Told, ...]]
