"""Values below nothing, and texts: their codes by hand, their verdicts, and what comes of them in the rehearsal."""

import random
from typing import Any

import pytest

from oddlamp.catalog.load import load_catalog
from oddlamp.core.errors import OutOfRange, PlanInvalid
from oddlamp.core.plan.document import Document, edit_plan
from oddlamp.core.plan.model import Plan
from oddlamp.core.rehearsal.events import read_events
from oddlamp.core.rehearsal.simulate import rehearse
from oddlamp.core.resolve.resolve import resolve
from oddlamp.core.words.frames import Field, Shape
from oddlamp.core.words.signed import code_of, opposite, value_of
from oddlamp.sheets.journeys import show_run
from tests.builders import LF, codes, findings_of, plan_with, words

SIGN: Document = {"lamps": {"sign": {"kind": "matrix", "label": "Sign", "host": "board"}}}


def telling(sent: str, framing: Document = LF, **text: Any) -> Plan:
    """A word that carries a text, shown on a display; the two words that are there put nothing on it."""
    word = {"label": "Say", "sent": sent, "parameters": {"text": {"written": "text", **text}}}
    do = [{"verb": "text", "target": "sign", "values": {"text": "{text}"}}]
    dark = [{"verb": "off", "target": "lamp"}, {"verb": "off", "target": "sign"}]
    rules = {"r9": {"host": "board", "when": {"heard": "say"}, "do": do}, "r2": {"do": dark}}
    return plan_with(SIGN, words(framing), {"vocabularies": {"words": {"words": {"say": word}}}, "rules": rules})


def shown(plan: Plan, *texts: str) -> list[str]:
    events = [{"kind": "word", "t_s": at, "talk": "main", "word": "say", "values": {"text": it}} for at, it in enumerate(texts)]
    return [it.text for it in rehearse(plan, load_catalog(), read_events(events)).shows["sign"]][1:]


def test_in_four_bits_the_opposite_of_5_is_11_and_8_has_none() -> None:
    assert [opposite(it, 4) for it in (5, 11, 0, 8, 1, 15)] == [11, 5, 0, None, 15, 1]
    assert (code_of(-5, "twos-complement", -7, 4), value_of(11, "twos-complement", -7, 4)) == (11, -5)
    assert (code_of(-128, "twos-complement", 0, 8), code_of(-1, "twos-complement", 0, 16)) == (128, 65535)
    assert (code_of(-5, "offset", -7, 8), value_of(2, "offset", -7, 8)) == (2, -5)


@pytest.mark.parametrize(
    ("field", "value", "sent"),
    [
        (Field(kind="number", least=-100, most=100, signed="minus"), -7, b"-7"),
        (Field(kind="number", least=-7, most=7, signed="twos-complement", bits=4), -5, b"11"),
        (Field(kind="byte", least=-127, most=127, signed="twos-complement"), -1, b"\xff"),
        (Field(kind="two-bytes", least=-500, most=500, signed="twos-complement", bits=16), -500, b"\xfe\x0c"),
        (Field(kind="two-bytes-little", least=-500, most=500, signed="twos-complement", bits=16), -500, b"\x0c\xfe"),
        (Field(kind="hex", least=-7, most=7, signed="twos-complement", bits=4), -5, b"B"),
        (Field(kind="hex", least=-100, most=100, signed="offset"), -100, b"00"),
        (Field(kind="text", least=1, most=20), "HI, YOU", b"HI, YOU"),
        (Field(kind="text", least=1, most=20, escape="/"), "/off", b"//off"),
    ],
)
def test_a_value_is_written_as_worked_out_by_hand_and_read_back(field: Field, value: Any, sent: bytes) -> None:
    assert field.written("v", value) == sent
    assert field.read(sent) == value


def test_what_no_value_has_is_not_read() -> None:
    four = Field(kind="number", least=-7, most=7, signed="twos-complement", bits=4)
    assert [four.read(it) for it in (b"8", b"16", b"-5")] == [None, None, None]
    assert Field(kind="text", least=1, most=9, escape="/").read(b"/off") is None
    with pytest.raises(OutOfRange, match="-7 to 7"):
        four.written("v", -8)
    shape = Shape((b"V", "v"), {"v": Field(kind="number", least=-9, most=9, signed="minus")})
    assert shape.parse(b"V-9") == {"v": -9}
    assert shape.parse(b"V--9") is None


def test_a_text_is_shown_and_said_on_the_line() -> None:
    plan = telling("T{text}")
    assert shown(plan, "HELLO", "1.", "") == ["HELLO", "1.", " "], "a text has at least one sign"
    assert codes(findings_of(plan)) == set()
    events = read_events([{"kind": "word", "t_s": 0, "talk": "main", "word": "say", "values": {"text": "HI"}}])
    design = resolve(plan, load_catalog())
    run = show_run(design, rehearse(plan, load_catalog(), events), since_s=0)
    assert run.journeys[0].sentence.startswith('Reached Sign, which shows "HI", after')
    assert run.looks["lamps.sign"][-1].text == "HI"


def test_a_text_that_equals_its_control_word_and_the_escape_that_is_offered() -> None:
    plan = telling("{text}")
    (finding,) = [it for it in findings_of(plan) if it.code == "CMD-DUP"][:1]
    assert "Say" in finding.message
    escape = next(it for it in finding.fixes if it.label.startswith("Begin all other words with /"))
    mended = edit_plan(plan, escape.patch)
    assert not codes(findings_of(mended)) & {("CMD-DUP", "stop"), ("CMD-PREFIX", "stop")}
    on = mended.vocabularies["words"].words["on"].sent
    assert on is not None
    assert shown(mended, on, "/", "//") == [on, "/", "//"], "what looks like a word is a text, with one sign more"


def test_a_text_can_hold_the_sign_that_ends_it() -> None:
    plan = telling("T{text}", {"kind": "terminated", "terminator": "#"})
    (finding,) = [it for it in findings_of(plan) if it.code == "CMD-PAYLOAD"]
    assert finding.severity == "stop"
    assert codes(findings_of(edit_plan(plan, finding.fixes[0].patch))) == set()


def test_a_text_stands_at_the_end_and_a_minus_is_typed() -> None:
    with pytest.raises(PlanInvalid, match="a text goes on to the end of the word"):
        telling("{text};")
    with pytest.raises(PlanInvalid, match="only a decimal has a minus"):
        telling("T{text}", signed="minus")


SPEED: Document = {"written": "decimal", "signed": "twos-complement", "bits": 4, "most": 7}


@pytest.mark.parametrize(
    ("settled", "wanted"),
    [
        ({"least": -7}, set()),
        ({"least": -8}, {("CMD-RANGE", "look")}),
        ({"least": -7, "most": 8}, {("CMD-RANGE", "stop")}),
        ({"bits": 8, "least": -100, "most": 100}, set()),
        ({"signed": "offset", "written": "byte", "least": -200, "most": 200}, {("CMD-RANGE", "stop")}),
        ({"signed": "offset", "written": "byte", "least": -100, "most": 100}, set()),
        ({"signed": "minus", "least": -100, "most": 100}, set()),
    ],
)
def test_ranges_of_signed_values_and_their_ways_out(settled: Document, wanted: set[tuple[str, str]]) -> None:
    word = {"sent": "V{v}", "parameters": {"v": {**SPEED, **settled}}}
    rule = {"host": "board", "when": {"heard": "go"}, "do": [{"verb": "level", "target": "lamp", "values": {"level": "{v}"}}]}
    plan = plan_with(words(LF), {"vocabularies": {"words": {"words": {"go": word}}}, "rules": {"r9": rule}})
    found = [it for it in findings_of(plan) if it.code == "CMD-RANGE"]
    assert {(it.code, it.severity) for it in found} == wanted
    for finding in found:
        for fix in finding.fixes:
            assert not [it for it in findings_of(edit_plan(plan, fix.patch)) if it.key == finding.key], fix.label


def test_least_is_dark_and_most_is_full_whatever_the_sign() -> None:
    """-7 to 7 in 4 bits: 0 is the middle, 127.5 of 255, rounded half up to 128."""
    word = {"sent": "V{v}", "parameters": {"v": {**SPEED, "least": -7}}}
    do = [{"verb": "level", "target": "lamp", "values": {"level": "{v}"}}]
    rule = {"host": "board", "when": {"heard": "go"}, "do": do}
    plan = plan_with(words(LF), {"vocabularies": {"words": {"words": {"go": word}}}, "rules": {"r9": rule}})
    values = [-7, 0, 7]
    random.Random(1).shuffle(values)
    events = [{"kind": "word", "t_s": at, "talk": "main", "word": "go", "values": {"v": it}} for at, it in enumerate(values)]
    trace = rehearse(plan, load_catalog(), read_events(events))
    wanted = {-7: 0, 0: 128, 7: 255}
    assert [it.shows for it in trace.pins["lamp.main"]][-1] == wanted[values[-1]]
    assert {it.shows for it in trace.pins["lamp.main"]} == {0, 128, 255}
