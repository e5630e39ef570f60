"""Serving a module's stand-in to a real terminal program: over a pseudo-terminal or a TCP port, with a second line to its key and power."""

import contextlib
import os
import selectors
import socket
import termios
import time
import tty
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Final, NamedTuple, cast

from serial.rfc2217 import PortManager, Serial

from oddlamp.core.modules.air import Air
from oddlamp.core.modules.stand_in import Said, StandIn
from oddlamp.core.modules.uart import Parity, Port, garbage

READ_BYTES: Final = 4096
WAITING_MOST: Final = 65_536  # bytes nobody reads: what comes after them is lost, as on a wire
LINE_MOST: Final = 200
QUIET_S: Final = 0.05
SPEEDS: Final = {getattr(termios, name): int(name[1:]) for name in dir(termios) if name[0] == "B" and name[1:].isdigit()}
PARITIES: Final[Mapping[str, Parity]] = {"N": "none", "E": "even", "O": "odd"}
CONTROLS: Final = "key up, key down, power on, power off, link, leave, join, parity none, parity even, parity odd, status"


@dataclass
class FarEnd:
    """How a client of RFC 2217 says that its end is set, in the names that the library's port manager looks for."""

    baudrate: int = 9600
    bytesize: int = 8
    parity: str = "N"
    stopbits: float = 1
    rtscts: bool = False
    xonxoff: bool = False
    dtr: bool = True
    rts: bool = True
    break_condition: bool = False
    cts: bool = True
    dsr: bool = True
    ri: bool = False
    cd: bool = False

    def reset_input_buffer(self) -> None:
        """Nothing is kept back here."""

    def reset_output_buffer(self) -> None:
        """Nothing is kept back here."""


class Wire:
    """The end that a terminal program holds: a pseudo-terminal whose settings are read, or one TCP client, plain or by RFC 2217."""

    def __init__(
        self, *, tcp_port: int | None = None, link: Path | None = None, heard_at_bd: int | None = None, is_rfc2217: bool = False
    ) -> None:
        self.heard_at_bd = heard_at_bd
        self.parity: Parity = "none"
        self.listener: socket.socket | None = None
        self.client: socket.socket | None = None
        self.master = self.slave = -1
        self.link = link
        self.is_rfc2217 = is_rfc2217
        self.far_end = FarEnd()
        self.manager: PortManager | None = None
        self.leaving = bytearray()
        if tcp_port is not None:
            self.listener = socket.create_server(("127.0.0.1", tcp_port))
            self.listener.setblocking(False)
            scheme = "rfc2217" if is_rfc2217 else "socket"
            self.name = f"{scheme}://127.0.0.1:{self.listener.getsockname()[1]}"
            return
        self.master, self.slave = os.openpty()
        tty.setraw(self.slave)
        os.set_blocking(self.master, False)
        self.name = os.ttyname(self.slave)
        if link is not None:
            if link.is_symlink():  # one that an earlier stand-in left; a file of the user's own is never taken away
                link.unlink()
            link.symlink_to(self.name)

    @property
    def readable(self) -> int | socket.socket | None:
        """What to wait on for bytes."""
        return self.client if self.listener is not None else self.master

    def port(self, own_bd: int) -> Port:
        """Return how the other end speaks and hears; where that is not known it is taken to agree."""
        if self.heard_at_bd is not None:
            return Port(self.heard_at_bd, parity=self.parity)
        if self.manager is not None:
            return Port(self.far_end.baudrate, parity=PARITIES.get(self.far_end.parity, "none"))
        if self.listener is not None:
            return Port(own_bd, parity=self.parity)
        # A pseudo-terminal has a speed but refuses any parity: that comes by the second line.
        return Port(SPEEDS.get(termios.tcgetattr(self.slave)[5], own_bd), parity=self.parity)

    def accept(self) -> None:
        """Let a client in, if there is none; a second one is told so and let go."""
        if self.listener is None:
            return
        client, _ = self.listener.accept()
        if self.client is not None:
            with contextlib.suppress(OSError):
                client.sendall(b"taken\r\n")
            client.close()
            return
        client.setblocking(False)
        self.client = client
        if self.is_rfc2217:
            self.far_end = FarEnd()
            # The manager asks no more of either than what these have.
            self.manager = PortManager(cast("Serial", self.far_end), cast("Serial", _Queue(self.leaving)))

    def read(self) -> bytes | None:
        """Read what has come; None once the client has gone."""
        try:
            if self.listener is None:
                return os.read(self.master, READ_BYTES)
            given = (self.client.recv(READ_BYTES) or None) if self.client is not None else b""
        except BlockingIOError:
            return b""
        except OSError:
            return None
        return b"".join(self.manager.filter(given)) if self.manager is not None and given else given

    def write(self, content: bytes) -> int:
        """Write as much as goes; returns how much of it that was."""
        if self.manager is None:
            return self._write(content)
        taken = content[: max(0, WAITING_MOST - len(self.leaving))]
        self.leaving += b"".join(self.manager.escape(taken))
        self.flush()
        return len(taken)

    def flush(self) -> None:
        """Send what the telnet side has to say as well."""
        if self.leaving:
            del self.leaving[: self._write(bytes(self.leaving))]

    def _write(self, content: bytes) -> int:
        try:
            if self.listener is None:
                return os.write(self.master, content)
            return self.client.send(content) if self.client is not None else len(content)
        except BlockingIOError:
            return 0
        except OSError:
            return len(content)

    def hang_up(self) -> None:
        """Forget the client."""
        if self.client is not None:
            self.client.close()
        self.client = self.manager = None
        self.leaving.clear()

    def close(self) -> None:
        """Give everything back."""
        self.hang_up()
        if self.listener is not None:
            self.listener.close()
        else:
            os.close(self.master)
            os.close(self.slave)
        if self.link is not None:
            with contextlib.suppress(OSError):
                self.link.unlink()


class _Queue(NamedTuple):
    """Where the port manager writes: what it says is sent with the rest."""

    leaving: bytearray

    def write(self, content: bytes) -> None:
        """Keep it until it can be sent."""
        self.leaving.extend(content)


class Place:
    """One module on its wire, with what waits to be said there."""

    def __init__(self, module: StandIn, wire: Wire) -> None:
        self.module, self.wire = module, wire
        self.due: list[Said] = []
        self.waiting = bytearray()

    def say(self, now_s: float) -> None:
        """Put on the wire what is due, as the other end hears it."""
        while self.due and self.due[0].at_s <= now_s:
            said = self.due.pop(0)
            mine = self.module.port._replace(speed_bd=said.speed_bd)
            theirs = self.wire.port(said.speed_bd)
            content = said.content
            if not mine.is_heard_by(theirs):
                content = bytes(it.byte for it in garbage(content, mine, theirs))
            self.waiting += content[: max(0, WAITING_MOST - len(self.waiting))]
        if self.waiting:
            del self.waiting[: self.wire.write(bytes(self.waiting))]
        self.wire.flush()


class Bench:
    """One stand-in on its wire, or two within reach of each other, driven by a clock."""

    def __init__(
        self, places: Sequence[Place], control: socket.socket | None, clock: Callable[[], float] = time.monotonic
    ) -> None:
        self.places, self.control, self.clock = places, control, clock
        self.air = Air((places[0].module, places[1].module)) if len(places) == 2 else None
        self.began_s = clock()
        self.order = bytearray()
        self.holder: socket.socket | None = None

    @property
    def now_s(self) -> float:
        """Seconds since it began."""
        return self.clock() - self.began_s

    def turn(self) -> None:
        """Wait for something to happen, for a moment at most, and do it."""
        ends = [it for place in self.places for it in (place.wire.readable, place.wire.listener)]
        with selectors.DefaultSelector() as ready:
            for it in (*ends, self.control, self.holder):
                if it is not None:
                    ready.register(it, selectors.EVENT_READ)
            happened = [key.fileobj for key, _ in ready.select(QUIET_S)]
        for side, place in enumerate(self.places):
            if place.wire.listener in happened:
                place.wire.accept()
            if place.wire.readable in happened:
                self._hear(side, place)
        if self.control in happened and self.control is not None:
            self._take_hold(self.control)
        if self.holder in happened and self.holder is not None:
            self._be_told(self.holder)
        if self.air is None:
            self._took(0, self.places[0].module.until(self.now_s))
        else:
            for side, said in self.air.until(self.now_s):
                self.places[side].due.append(said)
        for place in self.places:
            place.say(self.now_s)

    def _hear(self, side: int, place: Place) -> None:
        content = place.wire.read()
        if content is None:
            place.wire.hang_up()
        elif content:
            self._took(side, place.module.hear_at(self.now_s, content, place.wire.port(place.module.speed_bd)))

    def _took(self, side: int, said: list[Said]) -> None:
        if self.air is not None:
            said = [it for _, it in self.air.took(side, said)]
        self.places[side].due += [it for it in said if it.to == "wire"]

    def _take_hold(self, control: socket.socket) -> None:
        client, _ = control.accept()
        if self.holder is not None:
            client.close()
            return
        self.holder = client
        self.order.clear()

    def _be_told(self, holder: socket.socket) -> None:
        try:
            given = holder.recv(READ_BYTES)
        except OSError:
            given = b""
        if not given:
            holder.close()
            self.holder = None
            return
        self.order += given
        while b"\n" in self.order:
            line, _, rest = bytes(self.order).partition(b"\n")
            self.order[:] = rest
            with contextlib.suppress(OSError):
                holder.sendall(f"{self.obey(line.decode('ascii', 'replace').strip())}\n".encode())
        if len(self.order) > LINE_MOST:
            self.order.clear()

    def obey(self, order: str) -> str:
        """Do what the control line says, and tell how the module is then; an order for the second of two begins with ``2``."""
        side = 1 if order.startswith("2 ") and len(self.places) == 2 else 0
        place, now_s = self.places[side], self.now_s
        module, what = place.module, order.removeprefix("2 ") if side else order
        match what:
            case "key up" | "key down":
                self._took(side, module.key(now_s, is_up=what == "key up"))
            case "power on" | "power off":
                self._took(side, module.power(now_s, is_on=what == "power on"))
            case "join":
                self._took(side, module.join(now_s))
            case "link" | "leave" if self.air is None:
                self._took(side, module.link(now_s, is_there=what == "link"))
            case "parity none" | "parity even" | "parity odd":
                place.wire.parity = PARITIES[what.removeprefix("parity ")[0].upper()]
            case "status":
                pass
            case _:
                return f"one of: {CONTROLS}"
        return f"{module.mode}, {module.speed_bd} Bd"


def control_at(port: int) -> socket.socket:
    """Listen for orders on this machine; raises OSError."""
    return socket.create_server(("127.0.0.1", port))
