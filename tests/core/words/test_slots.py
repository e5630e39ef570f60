"""The phone sheet: what is typed into which slot, with what goes out, as rows, CSV and JSON."""

import csv
import json
from io import StringIO

from oddlamp.catalog.load import load_catalog
from oddlamp.core.plan.document import Document
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.models import Slot
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
    assert [Slot.model_validate(it) for it in json.loads(slots_as(iter(slots(*patches)), "json"))] == slots(*patches)
