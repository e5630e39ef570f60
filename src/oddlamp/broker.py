"""A small broker that stands in for the house's: words go by topics between a board and a phone (MQTT version 3.1.1, OASIS 2014).

What is published is passed on without being kept; what asks for an answer (quality of service 1) is answered, and passed on
without. Sections named below are of that standard.
"""

import asyncio
import contextlib
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Final

PACKET_MOST: Final = 65_536
CONNECT, CONNACK, PUBLISH, PUBACK, SUBSCRIBE, SUBACK, UNSUBSCRIBE, UNSUBACK, PINGREQ, PINGRESP, DISCONNECT = (
    1, 2, 3, 4, 8, 9, 10, 11, 12, 13, 14,
)  # fmt: skip
ASKS_ANSWER: Final = 0x06  # the bits of quality of service in a publication: section 3.3.1.2
LIVES_FACTOR: Final = 1.5  # of the time a client said it would be heard in: section 3.1.2.10


@dataclass(eq=False)
class Client:
    """Somebody linked to the broker, what it is called, and the topics it has asked for."""

    out: asyncio.StreamWriter
    name: str = ""
    wants: set[str] = field(default_factory=set)
    lives_s: float | None = None

    def send(self, kind: int, flags: int, body: bytes) -> None:
        """Send a packet; one that does not take what it is sent is let go of."""
        if self.out.transport.get_write_buffer_size() > PACKET_MOST:
            self.out.close()
            return
        self.out.write(bytes((kind << 4 | flags,)) + length(len(body)) + body)


class Broker:
    """The broker of one rehearsal: ``told`` hears of each word that goes through, its topic and its bytes."""

    def __init__(self, told: Callable[[str, bytes], None] = lambda topic, content: None) -> None:
        self.clients: list[Client] = []
        self.told = told

    async def serve(self, host: str, port: int) -> asyncio.Server:
        """Listen; raises OSError."""
        return await asyncio.start_server(self._let_in, host, port)

    async def _let_in(self, come: asyncio.StreamReader, out: asyncio.StreamWriter) -> None:
        client = Client(out)
        with contextlib.suppress(OSError, asyncio.IncompleteReadError, TimeoutError, ValueError, IndexError):
            while await self._take(client, come):
                await out.drain()
        if client in self.clients:
            self.clients.remove(client)
        with contextlib.suppress(OSError):
            out.close()
            await out.wait_closed()

    async def _take(self, client: Client, come: asyncio.StreamReader) -> bool:
        """Take one packet; False where the client is let go of."""
        async with asyncio.timeout(client.lives_s):
            head = (await come.readexactly(1))[0]
            body = await come.readexactly(await _size(come))
        kind, flags = head >> 4, head & 15
        if (kind == CONNECT) == (client in self.clients):
            return False  # it begins with that packet, and sends it once: section 3.1
        match kind:
            case 1:
                return self._begin(client, body)
            case 3:
                self._publish(client, flags, body)
            case 8:
                number, rest, granted = body[:2], body[2:], bytearray()
                while rest:
                    topic, rest = text(rest)
                    client.wants.add(topic)
                    granted.append(0)
                    rest = rest[1:]
                client.send(SUBACK, 0, number + bytes(granted))
            case 10:
                number, rest = body[:2], body[2:]
                while rest:
                    topic, rest = text(rest)
                    client.wants.discard(topic)
                client.send(UNSUBACK, 0, number)
            case 12:
                client.send(PINGRESP, 0, b"")
            case _:
                return kind == PUBACK
        return True

    def _begin(self, client: Client, body: bytes) -> bool:
        protocol, rest = text(body)
        level, lives_s = rest[0], int.from_bytes(rest[2:4], "big")
        if protocol != "MQTT" or level != 4:
            client.send(CONNACK, 0, b"\x00\x01")  # another version than is spoken here: section 3.2.2.3
            return False
        client.name, _ = text(rest[4:])
        client.lives_s = LIVES_FACTOR * lives_s if lives_s else None
        for it in [it for it in self.clients if it.name and it.name == client.name]:  # the one before goes: section 3.1.4
            it.out.close()
            self.clients.remove(it)
        self.clients.append(client)
        client.send(CONNACK, 0, b"\x00\x00")
        return True

    def _publish(self, client: Client, flags: int, body: bytes) -> None:
        topic, content = text(body)
        if flags & ASKS_ANSWER:
            client.send(PUBACK, 0, content[:2])
            content = content[2:]
        self.told(topic, content)
        packet = len(topic.encode()).to_bytes(2, "big") + topic.encode() + content
        for it in self.clients:
            if any(fits(wanted, topic) for wanted in it.wants):
                it.send(PUBLISH, 0, packet)


def fits(wanted: str, topic: str) -> bool:
    """Tell whether a topic is one of those asked for: ``+`` stands for one level, ``#`` for all that follow (section 4.7)."""
    levels, given = wanted.split("/"), topic.split("/")
    for at, level in enumerate(levels):
        if level == "#":
            return True
        if at >= len(given) or level not in ("+", given[at]):
            return False
    return len(levels) == len(given)


def text(content: bytes) -> tuple[str, bytes]:
    """Read a text with its length before it, and return what follows it (section 1.5.3); raises ValueError."""
    size = int.from_bytes(content[:2], "big")
    if len(content) < 2 + size:
        raise ValueError("a text that is cut off")
    return content[2 : 2 + size].decode(), content[2 + size :]


def length(size: int) -> bytes:
    """Write how much follows, seven bits a byte (section 2.2.3)."""
    out = bytearray()
    while True:
        size, part = size >> 7, size & 127
        out.append(part | (0x80 if size else 0))
        if not size:
            return bytes(out)


async def _size(come: asyncio.StreamReader) -> int:
    size = 0
    for at in range(4):
        byte = (await come.readexactly(1))[0]
        size |= (byte & 127) << 7 * at
        if not byte & 128:
            if size > PACKET_MOST:
                break
            return size
    raise ValueError("longer than any word")


async def serve_broker(host: str, port: int, told: Callable[[str, bytes], None], begun: Callable[[int], None]) -> None:
    """Be a broker until stopped; ``begun`` hears the port it stands at. Raises OSError where it cannot stand there."""
    server = await Broker(told).serve(host, port)
    begun(server.sockets[0].getsockname()[1])
    async with server:
        await server.serve_forever()
