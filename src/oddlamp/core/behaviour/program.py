"""The program of one host: what every event sets off, in whole numbers. The rehearsal runs it, the checks read it, firmware prints it.

`docs/program.md` is the contract: what each step reads, writes and ends. Nothing about behaviour exists outside of it.
"""

from collections.abc import Mapping
from typing import Final, NamedTuple

from oddlamp.core.behaviour.arithmetic import EYE, LADDER_TOP, scaled, times
from oddlamp.core.layouts.stand import Stand
from oddlamp.core.words.frames import FieldValue

Event = tuple[
    str, ...
]  # ("heard", word) | ("input", input, what) | ("link", link, what) | ("at", "19:30") | ("every", ms) | ("start",)
START: Final[Event] = ("start",)
INPUT: Final = "input"  # what an input that was moved carries


class Given(NamedTuple):
    """A number that a step takes: settled, or carried by what set it off and brought from its range into 0 to ``top``.

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
    """Lamps on, off, held, or each the other way round. On is as bright as they were last, full where that was nothing."""

    lamps: tuple[str, ...]
    to: str
    over_ms: int = 0


class Level(NamedTuple):
    """Lamps as bright as a number says, 0 to 255; 0 is off."""

    lamps: tuple[str, ...]
    level: Given
    over_ms: int = 0


class Colour(NamedTuple):
    """Lamps in a colour, or the pixels ``first`` to ``last`` of chains; a share that is not given stays."""

    lamps: tuple[str, ...]
    shares: tuple[Given | None, Given | None, Given | None]
    over_ms: int = 0
    first: int | None = None
    last: int = 0


class Add(NamedTuple):
    """Lamps brighter or darker by so much; at an end they stay, or go round to the other."""

    lamps: tuple[str, ...]
    by: int
    goes_round: bool = False
    over_ms: int = 0


class Rung(NamedTuple):
    """Lamps one rung up or down their own ladders; at an end they stay, or go round to the other."""

    lamps: tuple[str, ...]
    goes_up: bool
    goes_round: bool = False
    over_ms: int = 0


class Chance(NamedTuple):
    """Lamps each at a brightness by chance."""

    lamps: tuple[str, ...]
    least: int
    most: int
    over_ms: int = 0


class Blink(NamedTuple):
    """Lamps lit and dark in turn, so many times, 0 for ever; then as they were before."""

    lamps: tuple[str, ...]
    on_ms: int
    off_ms: int
    times: int = 0


class Pulse(NamedTuple):
    """Lamps lit for a while, at a brightness or as with *on*; then as they were before."""

    lamps: tuple[str, ...]
    for_ms: int
    level: Given | None = None


class Play(NamedTuple):
    """A cue from its first picture."""

    cue: str


class Next(NamedTuple):
    """The next picture of a cue; after the last the first."""

    cue: str


class Stop(NamedTuple):
    """A cue runs no more; without one everything ends: what waits, all cues, all light."""

    cue: str | None = None


class Manner(NamedTuple):
    """How a display shows its text; None for as it was."""

    scroll_ms: int | None = None
    is_inverted: bool | None = None
    is_reversed: bool | None = None


class Turn(NamedTuple):
    """A mover the other way round, going on as it did, stopped, at a speed, or so many speeds on.

    ``less`` is taken from what ``speed`` gives: what is turned gives nothing below 0.
    """

    mover: str
    to: str  # "reverse", "resume", "stop", "run" or "step"
    speed: Given | None = None
    by: int = 0
    less: int = 0


class Text(NamedTuple):
    """A text on displays: settled, or carried; and how it is shown."""

    lamps: tuple[str, ...]
    text: str
    carried: str | None = None
    manner: Manner = Manner()


class Tone(NamedTuple):
    """Buzzers at a pitch, Hz, for a while; until something else where that is 0."""

    lamps: tuple[str, ...]
    pitch_hz: int
    for_ms: int = 0


class March(NamedTuple):
    """A pattern that goes along chains: wipe, chase, bounce, random, rain or neighbours, a step each so many ms.

    ``rule`` is that of the neighbours, 0 to 255.
    """

    lamps: tuple[str, ...]
    pattern: str
    step_ms: int
    rule: int = 0


class Send(NamedTuple):
    """A code sent by infra-red LEDs, after those that wait."""

    lamps: tuple[str, ...]
    code: int


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
    over_ms: int = 0


class Now(NamedTuple):
    """How a lamp or an input is when it is told: its ``part``, brought into the range of the value that tells it."""

    lamp: str
    part: str
    least: int = 0
    most: int = LADDER_TOP


class Show(NamedTuple):
    """The value of an input on displays; without one the time of day."""

    lamps: tuple[str, ...]
    value: Now | None


class Say(NamedTuple):
    """Say a word on a talk, with values that are settled, in braces those that the word before it carried, or a lamp's as it is now."""

    talk: str
    word: str
    fill: Mapping[str, float | str | Now]


class Open(NamedTuple):
    """A step that is kept and not obeyed yet, and why."""

    target: str
    because: str


Sets = Switch | Level | Colour | Add | Rung | Chance | Blink | Pulse | Text | Score | Tone | March
Step = Sets | Restore | Show | Send | Turn | Play | Next | Stop | Remember | Say | Open


class LampSpec(NamedTuple):
    """What a program must know of a lamp: the rungs of its ladder, its cap, 0 to 255, and what it can count to.

    ``score_most`` is 0 for what shows no digits. ``lights`` is how many numbers its light is: 1, 3 for a lamp of colours,
    3 for each of its pixels, 0 for a display. ``fades`` is False for what is only on or off. ``is_eyed`` where its numbers are
    brightness to the eye, and the eye table makes duties of them. ``stand`` is how the pixels of a chain stand.
    """

    ladder: tuple[int, ...]
    cap: int = LADDER_TOP
    score_most: int = 0
    lights: int = 1
    fades: bool = True
    is_chain: bool = False
    is_eyed: bool = False
    stand: Stand | None = None

    def shown(self, light: int) -> int:
        """Return what a pin shows of one number of its light, before it is turned round: the cap of it, and of that the eye's."""
        capped = light if self.cap == LADDER_TOP else times(light, self.cap)
        return EYE[capped] if self.is_eyed else capped


class Orders(NamedTuple):
    """What a lamp does when nobody tells it, who wins it, and how far each input must move to take it over, of 1023."""

    power_up: str = "off"
    power_cut: str = "off"
    link_lost: str = "keep"
    winner: str = "last-moved"
    thresholds: Mapping[str, int] = {}


class InputSpec(NamedTuple):
    """How an input counts. ``upper`` and ``lower`` are a sensor's thresholds, of 1023; None for what is not told by such."""

    kind: str  # "button", "contact" or "turned"
    settle_ms: int = 20
    play: int = 5
    upper: int | None = None
    lower: int = 0


class Picture(NamedTuple):
    """One setting of a cue in a table: lamps, and how bright or in which colour, None for as it was."""

    lamps: tuple[str, ...]
    level: int | None
    shares: tuple[int | None, int | None, int | None] | None = None
    over_ms: int = 0
    first: int | None = None
    last: int = 0


class Frame(NamedTuple):
    """What a cue sets at once, and how long after the frame before it."""

    after_ms: int
    pictures: tuple[Picture, ...]


class CueCode(NamedTuple):
    """A cue as a table."""

    frames: tuple[Frame, ...]
    loops: bool = False


class MoverSpec(NamedTuple):
    """Two lamps that are never on together, and the pause between them."""

    ahead: str
    back: str
    pause_ms: int


class CodedSpec(NamedTuple):
    """What is moved by codes of an infra-red LED: the code of each speed, from the fastest back to the fastest ahead."""

    sender: str
    codes: tuple[int, ...]
    pause_ms: int

    @property
    def most(self) -> int:
        """How many speeds there are each way."""
        return len(self.codes) // 2


class Watch(NamedTuple):
    """Words that tell that a link lives, and how long none of them may be heard before it is lost."""

    words: frozenset[str]
    silent_ms: int


class Told(NamedTuple):
    """A step in words, and the part of the plan it is for."""

    ref: str
    says: str


class Due(NamedTuple):
    """A step, how long it waits from when the one before it was due, and how it is told."""

    after_ms: int
    step: Step
    told: Told


class Unless(NamedTuple):
    """What has a rule left out: a lamp that is on or off, or an input that is."""

    lamp: str | None
    input: str | None
    is_on: bool


class Run(NamedTuple):
    """A rule as steps. ``at`` is its place among all rules of its host."""

    at: int
    steps: tuple[Due, ...]
    unless: Unless | None = None


class Program(NamedTuple):
    """The program of one host."""

    host: str
    lamps: Mapping[str, LampSpec]
    cues: Mapping[str, CueCode]
    handlers: Mapping[Event, tuple[Run, ...]]
    inputs: Mapping[str, InputSpec] = {}
    orders: Mapping[str, Orders] = {}
    movers: Mapping[str, MoverSpec | CodedSpec] = {}
    seed: int = 1
    watches: Mapping[str, Watch] = {}

    def steps(self, event: Event) -> tuple[Step, ...]:
        """Return what an event sets off, at once or later, in order."""
        return tuple(due.step for run in self.handlers.get(event, ()) for due in run.steps)

    @property
    def keeps(self) -> bool:
        """Whether it puts down how its lamps are, for when the power is cut."""
        return any(it.power_cut != it.power_up or it.power_cut == "last" for it in self.orders.values())
