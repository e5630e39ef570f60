"""What changed, where two edits meet, what moves: between plans, and between their reviews."""

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddlamp.catalog.load import load_catalog
from oddlamp.core.errors import PlanInvalid
from oddlamp.core.plan.changes import changes, clashes, differences
from oddlamp.core.plan.document import Document, dump_plan, edit_plan, load_plan, merge_patch
from oddlamp.core.plan.upgrades import upgrade
from oddlamp.sheets.answers import answers_text
from oddlamp.sheets.compare import compare
from oddlamp.sheets.review import review
from tests.builders import CLEAR, document, lamp, plan_with

TREES = st.recursive(
    st.integers(0, 3) | st.text("ab", max_size=2),
    lambda inner: st.dictionaries(st.sampled_from("xyz"), inner, max_size=3),
    max_leaves=8,
)
DOCUMENTS = st.dictionaries(st.sampled_from("xyz"), TREES, max_size=3)


def put(document: Any, path: tuple[str, ...], value: Any) -> Any:
    """Reference: write one place of a document, None takes it away."""
    if not path:
        return value
    out = dict(document) if isinstance(document, dict) else {}
    inner = put(out.get(path[0]), path[1:], value)
    if inner is None:
        out.pop(path[0], None)
    else:
        out[path[0]] = inner
    return out


@given(DOCUMENTS, DOCUMENTS)
def test_differences_lead_from_one_document_to_the_other(before: Document, after: Document) -> None:
    whole: Any = before
    for path, (_, new) in differences(before, after).items():
        whole = put(whole, path, new)
    assert whole == after


@given(DOCUMENTS, DOCUMENTS, DOCUMENTS)
def test_edits_that_do_not_clash_commute(base: Document, mine: Document, theirs: Document) -> None:
    """Where no clash is told, either order of the two edits gives the same document, and it holds both."""
    ours, others = differences(base, mine), differences(base, theirs)
    if clashes(base, theirs, mine):
        return
    one: Any = theirs
    for path, (_, new) in ours.items():
        one = put(one, path, new)
    other: Any = mine
    for path, (_, new) in others.items():
        other = put(other, path, new)
    assert one == other


@pytest.mark.parametrize(
    ("theirs", "mine", "met"),
    [
        (lamp(resistor_ohm=82), lamp(resistor_ohm=91), [("Lamp, resistor", "75 Ω", "82 Ω", "91 Ω")]),
        (lamp(resistor_ohm=82), lamp(resistor_ohm=82), []),
        (lamp(resistor_ohm=82), {"title": "Other"}, []),
        (lamp(resistor_ohm=82), lamp(wanted_current_a=0.01), []),
        ({"lamps": {"lamp": None}}, lamp(resistor_ohm=91), [("Lamp", "Lamp", "", "Lamp")]),
        ({"title": "A"}, {"title": "B"}, [("title", "One lamp", "A", "B")]),
        ({"nodes": {"phone": {"speaks": ["ble"]}}}, {"nodes": {"phone": {"speaks": []}}}, [("Phone, speaks", "classic", "ble", "none")]),
    ],
)  # fmt: skip
def test_two_edits_meet_only_in_the_same_place(theirs: Document, mine: Document, met: list[tuple[str, ...]]) -> None:
    base = dump_plan(load_plan(CLEAR))
    sides = [merge_patch(base, patch) for patch in (theirs, mine)]
    found = [(it.label, it.was, it.theirs, it.yours) for it in clashes(base, *sides)]
    assert [tuple(text.replace("\u00a0", " ") for text in row) for row in found] == met


def test_changes_are_told_in_plain_words() -> None:
    told = changes(dump_plan(load_plan(CLEAR)), dump_plan(plan_with(lamp(resistor_ohm="4k7", wanted_current_a=None))))
    assert [(it.label, it.before.replace("\u00a0", " "), it.after.replace("\u00a0", " ")) for it in told] == [
        ("Lamp, wanted current", "20 mA", ""),
        ("Lamp, resistor", "75 Ω", "4.7 kΩ"),
    ]


def test_comparing_tells_which_numbers_and_verdicts_moved() -> None:
    before, after = plan_with(), plan_with(lamp(resistor_ohm=47))
    catalog = load_catalog()
    told = compare((before, review(before, catalog)), (after, review(after, catalog)))
    moved = {it.id: (it.before.replace("\u00a0", " "), it.after.replace("\u00a0", " ")) for it in told.values}
    assert moved["lamp.main.resistor_ohm"] == ("75 Ω", "47 Ω")
    assert moved["lamp.main.current_a"][1].startswith("29.8 mA"), "1.4 V across 47 ohm"
    assert next((it.key, it.before, it.after) for it in told.findings) == ("LED-OVER@lamp.main", "clear", "look")
    assert "get worse" in told.sentence
    back = compare((after, review(after, catalog)), (before, review(before, catalog)))
    assert {(it.before, it.after) for it in back.findings} == {("look", "clear")}
    same = compare((before, review(before, catalog)), (before, review(before, catalog)))
    assert (same.sentence, same.values, same.findings, same.changes) == ("Nothing differs.", (), (), ())


def test_answers_as_text_hold_the_numbers_and_the_verdicts() -> None:
    text = answers_text(review(load_plan(document("footlights")), load_catalog())).replace("\u00a0", " ")
    assert "25 mA flows through Footlight 3" in text
    assert "STOP: By its resistor alone Footlight 3 gets 38.3 mA. It can stand 30 mA. Clear from 91 Ω up. [LED-OVER]" in text
    assert "Not judged" not in text


def test_a_plan_of_version_0_is_brought_up_to_date() -> None:
    old = {key: value for key, value in CLEAR.items() if key not in ("format", "schema_version", "lamps")}
    old["lamps"] = [{"id": name, **it} for name, it in CLEAR["lamps"].items()]
    read, was = upgrade(old)
    assert was == 0
    assert dump_plan(load_plan(read)) == dump_plan(load_plan(CLEAR))
    assert isinstance(old["lamps"], list), "the file itself is left as it was"


@pytest.mark.parametrize("given", [CLEAR, {**CLEAR, "schema_version": 2}, {**CLEAR, "schema_version": "0"}, [], {"format": "x"}])
def test_other_documents_are_passed_on_as_they_are(given: Any) -> None:
    assert upgrade(given) == (given, None)


def test_deep_documents_are_refused_before_they_are_walked() -> None:
    deep: Any = 1
    for _ in range(900):
        deep = {"x": deep}
    for refused in (lambda: load_plan(deep), lambda: edit_plan(plan_with(), deep), lambda: upgrade(deep)):
        with pytest.raises(PlanInvalid, match="levels"):
            refused()


def test_plans_kept_beside_the_tests_are_never_upgraded() -> None:
    assert upgrade(document("smallest")) == (document("smallest"), None)


@pytest.mark.parametrize(
    ("patch", "label", "before", "after"),
    [
        ({"title": "New"}, "title", "One lamp", "New"),
        ({"lamps": {"lamp": {"label": "Moon"}}}, "Moon, label", "Lamp", "Moon"),
        ({"lamps": {"lamp": {"drive": {"school": "npn"}}}}, "Lamp", "", "npn"),
        ({"lamps": {"new": {"kind": "led", "label": "Star", "host": "board"}}}, "Star", "", "Star"),
        ({"links": {"serial": {"baud_rate_bd": 19200}}}, "Link serial, baud rate", "9600 Bd", "19200 Bd"),
        ({"nodes": {"phone": {"appends": "lf"}}}, "Phone, appends", "", "lf"),
        ({"nodes": {"radio": {"setup": {"name": "LANTERN"}}}}, "Radio", "", "LANTERN"),
        ({"signals": {"lamp.main": {"pin": "9"}}}, "Line lamp, main", "", "9"),
        ({"signals": {"serial.b_to_a": {"is_omitted": True}}}, "Line serial, b to a, is omitted", "", "yes"),
        ({"drawer": [100, 4700]}, "drawer", "", "100, 4700"),
        ({"rules": {"r2": None}}, "Rule r2", "host, when, do", ""),
        ({"vocabularies": {"words": {"words": {"on": {"sent": "x"}}}}}, "Words words, on sent", "1", "x"),
    ],
)
def test_each_kind_of_change_reads_as_people_speak(patch: Document, label: str, before: str, after: str) -> None:
    told = changes(dump_plan(load_plan(CLEAR)), dump_plan(plan_with(patch)))
    assert len(told) == 1
    assert told[0].label == label
    shown = (told[0].before.replace("\u00a0", " "), told[0].after.replace("\u00a0", " "))
    assert shown[0] == before or (before and before in shown[0])
    assert shown[1] == after or (after and after in shown[1])


@pytest.mark.parametrize("name", ["smallest", "paper-moon", "two-wings", "foyer-star", "prompters-nudge"])
def test_a_plan_against_itself_moves_nothing(name: str) -> None:
    plan = load_plan(document(name))
    shown = review(plan, load_catalog(), stages=())
    told = compare((plan, shown), (plan, shown))
    assert (told.sentence, told.changes, told.values, told.findings) == ("Nothing differs.", (), (), ())


@pytest.mark.parametrize("name", ["smallest", "paper-moon", "two-wings", "foyer-star", "prompters-nudge"])
def test_answers_of_every_plan_name_every_stage(name: str) -> None:
    shown = review(load_plan(document(name)), load_catalog())
    text = answers_text(shown)
    assert text.startswith(shown.title)
    assert text.endswith("\n")
    for stage in shown.line.stages:
        assert shown.sheets[stage.id].sentence in text
    for finding in shown.findings:
        assert f"[{finding.code}]" in text


def test_parts_and_ladders_read_as_people_speak() -> None:
    after = merge_patch(
        CLEAR,
        {
            "parts": {"own-one": {"table": "leds", "like": "led-red", "label": "Red from the tin"}},
            "lamps": {"lamp": {"ladder": {"steps": 5}}},
        },
    )
    read = {it.label: (it.before, it.after) for it in changes(CLEAR, after)}
    assert read["parts"] == ("", "Red from the tin")
    assert read["Lamp, ladder"] == ("", "steps 5")
    told = merge_patch(after, {"parts": {"own-one": {"figures": {"forward_voltage_v": {"value": 1.9}}}}})
    assert [(it.label, it.before, it.after) for it in changes(after, told)] == [("Part Red from the tin", "", "forward voltage")]
    better = merge_patch(told, {"parts": {"own-one": {"figures": {"forward_voltage_v": {"value": 1.8}}}}})
    (change,) = changes(told, better)
    assert (change.label, change.before, change.after) == ("Part Red from the tin, forward voltage", "1.90\u00a0V", "1.80\u00a0V")
