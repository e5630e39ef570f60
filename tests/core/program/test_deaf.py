"""What a board does not hear: while its program is busy, and while it writes pixels with interrupts off."""

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddlamp.catalog.load import load_catalog
from oddlamp.core.modules.uart import Edge, Port, heard, sent
from oddlamp.core.plan.document import Document
from oddlamp.core.rehearsal.ear import Ear
from oddlamp.core.rehearsal.events import read_events
from oddlamp.core.rehearsal.simulate import rehearse
from oddlamp.core.rehearsal.trace import Trace
from tests.builders import plan_with

PIXELS: Document = {
    "nodes": {"phone": {"appends": "none"}},
    "lamps": {"chain": {"kind": "pixels-one-wire", "label": "Chain", "host": "board", "layout": {"runs": [{"count": 45}]}}},
    "rules": {"r1": {"do": [{"verb": "toggle", "target": "chain"}]}, "r2": {"do": []}},
}
ON_PORT: Document = {"serial.a_to_b": {"pin": "0"}, "serial.b_to_a": {"pin": "1"}}
IN_SOFTWARE: Document = {"serial.a_to_b": {"pin": "2"}, "serial.b_to_a": {"pin": "3"}}


def stream(speed_bd: int, pins: Document, after_s: float = 0.0, count: int = 200) -> Trace:
    """A full line: one word that writes the pixels, and behind it bytes that do nothing, one after the other."""
    plan = plan_with(PIXELS, {"links": {"serial": {"baud_rate_bd": speed_bd}}, "signals": pins})
    line = {"kind": "line", "t_s": 1.0, "talk": "main", "text": "1" + "0" * 60}
    more = [{"kind": "line", "t_s": 1.0, "talk": "main", "text": "0" * 60} for _ in range(count // 60)]
    first = {"kind": "line", "t_s": 0.9 + after_s, "talk": "main", "text": "0"}
    return rehearse(plan, load_catalog(), read_events([first, line, *more]))


def lost(trace: Trace) -> int:
    return sum(1 for it in trace.lost if "while pixels were written" in (it.lost_because or ""))


def test_forty_five_pixels_in_a_full_line_at_57600_lose_five_or_six_bytes_by_phase() -> None:
    """45 x 30 us = 1.35 ms are 7.8 bytes of 174 us: 7 or 8 become whole in it, two of them are kept."""
    assert pytest.approx(7.776) == 45 * 30e-6 / (10 / 57_600)
    assert lost(stream(57_600, ON_PORT)) in (5, 6)


def test_at_9600_the_port_keeps_all_that_comes_in_the_meantime() -> None:
    """1.35 ms are 1.3 bytes: one or two are whole, and both are kept."""
    assert lost(stream(9600, ON_PORT)) == 0


def test_in_software_every_byte_that_comes_in_the_meantime_is_lost() -> None:
    """At 57600 Bd 1.35 ms touch eight or nine bytes; at 9600 two or three."""
    assert lost(stream(57_600, IN_SOFTWARE)) in (8, 9)
    assert lost(stream(9600, IN_SOFTWARE)) in (2, 3)


def test_a_board_that_hears_all_the_same_loses_nothing() -> None:
    """Where pixels are written by the chip itself, interrupts stay on."""
    plan = plan_with(
        PIXELS, {"links": {"serial": {"baud_rate_bd": 57_600}}, "nodes": {"board": {"choice": {"part": "board-3v3-32bit"}}}}
    )
    events = [{"kind": "line", "t_s": 1.0, "talk": "main", "text": "1" + "0" * 60}]
    assert lost(rehearse(plan, load_catalog(), read_events(events))) == 0


def test_half_a_second_without_looking_at_9600_under_a_full_stream_loses_417_bytes() -> None:
    """500 ms bring 480 bytes, and a ring of 64 holds 63."""
    plan = plan_with({"nodes": {"phone": {"appends": "none"}}})
    lines = [{"kind": "line", "t_s": 1.0, "talk": "main", "text": "1" * 200} for _ in range(5)]
    start_s = 1.0 + 0.035 + 100 * 10 / 9600  # amid the stream
    busy = {"kind": "busy", "t_s": start_s, "node": "board", "for_s": 0.5}
    trace = rehearse(plan, load_catalog(), read_events([*lines, busy]))
    gone = [it.lost_because or "" for it in trace.lost]
    assert sum(int(it.split()[0]) for it in gone if "full port" in it) == 480 - 63


@pytest.mark.parametrize(("pins", "still_bytes"), [(ON_PORT, 12 * 8 - 63), (IN_SOFTWARE, 12 * 8)])
def test_a_program_that_says_more_than_its_port_takes_stands_still_until_it_fits(pins: Document, still_bytes: int) -> None:
    """Twelve answers of eight bytes at 4800 Bd are 200 ms on the wire; 63 bytes wait by themselves, in software none does."""
    told = {"verb": "say", "say": {"talk": "main", "word": "long"}}
    words = {"words": {"words": {"long": {"sent": "answered", "direction": "back"}}}}
    plan = plan_with(
        {
            "links": {"serial": {"baud_rate_bd": 4800}},
            "signals": pins,
            "vocabularies": words,
            "rules": {"r1": {"do": [told] * 12}, "r2": {"do": [{"verb": "on", "target": "lamp"}]}},
        }
    )
    on = {"kind": "word", "t_s": 1.0, "talk": "main", "word": "on"}
    off = {"kind": "word", "t_s": 1.01, "talk": "main", "word": "off"}
    trace = rehearse(plan, load_catalog(), read_events([on, off] if pins is ON_PORT else [on, {**off, "t_s": 1.3}]))
    said_s = next(it.t_s for it in trace.events if it.stage == "rules.board")
    lit_s = next(it.t_s for it in trace.events if it.stage == "lamps.lamp")
    if pins is ON_PORT:
        assert lit_s - said_s == pytest.approx(still_bytes * 10 / 4800, abs=0.0011)
    else:
        assert lit_s - said_s > still_bytes * 10 / 4800


def test_what_is_spoken_in_software_is_spoken_alone() -> None:
    """Half duplex: a word that comes while the board answers is lost, and the same on a port of the chip is not."""
    told = {"verb": "say", "say": {"talk": "main", "word": "long"}}
    patches = (
        {
            "links": {"serial": {"baud_rate_bd": 9600}},
            "vocabularies": {"words": {"words": {"long": {"sent": "w", "direction": "back"}}}},
        },
        {"rules": {"r1": {"do": [told] * 12}}},
    )
    on = {"kind": "word", "t_s": 1.0, "talk": "main", "word": "on"}
    off = {"kind": "word", "t_s": 1.004, "talk": "main", "word": "off"}
    gone = {}
    for name, pins in (("port", ON_PORT), ("software", IN_SOFTWARE)):
        trace = rehearse(plan_with(*patches, {"signals": pins}), load_catalog(), read_events([on, off]))
        gone[name] = [it.lost_because for it in trace.lost]
    assert gone["port"] == []
    assert gone["software"] == ["it came while the board itself said something, and what is heard in software is not heard then"]


def test_a_board_that_wakes_within_a_byte_takes_the_rest_of_it_for_another_bit_by_bit() -> None:
    """By hand, times in bits of 104 us: it wakes 3.2 bits into 0x30 (0 00001100 1, the lowest first), where the line is low.

    That is a start bit to it; it looks at 4.7, 5.7 ... bits: 0, 1, 1, 0, 0, 1, then the start of the next byte, 0, and its lowest bit, 0:
    0x26; at 12.7 it wants its stop bit, and the line is low there until that byte's bit 4 rises. So it is lost in this byte too,
    and finds the start of the third.
    """
    bit_s = 1 / 9600
    ear = Ear(3.2 * bit_s, 10 * bit_s)
    first = ear.take(0.0, 0x30, is_followed=True)
    assert first == []
    second = ear.take(10 * bit_s, 0x30, is_followed=True)
    assert [(it.byte, round(it.at_s / bit_s, 1)) for it in second] == [(0x26, 12.7)]
    assert ear.is_astray
    third = ear.take(20 * bit_s, 0x31, is_followed=True)
    assert third[-1].byte == 0x31 or ear.is_astray


@given(st.binary(min_size=12, max_size=40), st.floats(0.05, 9.9))
def test_what_is_heard_after_waking_is_what_a_bit_level_receiver_hears(data: bytes, woke_bits: float) -> None:
    """Byte by byte as they come, against the whole line at once, cut where the board wakes."""
    bit_s = Fraction(1, 9600)
    ear, found = Ear(float(woke_bits * bit_s), float(10 * bit_s)), list[int]()
    for at, byte in enumerate(data):
        if ear.is_astray:
            found += [it.byte for it in ear.take(float(10 * bit_s * at), byte, is_followed=at + 1 < len(data))]
        else:
            found.append(byte)
    woke = Fraction(float(woke_bits * bit_s))
    starts = (Fraction(float(10 * bit_s * at)) for at in range(len(data)))  # as the times of a rehearsal are
    edges = [edge for at_s, byte in zip(starts, data, strict=True) for edge in sent(bytes((byte,)), Port(9600), at_s=at_s)]
    low = [it for it in edges if it.at_s <= woke][-1].level == 0
    cut = [*([Edge(woke, 0)] if low else []), *(it for it in edges if it.at_s > woke)]
    assert found == [it.byte for it in heard(cut, Port(9600))]
