"""What is kept of a lamp, what goes on with it, and the light that comes of it at a moment."""

from collections.abc import Callable, Mapping, Sequence
from functools import lru_cache
from itertools import chain
from types import MappingProxyType
from typing import Final, NamedTuple, cast

from oddlamp.core.behaviour.arithmetic import LADDER_TOP, scaled, times
from oddlamp.core.behaviour.clock import scattered, since
from oddlamp.core.behaviour.program import (
    Add,
    Blink,
    Chance,
    Colour,
    LampSpec,
    Level,
    March,
    Now,
    Picture,
    Pulse,
    Rung,
    Score,
    Sets,
    Switch,
    Text,
    Tone,
)
from oddlamp.core.layouts.signs import Manner
from oddlamp.core.layouts.stand import Stand, neighbours
from oddlamp.core.words.frames import FieldValue

COLOURS: Final = {"red": 0, "green": 1, "blue": 2}
FADE_MS: Final = 10
CHAIN_MS: Final = 20
DARK_PIXEL: Final = (0, 0, 0)
WHITE: Final = (LADDER_TOP, LADDER_TOP, LADDER_TOP)
Shade = tuple[int, int, int]
Light = tuple[int, ...]
NOTHING: Final[Mapping[str, FieldValue]] = MappingProxyType({})


class LampState(NamedTuple):
    """On or off, how bright and in which colour, each 0 to 255; of a display its text, which it shows, and its score.

    ``pixels`` are the colours of a chain's pixels, None for those that have none of their own; empty where no pixel has.
    """

    is_on: bool = False
    level: int = LADDER_TOP
    colour: Shade = WHITE
    text: str = ""
    score: int = 0
    pixels: tuple[Shade | None, ...] = ()
    manner: Manner = Manner()
    pitch_hz: int = 0

    @property
    def bright(self) -> int:
        """How bright it is now: 0 where it is off."""
        return self.level if self.is_on else 0

    def light(self, spec: LampSpec) -> Light:
        """Return the numbers of its light: one, three, or three for each pixel."""
        bright = self.bright
        if spec.lights <= 1:
            return (bright,) * spec.lights
        mixed = tuple(times(bright, it) for it in self.colour)
        if not self.pixels:
            return mixed * (spec.lights // 3)
        return tuple(chain.from_iterable(mixed if own is None else _dimmed(bright, own) for own in self.pixels))


@lru_cache(maxsize=8192)
def _dimmed(bright: int, shade: Shade) -> Shade:
    red, green, blue = shade
    return times(bright, red), times(bright, green), times(bright, blue)


DARK: Final = LampState()


class Fade(NamedTuple):
    """On the way from one light to what is kept."""

    since_ms: int
    over_ms: int
    begun: Light


class Flash(NamedTuple):
    """Blinking, or in a pulse: until when it is as it is now, how often it is still lit after that, and how it was before.

    ``left`` is None for ever.
    """

    due_ms: int
    before: LampState
    on_ms: int = 0
    off_ms: int = 0
    left: int | None = 0
    is_lit: bool = True


class Marching(NamedTuple):
    """A pattern that goes along a chain, a step each so many ms."""

    since_ms: int
    step_ms: int
    pattern: str
    rule: int = 0

    def lit(self, now_ms: int, count: int, stand: Stand | None) -> Callable[[int], bool]:
        """Return which of so many pixels are lit at a moment."""
        at = since(self.since_ms, now_ms) // self.step_ms
        match self.pattern:
            case "wipe":
                return lambda it: it <= at
            case "chase":
                return lambda it: (it + 3 - at % 3) % 3 == 0
            case "bounce":
                turn = max(2 * count - 2, 1)
                place = at % turn
                one = turn - place if place > count - 1 else place
            case "rain" if stand is not None:
                return lambda it: fallen(at, stand.rain[it][1], stand.rows) == stand.rain[it][0]
            case "neighbours":
                row = neighbours(count, self.rule).row(at)
                return lambda it: bool(row >> it & 1)
            case _:
                one = scattered(at + 1) % count
        return lambda it: it == one


class Lamp:
    """One lamp of a machine. ``queue`` are the codes that wait in an infra-red LED, and ``sends_until_ms`` when the first is out."""

    def __init__(self, spec: LampSpec) -> None:
        self.spec = spec
        self.state = DARK
        self.goes_on: Fade | Flash | Marching | None = None
        self.queue: list[int] = []
        self.sends_until_ms: int | None = None
        self._of: tuple[LampState, Light] = (DARK, DARK.light(spec))
        self.held_by: str | None = None
        self.owner: str | None = None
        self.told_ms = 0  # since when its text stands or moves
        self.is_claimed = False
        self.lost_at: dict[str, int] = {}

    def light(self, now_ms: int) -> Light:
        """Return the light of a moment: of a chain that shows a text that of the pixels it lights."""
        light = self._light(now_ms)
        if not self.writes:
            return light
        written = cast("Stand", self.spec.stand).written(self.state.text, self.state.manner, since(self.told_ms, now_ms))
        return tuple(it if written[at // 3] else 0 for at, it in enumerate(light))

    @property
    def writes(self) -> bool:
        """Whether a text stands on a chain of pixels."""
        return self.spec.is_chain and bool(self.state.text)

    def _light(self, now_ms: int) -> Light:
        goes_on, goal = self.goes_on, self.goal
        if goes_on is None:
            return goal
        if isinstance(goes_on, Flash):
            return goal if goes_on.is_lit else (0,) * self.spec.lights
        if isinstance(goes_on, Marching):
            is_lit = goes_on.lit(now_ms, self.spec.lights // 3, self.spec.stand)
            return tuple(it if is_lit(at // 3) else 0 for at, it in enumerate(goal))
        gone = since(goes_on.since_ms, now_ms)
        if gone >= goes_on.over_ms:
            return goal
        gone -= gone % (CHAIN_MS if self.spec.is_chain else FADE_MS)
        return faded(goes_on.begun, goal, gone, goes_on.over_ms)

    @property
    def goal(self) -> Light:
        """The light of what is kept: where a fade goes to."""
        if self._of[0] is not self.state:  # asked again and again while nothing is set
            self._of = self.state, self.state.light(self.spec)
        return self._of[1]

    @property
    def text(self) -> str:
        """What it shows in signs: a display its text, a buzzer another pitch than its own, an infra-red LED the code that goes out."""
        if self.queue:
            return f"{self.queue[0]:08X}"
        state = self.state
        if not state.is_on or (isinstance(self.goes_on, Flash) and not self.goes_on.is_lit):
            return ""
        return f"{state.pitch_hz} Hz" if state.pitch_hz else state.text

    def become(self, state: LampState, now_ms: int, over_ms: int = 0) -> None:
        """Set what is kept, and let the light go there in a time; ends what went on."""
        begun = self.light(now_ms) if over_ms and self.spec.fades and self.spec.lights else ()
        self.state, self.told_ms = state, now_ms
        self.goes_on = Fade(now_ms, over_ms, begun) if begun else None

    def before(self) -> LampState:
        """Return how it was before it blinked, or as it is."""
        return self.goes_on.before if isinstance(self.goes_on, Flash) else self.state


def fallen(step: int, column: int, rows: int) -> int:
    """Return the row that the drop of a column is in; one past the last row where there is none."""
    return (step + scattered(column + 1)) % (2 * rows)


def faded(begun: Sequence[int], goal: Sequence[int], gone_ms: int, over_ms: int) -> Light:
    """Return the light so long after a fade has begun: each number by the share of the time, floored on its way."""
    return tuple(
        it + (to - it) * gone_ms // over_ms if to >= it else it - (it - to) * gone_ms // over_ms
        for it, to in zip(begun, goal, strict=True)
    )


def _bright(state: LampState, level: int) -> LampState:
    return state._replace(is_on=level > 0, level=level)


def _on(state: LampState) -> LampState:
    return state._replace(is_on=True, level=state.level or LADDER_TOP)


@lru_cache(maxsize=4096)
def after_plain(state: LampState, step: Sets, spec: LampSpec) -> LampState:
    """Return what is kept of a lamp after a step that takes nothing from outside; the same few come up again and again."""
    return after(state, step, spec, NOTHING)


def after(state: LampState, step: Sets, spec: LampSpec, values: Mapping[str, FieldValue], *, drawn: int = 0) -> LampState:
    """Return what is kept of a lamp after a step. ``drawn`` is a number by chance."""
    if state.pitch_hz:
        state = state._replace(pitch_hz=0)
    match step:
        case Switch(to="off"):
            return state._replace(is_on=False)
        case Switch(to="toggle"):
            return state._replace(is_on=not state.is_on)
        case Switch() | Blink() | March():
            return _on(state)
        case Tone():
            return _on(state)._replace(pitch_hz=step.pitch_hz)
        case Level():
            level = step.level.of(values)
            return state if level is None else _bright(state, level)
        case Colour():
            return coloured(
                state, spec, tuple(None if it is None else it.of(values) for it in step.shares), step.first, step.last
            )
        case Add():
            return _bright(state, _ended(state.bright + step.by, state.bright, LADDER_TOP, goes_round=step.goes_round))
        case Rung():
            return _bright(state, rung_after(spec.ladder, state.bright, goes_up=step.goes_up, goes_round=step.goes_round))
        case Chance():
            return _bright(state, step.least + drawn)
        case Pulse():
            level = None if step.level is None else step.level.of(values)
            return _on(state) if level is None else _bright(state, level)
        case Text():
            text = step.text if step.carried is None else str(values.get(step.carried, state.text))
            manner = tuple(old if new is None else new for old, new in zip(state.manner, step.manner, strict=True))
            return _on(state)._replace(text=text, manner=Manner(*manner))  # type: ignore[arg-type]
        case Score():
            told = None if step.to is None else step.to.of(values)
            moved = state.score + step.by if told is None else told
            score = _ended(moved, state.score, spec.score_most, goes_round=step.goes_round)
            return _on(state)._replace(score=score, text=str(score))


def pictured(state: LampState, picture: Picture, spec: LampSpec) -> LampState:
    """Return what is kept of a lamp after one setting of a cue: its colour first, then how bright."""
    state = state._replace(pitch_hz=0)
    if picture.shares is not None:
        state = coloured(state, spec, picture.shares, picture.first, picture.last)
    return state if picture.level is None else _bright(state, picture.level)


def coloured(state: LampState, spec: LampSpec, shares: Sequence[int | None], first: int | None, last: int) -> LampState:
    """Return a lamp in a colour, or some of its pixels; a share that is not given stays. In a dark chain the others stay dark."""
    if first is None:
        red, green, blue = (old if new is None else new for new, old in zip(shares, state.colour, strict=True))
        return state._replace(is_on=red + green + blue > 0, colour=(red, green, blue), pixels=())
    pixels: list[Shade | None] = [DARK_PIXEL] * (spec.lights // 3)
    if state.is_on:
        pixels = list(state.pixels or (None,) * (spec.lights // 3))
    for at in range(first, min(last + 1, len(pixels))):
        red, green, blue = (old if new is None else new for new, old in zip(shares, pixels[at] or state.colour, strict=True))
        pixels[at] = (red, green, blue)
    return _on(state)._replace(pixels=tuple(pixels))


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
