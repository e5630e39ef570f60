"""What a board's port holds while its program takes nothing, or is deaf: so many bytes wait, and what comes beyond them is lost."""

from collections.abc import Collection, Iterable
from typing import Final, NamedTuple

from oddlamp.core.rehearsal.ear import Ear, Sound
from oddlamp.core.rehearsal.events import BusyEvent, Event
from oddlamp.core.rehearsal.legs import EXACT_S

DEAF_KEPT: Final = 16  # as many deaf times as may lie within one message, and more
PORT_HOLDS: Final = 63  # a ring of 64 bytes holds one less (from memory)
PORT_KEEPS: Final = 2  # of the bytes that are whole while interrupts are off (from memory)
DEAF_PORT: Final = "it came while pixels were written, and the port keeps two bytes and the one arriving"
DEAF_SOFT: Final = "it came while {}, and what is heard in software is not heard then"
ASTRAY: Final = "the board began to listen within a byte, and takes what comes for another"
PIXELS: Final = "pixels were written"
SAYING: Final = "the board itself said something"


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


class Arrived(NamedTuple):
    """One byte at a port: when the program can take it, and why it never does; and what it is taken for instead."""

    taken_s: float
    lost_because: str | None = None
    instead: tuple[Sound, ...] = ()


class Buffers:
    """The receive buffers of the boards of a run, which fill up while a program is busy or deaf.

    ``wary`` are the boards that switch interrupts off while they write pixels, ``soft`` the wires they hear in software.
    """

    def __init__(self, events: Iterable[Event], wary: Collection[str] = (), soft: Collection[str] = ()) -> None:
        self.wary, self.soft = wary, soft
        self.deaf: dict[str, list[Busy]] = {}
        self.why: dict[str, str] = {}
        self.ears: dict[tuple[str, str], Ear] = {}
        self.kept: dict[tuple[str, str, Busy], int] = {}
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

    def deafen(self, node: str, from_s: float, until_s: float, why: str = PIXELS) -> None:
        """Let a board hear nothing for a time: its port alone keeps what it can."""
        times = self.deaf.setdefault(node, [])
        if times and times[-1].until_s >= from_s - EXACT_S:
            before = times.pop()
            from_s, until_s = before.from_s, max(before.until_s, until_s)
        self.why[node] = why
        times.append(Busy(from_s, until_s))
        del times[:-DEAF_KEPT]
        if len(self.kept) > DEAF_KEPT:
            self.kept = {key: count for key, count in self.kept.items() if key[2] in self.deaf[key[0]]}

    def hears_all(self, node: str, port: str, from_s: float, until_s: float) -> bool:
        """Tell whether nothing keeps a board from hearing whatever comes within a time that is over."""
        if node in self.busy or (node, port) in self.ears:
            return False
        times = self.deaf.get(node, ())
        return not any(it.until_s > from_s and it.from_s < until_s for it in times)

    def arrive(self, node: str, port: str, t_s: float, byte_s: float, byte: int, *, is_followed: bool) -> Arrived:
        """Let one byte be whole at a port at a time; ``is_followed`` where another begins at once.

        Of bytes that are whole while interrupts are off, a port of the chip keeps two, and one more until another
        begins: the last one stays (from memory). What is heard in software is lost if it begins meanwhile; if it is not whole when the board
        wakes, the rest of it and what follows is heard for something else, until both agree again.
        """
        deaf = next((it for it in reversed(self.deaf.get(node, ())) if it.from_s < t_s), None)
        if port in self.soft:
            return self._hear_in_software(node, port, t_s, byte_s, byte, deaf, is_followed=is_followed)
        if deaf is None or t_s >= deaf.until_s or self.why[node] != PIXELS:
            return Arrived(t_s)
        count = self.kept[node, port, deaf] = self.kept.get((node, port, deaf), 0) + 1
        is_kept = count <= PORT_KEEPS or not is_followed
        return Arrived(deaf.until_s, None if is_kept else DEAF_PORT)

    def _hear_in_software(
        self, node: str, port: str, t_s: float, byte_s: float, byte: int, deaf: Busy | None, *, is_followed: bool
    ) -> Arrived:
        start_s, key = t_s - byte_s, (node, port)
        # What has begun before is heard whole: it keeps the program from beginning anything.
        if deaf is not None and deaf.from_s <= start_s < deaf.until_s:
            self.ears.pop(key, None)
            if t_s <= deaf.until_s:
                return Arrived(t_s, DEAF_SOFT.format(self.why[node]))
            self.ears[key] = Ear(deaf.until_s, byte_s)
        ear = self.ears.get(key)
        if ear is None:
            return Arrived(t_s)
        is_first = not ear.came
        sounds = ear.take(start_s, byte, is_followed=is_followed)
        if not ear.is_astray:
            del self.ears[key]
        if sounds and sounds[-1].byte == byte and abs(sounds[-1].at_s - t_s) < byte_s / 10 and not is_first:
            return Arrived(t_s, None, tuple(sounds[:-1]))
        return Arrived(t_s, DEAF_SOFT.format(self.why[node]) if is_first else ASTRAY, tuple(sounds))

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
