"""What a console talks to: a stand-in made from a plan, with trouble put in, or a real port of this machine. Both are told and asked alike."""

import contextlib
import re
import time
from collections.abc import Callable, Collection, Iterator, Sequence
from typing import Final, Literal, NamedTuple, Protocol

import serial
from serial.tools import list_ports

from oddlamp.core.errors import OutOfRange
from oddlamp.core.modules.air import Air, Flown
from oddlamp.core.modules.stand_in import Said, StandIn
from oddlamp.core.modules.uart import Port, garbage
from oddlamp.core.parts.dialect import Blink

Trouble = Literal["none", "speed", "crossed", "ground", "dead", "linked"]
FAULTS: Final = frozenset({"crossed", "ground", "dead"})  # nothing is heard with any of them
HERE: Final = re.compile(r"(?:socket|rfc2217)://(?:127\.0\.0\.1|localhost):\d{1,5}")
LOOP: Final = "loop://"
READ_BYTES: Final = 4096
WRITE_WAIT_S: Final = 1.0
SPEEDS: Final = (1200, 2400, 4800, 9600, 19_200, 38_400, 57_600, 74_880, 115_200, 230_400, 460_800, 921_600)


class Gone(Exception):
    """What was talked to is no longer there; the message says why."""


class Light(NamedTuple):
    """What a module does, as far as it shows: its mode, its light, and its switches."""

    mode: str
    blink: Blink
    is_key_up: bool
    is_powered: bool
    is_linked: bool


class Place(Protocol):
    """Something to talk to: one wire, or two of modules within reach of each other; ``side`` is the one that is talked to."""

    side: int
    speed_bd: int

    def write(self, content: bytes) -> None:
        """Say bytes; raises Gone."""

    def read(self) -> list[tuple[int, bytes]]:
        """Return what has come since, each with its side; raises Gone."""

    def turn(self, what: str) -> None:
        """Turn key, power or link; nothing where it has none."""

    def lights(self) -> list[Light]:
        """Return what each side shows; none where nobody can see it from here."""

    def close(self) -> None:
        """Give it back."""


class StandInPlace:
    """A simulated module on a wire, whose other end speaks at a speed of its own; or two of them, within reach of each other.

    Trouble is put into the first, and may be mended there: wires swapped, grounds joined, another module taken.
    """

    def __init__(
        self, modules: Sequence[StandIn], *, speed_bd: int, trouble: Trouble = "none", clock: Callable[[], float] = time.monotonic
    ) -> None:
        self.modules, self.clock, self.side = list(modules), clock, 0
        self.faults: list[set[str]] = [set() for _ in self.modules]  # of the wires and of the module itself
        self.faults[0] |= {trouble} & FAULTS
        self.air = Air((self.modules[0], self.modules[1])) if len(self.modules) == 2 else None
        self.speeds_bd = [speed_bd] * len(self.modules)
        self.began_s = clock()
        self.due: list[Flown] = []
        for side, it in enumerate(self.modules):
            self._took(side, it.power(0.0, is_on=side > 0 or trouble != "dead"))
        if trouble == "linked":
            self._took(0, self.modules[0].link(0.0, is_there=True))

    @property
    def now_s(self) -> float:
        """Seconds since it began."""
        return self.clock() - self.began_s

    @property
    def speed_bd(self) -> int:
        """The speed of the other end of the wire that is talked on."""
        return self.speeds_bd[self.side]

    @speed_bd.setter
    def speed_bd(self, speed_bd: int) -> None:
        self.speeds_bd[self.side] = speed_bd

    def _is_deaf(self, side: int) -> bool:
        return bool(self.faults[side])

    def write(self, content: bytes) -> None:
        """Let the module hear bytes, as its wiring lets it."""
        if not self._is_deaf(self.side):
            self._took(self.side, self.modules[self.side].hear_at(self.now_s, content, Port(self.speed_bd)))

    def read(self) -> list[tuple[int, bytes]]:
        """Return what is due by now, as the other end hears it."""
        now_s, out = self.now_s, []
        if self.air is not None:
            self.due += self.air.until(now_s)
        else:
            self._took(0, self.modules[0].until(now_s))
        due, self.due = [it for it in self.due if it.said.at_s <= now_s], [it for it in self.due if it.said.at_s > now_s]
        for side, said in sorted(due, key=lambda it: it.said.at_s):
            mine, theirs = self.modules[side].port._replace(speed_bd=said.speed_bd), Port(self.speeds_bd[side])
            heard = said.content if mine.is_heard_by(theirs) else bytes(it.byte for it in garbage(said.content, mine, theirs))
            out += [(side, heard)] * (not self._is_deaf(side))
        return out

    def turn(self, what: str) -> None:
        """Turn its key, its power or its link."""
        now_s, module, side = self.now_s, self.modules[self.side], self.side
        if what in ("key up", "key down"):
            self._took(side, module.key(now_s, is_up=what == "key up"))
        elif what in ("power on", "power off") and "dead" not in self.faults[side]:
            self.due = [it for it in self.due if it.side != side]
            self._took(side, module.power(now_s, is_on=what == "power on"))
        elif what in ("link", "leave"):
            self._took(side, module.link(now_s, is_there=what == "link"))
        elif what == "wires swapped":
            self.faults[side] ^= {"crossed"}
        elif what == "grounds joined":
            self.faults[side].discard("ground")
        elif what == "another module":
            self._replace(side)

    def _replace(self, side: int) -> None:
        """Take another one of the same kind, new; the wires stay as they are."""
        self.faults[side].discard("dead")
        self.due = [it for it in self.due if it.side != side]
        self.modules[side] = StandIn(self.modules[side].dialect, networks=self.modules[side].networks)
        if self.air is not None:
            self.air = Air((self.modules[0], self.modules[1]))
        self._took(side, self.modules[side].power(self.now_s, is_on=True))

    def lights(self) -> list[Light]:
        """Return the mode and the light of each."""
        return [Light(it.mode, it.blink, it.is_key_up, it.is_powered, it.is_linked) for it in self.modules]

    def close(self) -> None:
        """Nothing to give back."""

    def _took(self, side: int, said: list[Said]) -> None:
        self.due += self.air.took(side, said) if self.air is not None else [Flown(side, it) for it in said if it.to == "wire"]


class PortPlace:
    """A real port of this machine."""

    def __init__(self, name: str, *, speed_bd: int) -> None:
        try:
            self.port = serial.serial_for_url(name, baudrate=speed_bd, timeout=0, write_timeout=WRITE_WAIT_S, exclusive=True if name.startswith("/") else None)  # fmt: skip
        except (serial.SerialException, OSError, ValueError) as error:
            raise Gone(why_not(name, error)) from None
        self.name, self.side = name, 0

    @property
    def speed_bd(self) -> int:
        """The speed it is set to."""
        return int(self.port.baudrate)

    @speed_bd.setter
    def speed_bd(self, speed_bd: int) -> None:
        with self._told():
            self.port.baudrate = speed_bd

    def write(self, content: bytes) -> None:
        """Say bytes."""
        with self._told():
            self.port.write(content)

    def read(self) -> list[tuple[int, bytes]]:
        """Return what has come."""
        with self._told():
            return [(0, bytes(self.port.read(READ_BYTES)))]

    def turn(self, what: str) -> None:
        """Key and power are in the maker's hands."""

    def lights(self) -> list[Light]:
        """Nobody can see it from here."""
        return []

    def close(self) -> None:
        """Give the port back."""
        with contextlib.suppress(serial.SerialException, OSError):
            self.port.close()

    @contextlib.contextmanager
    def _told(self) -> Iterator[None]:
        try:
            yield
        except (serial.SerialException, OSError, ValueError, TypeError) as error:
            raise Gone(why_not(self.name, error)) from None


def why_not(name: str, error: Exception) -> str:
    """Say in words why a port cannot be used."""
    told = str(error).lower()
    if "busy" in told or "lock" in told or "resource temporarily" in told:
        return f"{name} is in use by another program: close that, and try again."
    if "permission" in told or "denied" in told:
        return f"{name} may not be opened by you: your user has to be in the group that owns it."
    if "no such file" in told or "could not open" in told or "refused" in told:
        return f"{name} is not there: plug it in, and look at the list again."
    return f"{name} is gone: it was unplugged, or the other end closed it."


def ports_here(allowed: Collection[str] = ()) -> tuple[tuple[str, str], ...]:
    """List the ports of this machine: each with what it is called; those allowed at the start first."""
    found = dict.fromkeys(allowed, "told at the start")
    found |= {it.device: it.description or "serial port" for it in list_ports.comports() if it.device not in found}
    return tuple(found.items())


def checked(name: str, allowed: Collection[str] = ()) -> str:
    """Return the name of a port that may be opened.

    Raises:
        OutOfRange: no port of this machine, and neither a loop nor a stand-in here.
    """
    known = [it for it, _ in ports_here(allowed)]
    if name == LOOP or name in known or HERE.fullmatch(name):
        return name
    raise OutOfRange(
        field="port",
        given=name[:80],
        allowed="one of " + ", ".join([*known, LOOP]) + ", or socket:// and rfc2217:// of this machine",
    )
