"""The modules of a rehearsal are the stand-ins a terminal meets: their power, key, speed and commands show on the line.

How families behave is from memory, as their dialects are; what another speed hears is by the reference of the UART.
"""

from fractions import Fraction

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from oddlamp.catalog.load import load_catalog
from oddlamp.core.modules.air import FIND_S
from oddlamp.core.plan.document import Document
from oddlamp.core.plan.model import Plan
from oddlamp.core.rehearsal.events import read_events
from oddlamp.core.rehearsal.simulate import rehearse
from oddlamp.core.rehearsal.trace import Trace
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.journeys import show_run
from oddlamp.sheets.review import review
from tests.builders import document, findings_of, plan_with
from tests.full import IS_PROOF
from tests.reference.uart import common_ticks, listen, ticks_of

REPLY: Document = {
    "vocabularies": {"words": {"words": {"lit": {"sent": "L", "direction": "back"}}}},
    "rules": {"r1": {"do": [{"verb": "on", "target": "lamp"}, {"verb": "say", "say": {"talk": "main", "word": "lit"}}]}},
}
WIFI: Document = {
    "nodes": {"radio": {"choice": {"part": "family-e"}, "setup": None}, "phone": {"speaks": ["wifi"]}},
    "links": {"air": {"transport": None}},
}
ON, OFF = ({"kind": "word", "talk": "main", "word": it} for it in ("on", "off"))
SWITCH: Document = {"kind": "input", "input": "sw", "event": "on"}
LATER_S = 2 * FIND_S


def does(t_s: float, *deeds: str, node: str = "radio") -> list[Document]:
    return [{"kind": "module", "t_s": t_s, "node": node, "does": list(deeds)}]


def played(plan: Plan, *events: Document) -> Trace:
    return rehearse(plan, load_catalog(), read_events(list(events)))


def lost(trace: Trace) -> list[tuple[str, str]]:
    return [(it.stage, it.lost_because.replace("\u00a0", " ")) for it in trace.lost]


def lit_at(trace: Trace, lamp: str = "lamp.main") -> list[float]:
    return [it.t_s for it in trace.lamps[lamp] if it.current_a > 0]


def on_wire(trace: Trace, link: str = "links.serial", since_s: float = 0.0) -> bytes:
    return bytes.fromhex("".join(it.bytes_hex for it in trace.events if it.stage == link and it.t_s >= since_s))


@pytest.mark.parametrize(
    ("before", "because"),
    [
        (does(0, "power-off"), "it has no power"),
        (does(0, "power-off", "key-up", "power-on"), "it is in set-up mode"),
        (does(0, "power-off", "key-up", "power-on") + does(1, "key-down"), "it is in set-up mode"),  # only a restart ends it
        (does(0, "power-off", "key-up", "power-on") + does(1, "key-down", "power-off", "power-on"), None),
        (does(0, "key-up"), "it is in set-up mode"),
        (does(0, "leave"), None),  # the phone links again
        (does(0, "as-bought"), None),  # it comes with 9600 Bd and a factory PIN
    ],
)
def test_a_module_passes_words_on_only_with_power_and_in_data_mode(before: list[Document], because: str | None) -> None:
    trace = played(plan_with(), *before, {**ON, "t_s": 3})
    assert bool(lit_at(trace)) == (because is None)
    assert [stage for stage, _ in lost(trace)] == ([] if because is None else ["nodes.radio"])
    assert all(told.startswith(because or "") for _, told in lost(trace))


@pytest.mark.parametrize("board_bd", [4800, 19_200, 38_400])
def test_a_module_that_was_never_set_up_sends_the_garbage_that_its_speed_makes(board_bd: int) -> None:
    """What the board hears of 9600 Bd at another speed: the tick by tick reference of the UART."""
    plan = plan_with({"links": {"serial": {"baud_rate_bd": board_bd}}})
    bits = common_ticks(Fraction(1, 9600), Fraction(1, board_bd))
    heard = bytes(byte for byte, _, _ in listen(ticks_of(b"1", bits[0]), bits[1]))
    trace = played(plan, *does(0, "as-bought"), {**ON, "t_s": 1})
    assert not lit_at(trace)
    assert on_wire(trace) == b"1", "the byte itself is sound on the wire"
    assert bytes.fromhex("".join(it.bytes_hex for it in trace.lost)) == heard
    assert all("the module speaks at 9600 Bd, the board listens at" in told for _, told in lost(trace))
    again = played(plan, *does(0, "as-bought"), *does(1, "set-up"), {**ON, "t_s": 2})
    assert (lost(again), len(lit_at(again))) == ([], 1)


def test_two_modules_lose_and_find_each_other() -> None:
    plan = plan_with(base=document("two-wings"))
    back = {**SWITCH, "event": "off"}
    events = [{**SWITCH, "t_s": 0}, {**back, "t_s": 0.5}, *does(1, "power-off", node="mr"), {**SWITCH, "t_s": 2}]
    events += [{**back, "t_s": 2.5}, *does(3, "power-on", node="mr"), {**SWITCH, "t_s": 3.5}]
    events += [{**back, "t_s": 3.8}, {**SWITCH, "t_s": 3 + LATER_S}]
    trace = played(plan, *events)
    assert [int(t_s) for t_s in lit_at(trace)] == [0, int(3 + LATER_S)]
    assert lost(trace) == [("nodes.ml", "it has not found the other module")] * 2


def test_a_wi_fi_module_wraps_what_comes_and_asks_for_what_goes() -> None:
    """+IPD before each packet, a prompt before each reply; the link is told of first. From memory, no source."""
    trace = played(plan_with(WIFI, REPLY), {**ON, "t_s": 0})
    assert lost(trace) == []
    assert on_wire(trace) == b"0,CONNECT\r\n+IPD,0,1:1AT+CIPSEND=0,1\r\nOK\r\n> LSEND OK\r\n"
    (word,) = (it for it in trace.events if it.ref == "on")
    assert word.t_s == pytest.approx(0.020 + 10 * 10 / 9600), "ten bytes, of which the last is the word"
    assert [it.says for it in trace.events if it.stage == "nodes.phone"][-1] == "Lit"


def test_a_wi_fi_module_that_starts_again_is_told_again_what_it_forgot() -> None:
    plan = plan_with(WIFI, REPLY)
    after = played(plan, *does(0, "power-off", "power-on"), {**ON, "t_s": 2})
    assert (lost(after), len(lit_at(after))) == ([], 1)
    bought = played(plan, *does(0, "as-bought"), {**ON, "t_s": 2})
    assert lost(bought)[0][1].endswith("the board speaks at 9600 Bd, the module listens at 115200 Bd")
    early = played(plan, *does(0, "power-off", "power-on"), {**ON, "t_s": 0.1})
    assert lost(early) == [("nodes.radio", "it lets nobody in: its program has not told it to since it started")]


def test_replies_that_come_while_one_is_being_sent_wait_their_turn() -> None:
    trace = played(plan_with(WIFI, REPLY), *({**ON, "t_s": t_s} for t_s in (0, 0.03, 0.06)))
    assert lost(trace) == []
    assert on_wire(trace).count(b"AT+CIPSEND=0,1\r\n") == on_wire(trace).count(b"> L") == 3


NO_BOARD: Document = {"nodes": {"nudge": {"choice": {"part": "family-c"}}}}
GO: Document = {"kind": "line", "talk": "radio"}


@pytest.mark.parametrize(
    ("text", "version", "lights", "because"),
    [
        ("AT+PIO21", None, True, ""),
        ("AT+PIO20", None, False, ""),
        ("at+pio21", None, False, "is no word here"),
        ("AT+PIO21\\r\\n", None, False, "is no word here"),
        ("AT+PIO21", "family-c-alike", False, "it knows no A T + P I O 2 1"),
    ],
)
def test_a_module_with_no_board_does_what_it_knows(text: str, version: str | None, lights: bool, because: str) -> None:
    plan = plan_with(NO_BOARD, {"nodes": {"nudge": {"setup": {"version": version}}}}, base=document("prompters-nudge"))
    trace = played(plan, {**GO, "t_s": 0, "text": text})
    assert any(it.stage == "lamps.go" and it.duty_ratio for it in trace.events) == lights
    assert [because in told for _, told in lost(trace)] == ([True] if because else [])


def test_its_lamps_go_dark_with_its_power() -> None:
    plan = plan_with(NO_BOARD, base=document("prompters-nudge"))
    trace = played(plan, {**GO, "t_s": 0, "text": "AT+PIO21"}, *does(1, "power-off", node="nudge"))
    assert [bool(it.current_a) for it in trace.lamps["go.main"]] == [False, True, False]


def test_what_befalls_a_node_that_is_no_module_is_told() -> None:
    assert "no module board" in lost(played(plan_with(), *does(0, "power-off", node="board")))[0][1]


DRAWN = 2000 if IS_PROOF else 60
WIRED = ("family-a", "family-b", "family-c", "family-e")
SETUP = st.fixed_dictionaries(
    {},
    optional={
        "role": st.sampled_from(["slave", "master"]),
        "pin_code": st.sampled_from(["4711", "4712", "471147"]),
        "found_bd": st.sampled_from([9600, 38_400]),
    },
)


@settings(max_examples=DRAWN)
@given(st.tuples(st.sampled_from(WIRED), st.sampled_from(WIRED)), SETUP, SETUP, st.sampled_from([9600, 19_200, 1234]))
def test_two_modules_meet_where_no_verdict_stops_them_and_nowhere_else(
    families: tuple[str, str], left: Document, right: Document, speed_bd: int
) -> None:
    """One source: what verdicts say of a pair, and whether its stand-ins find each other."""
    nodes = {
        name: {"choice": {"part": part}, "setup": {"bound_to": None, "role": None, **setup}}
        for name, part, setup in zip(("ml", "mr"), families, (left, right), strict=True)
    }
    links = {"wl": {"baud_rate_bd": speed_bd}, "air": {"transport": None}}
    framing = {"vocabularies": {"w": {"framing": {"kind": "single-byte"}}}}
    plan = plan_with({"nodes": nodes, "links": links}, framing, base=document("two-wings"))
    stops = {it.code for it in findings_of(plan) if it.severity == "stop" and it.code.startswith("MOD-")}
    trace = played(plan, {**SWITCH, "t_s": 1})
    arrived = any(it.stage == "vocabularies.w" and it.ref == "on" for it in trace.events)
    assert not stops or not arrived or stops == {"MOD-PIN"}, stops  # one that no module takes may still be the same at both
    assert stops or arrived, lost(trace)


@settings(max_examples=DRAWN)
@given(
    st.sampled_from((*WIRED, "family-e-bare")),
    SETUP,
    st.sampled_from([["classic"], ["ble"], ["wifi"], ["classic", "ble", "wifi"]]),
    st.booleans(),
)
def test_a_phone_reaches_a_module_where_no_verdict_stops_it_and_nowhere_else(
    part: str, setup: Document, speaks: list[str], is_left_out: bool
) -> None:
    nodes = {"radio": {"choice": {"part": part}, "setup": setup or None}, "phone": {"speaks": speaks}}
    left_out = {"signals": {"serial.b_to_a": {"is_omitted": True}}} if is_left_out else {}
    plan = plan_with({"nodes": nodes, "links": {"air": {"transport": None}}}, left_out)
    stops = {it.code for it in findings_of(plan) if it.severity == "stop"}
    arrived = bool(lit_at(played(plan, {**ON, "t_s": 1})))
    assert arrived == (not stops - {"MOD-PIN", "MOD-ENABLE"}), stops  # a pin left open is no matter of the stand-in


def test_the_sentence_of_a_press_tells_what_became_of_what_it_set_off() -> None:
    plan = plan_with(base=document("two-wings"))
    design = resolve(plan, load_catalog())

    def told(*events: Document) -> tuple[str, bool]:
        first = show_run(design, played(plan, *events), since_s=events[-1]["t_s"]).journeys[0]
        return first.sentence.replace("\u00a0", " "), first.is_lost

    assert told({**SWITCH, "t_s": 0}) == (
        "Reached Lamp after 58 ms: 35 ms in the air, 2.08 ms on the wire, 20.9 ms in the board.",
        False,
    ), "of which 20 ms until the switch has settled"
    off = does(0, "power-off", node="mr")
    assert told(*off) == ("Module: no power.", False)
    assert told(*off, {**SWITCH, "t_s": 1}) == ("Lost at the module: it has not found the other module.", True)
    held = does(0, "power-off", "key-up", "power-on", node="mr")
    assert told(*held) == ("Module: set-up mode, LED 2 s lit, 2 s dark.", False)


def test_what_a_module_and_its_program_say_about_a_message_is_no_journey_of_its_own() -> None:
    plan = plan_with(WIFI, REPLY)
    trace = played(plan, {**ON, "t_s": 0})
    run = show_run(resolve(plan, load_catalog()), trace, since_s=0)
    assert [it.legs[0].stage for it in run.journeys] == ["nodes.phone", "pins.board"], "the word, and the reply to it"
    assert [it.legs[-1].stage for it in run.journeys][1] == "nodes.phone"
    assert b"SEND OK" in on_wire(trace), "it stands in the trace all the same"


def test_what_may_befall_a_module_is_what_events_may_be() -> None:
    for name in ("two-wings", "prompters-nudge", "paper-moon"):
        told = review(plan_with(base=document(name)), load_catalog()).befalls
        for it in told:
            events = [{**what.event, "t_s": 0} for what in it.what_ifs]
            assert len(read_events(events)) == len(it.what_ifs) >= 2
        assert any(it.is_near for it in told)
