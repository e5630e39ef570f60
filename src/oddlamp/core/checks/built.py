"""The rule for what is soldered: an edit does not move it, and says so."""

from collections.abc import Iterator
from typing import Final

from oddlamp.core.base import Working, si
from oddlamp.core.checks.findings import Breach, Move, Rule
from oddlamp.core.design.design import Design
from oddlamp.core.english import offered
from oddlamp.core.plan.built import BuiltDifference, freeze_patch
from oddlamp.core.plan.changes import unit_of
from oddlamp.core.plan.document import at_path
from oddlamp.core.plan.model import Settled
from oddlamp.core.resolve.schools import SCHOOLS

# What stands before the value of a built line; "with" for all that is a part.
PREPOSITIONS = {
    "pin": "on pin",
    "far_pin": "at its far end on pin",
    "upper_ohm": "with, from the sender,",
    "lower_ohm": "with, to ground,",
    "tolerance_ratio": "with parts of",
    "school": "with",
    "common": "with its common leg as",
    "pull_to": "pulled to",
}
FLAGS = {
    "is_omitted": ("no wire", "a wire"),
    "has_flyback": ("a diode over its coil", "no diode over its coil"),
    "has_pull_down": ("a resistor that holds its gate", "nothing that holds its gate"),
}


def built_lines_stay(design: Design) -> Iterator[Breach]:
    """What is built is what the plan says."""
    for it in design.built_differences:
        signal = design.signals.get(it.signal_id)
        if signal is None:
            continue
        preposition = PREPOSITIONS.get(it.path[-1], "with")
        built, wanted = _said(design, it, it.built), _said(design, it, it.wanted)
        yield Breach(
            severity="look",
            where=f"{it.signal_id}.{it.path[-1]}",
            stage=signal.pin.stage if signal.pin and it.path == signal.pin.path else signal.line.stage,
            message=f"{signal.line.name} is built {preposition} {built}. The plan now says {wanted}; what is built stays.",
            working=(Working(formula="built = planned", substituted=f"{built} ≠ {wanted}", source="common-practice"),),
            fixes=(
                Move(label=f"Keep {built}", patch=at_path(it.path, it.built)),
                Move(label=f"It is rebuilt {preposition} {wanted}", patch=freeze_patch(it.signal_id, {it.path: it.wanted})),
            ),
            numbers={"values": 1},
        )


def _said(design: Design, it: BuiltDifference, value: Settled) -> str:
    field = it.path[-1]
    if isinstance(value, bool):
        yes, no = FLAGS.get(field, ("yes", "no"))
        return yes if value else no
    if not isinstance(value, str):
        return si(value, unit_of(it.path))
    if field == "part":
        return _part(design, it.path, value)
    if field == "school" and value in SCHOOLS:
        return SCHOOLS[value].built
    return {"pin": "the pin alone", "npn": "an NPN transistor", "mosfet": "a MOSFET"}.get(value, value)


def _part(design: Design, path: tuple[str, ...], part: str) -> str:
    catalog = design.catalog
    if path[-2] == "led" and part in catalog.leds:
        return f"{offered(catalog.leds[part].label)} LED"
    for table in (catalog.transistors, catalog.loads, catalog.pixels):
        if part in table:
            return offered(table[part].label)
    return part


RULES: Final = (
    Rule(
        "BUILT-DIFFERS",
        "line",
        built_lines_stay,
        "",
        "a value of a built line was edited after it was built; the built value stays in force",
        "common practice",
    ),
)
