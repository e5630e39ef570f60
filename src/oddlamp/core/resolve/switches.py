"""The switch between a pin and its load, resolved: which transistor, what in its base or gate, what the pin gives."""

from typing import Final

from oddlamp.core.base import Working, si
from oddlamp.core.design.lamps import SwitchDesign
from oddlamp.core.design.supplies import NodeDesign, Picked
from oddlamp.core.design.values import Origin, Slot, SlotMaker, Value
from oddlamp.core.electrical.drivers import base_drive
from oddlamp.core.electrical.led import Spread
from oddlamp.core.electrical.preferred import FLOAT_SLACK, Series
from oddlamp.core.parts.models import Catalog, TransistorPart
from oddlamp.core.parts.own import as_used
from oddlamp.core.plan.lights import Drive, DriveValues
from oddlamp.core.resolve.chosen import own_figures, pick_part

SCHOOLS = {"pin": "Straight from the pin", "npn": "NPN transistor", "mosfet": "MOSFET"}
# What another switch has worked out anew; a diode over the coil and a pull-down stay as they are.
SIZED_ANEW: Final = {"base_ohm": None, "gate_ohm": None}


def pick_school(drive: Drive | None, *, needs_switch: bool, why: str = "a pin cannot carry this load") -> Picked:
    """Return how a load is driven: as the plan says, else by a MOSFET where a pin cannot, and why."""
    if drive is not None and drive.school is not None:
        return Picked(drive.school, SCHOOLS[drive.school], "own")
    if needs_switch:
        return Picked("mosfet", SCHOOLS["mosfet"], "proposed", why)
    return Picked("pin", SCHOOLS["pin"], "proposed", "a pin can carry this load")


def switch_part(
    drive: Drive | None, school: str, catalog: Catalog, *, load_a: float, rail_v: float, pin_v: float
) -> tuple[TransistorPart, Picked]:
    """Return the transistor of a drive: chosen, or proposed as the usual one, or the easiest that is enough where that is not."""
    part_id, choice = pick_part(drive.choice if drive else None, proposal=school, catalog=catalog)
    why, usual = choice.why, catalog.transistor(part_id)
    if choice.origin == "proposed" and not is_enough(usual, load_a=load_a, rail_v=rail_v, pin_v=pin_v):
        same = sorted((it for it in catalog.transistors.values() if it.kind == usual.kind), key=ease)
        better = next((it for it in same if is_enough(it, load_a=load_a, rail_v=rail_v, pin_v=pin_v)), None)
        if better is not None:
            part_id, why = better.id, f"the usual one is not enough for {si(load_a, 'A')} at {si(rail_v, 'V')}"
    part = as_used(catalog.transistor(part_id), own_figures(drive))
    return part, Picked(part_id, part.label, choice.origin, why)


def is_enough(part: TransistorPart, *, load_a: float, rail_v: float, pin_v: float) -> bool:
    """Whether a transistor carries a load, blocks its rail while off, and is driven fully by a pin's volts."""
    blocks, gate = part.blocks_v, part.gate_specified_v
    slack = 1 + FLOAT_SLACK
    return (
        load_a <= part.current_most_a.value * slack
        and (blocks is None or rail_v <= blocks.value * slack)
        and (gate is None or gate.value <= pin_v * slack)
    )


def ease(part: TransistorPart) -> tuple[float, float]:
    """Put transistors in order: the easier to drive first, then the smaller."""
    return (part.gate_specified_v.value if part.gate_specified_v else 0.0), part.current_most_a.value


def switch_drop(part: TransistorPart) -> tuple[Spread, Spread]:
    """Return the volts a switch keeps, and its resistance."""
    nothing = Spread(least=0.0, value=0.0, most=0.0)
    if part.saturation_v is not None:
        return Spread(least=part.saturation_v.low, value=part.saturation_v.value, most=part.saturation_v.high), nothing
    on_ohm = part.on_ohm
    if on_ohm is None:
        return nothing, nothing
    return nothing, Spread(least=on_ohm.low, value=on_ohm.value, most=on_ohm.high)


def resolve_switch(
    slot: SlotMaker,
    catalog: Catalog,
    host: NodeDesign,
    drive: Drive | None,
    school: Picked,
    chosen: tuple[TransistorPart, Picked] | None,
    load_a: float,
    series: Series,
) -> SwitchDesign | None:
    """Put a switch together for a load current; None where the pin's volts are not known."""
    if chosen is None or host.logic is None or host.logic.value is None:
        return None
    part, picked = chosen
    values = (drive.values if drive else None) or DriveValues()
    load = slot("switched_a", "Through the switch", "A").filled(load_a, origin="computed")
    if part.kind == "npn" and part.base_emitter_v is not None:
        return _npn(slot, part, picked, values, school, load, host.logic, part.base_emitter_v.value, series)
    return _mosfet(slot, catalog, part, picked, values, school, load, host.logic)


def _npn(
    slot: SlotMaker,
    part: TransistorPart,
    picked: Picked,
    values: DriveValues,
    school: Picked,
    load: Value,
    logic: Value,
    base_emitter_v: float,
    e_series: Series,
) -> SwitchDesign | None:
    if logic.known <= base_emitter_v:
        return None
    load_a = max(load.known, 1e-9)
    base = base_drive(
        pin_v=logic.known,
        base_emitter_v=base_emitter_v,
        collector_current_a=load_a,
        resistance_ohm=values.base_ohm,
        series=e_series,
    )
    origin: Origin = "proposed" if values.base_ohm is None else "own"
    why = "gives the base a tenth of the load's current"
    series = slot("base_ohm", "Base resistor", "ohm", ("drive", "values", "base_ohm")).filled(
        base.resistance_ohm, origin=origin, because=why if origin == "proposed" else None, working=base.working
    )
    pin = slot("base_a", "Into the base", "A").filled(base.base_current_a, origin="computed", working=base.working[1:])
    return SwitchDesign(school, part, picked, load, series, pin, base, None, None, True)


def _mosfet(
    slot: SlotMaker,
    catalog: Catalog,
    part: TransistorPart,
    picked: Picked,
    values: DriveValues,
    school: Picked,
    load: Value,
    logic: Value,
) -> SwitchDesign:
    gate, pull = catalog.proposals["gate"], catalog.proposals["gate_pull_down"]
    series = _kept(
        slot("gate_ohm", "Gate resistor", "ohm", ("drive", "values", "gate_ohm")), values.gate_ohm, gate.value or 100.0, gate.why
    )
    down = _kept(
        slot("pull_down_ohm", "Gate to ground", "ohm", ("drive", "values", "pull_down_ohm")),
        values.pull_down_ohm,
        pull.value or 1e5,
        pull.why,
    )
    has_pull_down = values.has_pull_down is not False
    gate_v = logic.known * (down.known / (down.known + series.known) if has_pull_down else 1.0)
    put_in = f"{logic.text} · {down.text} / ({down.text} + {series.text}) = {si(gate_v, 'V')}" if has_pull_down else logic.text
    working = Working(formula="V_GS = V_pin · R_down / (R_down + R_gate)", substituted=put_in, source="horowitz-hill")
    volts = slot("gate_v", "At the gate", "V").filled(
        gate_v,
        origin="computed",
        spread=(gate_v / logic.known * logic.low, gate_v / logic.known * logic.high),
        working=(working,),
    )
    pin_a = logic.known / (series.known + down.known) if has_pull_down else 0.0
    pin = slot("gate_a", "Into the gate at rest", "A").filled(pin_a, origin="computed", digits=2)
    return SwitchDesign(school, part, picked, load, series, pin, None, volts, down, has_pull_down)


def _kept(slot: Slot, own: float | None, proposed: float, why: str) -> Value:
    if own is not None:
        return slot.filled(own, origin="own")
    return slot.filled(proposed, origin="proposed", because=why)
