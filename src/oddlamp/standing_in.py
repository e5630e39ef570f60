"""Serving a module's stand-in to a real terminal program: over a pseudo-terminal or a TCP port, with a second line to its key and power."""

import contextlib
import os
import selectors
import socket
import termios
import time
import tty
from collections.abc import Callable
from pathlib import Path
from typing import Final

from oddlamp.core.modules.stand_in import Said, StandIn
from oddlamp.core.modules.uart import Port, garbage

READ_BYTES: Final = 4096
WAITING_MOST: Final = 65_536  # bytes nobody reads: what comes after them is lost, as on a wire
LINE_MOST: Final = 200
QUIET_S: Final = 0.05
SPEEDS: Final = {getattr(termios, name): int(name[1:]) for name in dir(termios) if name[0] == "B" and name[1:].isdigit()}
CONTROLS: Final = "key up, key down, power on, power off, link, leave, status"


class Wire:
    """The end that a terminal program holds: a pseudo-terminal whose speed is read from its settings, or one TCP client."""

    def __init__(self, *, tcp_port: int | None, link: Path | None, heard_at_bd: int | None) -> None:
        self.heard_at_bd = heard_at_bd
        self.listener: socket.socket | None = None
        self.client: socket.socket | None = None
        self.master = self.slave = -1
        self.link = link
        if tcp_port is not None:
            self.listener = socket.create_server(("127.0.0.1", tcp_port))
            self.listener.setblocking(False)
            self.name = f"socket://127.0.0.1:{self.listener.getsockname()[1]}"
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

    @property
    def speed_bd(self) -> int | None:
        """The speed the other end is set to; None where that is not known, so that it is taken to agree."""
        if self.heard_at_bd is not None or self.listener is not None:
            return self.heard_at_bd
        return SPEEDS.get(termios.tcgetattr(self.slave)[5])

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

    def read(self) -> bytes | None:
        """Read what has come; None once the client has gone."""
        try:
            if self.listener is None:
                return os.read(self.master, READ_BYTES)
            return (self.client.recv(READ_BYTES) or None) if self.client is not None else b""
        except BlockingIOError:
            return b""
        except OSError:
            return None

    def write(self, content: bytes) -> int:
        """Write as much as goes; returns how much that was."""
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
        self.client = None

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


class Bench:
    """A stand-in on its wire, driven by a clock."""

    def __init__(
        self, module: StandIn, wire: Wire, control: socket.socket | None, clock: Callable[[], float] = time.monotonic
    ) -> None:
        self.module, self.wire, self.control, self.clock = module, wire, control, clock
        self.began_s = clock()
        self.due: list[Said] = []
        self.waiting = bytearray()
        self.order = bytearray()
        self.holder: socket.socket | None = None

    @property
    def now_s(self) -> float:
        """Seconds since it began."""
        return self.clock() - self.began_s

    def turn(self) -> None:
        """Wait for something to happen, for a moment at most, and do it."""
        with selectors.DefaultSelector() as ready:
            for it in (self.wire.readable, self.wire.listener, self.control, self.holder):
                if it is not None:
                    ready.register(it, selectors.EVENT_READ)
            happened = [key.fileobj for key, _ in ready.select(QUIET_S)]
        if self.wire.listener in happened:
            self.wire.accept()
        if self.wire.readable in happened:
            self._hear()
        if self.control in happened and self.control is not None:
            self._take_hold(self.control)
        if self.holder in happened and self.holder is not None:
            self._be_told(self.holder)
        self._say(self.module.until(self.now_s))
        self._flush()

    def _hear(self) -> None:
        content = self.wire.read()
        if content is None:
            self.wire.hang_up()
        elif content:
            speed_bd = self.wire.speed_bd or self.module.speed_bd
            self._say(self.module.hear_at(self.now_s, content, Port(speed_bd)))

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
        """Do what the control line says, and tell how the module is then."""
        module, now_s = self.module, self.now_s
        match order:
            case "key up" | "key down":
                self._say(module.key(now_s, is_up=order == "key up"))
            case "power on" | "power off":
                self._say(module.power(now_s, is_on=order == "power on"))
            case "link" | "leave":
                self._say(module.link(now_s, is_there=order == "link"))
            case "status":
                pass
            case _:
                return f"one of: {CONTROLS}"
        return f"{module.mode}, {module.speed_bd} Bd"

    def _say(self, said: list[Said]) -> None:
        self.due += [it for it in said if it.to == "wire"]

    def _flush(self) -> None:
        while self.due and self.due[0].at_s <= self.now_s:
            said = self.due.pop(0)
            heard_at = self.wire.speed_bd or said.speed_bd
            content = said.content
            if heard_at != said.speed_bd:
                content = bytes(it.byte for it in garbage(content, Port(said.speed_bd), Port(heard_at)))
            self.waiting += content[: max(0, WAITING_MOST - len(self.waiting))]
        if self.waiting:
            del self.waiting[: self.wire.write(bytes(self.waiting))]


def control_at(port: int) -> socket.socket:
    """Listen for orders on this machine; raises OSError."""
    return socket.create_server(("127.0.0.1", port))
