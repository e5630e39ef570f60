"""A client of the console over a real socket, as a browser would be one: it says where it comes from, and keeps what it is told."""

import json
import socket
from typing import Any, Self

from wsproto import ConnectionType, WSConnection
from wsproto.events import AcceptConnection, CloseConnection, RejectConnection, Request, TextMessage

from tests.conftest import PATIENCE_S


class Refused(Exception):
    """The server let nobody in."""


class Talker:
    """One conversation."""

    def __init__(self, address: str, target: str, *, origin: str | None = "", host: str | None = None, cookie: str = "") -> None:
        self.where = address.removeprefix("http://")
        name, _, port = self.where.partition(":")
        self.socket = socket.create_connection((name, int(port)), timeout=PATIENCE_S)
        self.line = WSConnection(ConnectionType.CLIENT)
        self.told: list[dict[str, Any]] = []
        self.ever = ""
        self.text = ""
        self.closed: int | None = None
        heads = [] if origin is None else [(b"Origin", (origin or address).encode())]
        heads += [(b"Cookie", cookie.encode())] if cookie else []
        self.socket.sendall(self.line.send(Request(host=host or self.where, target=target, extra_headers=heads)))
        self.is_open = False
        while not self.is_open:
            self._take()

    def _take(self) -> None:
        given = self.socket.recv(65_536)
        self.line.receive_data(given or None)
        for event in self.line.events():
            if isinstance(event, AcceptConnection):
                self.is_open = True
            elif isinstance(event, RejectConnection):
                raise Refused(str(event.status_code))
            elif isinstance(event, TextMessage):
                self.text += event.data
                if event.message_finished:
                    self.told.append(json.loads(self.text))
                    self.ever += self.text
                    self.text = ""
            elif isinstance(event, CloseConnection):
                self.closed = event.code
        if not given:
            if not self.is_open:
                raise Refused("gone")
            self.closed = self.closed or 1006

    def say(self, **message: Any) -> None:
        """Send one message."""
        self.raw(json.dumps(message))

    def raw(self, text: str) -> None:
        """Send one message as it is."""
        self.socket.sendall(self.line.send(TextMessage(text)))

    def until(self, kind: str, **having: Any) -> dict[str, Any]:
        """Wait until something of a kind is told, and return it; what came before it is passed over."""
        while True:
            while self.told:
                it = self.told.pop(0)
                if it["kind"] == kind and all(it.get(name) == value for name, value in having.items()):
                    return it
            if self.closed is not None:
                raise Refused(f"closed with {self.closed}")
            self._take()

    def until_closed(self) -> int:
        """Wait until the server ends it."""
        while self.closed is None:
            self._take()
        return self.closed

    def close(self) -> None:
        """Hang up without a word."""
        self.socket.close()

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *gone: object) -> None:
        self.close()
