"""A busy board in the rehearsal: its port holds 63 bytes, the rest is lost, and what was held is taken when it is free again."""

import pytest

from oddlamp.catalog.load import load_catalog
from oddlamp.core.plan.document import Document, load_plan, merge_patch
from oddlamp.core.plan.model import Plan
from oddlamp.core.rehearsal.events import read_events
from oddlamp.core.rehearsal.simulate import rehearse
from oddlamp.core.rehearsal.trace import Trace
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.journeys import show_run
from tests.builders import findings_of, plan_with

BUTTON: Document = {
    "inputs": {"cue": {"kind": "button", "label": "Cue", "host": "board"}},
    "rules": {"cue": {"host": "board", "when": {"input": "cue", "event": "pressed"}, "do": [{"verb": "on", "target": "lamp"}]}},
}


def played(plan: Plan, *events: Document) -> Trace:
    return rehearse(plan, load_catalog(), read_events(list(events)))


def busy(t_s: float, for_s: float) -> Document:
    return {"kind": "busy", "t_s": t_s, "node": "board", "for_s": for_s}


def presses(count: int, every_s: float, from_s: float = 1.0) -> list[Document]:
    """``1`` and ``0`` in turn: single bytes at 9600 Bd."""
    return [{"kind": "word", "t_s": from_s + at * every_s, "talk": "main", "word": ("on", "off")[at % 2]} for at in range(count)]


def heard(trace: Trace) -> list[tuple[float, str]]:
    return [(it.t_s, it.ref) for it in trace.events if it.stage == "vocabularies.words" and it.lost_because is None]


def lost(trace: Trace) -> int:
    return sum(int((it.lost_because or "0").split()[0]) for it in trace.lost)


@pytest.mark.parametrize(("sent", "kept"), [(62, 62), (63, 63), (64, 63), (480, 63)])
def test_half_a_second_at_9600_brings_480_bytes_and_63_are_held(sent: int, kept: int) -> None:
    """960 bytes a second, so 480 in half of one; a ring of 64 bytes holds 63 (from memory)."""
    trace = played(plan_with(), busy(1.0, 1.0), *presses(sent, 0.5 / 480))
    assert (len(heard(trace)), lost(trace)) == (kept, sent - kept)
    assert {t_s for t_s, _ in heard(trace)} == {2.0}, "all that was held is taken when the program is free, in order"
    assert [word for _, word in heard(trace)] == [("on", "off")[at % 2] for at in range(kept)]


def test_what_comes_before_and_after_is_heard_at_once() -> None:
    trace = played(plan_with(), *presses(1, 1), busy(2.0, 0.5), *presses(1, 1, 2.2), *presses(1, 1, 3.0))
    assert [round(t_s, 2) for t_s, _ in heard(trace)] == [1.04, 2.5, 3.04]
    assert not trace.lost


def test_two_pauses_that_meet_are_one() -> None:
    trace = played(plan_with(), busy(1.0, 0.5), busy(1.4, 0.6), *presses(100, 0.005))
    assert (len([it for it in heard(trace) if it[0] == 2.0]), lost(trace)) == (63, 100 - 63)


def test_a_word_that_is_cut_is_no_word() -> None:
    """Eight bytes and LF, eight times: 72 bytes, of which 63 are seven whole words; the rest of what came is lost."""
    plan = plan_with(
        {
            "nodes": {"phone": {"appends": "lf"}},
            "vocabularies": {
                "words": {"framing": {"kind": "terminated", "terminator": "lf"}, "words": {"on": {"sent": "moonlite"}}}
            },
        }
    )
    events = [{"kind": "word", "t_s": 1.0 + at / 50, "talk": "main", "word": "on"} for at in range(8)]
    trace = played(plan, busy(1.0, 2.0), *events, {"kind": "word", "t_s": 4.0, "talk": "main", "word": "on"})
    assert [round(t_s, 1) for t_s, _ in heard(trace)] == [3.0] * 7 + [4.0]
    assert lost(trace) == 9


def test_a_button_is_looked_at_when_the_program_is_free() -> None:
    trace = played(plan_with(BUTTON), busy(1.0, 0.5), {"kind": "input", "t_s": 1.1, "input": "cue", "event": "pressed"})
    assert [it.t_s for it in trace.events if it.stage == "lamps.lamp"] == [1.52], (
        "it is looked at from then on, and settles in 20 ms"
    )


def test_what_is_no_board_cannot_be_busy() -> None:
    trace = played(plan_with(), {"kind": "busy", "t_s": 1.0, "node": "radio", "for_s": 1.0})
    assert [it.lost_because for it in trace.lost] == ["there is no board radio"]


def test_a_line_that_is_full_keeps_messages_waiting_and_says_so() -> None:
    """Twelve bytes every 10 ms at 9600 Bd, which takes 12.5 ms of them (ten bits a byte): the fourth waits 7.5 ms."""
    plan = plan_with(
        {
            "nodes": {"phone": {"appends": "lf"}},
            "vocabularies": {
                "words": {"framing": {"kind": "terminated", "terminator": "lf"}, "words": {"on": {"sent": "moonlighter"}}}
            },
        }
    )
    events = read_events([{"kind": "word", "t_s": 1.0 + at / 100, "talk": "main", "word": "on"} for at in range(4)])
    trace = rehearse(plan, load_catalog(), events)
    waits = [round((it.until_s or 0) - it.t_s, 6) for it in trace.events if it.says == "waits for the line"]
    assert waits == [0.0025, 0.005, 0.0075]
    journeys = show_run(resolve(plan, load_catalog()), trace, since_s=0).journeys
    assert journeys[3].sentence == (
        "Reached Lamp after 55 ms: 35 ms in the air, 12.5 ms on the wire, 7.5 ms waiting for the line.".replace(" ms", "\u00a0ms")
    )


def test_what_the_maker_added_takes_its_longest_time() -> None:
    """A word that comes while a region of the maker's own runs waits for it; one at every pass holds up every one."""

    def lit(region: Document) -> list[float]:
        plan = plan_with({"programs": {"board": {"regions": region}}})
        events: list[Document] = [
            {"kind": "word", "t_s": t_s, "talk": "main", "word": word} for t_s, word in ((0.1, "on"), (0.2, "off"))
        ]
        trace = rehearse(plan, load_catalog(), read_events(events))
        return [it.t_s for it in trace.lamps["lamp.main"]]

    plain = lit({})
    assert lit({"heard.on": {"code": "x();"}}) == plain
    assert lit({"top": {"code": "int x;", "longest_s": 1}}) == plain
    slow = lit({"heard.on": {"code": "x();", "longest_s": 0.3}})
    assert slow[:-1] == plain[:-1]
    assert slow[-1] == pytest.approx(plain[-2] + 0.3, abs=0.002)
    assert lit({"start": {"code": "x();", "longest_s": 0.5}})[-2:] == pytest.approx([0.5, 0.5], abs=0.002)


def test_a_region_that_takes_long_brings_more_than_the_port_holds() -> None:
    """As a program of one's own does: 0.1 s at 9600 Bd are 96 bytes (10 bits each), the port holds 63; the way out shortens it."""
    plan = plan_with({"programs": {"board": {"regions": {"pass": {"code": "x();", "longest_s": 0.1}}}}})
    (finding,) = [it for it in findings_of(plan) if it.code == "CMD-BLOCK"]
    assert "can bring 96 bytes" in finding.breach.message
    after = merge_patch(plan.model_dump(mode="json", exclude_none=True), finding.fixes[0].patch)
    assert [it.code for it in findings_of(load_plan(after))] == []
