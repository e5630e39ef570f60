"""What lamps show after a pass: those that a step has set, and those whose light has changed by itself."""

from collections.abc import Iterator, Mapping
from typing import NamedTuple

from oddlamp.core.behaviour.arithmetic import LADDER_TOP
from oddlamp.core.behaviour.clock import since, until
from oddlamp.core.behaviour.lamps import CHAIN_MS, FADE_MS, NOTHING, Fade, Flash, Lamp, Light, Marching
from oddlamp.core.behaviour.program import Told
from oddlamp.core.words.frames import FieldValue


class Output(NamedTuple):
    """What a lamp shows from this pass on. ``is_set`` where a step set it, though it may show what it did."""

    lamp: str
    light: Light
    text: str
    tag: int
    is_set: bool


class Done(NamedTuple):
    """A step that was taken, and what set it off; of a word to be said its values."""

    tag: int
    told: Told
    step: object
    said: Mapping[str, FieldValue] = NOTHING


class Outputs:
    """The outputs of a machine.

    ``marks`` are the lamps that were set and by what, ``moving`` those to look at in each pass, ``written`` the chains that
    were written in the last one.
    """

    def __init__(self, lamps: Mapping[str, Lamp]) -> None:
        self.lamps = lamps
        self.shown: dict[str, tuple[Light, str]] = {name: ((0,) * lamp.spec.lights, "") for name, lamp in lamps.items()}
        self.marks: dict[tuple[str, int], None] = {}
        self.moving: dict[str, None] = {}
        self._written_ms: dict[str, int] = {}
        self.written: list[str] = []

    def run(self, now_ms: int) -> Iterator[Output]:
        """Yield what lamps show from now on."""
        self.written = []
        if not self.moving:
            return
        tags: dict[str, list[int]] = {}
        for name, tag in self.marks:
            tags.setdefault(name, []).append(tag)
        self.marks = {}
        for name in list(self.moving):  # whatever was set is among them
            lamp, mine = self.lamps[name], tags.get(name, ())
            goes_on = lamp.goes_on
            if isinstance(goes_on, Fade) and since(goes_on.since_ms, now_ms) >= goes_on.over_ms:
                goes_on = lamp.goes_on = None
            shows = lamp.light(now_ms), "" if lamp.spec.is_chain else lamp.text
            is_new = shows != self.shown[name] and not (lamp.spec.is_chain and self._is_same(lamp, shows[0], self.shown[name][0]))
            if lamp.spec.is_chain and not self._may_write(name, now_ms, is_new=is_new):
                self.marks |= {(name, tag): None for tag in mine}
                continue  # it is written again later
            self.shown[name] = shows
            for tag in mine or ((0,) if is_new else ()):
                yield Output(name, *shows, tag, bool(mine))
            if goes_on is None and name not in self._written_ms and not lamp.queue and not _scrolls(lamp):
                self.moving.pop(name, None)

    @staticmethod
    def _is_same(lamp: Lamp, light: Light, before: Light) -> bool:
        """Tell whether a chain of pixels would be written the same: what is capped, or meant for the eye, has fewer steps."""
        spec = lamp.spec
        if spec.cap == LADDER_TOP and not spec.is_eyed:
            return False
        return all(one == other or spec.shown(one) == spec.shown(other) for one, other in zip(light, before, strict=True))

    def _may_write(self, name: str, now_ms: int, *, is_new: bool) -> bool:
        """Tell whether a chain shows something new or nothing is to be written, and keep when it was."""
        written_ms = self._written_ms.get(name)
        if written_ms is not None and since(written_ms, now_ms) >= CHAIN_MS:
            del self._written_ms[name]
            written_ms = None
        if is_new and written_ms is not None:
            return False
        if is_new:
            self._written_ms[name] = now_ms
            self.written.append(name)
        return True

    def next_ms(self, now_ms: int) -> Iterator[int]:
        """Yield in how many milliseconds each lamp that moves may show something new."""
        for name in self.moving:
            lamp = self.lamps[name]
            goes_on = lamp.goes_on
            if isinstance(goes_on, Flash):
                yield until(goes_on.due_ms, now_ms)
            elif isinstance(goes_on, Fade):
                gone, grid = since(goes_on.since_ms, now_ms), CHAIN_MS if lamp.spec.is_chain else FADE_MS
                yield min(grid - gone % grid, max(goes_on.over_ms - gone, 0))
            elif isinstance(goes_on, Marching):
                yield goes_on.step_ms - since(goes_on.since_ms, now_ms) % goes_on.step_ms
            if _scrolls(lamp):
                yield (column_ms := lamp.state.manner.column_ms) - since(lamp.told_ms, now_ms) % column_ms
            if lamp.sends_until_ms is not None:
                yield until(lamp.sends_until_ms, now_ms)
            if name in self._written_ms:
                yield max(CHAIN_MS - since(self._written_ms[name], now_ms), 0)


def _scrolls(lamp: Lamp) -> bool:
    """Tell whether a text moves along a chain. A display of modules is written by its own rows: it shows one text all the while."""
    return lamp.writes and lamp.state.is_on and bool(lamp.state.manner.column_ms)
