"""How inputs count: contacts once they have settled, what is turned once it has moved by more than its play."""

from collections.abc import Iterator
from typing import Final

from oddlamp.core.behaviour.arithmetic import scaled
from oddlamp.core.behaviour.clock import WORD, since
from oddlamp.core.behaviour.program import InputSpec

TURNED_MOST: Final = 1023
READ_MS: Final = 10
EDGES: Final = {"button": ("released", "pressed"), "contact": ("off", "on")}


class Input:
    """One input of a machine: what it is from outside (``level``, 0 or 1, or 0 to 1023), and what counts."""

    def __init__(self, spec: InputSpec, level: int) -> None:
        self.spec, self.level = spec, level
        self.changed_ms: int | None = None
        self.is_on = bool(level) if spec.kind != "turned" else spec.upper is not None and level > spec.upper
        self.acc = 8 * level
        self.marked = level
        self._before: tuple[int, int, int | None] = (-1, level, None)  # a pass, and how it was before that

    @property
    def value(self) -> int:
        """What it is read as, 0 to 1023; of a contact one of both ends."""
        return self.acc >> 3 if self.spec.kind == "turned" else self.is_on * TURNED_MOST

    @property
    def carried(self) -> int:
        """What it carries when it is moved, 0 to 255."""
        return scaled(self.value, self.spec.play, TURNED_MOST - self.spec.play)

    @property
    def is_up(self) -> bool:
        """Whether it is pressed, on, or turned up."""
        return self.value > self.spec.play if self.spec.kind == "turned" else self.is_on

    def put(self, level: int, now_ms: int) -> None:
        """Let it be something else from outside, from this pass on. It is looked at once in each: what comes back within one was never seen."""
        if self._before[0] != now_ms:
            self._before = now_ms, self.level, self.changed_ms
        if level == self._before[1]:
            _, self.level, self.changed_ms = self._before
        elif level != self.level:
            self.level, self.changed_ms = level, now_ms

    def events(self, now_ms: int) -> Iterator[str]:
        """Yield what counts in a pass."""
        if self.spec.kind != "turned":
            if self.changed_ms is None or since(self.changed_ms, now_ms) < self.spec.settle_ms:
                return
            self.changed_ms = None
            if bool(self.level) != self.is_on:
                self.is_on = bool(self.level)
                yield EDGES[self.spec.kind][self.is_on]
            return
        if now_ms % READ_MS or not self.is_moving:
            return
        self.acc += self.level - (self.acc >> 3)
        value = self.acc >> 3
        if self.spec.upper is None:
            if abs(value - self.marked) > self.spec.play:
                self.marked = value
                yield "moved"
        elif value > self.spec.upper and not self.is_on:
            self.is_on = True
            yield "on"
        elif value < self.spec.lower and self.is_on:
            self.is_on = False
            yield "off"

    @property
    def is_moving(self) -> bool:
        """Whether its next reading would change anything."""
        return self.level != self.acc >> 3

    def next_ms(self, now_ms: int) -> int | None:
        """Return how long it is until something may count; None where nothing will before it changes."""
        if self.spec.kind != "turned":
            return None if self.changed_ms is None else max(self.spec.settle_ms - since(self.changed_ms, now_ms), 0)
        # The clock begins anew at 0, which is a whole number of tens.
        return min(READ_MS - now_ms % READ_MS, WORD + 1 - now_ms) if self.is_moving else None
