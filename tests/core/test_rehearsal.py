"""The rehearsal: byte times, losses with their reason, polarity, and what the eye sees."""

import math
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddlamp.catalog.load import load_catalog
from oddlamp.core.behaviour.arithmetic import duty_of, seen_light
from oddlamp.core.behaviour.framing import Parser, byte_time_s
from oddlamp.core.design.talks import WordDesign
from oddlamp.core.errors import EventsInvalid
from oddlamp.core.plan.document import Document, load_plan
from oddlamp.core.rehearsal.events import read_events
from oddlamp.core.rehearsal.simulate import rehearse
from oddlamp.core.rehearsal.trace import Trace
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.journeys import show_run
from oddlamp.sheets.models import BytesPicture
from oddlamp.sheets.review import review
from tests.builders import LF, PLANS, divider, document, plan_with, words
from tests.reference.exact import frame_bits

ON: Document = {"kind": "control", "t_s": 0, "control": "on"}
OFF: Document = {"kind": "control", "t_s": 1, "control": "off"}
AIR_S = 0.035  # classic serial: 20 to 50 ms, from memory


def played(*events: Document, patches: tuple[Document, ...] = (), **plan: Any) -> Trace:
    return rehearse(plan_with(*patches, **plan), load_catalog(), read_events(list(events)))


def at(trace: Trace, collection: str) -> list[Any]:
    return [event for event in trace.events if event.stage.startswith(collection)]


def in_pass_s() -> float:
    """When a single byte that is pressed at 0 acts: in the first pass after its stop bit, s."""
    return math.ceil(1000 * (AIR_S + 10 / 9600)) / 1000


def test_a_byte_takes_ten_bits() -> None:
    assert byte_time_s(9600) == pytest.approx(1.0417e-3, abs=1e-7), "ten bits at 9600 Bd"


def test_a_word_runs_from_thumb_to_lamp() -> None:
    trace = played(ON, OFF)
    wire = at(trace, "links.serial")[0]
    assert wire.t_s == pytest.approx(AIR_S)
    assert wire.until_s == pytest.approx(AIR_S + 10 / 9600)
    assert wire.volts == pytest.approx(3.3)
    course = trace.lamps["lamp.main"]
    assert [point.t_s for point in course] == pytest.approx([0, in_pass_s(), 1 + in_pass_s()])
    assert [point.current_a for point in course] == pytest.approx([0, 1.4 / (75 + 25), 0]), "the pin's own 25 ohm too"


def test_five_bytes_take_5_21_ms_on_the_wire_and_the_air_is_told_apart() -> None:
    trace = played(ON, patches=(words(LF, on="dusk"),))
    wire = at(trace, "links.serial")
    assert len(wire) == 5
    assert wire[-1].until_s - wire[0].t_s == pytest.approx(5.2083e-3, abs=1e-7), "50 bits at 9600 Bd"
    air = at(trace, "links.air")
    assert air[0].until_s - air[0].t_s == pytest.approx(AIR_S)


def test_bytes_queue_on_the_wire() -> None:
    trace = played(*({"kind": "word", "t_s": 0, "talk": "main", "word": "on"} for _ in range(3)))
    starts = [event.t_s for event in at(trace, "links.serial")]
    assert starts == pytest.approx([AIR_S + n * 10 / 9600 for n in range(3)])


def test_a_common_anode_is_lit_by_a_low_pin() -> None:
    plan = load_plan(document("footlights"))
    trace = rehearse(plan, load_catalog(), read_events([{"kind": "word", "t_s": 0, "talk": "radio", "word": "dusk"}]))
    pins = {event.ref: event for event in at(trace, "pins.board")}
    assert pins["moon.red"].duty_ratio == 0.0
    assert pins["moon.red"].volts == 0.0
    assert pins["moon.blue"].duty_ratio == pytest.approx(1 - 13 / 255)
    assert trace.lamps["moon.red"][-1].current_a == pytest.approx(3.0 / (150 + 25))


@pytest.mark.parametrize(
    ("event", "patches", "stage", "because"),
    [
        (ON, (divider(1200, 2200), {"signals": {"serial.a_to_b": {"is_omitted": True}}}), "links.serial", "left out"),
        (
            ON,
            ({"signals": {"serial.a_to_b": {"shift": {"school": "divider", "values": {"upper_ohm": 2000, "lower_ohm": 2000}}}}},),
            "links.serial",
            "never counts as high",
        ),
        (ON, ({"nodes": {"phone": {"speaks": ["ble"]}}},), "links.air", "phone does not speak classic serial"),
        (ON, ({"nodes": {"phone": {"sends_as": "numbers"}}},), "vocabularies.words", "0x01 is no word here"),
        ({"kind": "line", "t_s": 0, "talk": "main", "text": "x"}, (), "vocabularies.words", "x is no word here"),
        ({"kind": "line", "t_s": 0, "talk": "main", "text": "é"}, (), "nodes.phone", "cannot be typed"),
        ({"kind": "control", "t_s": 0, "control": "gong"}, (), "nodes.phone", "no press of gong"),
        ({"kind": "word", "t_s": 0, "talk": "main", "word": "gong"}, (), "nodes.phone", "no word gong"),
    ],
)
def test_a_message_that_dies_says_where_and_why(event: Document, patches: tuple[Document, ...], stage: str, because: str) -> None:
    lost = played(event, patches=patches).lost
    assert [it.stage for it in lost] == [stage]
    assert because in lost[0].lost_because.replace("\u00a0", " ")


def test_what_the_phone_adds_and_no_word_uses_is_passed_over_and_nothing_is_lost() -> None:
    trace = played(ON, patches=({"nodes": {"phone": {"appends": "cr-lf"}}},))
    assert [event.bytes_hex for event in at(trace, "links.serial")] == ["31", "0d", "0a"]
    assert trace.lost == ()
    assert trace.lamps["lamp.main"][-1].current_a > 0


def test_the_board_answers_back_over_the_air() -> None:
    answer: Document = {
        "vocabularies": {"words": {"words": {"lit": {"sent": "L", "direction": "back"}}}},
        "rules": {"r1": {"do": [{"verb": "on", "target": "lamp"}, {"verb": "say", "say": {"talk": "main", "word": "lit"}}]}},
    }
    plan = plan_with(answer)
    trace = rehearse(plan, load_catalog(), read_events([ON]))
    back = [event for event in trace.events if event.stage == "nodes.phone"][-1]
    assert back.t_s == pytest.approx(in_pass_s() + AIR_S + 10 / 9600)
    run = show_run(resolve(plan, load_catalog()), trace, since_s=0)
    assert [leg.stage for leg in run.journeys[1].legs] == [
        "pins.board",
        "links.serial",
        "nodes.radio",
        "links.air",
        "nodes.phone",
    ]


def test_a_switch_at_one_end_lights_the_lamp_at_the_other() -> None:
    trace = rehearse(
        load_plan(document("two-wings")), load_catalog(), read_events([{"kind": "input", "t_s": 0, "input": "sw", "event": "on"}])
    )
    lit = trace.lamps["lamp.main"][-1]
    # The switch has settled after 20 ms; air and two bytes at 9600 Bd later it is heard, in the pass after.
    assert lit.t_s == pytest.approx(math.ceil(1000 * (0.02 + AIR_S + 2 * 10 / 9600)) / 1000)
    assert lit.current_a == pytest.approx(3.0 / (150 + 25))
    assert not trace.lost


def test_boards_that_answer_each_other_for_ever_are_stopped() -> None:
    ring: Document = {
        "vocabularies": {"w": {"words": {"ping": {"sent": "p"}, "pong": {"sent": "q", "direction": "back"}}}},
        "rules": {
            "r8": {"host": "br", "when": {"heard": "ping"}, "do": [{"verb": "say", "say": {"talk": "wl", "word": "pong"}}]},
            "r9": {"host": "bl", "when": {"heard": "pong"}, "do": [{"verb": "say", "say": {"talk": "wl", "word": "ping"}}]},
        },
    }
    trace = played({"kind": "word", "t_s": 0, "talk": "wl", "word": "ping"}, patches=(ring,), base=document("two-wings"))
    assert trace.is_cut_short


@pytest.mark.parametrize("name", PLANS)
def test_every_control_of_every_plan_can_be_pressed(name: str) -> None:
    plan = load_plan(document(name))
    buttons = review(plan, load_catalog()).phone
    events = [
        {"kind": "control", "t_s": n, "control": button.control, "gesture": gesture}
        if button.kind == "control"
        else {"kind": "input", "t_s": n, "input": button.control, "event": gesture}
        for n, button in enumerate(buttons)
        for gesture in button.gestures
    ]
    trace = rehearse(plan, load_catalog(), read_events(events))
    run = show_run(resolve(plan, load_catalog()), trace, since_s=0)
    pressed = [it for it in run.journeys if it.legs[0].stage == "nodes.phone" or it.legs[0].stage.startswith("inputs.")]
    assert len(pressed) == len(events)
    assert all(journey.sentence for journey in run.journeys)
    assert [event.t_s for event in trace.events] == sorted(event.t_s for event in trace.events)


@pytest.mark.parametrize(
    ("events", "field"),
    [
        ([{"kind": "control", "t_s": -1, "control": "on"}], "events.0.t_s"),
        ([{"kind": "dance", "t_s": 0}], "events.0"),
        ([{"kind": "word", "t_s": 0, "talk": "main"}], "events.0.word"),
        ({"not": "a list"}, "events."),
        ([{"kind": "module", "t_s": 0, "node": "radio", "does": ["dance"]}], "events.0.does"),
        ([{"kind": "control", "t_s": 0, "control": "on", "values": {"level": 70_000}}], "events.0.values"),
        ([{"kind": "control", "t_s": math.inf, "control": "on"}], "events.0.t_s"),
    ],
)
def test_events_that_cannot_be_read_are_refused_by_field(events: Any, field: str) -> None:
    with pytest.raises(EventsInvalid) as caught:
        read_events(events)
    assert caught.value.field.startswith(field)


def test_duty_and_the_eye() -> None:
    """ISO/CIE 11664-4: Y/Yn 0.184 is L* 50 (recalled); nine even steps to the eye end at 255."""
    assert seen_light(0.184) == pytest.approx(0.50, abs=0.001)
    assert seen_light(1.0) == pytest.approx(1.0)
    assert seen_light(0.0) == 0.0
    even = [next(duty for duty in range(256) if seen_light(duty / 255) >= step / 9 - 0.004) for step in range(1, 10)]
    assert even == pytest.approx([3, 9, 20, 36, 60, 92, 135, 189, 255], abs=2)
    assert [duty_of(k / 4) for k in range(5)] == [0, 64, 128, 191, 255], "floor(255 k/n + 1/2)"


def as_word(content: bytes) -> WordDesign:
    name = content.decode()
    return WordDesign(id=name, label=name, text=name, content=content, origin="own", direction="out")


@given(st.lists(st.sampled_from([b"a", b"bc", b"bcd", b"zz"]), max_size=30), st.sampled_from([b"\n", b"\r\n", b"#"]))
def test_terminated_words_are_read_back(said: list[bytes], terminator: bytes) -> None:
    """Differential: the reference splits the whole stream at once."""
    parser = Parser({word: as_word(word) for word in (b"a", b"bc", b"bcd")}, terminator)
    stream = b"".join(word + terminator for word in said)
    heard = [it for at in range(0, len(stream), 3) for _, it in parser.feed(stream[at : at + 3])]
    assert [it.taken for it in heard] == stream.split(terminator)[:-1]
    assert [it.word and it.word.id for it in heard] == [None if word == b"zz" else word.decode() for word in said]


@given(st.binary(max_size=300))
def test_any_bytes_are_survived(stream: bytes) -> None:
    for terminator in (b"", b"\n", b"\r\n"):
        parser = Parser({b"1": as_word(b"1")}, terminator)
        heard = [it for at in range(0, len(stream), 3) for _, it in parser.feed(stream[at : at + 3])]
        assert len(b"".join(it.taken for it in heard)) <= len(stream)


def test_bytes_are_drawn_with_their_ten_bits() -> None:
    sheet = review(plan_with(words(on="1", off="U")), load_catalog()).sheets["vocabularies.words"]
    picture = next(it for it in sheet.pictures if isinstance(it, BytesPicture))
    drawn = [byte for row in picture.rows for byte in row.bytes]
    assert [(byte.shown, byte.hex, byte.decimal) for byte in drawn] == [("1", "0x31", 49), ("U", "0x55", 85)], "ISO/IEC 646"
    assert [byte.bits for byte in drawn] == [frame_bits(49), frame_bits(85)]
    assert drawn[1].bits == "0101010101", "0x55 alternates on the wire, common practice"


SWITCHED: Document = {
    "lamps": {
        "curtain": {"kind": "relay", "host": "board", "drive": {"school": "mosfet", "values": {"has_flyback": True}}},
        "module": {"kind": "relay", "host": "board", "choice": {"part": "relay-module-opto-low"}},
        "gong": {"kind": "buzzer", "host": "board"},
        "far": {"kind": "led", "host": "board", "rail": "five", "drive": {"school": "npn"}},
    },
    "rules": {
        "r1": {
            "host": "board",
            "when": {"heard": "on"},
            "do": [{"verb": "on", "target": name} for name in ("curtain", "module", "gong", "far")],
        }
    },
}


@pytest.mark.parametrize(
    ("lamp_id", "current_a", "pin_duty"),
    [("curtain", 5 / 70, 1.0), ("module", 2e-3, 0.0), ("gong", 2e-3, 1.0), ("far", None, 1.0)],
)
def test_switched_loads_come_on_and_a_low_pin_turns_an_opto_input_on(
    lamp_id: str, current_a: float | None, pin_duty: float
) -> None:
    """Ohm's law on part values from memory; an opto-input that is on when low sees a low pin."""
    trace = played(ON, patches=(SWITCHED,))
    course = trace.lamps[f"{lamp_id}.main"]
    assert course[0].current_a == 0
    assert course[-1].current_a > 0
    if current_a is not None:
        assert course[-1].current_a == pytest.approx(current_a)
    pin = next(event for event in trace.events if event.stage == "pins.board" and event.ref == f"{lamp_id}.main")
    assert pin.duty_ratio == pin_duty
    assert trace.lost == ()


def test_switched_loads_glow_on_the_line() -> None:
    plan = plan_with(SWITCHED)
    design = resolve(plan, load_catalog())
    run = show_run(design, rehearse(plan, load_catalog(), read_events([ON])), since_s=0)
    assert {lamp_id for lamp_id, looks in run.looks.items() if looks[-1].light_ratio > 0} == {
        "lamps.curtain",
        "lamps.module",
        "lamps.gong",
        "lamps.far",
    }
    assert run.journeys[0].sentence.startswith("Reached 4 lamps")


@given(st.lists(st.binary(min_size=1, max_size=9), max_size=12), st.sampled_from([b"", b"\n", b"\r\n", b";"]))
def test_a_parser_hears_the_same_however_its_bytes_are_cut(pieces: list[bytes], terminator: bytes) -> None:
    """Differential: all at once, in pieces, and byte by byte."""
    words_ = {b"a": as_word(b"a"), b"ab": as_word(b"ab")}
    stream = b"".join(pieces)
    at_once = [heard for _, heard in Parser(words_, terminator).feed(stream)]
    cut, single = Parser(words_, terminator), Parser(words_, terminator)
    assert [heard for piece in pieces for _, heard in cut.feed(piece)] == at_once
    assert [heard for at in range(len(stream)) for _, heard in single.feed(stream[at : at + 1])] == at_once


@pytest.mark.parametrize(("ending", "arrive"), [("lf", [False, True]), (None, [True, True])])
def test_what_a_module_says_when_somebody_links_comes_before_the_first_word(ending: str | None, arrive: list[bool]) -> None:
    """OK+CONN has no ending: with words that end in LF the first one is taken for its rest. Single bytes pass over it. From memory."""
    framing = {"framing": {"kind": "terminated", "terminator": ending}} if ending else {}
    ble = {
        "nodes": {"radio": {"choice": {"part": "family-c"}}, "phone": {"speaks": ["ble"], "appends": ending or "none"}},
        "links": {"air": {"transport": "ble-serial"}},
        "vocabularies": {"words": framing},
    }
    said = [{"kind": "word", "t_s": t_s, "talk": "main", "word": "on"} for t_s in (0, 1)]
    trace = rehearse(plan_with(ble), load_catalog(), read_events(said))
    assert len(trace.lost) == arrive.count(False)
    lit = [any(it.stage == "lamps.lamp" and int(it.t_s) == second for it in trace.events) for second in (0, 1)]
    assert lit == arrive
    heard = "".join(it.bytes_hex for it in trace.events if it.stage == "links.serial" and it.t_s < 0.5)
    assert bytes.fromhex(heard).startswith(b"OK+CONN")
    later = "".join(it.bytes_hex for it in trace.events if it.stage == "links.serial" and it.t_s > 0.5)
    assert b"CONN" not in bytes.fromhex(later), "once a link"


def test_what_pins_show_and_what_boards_say_is_told_from_the_start() -> None:
    """A common anode rests high and is lit by a low pin; moonlight is 0.6, 0.75 and all of 255, floor(x + 1/2) by hand."""
    said = [{"kind": "word", "t_s": n, "talk": "radio", "word": word} for n, word in enumerate(("moon", "foot", "dark"))]
    trace = rehearse(load_plan(document("footlights")), load_catalog(), read_events(said))
    assert [(int(it.t_s), it.shows, it.frequency_hz) for it in trace.pins["moon.red"]] == [
        (0, 255, 490),
        (0, 255 - 153, 490),
        (2, 255, 490),
    ]
    assert [it.shows for it in trace.pins["moon.green"]] == [255, 255 - 191, 255]
    assert [it.shows for it in trace.pins["moon.blue"]] == [255, 0, 255]
    assert [(it.shows, it.frequency_hz) for it in trace.pins["foot1.main"]] == [(0, None), (1, None), (0, None)]
    assert [(it.bytes_hex, round(it.t_s, 4)) for it in trace.said["serial.b_to_a"]] == [("4c", round(in_pass_s(), 4))]


def test_a_reply_echoes_what_the_word_carried() -> None:
    """R200 is answered L200, and a word that carries nothing of that name is filled with the least."""
    echo: Document = {
        "vocabularies": {
            "words": {"framing": LF, "words": {"dim": {"sent": "R{level}"}, "now": {"sent": "L{level}", "direction": "back"}}}
        },
        "rules": {
            "dims": {
                "host": "board",
                "when": {"heard": "dim"},
                "do": [{"verb": "say", "say": {"talk": "main", "word": "now", "fill": {"level": "{level}"}}}],
            },
            "r2": {
                "do": [
                    {"verb": "off", "target": "lamp"},
                    {"verb": "say", "say": {"talk": "main", "word": "now", "fill": {"level": 0}}},
                ]
            },
        },
    }
    moved = {"kind": "control", "t_s": 0, "control": "dim", "gesture": "move", "values": {"level": 200}}
    trace = played(moved, {**OFF, "t_s": 1}, patches=(echo,))
    assert [bytes.fromhex(it.bytes_hex) for it in trace.said["serial.b_to_a"]] == [b"L200\n", b"L0\n"]
    assert [it.says for it in at(trace, "nodes.phone") if it.ref == "now"] == ["Now: Level 200", "Now: Level 0"]
