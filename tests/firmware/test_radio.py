"""The radio of a board: every line that words come by, held against the rehearsal; sockets, requests and packets as others write them."""

import asyncio
import random
import threading
from collections.abc import Iterator
from pathlib import Path
from typing import Any
from urllib.parse import urlencode

import pytest
from paho.mqtt.client import CallbackAPIVersion, Client, MQTTMessage

from oddlamp.broker import Broker, fits
from oddlamp.catalog.load import demo_plan, start_data
from oddlamp.core.behaviour.compile import program_of
from oddlamp.core.errors import NotPrinted
from oddlamp.core.firmware.printing import Printed, print_program
from oddlamp.core.plan.document import Document, merge_patch
from tests.builders import document
from tests.conftest import PATIENCE_S
from tests.firmware.proof import Happening, Proof, agree, design_of
from tests.firmware.radioed import LINE_DOOR, PAGE_DOOR, PHONE, Socket, sent
from tests.firmware.served import Board
from tests.firmware.star import STAR
from tests.firmware.test_printed import any_course
from tests.full import IS_PROOF

FRAMINGS: dict[str, Document] = {
    "websocket": {"kind": "terminated", "terminator": "cr-lf"},
    "http": {"kind": "terminated", "terminator": "lf"},
    "tcp": {"kind": "terminated", "terminator": ";"},
    "udp": {"kind": "gap", "terminator": None},
    "mqtt": {"kind": "gap", "gap_s": 0.02, "terminator": None},
}
LOSES: Document = {
    "standing": {"lamp": {"link_lost": "off"}},
    "rules": {
        "gone": {"host": "board", "when": {"link": "lan", "event": "link-lost"}, "do": [{"verb": "on", "target": "far"}]},
        "there": {"host": "board", "when": {"link": "lan", "event": "link-back"}, "do": [{"verb": "off", "target": "far"}]},
    },
}


def over(transport: str, *more: Document) -> Document:
    whole = merge_patch(STAR, {"links": {"lan": {"transport": transport}}})
    for it in more:
        whole = merge_patch(whole, it)
    return whole


@pytest.mark.parametrize("transport", FRAMINGS)
def test_words_by_every_line_do_what_was_rehearsed(transport: str, tmp_path: Path) -> None:
    """Any words in any order, and what is said back: the same pins and bytes at every millisecond."""
    whole = over(transport, {"vocabularies": {"words": {"framing": FRAMINGS[transport]}}}, LOSES)
    proof, rng = Proof(design_of(whole), "board", tmp_path), random.Random(transport)
    for starts in (0, 2**32 - 700) if IS_PROOF else (2**32 - 700,):
        agree(proof, [((starts + at) % 2**32, *it) for at, *it in any_course(rng, proof)], starts)  # type: ignore[misc]


def pins_of(told: list[str], whom: int = PHONE) -> list[tuple[str, ...]]:
    return [tuple(it.split()[:4]) for it in told if it.split()[1] == "P"]


def lamp_pin(proof: Proof, lamp: str = "lamp") -> int:
    return proof.number(next(it["pin"] for it in proof.all["pins"] if it["lamp"] == f"LAMP_{lamp.upper()}"))


def shown(proof: Proof, events: list[Happening], lamp: str = "lamp") -> list[tuple[int, int]]:
    """Run it with what is sent as it is sent; what a lamp's pin shows from when on."""
    proof.radio = None
    told, _ = proof.ran([*events, (6000, "E", 0, 0)], proof.begun(0, {}))
    return [(int(it[0]), int(it[3])) for it in pins_of(told) if int(it[2]) == lamp_pin(proof, lamp)]


@pytest.fixture(scope="module")
def line(tmp_path_factory: pytest.TempPathFactory) -> Proof:
    return Proof(design_of(over("tcp", LOSES)), "board", tmp_path_factory.mktemp("line"))


@pytest.mark.parametrize("transport", ["websocket", "tcp"])
def test_a_link_is_lost_when_the_last_one_leaves(transport: str, line: Proof, tmp_path: Path) -> None:
    """Two are there: when one leaves nothing is lost; when the other does, lamps go off, and its rules follow. A third brings it back."""
    proof = line if transport == "tcp" else Proof(design_of(over(transport, LOSES)), "board", tmp_path)
    phones = {whom: Socket(whom) for whom in (1, 2, 3)}

    def called(at: int, whom: int) -> list[Happening]:
        return phones[whom].called(at) if transport == "websocket" else [(at, "N", LINE_DOOR, whom)]

    def said(at: int, whom: int, content: bytes) -> list[Happening]:
        return phones[whom].said(at, content) if transport == "websocket" else sent(at, whom, content)

    events = [*called(10, 1), *called(20, 2), *said(100, 1, b"+\n"), (200, "Q", 0, 1), (300, "Q", 0, 2), *called(400, 3)]
    lamp = shown(proof, events)
    assert [(at, bool(value)) for at, value in lamp] == [(0, False), (100, True), (300, False)]
    far = shown(proof, events, "far")
    assert [(at, bool(value)) for at, value in far] == [(0, False), (300, True), (400, False)]


def test_the_words_of_two_do_not_mix(line: Proof) -> None:
    """One has begun a word: the other's waits until it is whole, or for a second where it never is."""
    proof = line
    here = [(5, "N", LINE_DOOR, 1), (5, "N", LINE_DOOR, 2)]
    mixed = [*here, *sent(10, 1, b"d2"), *sent(11, 2, b"h\n"), *sent(50, 1, b"00\n")]
    assert [(at, bool(value)) for at, value in shown(proof, mixed)] == [(0, False), (50, True)]
    assert [(at, bool(value)) for at, value in shown(proof, mixed, "far")] == [(0, False), (50, True)]
    halted = [*here, *sent(10, 1, b"d2"), *sent(11, 2, b"+\n")]
    assert [(at, bool(value)) for at, value in shown(proof, halted)] == [(0, False), (1010, True)]


def raw_answers(proof: Proof, events: list[Happening], whom: int = PHONE) -> bytes:
    proof.radio = None
    told, _ = proof.ran([*events, (1000, "E", 0, 0)], proof.begun(0, {}))
    return b"".join(bytes.fromhex(it.split()[3]) for it in told if it.split()[1:3] == ["O", str(whom)])


@pytest.fixture(scope="module")
def proof(tmp_path_factory: pytest.TempPathFactory) -> Proof:
    return Proof(design_of(over("websocket")), "board", tmp_path_factory.mktemp("socket"), is_sanitized=True)


def asks(at: int, text: bytes) -> list[Happening]:
    return [(at, "N", PAGE_DOOR, PHONE), *sent(at, PHONE, text)]


def test_a_socket_is_agreed_as_the_standard_has_it(proof: Proof) -> None:
    """RFC 6455, section 1.3: this key is answered with this one."""
    asked = b"GET /chat HTTP/1.1\r\nHost: a\r\nUPGRADE: WebSocket\r\nConnection: Upgrade\r\nSec-WebSocket-Key: dGhlIHNhbXBsZSBub25jZQ==\r\n\r\n"
    assert b"\r\nSec-WebSocket-Accept: s3pPLMBiTxaQ9kYGzzhZRbK+xOo=\r\n" in raw_answers(proof, asks(10, asked))


def test_messages_come_as_text_in_parts_and_with_pings_between(proof: Proof) -> None:
    """RFC 6455, section 5.4: control frames come between the parts of a message; a ping is answered with what it carries."""
    phone = Socket()
    events = [
        *phone.called(10),
        *phone.said(20, b"d2", is_text=True, is_last=False),
        *phone.pinged(30, b"still there"),
        *phone.said(40, b"00\n", is_text=True),
    ]
    assert [(at, bool(value)) for at, value in shown(proof, events)] == [(0, False), (40, True)]
    assert b"\x8a\x0bstill there" in raw_answers(proof, events)
    assert phone.heard(raw_answers(proof, events)) == [b"n200\n"]


@pytest.mark.parametrize(
    ("frame", "code"),
    [
        (b"\x82\x01a", 1002),
        (b"\xc2\x81abcda", 1002),
        (b"\x83\x80abcd", 1002),
        (b"\x82\xffabcdefgh", 1009),
        (b"\x09\x80abcd", 1002),
    ],
    ids=["not masked", "reserved bit", "no such kind", "longer than 64 kB", "a ping in parts"],
)
def test_what_is_no_frame_is_refused(proof: Proof, frame: bytes, code: int) -> None:
    """RFC 6455, sections 5.1, 5.2, 5.5 and 7.4.1."""
    phone = Socket()
    assert raw_answers(proof, [*phone.called(10), *sent(20, PHONE, frame)]).endswith(b"\x88\x02" + code.to_bytes(2, "big"))


def test_requests_of_any_bytes_break_nothing(proof: Proof) -> None:
    """Whatever comes at the door, a phone that comes later is let in, and its words act."""
    rng, phone = random.Random(3), Socket(7)
    noise = [
        b"GET / HTTP/1.1\r\n",
        b"\r\n\r\n",
        b"Content-Length: 99999999999\r\n",
        b"Upgrade: websocket\r\n",
        b"POST /say HTTP/1.1\r\n",
    ]
    events = list[Happening]()
    for whom in range(10, 40):
        content = b"".join(rng.choice([rng.randbytes(40), *noise]) for _ in range(6))
        events += [(whom * 10, "N", PAGE_DOOR, whom), *sent(whom * 10, whom, content), (whom * 10 + 5, "Q", 0, whom)]
    events += [*phone.called(1000), *phone.said(1001, b"-\nd200\n")]
    assert shown(proof, events)[-1][1] > 0


@pytest.mark.parametrize("join", ["access-point", "station"])
def test_the_page_tells_the_time_where_no_server_does(join: str, tmp_path: Path) -> None:
    """What happens at a time of day happens once a phone has opened the page."""
    rules = {"dusk": {"host": "board", "when": {"at": "20:00"}, "do": [{"verb": "on", "target": "lamp"}]}}
    proof = Proof(design_of(over("websocket", {"links": {"lan": {"join": join}}, "rules": rules})), "board", tmp_path)
    told = str(20 * 3_600_000 - 500).encode()
    events = asks(100, b"POST /clock HTTP/1.1\r\nContent-Length: %d\r\n\r\n%b" % (len(told), told))
    assert [(at, bool(value)) for at, value in shown(proof, events)] == [(0, False), (599, True)]


def test_a_word_may_stand_in_an_address(tmp_path: Path) -> None:
    """As it is typed into a browser: a percent sign and two digits are a byte (RFC 3986, section 2.1). Not from another's page."""
    proof = Proof(design_of(over("http")), "board", tmp_path)
    typed = b"GET /say?d200%0A HTTP/1.1\r\nHost: lamp\r\n\r\n"
    assert [bool(value) for _, value in shown(proof, asks(10, typed))] == [False, True]
    named = typed.replace(b"lamp\r\n", b"lamp\r\nReferer: http://elsewhere.test/\r\n")
    assert [bool(value) for _, value in shown(proof, asks(10, named))] == [False]
    heard = [*asks(10, typed), (500, "N", PAGE_DOOR, 2), *sent(500, 2, b"GET /heard?0 HTTP/1.1\r\n\r\n")]
    assert raw_answers(proof, heard, 2).endswith(b"\r\n\r\n5 " + b"n200\n".hex().encode())


def test_what_cannot_be_printed_of_a_radio_says_why() -> None:
    coin = design_of(dict(start_data("14-coin-cell")["plan"]))
    with pytest.raises(NotPrinted, match="no serial line by BLE in common"):
        print_program(coin, program_of(coin, "board"))
    other = {"other": {"framing": {"kind": "terminated"}, "words": {"x": {"sent": "x"}}}}
    twice = {"links": {"mq": {"transport": "websocket"}}, "vocabularies": other, "talks": {"u": {"vocabulary": "other"}}}
    with pytest.raises(NotPrinted, match="two such lines"):
        printed_of(merge_patch(document("foyer-star"), twice), "board")


def printed_of(whole: Document, host: str) -> Printed:
    design = design_of(whole)
    return print_program(design, program_of(design, host))


def test_two_phones_with_a_link_each_open_one_page() -> None:
    """Their words are the same, so it is one line; the page has the controls of both. A rule about one link alone is refused."""
    second: Document = {
        "nodes": {"tablet": {"kind": "computer", "speaks": ["wifi"], "controls": {"go": {"kind": "button", "label": "Go on", "says": {"press": {"talk": "v", "word": "on"}}}}}},
        "links": {"desk": {"kind": "air", "a": "tablet", "b": "board", "transport": "http"}},
        "talks": {"v": {"a": "tablet", "b": "board", "via": ["desk"], "vocabulary": "words"}},
    }  # fmt: skip
    printed = printed_of(over("websocket", second), "board")
    assert "Go on" in printed.more["page.h"]
    assert "Moon" in printed.more["page.h"]
    assert printed.program.count("static void hear_page(") == 1
    alone = {
        "rules": {
            "gone": {"host": "board", "when": {"link": "desk", "event": "link-lost"}, "do": [{"verb": "off", "target": "far"}]}
        }
    }
    with pytest.raises(NotPrinted, match="a rule waits for it alone"):
        printed_of(over("websocket", second, alone), "board")


def test_two_lines_on_one_radio_each_have_their_own_words(tmp_path: Path) -> None:
    """A page and a topic at once: what comes by one does not end what comes by the other."""
    whole = over("http", {"links": {"mq": {"kind": "air", "a": "phone", "b": "board", "transport": "mqtt", "name": "STAR"}},
                          "talks": {"u": {"a": "phone", "b": "board", "via": ["mq"], "vocabulary": "words"}}})  # fmt: skip
    printed = print_program(design_of(whole), program_of(design_of(whole), "board"))
    assert 'TOPIC[] = "STAR"' in printed.program
    assert "hear_page(" in printed.program
    Proof(design_of(whole), "board", tmp_path)  # and it compiles


def test_a_button_that_is_held_lets_it_into_another_network(tmp_path: Path) -> None:
    """3 s: a phone hands it over; 8 s: it asks for it on a page of its own, which takes any letters. Its LED tells which, from memory."""
    whole = over("websocket", {"links": {"lan": {"join": "station", "join_button": "go"}},
                               "inputs": {"go": {"kind": "button", "host": "board"}, "door": None}, "signals": {"door.in": None},
                               "lamps": {"far": None}, "rules": dict.fromkeys(("hold", "free", "lean", "tint", "note"))})  # fmt: skip
    proof = Proof(design_of(whole), "board", tmp_path)
    proof.radio = None

    def held(at: int, lasts: int) -> list[Happening]:
        return [proof.put(at, "go", 1), proof.put(at + lasts, "go", 0)]

    def ran(*events: Happening) -> list[str]:
        told, _ = proof.ran([*events, (20_000, "E", 0, 0)], proof.begun(0, {}))
        return [it.partition(" ")[2] for it in told if it.split()[1] in "HO"]

    assert ran(*held(100, 2900)) == []
    assert ran(*held(100, 4000)) == ["H handed"]
    page = ran(*held(100, 8100), *asks(9000, b"GET / HTTP/1.1\r\n\r\n"))
    assert page[0] == "H asks"
    assert b"<title>Another network</title>" in bytes.fromhex(page[1].split()[2])
    form = urlencode({"n": "Fo+yer & \u00e9", "p": 'a%41"b &c=1'}).encode()
    joined = ran(*held(100, 8100), *asks(9000, b"POST /join HTTP/1.1\r\nContent-Length: %d\r\n\r\n%b" % (len(form), form)))
    assert joined[1] == 'H joins [Fo+yer & \u00e9] [a%41"b &c=1]'
    long = b"n=" + b"%41" * 400
    assert "H joins [" + 32 * "A" + "] []" in ran(
        *held(100, 8100), *asks(9000, b"POST /join HTTP/1.1\r\nContent-Length: %d\r\n\r\n%b" % (len(long), long))
    )
    assert [it for it in ran(*asks(100, b"POST /join HTTP/1.1\r\nContent-Length: 3\r\n\r\nn=a")) if it.startswith("H")] == []


def test_no_secret_is_printed() -> None:
    """What only the maker knows has a place in a file to copy, and the program reads it from one that is never printed."""
    design = design_of(demo_plan("foyer-star"))
    printed = print_program(design, program_of(design, "board"))
    assert set(printed.more) == {"page.h", "secrets-example.h"}
    assert 'const char PASSWORD[] = "<password>";' in printed.more["secrets-example.h"]
    assert '#include "secrets.h"' in printed.header


# ---- The broker ----


@pytest.fixture
def broker() -> Iterator[tuple[int, list[tuple[str, bytes]]]]:
    """A broker of the stand-in's, in a thread of its own."""
    told: list[tuple[str, bytes]] = []
    loop, port, is_there = asyncio.new_event_loop(), list[int](), threading.Event()

    async def serve() -> asyncio.Server:
        server = await Broker(lambda topic, content: told.append((topic, content))).serve("127.0.0.1", 0)
        port.append(server.sockets[0].getsockname()[1])
        is_there.set()
        return server

    def run() -> None:
        asyncio.set_event_loop(loop)
        server = loop.run_until_complete(serve())
        loop.run_forever()
        server.close()
        for it in asyncio.all_tasks(loop):
            it.cancel()
        loop.run_until_complete(asyncio.sleep(0))
        loop.close()

    thread = threading.Thread(target=run, daemon=True)
    thread.start()
    assert is_there.wait(PATIENCE_S)
    yield port[0], told
    loop.call_soon_threadsafe(loop.stop)
    thread.join(PATIENCE_S)


class Listener:
    """A phone at a broker, by a library."""

    def __init__(self, port: int, topic: str) -> None:
        self.heard, self.more, self.is_asked = list[tuple[str, bytes]](), threading.Condition(), threading.Event()
        self.client: Any = Client(CallbackAPIVersion.VERSION2, client_id="phone")
        self.client.on_message = self._hear
        self.client.on_subscribe = lambda *_: self.is_asked.set()
        self.client.connect("127.0.0.1", port)
        self.client.loop_start()
        self.client.subscribe(topic, qos=1)
        assert self.is_asked.wait(PATIENCE_S)

    def _hear(self, client: Any, data: Any, message: MQTTMessage) -> None:
        with self.more:
            self.heard.append((message.topic, bytes(message.payload)))
            self.more.notify_all()

    def wait_for(self, count: int) -> list[tuple[str, bytes]]:
        with self.more:
            assert self.more.wait_for(lambda: len(self.heard) >= count, PATIENCE_S), self.heard
            return list(self.heard)


def test_the_broker_passes_on_what_a_library_says(broker: tuple[int, list[tuple[str, bytes]]]) -> None:
    """Topics, those under them, both qualities of service, and large ones: the library is the measure."""
    port, told = broker
    phone = Listener(port, "star/#")
    for topic, content, quality in (("star/back", b"n1", 0), ("moon", b"x", 0), ("star", bytes(range(256)) * 20, 1)):
        assert phone.client.publish(topic, content, qos=quality).rc == 0
    assert phone.wait_for(2) == [("star/back", b"n1"), ("star", bytes(range(256)) * 20)]
    assert [topic for topic, _ in told] == ["star/back", "moon", "star"]
    phone.client.disconnect()
    phone.client.loop_stop()


@pytest.mark.parametrize(
    ("wanted", "topic", "is_so"),
    [
        ("sport/tennis/player1/#", "sport/tennis/player1", True), ("sport/tennis/player1/#", "sport/tennis/player1/score", True),
        ("sport/#", "sport", True), ("#", "a/b", True), ("sport/tennis/+", "sport/tennis/player1", True),
        ("sport/tennis/+", "sport/tennis/player1/ranking", False), ("sport/+", "sport", False), ("sport/+", "sport/", True),
        ("+/+", "/finance", True), ("/+", "/finance", True), ("+", "/finance", False),
    ],
)  # fmt: skip
def test_topics_are_asked_for_as_the_standard_has_it(wanted: str, topic: str, is_so: bool) -> None:
    """MQTT version 3.1.1, section 4.7.1: its own examples."""
    assert fits(wanted, topic) is is_so


def test_a_board_is_found_by_its_topic_at_a_broker(broker: tuple[int, list[tuple[str, bytes]]], tmp_path: Path) -> None:
    """The compiled program, the broker and a phone by a library: a word lights the lamp, and what it says comes back."""
    port, _ = broker
    whole = over("mqtt", {"links": {"lan": {"name": "STAR"}}})
    board = Board(whole, tmp_path, BROKER_PORT=str(port))
    phone = Listener(port, "STAR/back")
    pin = lamp_pin_of(board)
    # A word that comes before the board has asked for its topic is nobody's: it is said until the lamp is lit.
    for _ in range(200):
        phone.client.publish("STAR", b"d200\n")
        if board.is_so_within(0.1, lambda: bool(board.shows.get(pin))):
            break
    assert phone.wait_for(1)[0] == ("STAR/back", b"n200\n")
    phone.client.disconnect()
    phone.client.loop_stop()
    board.end()


def lamp_pin_of(board: Board) -> int:
    made = board.facts.all()
    numbers = {it["name"]: int(it["pin"]) for it in made["pins_told"]}
    return numbers[next(it["pin"] for it in made["pins"] if it["lamp"] == "LAMP_LAMP")]
