"""What runs ahead and back, with a pause between: two lamps that are never on together, or something that codes move."""

from typing import Any, NamedTuple

from oddlamp.core.behaviour.clock import later, since
from oddlamp.core.behaviour.lamps import Lamp, LampState
from oddlamp.core.behaviour.program import CodedSpec, MoverSpec


class Waiting(NamedTuple):
    """A lamp of a mover that is to be set once the pause has passed; ``came`` and ``tag`` are what set it."""

    due_ms: int
    lamp: str
    state: LampState
    over_ms: int
    came: Any
    pulse_ms: int = 0


class Mover:
    """Two lamps of a machine. ``gone`` are the times at which they went off, while a pause may still count from them."""

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
        now = next((it for it in self.spec[:2] if self.lamps[it].state.is_on), None)
        now = now or (self.waiting.lamp if self.waiting else None)
        if how == "resume":
            return None if now is not None else self.ran_last
        before = now or self.ran_last
        return self.other(before) if before is not None else self.spec.ahead

    @property
    def ladder(self) -> tuple[int, ...]:
        """The brightness of each of its speeds: the rungs of the lamp that has fewer."""
        return min((self.lamps[it].spec.ladder for it in self.spec[:2]), key=len)

    @property
    def speed(self) -> int:
        """How fast it runs or is about to, by rungs of its ladder; less than 0 back, 0 where it stands."""
        for sign, name in ((1, self.spec.ahead), (-1, self.spec.back)):
            is_next = self.waiting is not None and self.waiting.lamp == name
            state = self.waiting.state if self.waiting is not None and is_next else self.lamps[name].state
            if state.is_on:
                return sign * max(sum(rung <= state.level for rung in self.ladder), 1)
        return 0

    def lamp_at(self, speed: int) -> tuple[str, int]:
        """Return the lamp for a speed that is not 0, and how bright it is then."""
        return self.spec.ahead if speed > 0 else self.spec.back, self.ladder[min(abs(speed), len(self.ladder)) - 1]


class Later(NamedTuple):
    """A speed that is to be set once the pause has passed."""

    due_ms: int
    speed: int


class Coded:
    """Something that codes move. ``earlier`` is the speed it ran at last, ``stopped`` when it stopped running one way or the other."""

    def __init__(self, spec: CodedSpec) -> None:
        self.spec = spec
        self.now = self.earlier = 0
        self.stopped: dict[bool, int] = {}
        self.waiting: Later | None = None

    @property
    def speed(self) -> int:
        """The speed it runs at, or is about to."""
        return self.waiting.speed if self.waiting is not None else self.now

    def turned(self, how: str) -> int | None:
        """Return the speed that is to be set to turn it round, or to let it go on; None for none."""
        before = self.speed or self.earlier
        if how == "resume":
            return before if not self.speed and before else None
        return -before if before else 1

    def set(self, speed: int, now_ms: int) -> int | None:
        """Let it run at a speed, at once or once the pause has passed; return the code that is sent now, None for none."""
        wanted, self.waiting = min(max(speed, -self.spec.most), self.spec.most), None
        if not wanted:
            return self._stop(now_ms)
        is_ahead = wanted > 0
        if self.now and (self.now > 0) != is_ahead:
            self.waiting = Later(later(now_ms, self.spec.pause_ms), wanted)
            return self._stop(now_ms)
        stopped_ms = self.stopped.pop(not is_ahead, None)
        if not self.now and stopped_ms is not None and since(stopped_ms, now_ms) < self.spec.pause_ms:
            self.stopped[not is_ahead] = stopped_ms
            self.waiting = Later(later(stopped_ms, self.spec.pause_ms), wanted)
            return None
        self.now = self.earlier = wanted
        return self._code()

    def _stop(self, now_ms: int) -> int:
        if self.now:
            self.stopped[self.now > 0] = now_ms
        self.now = 0
        return self._code()

    def _code(self) -> int:
        return self.spec.codes[self.now + self.spec.most]
