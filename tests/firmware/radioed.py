"""What comes and goes by a board's radio, as others write and read it: the tests speak it through libraries, and not by the program's own rules."""

from collections.abc import Callable
from typing import Any

from wsproto import ConnectionType, WSConnection
from wsproto.events import AcceptConnection, BytesMessage, Message, Ping, Request, TextMessage

Happening = tuple[int, str, int, int]
PHONE, ASKER, LISTENER, BROKER, PACKETS = 1, 10, 5, 99, -1
PAGE_DOOR, LINE_DOOR = 0, 1


def sent(at: int, whom: int, content: bytes) -> list[Happening]:
    """Bytes that somebody sends at a moment."""
    return [(at, "D", byte, whom) for byte in content]


class Socket:
    """A socket of a page, agreed and framed by a library (RFC 6455)."""

    def __init__(self, whom: int = PHONE, origin: str = "") -> None:
        self.whom, self.line, self.is_agreed = whom, WSConnection(ConnectionType.CLIENT), False
        headers = [(b"Origin", origin.encode())] if origin else []
        self.request = self.line.send(Request(host="lamp.test:333", target="/", extra_headers=headers))

    def called(self, at: int) -> list[Happening]:
        return [(at, "N", PAGE_DOOR, self.whom), *sent(at, self.whom, self.request)]

    def said(self, at: int, content: bytes, *, is_text: bool = False, is_last: bool = True) -> list[Happening]:
        message: Message[Any] = (
            TextMessage(data=content.decode("latin-1"), message_finished=is_last)
            if is_text
            else BytesMessage(data=content, message_finished=is_last)
        )
        return sent(at, self.whom, self._as_agreed(message))

    def _as_agreed(self, message: Message[Any] | Ping) -> bytes:
        # What is sent is put together before the board has agreed: a stand-in for the agreed line frames it.
        if not hasattr(self, "framing"):
            server = WSConnection(ConnectionType.SERVER)
            client = WSConnection(ConnectionType.CLIENT)
            server.receive_data(client.send(Request(host="x", target="/")))
            list(server.events())
            client.receive_data(server.send(AcceptConnection()))
            list(client.events())
            self.framing = client
        return self.framing.send(message)

    def pinged(self, at: int, content: bytes) -> list[Happening]:
        return sent(at, self.whom, self._as_agreed(Ping(payload=content)))

    def heard(self, content: bytes) -> list[bytes]:
        """Take what the board sends: the messages that have become whole with it."""
        self.line.receive_data(content)
        found = []
        for event in self.line.events():
            self.is_agreed = self.is_agreed or isinstance(event, AcceptConnection)
            if isinstance(event, BytesMessage):
                found.append(bytes(event.data))
        return found


class Radio:
    """The line of a transport: what the happenings at its port are on it, and what is said on it."""

    def __init__(self, radio: dict[str, Any]) -> None:
        self.radio, self.transport = radio["lines"][0], radio["lines"][0]["transport"]
        self.door = len(radio["doors"]) - 1  # the line's own stands behind the page's, where there is one
        self.socket = Socket(LISTENER if self.transport == "http" else PHONE)
        self.reader = b""

    def called(self, at: int) -> list[Happening]:
        match self.transport:
            case "websocket" | "http":
                return self.socket.called(at)
            case "tcp":
                return [(at, "N", self.door, PHONE)]
            case "mqtt":  # let in, and given what is asked for: MQTT version 3.1.1, sections 3.2 and 3.9
                return sent(at + 1, BROKER, b"\x20\x02\x00\x00\x90\x03\x00\x01\x00")
            case _:
                return []

    def linked_at(self, starts: int) -> int:
        """Return when somebody is there: the broker's answers come a pass later."""
        return starts + (self.transport == "mqtt")

    def said(self, at: int, byte: int) -> list[Happening]:
        content = bytes((byte,))
        match self.transport:
            case "websocket":
                return self.socket.said(at, content)
            case "tcp":
                return sent(at, PHONE, content)
            case "udp":
                return [*sent(at, PACKETS, content), (at, "G", 0, 0)]
            case "http":
                asked = b"POST /say HTTP/1.1\r\nHost: lamp.test\r\nContent-Length: 1\r\n\r\n" + content
                return [(at, "N", PAGE_DOOR, ASKER), *sent(at, ASKER, asked)]
            case _:
                topic = self.radio["topic"].strip('"').encode()
                body = len(topic).to_bytes(2, "big") + topic + content
                return sent(at, BROKER, bytes((0x30, len(body))) + body)

    def heard(self, line: str, port: int) -> list[str]:
        """Read what the program told of its radio: what is said there is told as at any other port."""
        now, what, whom, *rest = line.split(" ")
        if what in "ZV":
            return []
        if what != "O":
            return [line]
        content, read = bytes.fromhex(rest[0]), self._reader(int(whom))
        return [f"{now} S {port} " + " ".join(map(str, it)) for it in read(content)] if read else []

    def _reader(self, whom: int) -> Callable[[bytes], list[bytes]] | None:
        if whom == self.socket.whom and self.transport in ("websocket", "http"):
            return self.socket.heard
        if self.transport == "mqtt" and whom == BROKER:
            return self._of_broker
        return (lambda content: [content]) if whom in (PHONE, PACKETS) else None

    def _of_broker(self, content: bytes) -> list[bytes]:
        """Read packets as a broker does: what is published under the topic of answers."""
        self.reader += content
        found = []
        while len(self.reader) >= 2:
            size, at = self.reader[1] & 127, 2
            if self.reader[1] & 128:
                if len(self.reader) < 3:
                    break
                size, at = size | self.reader[2] << 7, 3
            if len(self.reader) < at + size:
                break
            kind, body, self.reader = self.reader[0], self.reader[at : at + size], self.reader[at + size :]
            if kind == 0x30:
                topic_size = int.from_bytes(body[:2], "big")
                assert body[2 : 2 + topic_size].decode() == self.radio["topic_back"].strip('"')
                found.append(body[2 + topic_size :])
        return found
