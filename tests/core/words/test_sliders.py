"""Sliders that are offered: on every family and framing they bring no verdict, and their values come out as light."""

from typing import Any

import pytest

from oddlamp.catalog.load import load_catalog
from oddlamp.core.behaviour.arithmetic import scaled
from oddlamp.core.plan.document import Document, edit_plan
from oddlamp.core.plan.model import Plan
from oddlamp.core.rehearsal.events import read_events
from oddlamp.core.rehearsal.simulate import rehearse
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.review import review, sheet_of
from tests.builders import LF, codes, findings_of, plan_with, words

RADIOS = {"family-a": "classic", "family-b": "classic", "family-c": "ble", "family-e": "wifi"}
FRAMINGS: dict[str, Document] = {
    "single bytes": {},
    "LF": words(LF),
    "#": words({"kind": "terminated", "terminator": "#"}),
    "fixed": words({"kind": "fixed"}),
    "a pause": words({"kind": "gap"}),
}
RGB: Document = {"lamps": {"moon": {"kind": "rgb", "label": "Moon", "host": "board", "common": "cathode"}}}


def with_module(family: str, *patches: Document) -> Plan:
    radio = {"nodes": {"radio": {"choice": {"part": family}, "setup": None}, "phone": {"speaks": [RADIOS[family]]}}}
    return plan_with(radio, {"links": {"air": {"transport": None}}}, *patches)


def offered(plan: Plan, label: str) -> Plan:
    sheet = sheet_of(resolve(plan, load_catalog()), (), "vocabularies.words")
    return edit_plan(plan, next(it.patch for it in sheet.moves if it.label == label))


def moved(control: str, t_s: float, **values: int) -> Document:
    return {"kind": "control", "control": control, "gesture": "move", "t_s": t_s, "values": values}


@pytest.mark.parametrize("family", sorted(RADIOS))
@pytest.mark.parametrize("framing", sorted(FRAMINGS))
def test_a_slider_and_a_colour_bring_no_verdict_and_light_what_they_say(family: str, framing: str) -> None:
    plan = with_module(family, FRAMINGS[framing], RGB)
    before = codes(findings_of(plan))
    plan = offered(offered(plan, "Add a slider for Lamp"), "Add sliders for the colour of Moon")
    assert codes(findings_of(plan)) <= before, framing
    said = [
        moved("lamp_level", 1, level=128),
        moved("moon_colour", 2, red=255, green=0, blue=51),
        moved("lamp_level", 3, level=0),
    ]
    first = {
        "kind": "word",
        "talk": "main",
        "word": "off",
        "t_s": 0,
    }  # family C's greeting swallows it where words have an ending
    trace = rehearse(plan, load_catalog(), read_events([first, *said]))
    assert [it.lost_because for it in trace.lost if it.t_s >= 1] == []
    duty = {
        ref: [it.duty_ratio for it in trace.events if it.ref == ref and it.stage == "pins.board" and it.t_s >= 1]
        for ref in ("lamp.main", "moon.red", "moon.green", "moon.blue")
    }
    assert duty == {
        "lamp.main": [pytest.approx(128 / 255), 0],
        "moon.red": [1],
        "moon.green": [0],
        "moon.blue": [pytest.approx(51 / 255)],
    }
    labels = [it.label for it in sheet_of(resolve(plan, load_catalog()), (), "vocabularies.words").moves]
    assert not any(it.startswith(("Add slider", "Add a slider")) for it in labels), "each has one now"


@pytest.mark.parametrize(
    ("value", "least", "most", "top", "wanted"),
    [
        (0, 0, 255, 255, 0),
        (1023, 0, 1023, 255, 255),
        (512, 0, 1023, 255, 128),
        (2, 0, 1023, 255, 0),
        (3, 0, 1023, 255, 1),
        (50, 0, 100, 255, 128),
        (7, 10, 20, 255, 0),
        (99, 10, 20, 255, 255),
        (5, 5, 5, 255, 255),
    ],
)
def test_values_are_clipped_and_scaled_in_whole_numbers(value: int, least: int, most: int, top: int, wanted: int) -> None:
    """Clip to the ends, then round half up: 512 of 1023 is 127.62 of 255, 50 of 100 is 127.5 and goes up. Worked by hand."""
    assert scaled(value, least, most, top) == wanted


@pytest.mark.parametrize(
    ("text", "parameters", "typed", "duty", "because"),
    [
        ("R{level}", {}, "R128", 128 / 255, ""),
        ("R{level}", {}, "R007", 7 / 255, ""),
        ("R{level}", {}, "R256", None, "Dim takes Level 0 to 255"),
        ("R{level}", {}, "R000012", None, "R 0 0 0 0 1 2 is no word here"),
        ("R{level}", {}, "R-1", None, "is no word here"),
        ("R{level}", {}, "R", None, "is no word here"),
        ("/S{level}", {"level": {"most": 100}}, "/S50", 128 / 255, ""),
        ("{level}", {"level": {"written": "hex"}}, "fF", 1.0, ""),
        ("{level}", {"level": {"written": "hex"}}, "F", None, "is no word here"),
        ("x{level}", {"level": {"written": "two-bytes", "most": 1023}}, "x\\x02\\x00", 128 / 255, ""),
        ("x{level}", {"level": {"written": "two-bytes-little", "most": 1023}}, "x\\x00\\x02", 128 / 255, ""),
    ],
)
def test_typed_lines_are_heard_as_the_page_says(
    text: str, parameters: Document, typed: str, duty: float | None, because: str
) -> None:
    word: dict[str, Any] = {"sent": text, "parameters": parameters}
    rule = {
        "host": "board",
        "when": {"heard": "dim"},
        "do": [{"verb": "level", "target": "lamp", "values": {"level": "{level}"}}],
    }
    plan = plan_with({"vocabularies": {"words": {"framing": LF, "words": {"dim": word}}}, "rules": {"dims": rule}})
    trace = rehearse(plan, load_catalog(), read_events([{"kind": "line", "t_s": 0, "talk": "main", "text": typed}]))
    given = [it.duty_ratio for it in trace.events if it.stage == "pins.board" and it.ref == "lamp.main"]
    assert given == ([] if duty is None else [pytest.approx(duty)])
    assert [because in it.lost_because for it in trace.lost] == ([True] if because else [])


def test_a_misfit_of_fixed_words_is_looked_at_again_as_a_first_byte() -> None:
    word = {"sent": "R{level}", "parameters": {"level": {"written": "hex"}}}
    rule = {
        "host": "board",
        "when": {"heard": "dim"},
        "do": [{"verb": "level", "target": "lamp", "values": {"level": "{level}"}}],
    }
    plan = plan_with({"vocabularies": {"words": {"framing": {"kind": "fixed"}, "words": {"dim": word}}}, "rules": {"dims": rule}})
    trace = rehearse(plan, load_catalog(), read_events([{"kind": "line", "t_s": 0, "talk": "main", "text": "R1R80\\r\\n"}]))
    assert [it.says for it in trace.events if it.ref == "dim" and it.says] == ["Dim: Level 128"]
    assert [it.bytes_hex for it in trace.lost] == ["5231"], "CR and LF, which no word uses, are passed over"
    cut = rehearse(plan, load_catalog(), read_events([{"kind": "line", "t_s": 0, "talk": "main", "text": "R8"}]))
    assert [it.lost_because for it in cut.lost] == ["R 8 is not whole: the rest of it never came"]


def test_the_tongue_has_a_slider_for_each_value_that_is_not_settled() -> None:
    plan = offered(plan_with(RGB), "Add sliders for the colour of Moon")
    (button,) = [it for it in review(plan, load_catalog()).phone if it.slides]
    assert [(it.label, it.least, it.most) for it in button.slides] == [("Red", 0, 255), ("Green", 0, 255), ("Blue", 0, 255)]
    assert button.gestures == ("move",)


CHECKED: Document = {"kind": "fixed", "lead": "0xAA", "check": "crc-8"}


@pytest.mark.parametrize(
    ("typed", "level", "because"),
    [
        ("\\xAAR\\x80\\x60", 128, ""),
        ("\\xAAR\\x80\\x61", None, "the byte that checks Dim is wrong"),
        ("\\x00\\xAAR\\x80\\x60", 128, "NUL is no word here"),
        ("R\\x80\\x60", None, "is no word here"),
    ],
)
def test_a_frame_with_lead_and_check_is_heard_whole_or_not_at_all(typed: str, level: int | None, because: str) -> None:
    """AA 52 80 has the CRC-8 of 60, by long division of its bits apart from the program."""
    word = {"sent": "R{level}", "parameters": {"level": {"written": "byte"}}}
    rule = {
        "host": "board",
        "when": {"heard": "dim"},
        "do": [{"verb": "level", "target": "lamp", "values": {"level": "{level}"}}],
    }
    plan = plan_with({"vocabularies": {"words": {"framing": CHECKED, "words": {"dim": word}}}, "rules": {"dims": rule}})
    trace = rehearse(plan, load_catalog(), read_events([{"kind": "line", "t_s": 0, "talk": "main", "text": typed}]))
    assert [it.says for it in trace.events if it.ref == "dim" and it.says] == (
        [f"Dim: Level {level}"] if level is not None else []
    )
    assert (because in " ".join(it.lost_because for it in trace.lost)) if because else not trace.lost
    said = rehearse(plan, load_catalog(), read_events([moved("dim", 0, level=128)]))
    assert [it.bytes_hex for it in said.events if it.stage == "nodes.phone"] == ["aa528060"]
    assert codes(findings_of(plan)) == set()


@pytest.mark.parametrize(
    ("after_s", "gap_s", "heard"),
    [(0.5, None, ["on", "off"]), (0.12, None, ["on", "off"]), (0.05, None, []), (0.05, 0.02, ["on", "off"]), (0.0, 0.02, [])],
)
def test_a_pause_ends_a_word_and_two_that_come_too_soon_are_one(after_s: float, gap_s: float | None, heard: list[str]) -> None:
    """100 ms where nothing else is settled: twice the 50 ms between two packets of these radios at most. From memory."""
    framing = {"kind": "gap"} | ({"gap_s": gap_s} if gap_s is not None else {})
    plan = plan_with(words(framing, on="glow", off="dark"))
    said = [{"kind": "word", "talk": "main", "word": word, "t_s": t_s} for word, t_s in (("on", 0), ("off", after_s))]
    trace = rehearse(plan, load_catalog(), read_events(said))
    assert [it.ref for it in trace.events if it.stage == "vocabularies.words" and it.ref in ("on", "off")] == heard
    assert [it.lost_because for it in trace.lost] == ([] if heard else ["g l o w d a r k is no word here"])
    if heard:
        first = next(it.t_s for it in trace.events if it.ref == "on")
        assert first == pytest.approx(0.035 + 4 * 10 / 9600 + (gap_s or 0.1)), "a word acts once the line has been quiet"
    assert codes(findings_of(plan)) == set()
