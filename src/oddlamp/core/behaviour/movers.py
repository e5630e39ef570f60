"""Two lamps that are never on together, with a pause between the one and the other."""

from typing import Any, NamedTuple

from oddlamp.core.behaviour.clock import later, since
from oddlamp.core.behaviour.lamps import Lamp, LampState
from oddlamp.core.behaviour.program import MoverSpec


class Waiting(NamedTuple):
    """A lamp of a mover that is to be set once the pause has passed; ``came`` and ``tag`` are what set it."""

    due_ms: int
    lamp: str
    state: LampState
    over_ms: int
    came: Any
    pulse_ms: int = 0


class Mover:
    """One mover of a machine. ``gone`` are the times at which its lamps went off, while a pause may still count from them."""

    def __init__(self, spec: MoverSpec, lamps: dict[str, Lamp]) -> None:
        self.spec, self.lamps = spec, lamps
        self.gone: dict[str, int] = {}
        self.ran_last: str | None = None
        self.waiting: Waiting | None = None

    def other(self, lamp: str) -> str:
        """Return the lamp for the other way."""
        return self.spec.back if lamp == self.spec.ahead else self.spec.ahead

    def note(self, lamp: str, was: LampState, now: LampState, now_ms: int) -> None:
        """Note that a lamp is set: when it goes off, and which one ran last."""
        if now.is_on:
            self.ran_last = lamp
            self.gone.pop(lamp, None)
        elif was.is_on:
            self.gone[lamp] = now_ms

    def pulse(self, for_ms: int) -> None:
        """Let what waits be a pulse."""
        if self.waiting is not None:
            self.waiting = self.waiting._replace(pulse_ms=for_ms)

    def due_ms(self, lamp: str, now_ms: int) -> int | None:
        """Return when a lamp may be on, where that is not at once: after the other has been off for the pause."""
        other = self.other(lamp)
        if self.lamps[other].state.is_on:
            return later(now_ms, self.spec.pause_ms)
        gone_ms = self.gone.get(other)
        if gone_ms is None:
            return None
        if since(gone_ms, now_ms) >= self.spec.pause_ms:
            del self.gone[other]
            return None
        return later(gone_ms, self.spec.pause_ms)

    def one_to(self, how: str) -> str | None:
        """Return the lamp that is to be on; None for none."""
        now = next((it for it in (self.spec.ahead, self.spec.back) if self.lamps[it].state.is_on), None)
        now = now or (self.waiting.lamp if self.waiting else None)
        if how == "resume":
            return None if now is not None else self.ran_last
        before = now or self.ran_last
        return self.other(before) if before is not None else self.spec.ahead
