"""The rule for what is soldered: an edit does not move it, and says so."""

from collections.abc import Iterator

from oddlamp.core.base import Working, offered, si
from oddlamp.core.checks.pins import line_name
from oddlamp.core.design import Design
from oddlamp.core.findings import Breach, Move
from oddlamp.core.plan.built import Drift, freeze_patch
from oddlamp.core.plan.document import at_path

NAMES = {
    "pin": ("on pin", ""),
    "resistor_ohm": ("with", "ohm"),
    "led": ("with", ""),
    "school": ("as", ""),
    "upper_ohm": ("with, from the sender,", "ohm"),
    "lower_ohm": ("with, to ground,", "ohm"),
    "tolerance_ratio": ("with parts of", "ratio"),
}


def built_lines_stay(design: Design) -> Iterator[Breach]:
    """What is built is what the plan says."""
    for drift in design.drifts:
        name = line_name(design, drift.signal_id)
        preposition = NAMES[drift.field][0]
        built, wanted = _said(design, drift, drift.built), _said(design, drift, drift.wanted)
        crossing = design.crossings.get(drift.signal_id)
        pin = design.pins.get(drift.signal_id)
        owner = design.lamps.get(drift.signal_id.partition(".")[0])
        stage = pin.stage if drift.field == "pin" and pin else owner.stage if owner else crossing.stage if crossing else ""
        yield Breach(
            severity="look",
            where=f"{drift.signal_id}.{drift.field}",
            stage=stage,
            message=f"{name} is built {preposition} {built}. The plan now says {wanted}; what is built stays.",
            working=(Working(formula="built = planned", substituted=f"{built} ≠ {wanted}", source="common-practice"),),
            fixes=(
                Move(label=f"Keep {built}", patch=at_path(drift.path, drift.built)),
                Move(
                    label=f"It is rebuilt {preposition} {wanted}",
                    patch=freeze_patch(drift.signal_id, {drift.field: drift.wanted}),
                ),
            ),
            numbers={"values": 1},
        )


def _said(design: Design, drift: Drift, value: float | str) -> str:
    if isinstance(value, str):
        schools = {"direct": "a straight wire", "divider": "two resistors"}
        led = design.catalog.leds.get(value)
        return f"{offered(led.label)} LED" if drift.field == "led" and led else schools.get(value, value)
    return si(value, NAMES[drift.field][1])
