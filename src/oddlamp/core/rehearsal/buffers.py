"""What a board's port holds while its program takes nothing: so many bytes wait, and what comes beyond them is lost."""

from collections.abc import Iterable
from typing import Final, NamedTuple

from oddlamp.core.rehearsal.events import BusyEvent, Event

PORT_HOLDS: Final = 63  # a ring of 64 bytes holds one less (from memory)


class Busy(NamedTuple):
    """A time in which a program takes nothing."""

    from_s: float
    until_s: float


class Kept(NamedTuple):
    """Bytes that a program takes and when it takes each; how many were lost, and when the first of them was."""

    content: bytes
    taken_s: list[float]
    lost: int
    lost_at_s: float


class Buffers:
    """The receive buffers of the boards of a run, which fill up while a program is busy."""

    def __init__(self, events: Iterable[Event]) -> None:
        self.busy: dict[str, list[Busy]] = {}
        for event in sorted((it for it in events if isinstance(it, BusyEvent)), key=lambda it: it.t_s):
            mine = self.busy.setdefault(event.node, [])
            until_s = event.t_s + event.for_s
            if mine and event.t_s <= mine[-1].until_s:
                mine[-1] = Busy(mine[-1].from_s, max(mine[-1].until_s, until_s))
            else:
                mine.append(Busy(event.t_s, until_s))
        self.waiting: dict[tuple[str, str, Busy], int] = {}

    def free_at_s(self, node: str, t_s: float) -> float:
        """Return when a program takes what is there at a moment: at once, or when it is no longer busy."""
        return next((it.until_s for it in self.busy.get(node, ()) if it.from_s <= t_s < it.until_s), t_s)

    def take(self, node: str, port: str, content: bytes, first_s: float, byte_s: float) -> Kept:
        """Let bytes arrive at a port one after the other, the first whole at ``first_s``: what is taken, when, and what is lost."""
        kept, taken, lost, lost_at_s = bytearray(), list[float](), 0, 0.0
        for at, byte in enumerate(content):
            arrives_s = first_s + at * byte_s
            busy = next((it for it in self.busy.get(node, ()) if it.from_s <= arrives_s < it.until_s), None)
            if busy is not None:
                held = self.waiting.get((node, port, busy), 0)
                if held >= PORT_HOLDS:
                    lost_at_s = lost_at_s if lost else arrives_s
                    lost += 1
                    continue
                self.waiting[node, port, busy] = held + 1
                arrives_s = busy.until_s
            kept.append(byte)
            taken.append(arrives_s)
        return Kept(bytes(kept), taken, lost, lost_at_s)
