"""The phone sheet: what is typed into which slot, with what goes out, as rows, CSV and JSON."""

import csv
import json
from io import StringIO

import pytest

from oddlamp.catalog.load import load_catalog
from oddlamp.core.plan.document import Document, edit_plan
from oddlamp.core.plan.model import Plan
from oddlamp.core.rehearsal.events import read_events
from oddlamp.core.rehearsal.simulate import rehearse
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.models import Option, Slot
from oddlamp.sheets.review import review
from oddlamp.sheets.slots import HEAD, slots_as, slots_of
from tests.builders import LF, plan_with, words

HASH: Document = {"kind": "terminated", "terminator": "#"}


def slots(*patches: Document) -> list[Slot]:
    design = resolve(plan_with(*patches), load_catalog())
    return list(slots_of(design, design.handsets["phone"]))


def test_each_control_says_what_to_type_and_what_goes_out() -> None:
    told = [(it.control, it.when, it.types, it.hex, it.decimal, it.ends, it.does) for it in slots()]
    assert told == [
        ("On", "pressed", "1", "31", "49", "nothing", "Lamp on"),
        ("Off", "pressed", "0", "30", "48", "nothing", "Lamp off"),
    ]


def test_a_line_ending_is_the_phones_and_any_other_is_typed() -> None:
    (on, _) = slots(words(LF, on="glow"), {"nodes": {"phone": {"appends": None}}})
    assert (on.types, on.hex, on.ends) == ("glow", "67 6C 6F 77 0A", "LF, which the phone adds")
    (on, _) = slots(words(HASH, on="glow"), {"nodes": {"phone": {"appends": None}}})
    assert (on.types, on.hex, on.ends) == ("glow#", "67 6C 6F 77 23", "nothing")


def test_a_value_is_told_with_its_bounds_and_a_gesture_by_its_name() -> None:
    slider = {"kind": "slider", "label": "Dimmer", "says": {"move": {"talk": "main", "word": "on"}}}
    held = {"kind": "button", "says": {"press": {"talk": "main", "word": "on"}, "release": {"talk": "main", "word": "off"}}}
    patch = {"nodes": {"phone": {"appends": None, "controls": {"dimmer": slider, "held": held}}}}
    found = slots(words(LF, on="B{level}"), patch)
    assert [(it.control, it.when, it.types) for it in found] == [
        ("Dimmer", "moved", "B{level}"),
        ("Held", "pressed", "B{level}"),
        ("Held", "let go", "0"),
    ]
    assert found[0].values == "{level} is 0 to 255, decimal"


def test_files_hold_the_same_rows() -> None:
    patches = (words(LF, on='say "glow", now'), {"nodes": {"phone": {"appends": None}}})
    table = list(csv.DictReader(StringIO(slots_as(iter(slots(*patches)), "csv"))))
    assert tuple(table[0]) == HEAD
    assert [(row["control"], row["type"], row["hex"]) for row in table] == [
        (it.control, it.types, it.hex) for it in slots(*patches)
    ]
    plain = [it.model_copy(update={"is_a": None}) for it in slots(*patches)]
    assert [Slot.model_validate(it) for it in json.loads(slots_as(iter(slots(*patches)), "json"))] == plain


@pytest.mark.parametrize(
    ("label", "told", "gestures"),
    [
        ("Held: says Off when let go", [("On", "pressed"), ("On", "let go")], ("press", "release")),
        ("A switch: says Off when off", [("On", "switched on"), ("On", "switched off")], ("on", "off")),
    ],
)
def test_a_button_is_made_one_that_is_held_or_a_switch_and_back(
    label: str, told: list[tuple[str, str]], gestures: tuple[str, ...]
) -> None:
    """One control says both words then, and the one that was proposed for the second is gone."""
    plan = plan_with()

    def kinds(of: Plan) -> dict[str, Option]:
        design = resolve(of, load_catalog())
        first = next(slots_of(design, design.handsets["phone"]))
        return {it.label: it for it in first.is_a.options} if first.is_a is not None else {}

    assert [it.label for it in kinds(plan).values() if it.is_chosen] == ["A button"]
    changed = edit_plan(plan, kinds(plan)[label].patch)
    design = resolve(changed, load_catalog())
    assert [(it.control, it.when) for it in slots_of(design, design.handsets["phone"])] == told
    assert [it.gestures for it in review(changed, load_catalog()).phone] == [gestures]
    assert [it.label for it in kinds(changed).values() if it.is_chosen] == [label]
    events = [{"kind": "control", "control": "on", "gesture": it, "t_s": n} for n, it in enumerate(gestures)]
    lamp = rehearse(changed, load_catalog(), read_events(events)).lamps["lamp.main"]
    assert [it.current_a > 0 for it in lamp] == [False, True, False]
    back = edit_plan(changed, kinds(changed)["A button"].patch)
    assert [it.gestures for it in review(back, load_catalog()).phone] == [("press",), ("press",)]
