"""Starting the server: every way it can fail told in one sentence, before anything says that it runs."""

import asyncio
import gc
import io
import socket
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import Any, Final

import segno
import typer
import uvicorn
from uvicorn.protocols.http.h11_impl import H11Protocol

from oddlamp.api.app import create_app
from oddlamp.api.lan import Lan
from oddlamp.catalog.load import CatalogBroken
from oddlamp.core.errors import FileDamaged
from oddlamp.store.database import DAMAGED, CannotOpen, DatabaseTooNew, NotOurs

REQUEST_WAIT_S: Final = 30
MESSAGE_MOST: Final = 65_536  # bytes, of one message of a console


class StartRefused(Exception):
    """The server cannot start; the message says why, what is safe and what to do."""


class Patient(H11Protocol):
    """Waits for a request only so long: a line that is opened and says nothing, or half of something, is closed."""

    _waiting: asyncio.TimerHandle | None = None
    _is_talk = False

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        """Begin to wait."""
        super().connection_made(transport)
        self._wait()

    def data_received(self, data: bytes) -> None:
        """Stop to wait once a request has arrived; wait for the rest of it, or the next, otherwise."""
        super().data_received(data)
        if self._is_talk:
            return
        if self.cycle is None or self.cycle.response_complete:
            if self._waiting is None:
                self._wait()
        else:
            self._end()

    def handle_websocket_upgrade(self, event: Any) -> None:
        """A conversation goes on for as long as both want."""
        self._is_talk = True
        self._end()
        super().handle_websocket_upgrade(event)

    def connection_lost(self, exc: Exception | None) -> None:
        """Nothing more to wait for."""
        self._end()
        super().connection_lost(exc)

    def _wait(self) -> None:
        self._waiting = self.loop.call_later(REQUEST_WAIT_S, self.transport.close)

    def _end(self) -> None:
        if self._waiting is not None:
            self._waiting.cancel()
            self._waiting = None


class Server(uvicorn.Server):
    """Says where it is once it listens."""

    lines: Sequence[str] = ()

    async def startup(self, sockets: list[socket.socket] | None = None) -> None:
        """Start to listen, then say so."""
        await super().startup(sockets)
        if self.started:
            for line in self.lines:
                typer.echo(line)


def start(
    database: Path,
    *,
    port: int,
    parts: Path,
    lan_hosts: Sequence[str] | None = None,
    serial_ports: Sequence[str] = (),
    serial_for_lan: bool = False,
) -> None:
    """Serve until stopped.

    Args:
        database: the file to keep projects in.
        port: on this machine.
        parts: the folder of part files.
        lan_hosts: this machine's addresses on the local network, where it is to be open to it.
        serial_ports: ports of this machine that its own list does not tell of.
        serial_for_lan: whether the local network may open real ports too.
    Raises:
        StartRefused: the file, the parts or the port cannot be used.
    """
    lan = None if lan_hosts is None else Lan(lan_hosts, port)
    listener = _listen("127.0.0.1" if lan is None else "0.0.0.0", port)
    try:
        app = create_app(_usable(database), parts=parts, lan=lan, serial_ports=serial_ports, serial_for_lan=serial_for_lan)
    except DatabaseTooNew as error:
        raise StartRefused(f"{error}. It is left as it is: start the newer Odd Lamp, or give another --database.") from None
    except NotOurs as error:
        raise StartRefused(f"{error}. It is left as it is: give another --database.") from None
    except CatalogBroken as error:
        raise StartRefused(f"A part file in {parts} is wrong: {error}. Mend it, or start without --parts.") from None
    except CannotOpen as error:
        raise StartRefused(str(error)) from None
    except FileDamaged:
        raise StartRefused(DAMAGED.format(database=database)) from None
    # An edit gives way at every word with the file, and beside a large request would wait ten times as long each time.
    sys.setswitchinterval(0.0005)
    calm_collector()
    server = Server(
        uvicorn.Config(
            app,
            http=Patient,
            ws="wsproto",
            ws_max_size=MESSAGE_MOST,
            log_level="error",
            proxy_headers=False,
            limit_concurrency=200,
            timeout_keep_alive=5,
        )
    )
    server.lines = (
        f"Odd Lamp is at http://127.0.0.1:{port}/  (stop with Ctrl+C; projects are kept in {database})",
        f"While it runs, {database.name}-wal and {database.name}-shm beside it belong to it: copy with oddlamp keep-copy.",
        *(() if lan is None else _warned(lan)),
    )
    server.run(sockets=[listener])


def _warned(lan: Lan) -> Sequence[str]:
    return (
        "WARNING: everybody on your network who has this address can read and change your projects,",
        "and what is sent is not encrypted. Use it on a network you trust, and stop it when you are done:",
        *(f"  {address}" for address in lan.addresses),
        *(_drawn(lan.addresses[0]) if lan.addresses and sys.stdout.isatty() else ()),
    )


def _drawn(address: str) -> Sequence[str]:
    """Draw an address for a phone's camera; on a terminal only, a log has no use for it."""
    drawing = io.StringIO()
    segno.make_qr(address).terminal(drawing, compact=True)
    return drawing.getvalue().splitlines()


def _listen(host: str, port: int) -> socket.socket:
    # Named as TCP, or the loop would let every answer wait 40 ms for the browser to acknowledge its first half.
    listener = socket.socket(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listener.bind((host, port))
    except OSError as error:
        listener.close()
        raise StartRefused(f"Port {port} cannot be used ({error.strerror}): stop what uses it, or give another --port.") from None
    return listener


def _usable(database: Path) -> Path:
    if database.exists() and not database.is_file():
        raise StartRefused(
            f"{database} is no file but a {'folder' if database.is_dir() else 'device'}: give a --database that is one."
        )
    return database


def calm_collector() -> None:
    """Let the collector wait longer: an answer makes tens of thousands of small objects and drops them whole."""
    gc.freeze()
    gc.set_threshold(50_000, 20, 20)
    gc.enable()
