"""What a board does not hear: while its program is busy, and while it writes pixels with interrupts off."""

import pytest

from oddlamp.catalog.load import load_catalog
from oddlamp.core.plan.document import Document
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


def test_a_program_that_says_more_than_its_port_takes_stands_still_until_it_fits() -> None:
    """Twelve answers of eight bytes at 4800 Bd are 200 ms on the wire; 63 bytes wait by themselves, 33 keep the program."""
    told = {"verb": "say", "say": {"talk": "main", "word": "long"}}
    words = {"words": {"words": {"long": {"sent": "answered", "direction": "back"}}}}
    plan = plan_with(
        {
            "links": {"serial": {"baud_rate_bd": 4800}},
            "vocabularies": words,
            "rules": {"r1": {"do": [told] * 12}, "r2": {"do": [{"verb": "on", "target": "lamp"}]}},
        }
    )
    on = {"kind": "word", "t_s": 1.0, "talk": "main", "word": "on"}
    off = {"kind": "word", "t_s": 1.01, "talk": "main", "word": "off"}
    trace = rehearse(plan, load_catalog(), read_events([on, off]))
    said_s = next(it.t_s for it in trace.events if it.stage == "rules.board")
    lit_s = next(it.t_s for it in trace.events if it.stage == "lamps.lamp")
    assert lit_s - said_s == pytest.approx(33 * 10 / 4800, abs=0.0011)
