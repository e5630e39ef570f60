"""Loads that set their own current: relays, buzzers, strips, matrix modules, and pixels at full white."""

from oddlamp.core.base import Working, plural, si
from oddlamp.core.design import LoadDesign, NodeDesign, Picked, RailDesign
from oddlamp.core.electrical.drivers import relay_module_current_a
from oddlamp.core.electrical.supplies import pick_part
from oddlamp.core.electrical.switches import SlotMaker
from oddlamp.core.parts.models import Catalog, LoadPart
from oddlamp.core.plan.fields import OwnValue
from oddlamp.core.plan.lights import Lamp
from oddlamp.core.values import Slot, Value

METRE = 1.0
COLOURS_EACH = 3


def resolve_load(slot: SlotMaker, catalog: Catalog, lamp: Lamp, host: NodeDesign, rail: RailDesign | None) -> LoadDesign:
    """Work out what a load takes from its rail, and what it asks of a pin that would drive it alone."""
    choice = getattr(lamp, "choice", None)
    part_id, picked = pick_part(choice, proposal=lamp.kind, catalog=catalog)
    overrides = choice.overrides if choice else {}
    current = slot("load_a", "It takes", "A")
    volts = rail.voltage if rail and rail.voltage.value is not None else None
    if lamp.kind in ("pixels-one-wire", "pixels-clocked"):
        return _pixels(slot, catalog, lamp, part_id, picked, current, volts)
    part = catalog.load(part_id)
    rated = slot("rated_v", "Made for", "V").stated(part.voltage_v)
    drive = getattr(lamp, "drive", None)
    has_flyback = bool(drive and drive.values and drive.values.has_flyback)
    off: Value | None = None
    if part.kind == "relay-module":
        taken, off = _module_input(slot, current, part, host, volts)
        if drive is not None and drive.school not in (None, "pin"):
            off = None  # a switch to ground lets the input go all the way up to the module's own supply
    else:
        taken = _taken(current, part, lamp, overrides, volts)
    return LoadDesign(
        part_id=part_id,
        label=part.label,
        picked=Picked(part_id, part.label, picked.origin, picked.why),
        current=taken,
        rated=rated,
        rail=volts,
        is_coil=part.is_coil,
        has_flyback=has_flyback,
        is_mains_side=part.is_mains_side,
        off_current=off,
    )


def _taken(slot: Slot, part: LoadPart, lamp: Lamp, overrides: dict[str, OwnValue], volts: Value | None) -> Value:
    if part.coil_ohm is not None:
        if volts is None:
            return slot.empty("no rail feeds it")
        own = overrides.get("coil_ohm")
        low, ohm, high = (
            (own.least or own.value, own.value, own.most or own.value)
            if own
            else (part.coil_ohm.low, part.coil_ohm.value, part.coil_ohm.high)
        )
        current_a = volts.known / ohm
        put_in = f"{volts.text} / {si(ohm, 'ohm')} = {si(current_a, 'A')}"
        working = Working(formula="I = V / R_coil", substituted=put_in, source="horowitz-hill")
        return slot.filled(current_a, origin="computed", spread=(volts.low / high, volts.high / low), working=(working,))
    if "current_a" in overrides:
        return slot.own(overrides["current_a"])
    if part.current_a is None:
        return slot.empty("its current is not known: give it")
    if lamp.kind == "strip":
        length_m = lamp.length_m if lamp.length_m is not None else METRE
        current_a = part.current_a.value * length_m
        put_in = f"{si(part.current_a.value, 'A')} a metre · {si(length_m, 'm')} = {si(current_a, 'A')}"
        working = Working(formula="I = I_metre · length", substituted=put_in, source=part.current_a.source)
        because = "one metre of it" if lamp.length_m is None else None
        return slot.filled(current_a, origin="computed", because=because, working=(working,))
    count = (lamp.count or 1) if lamp.kind == "matrix" else 1
    if count > 1:
        put_in = f"{count} · {si(part.current_a.value, 'A')} = {si(count * part.current_a.value, 'A')}"
        working = Working(formula="I = n · I_module", substituted=put_in, source=part.current_a.source)
        return slot.filled(count * part.current_a.value, origin="computed", working=(working,))
    return slot.stated(part.current_a)


def _module_input(
    slot: SlotMaker, current: Slot, part: LoadPart, host: NodeDesign, volts: Value | None
) -> tuple[Value, Value | None]:
    """Work out the input of an opto module that is on when its pin is low, and what still flows while the pin is high."""
    logic = host.logic
    if volts is None or logic is None or logic.value is None or part.optocoupler_v is None or part.input_ohm is None:
        return current.empty("no rail feeds it"), None
    drop_v, ohm = part.optocoupler_v.value, part.input_ohm.value

    def at(pin_v: float) -> tuple[float, Working]:
        flows = relay_module_current_a(module_v=volts.known, pin_v=pin_v, drop_v=drop_v, resistance_ohm=ohm)
        put_in = f"({volts.text} − {si(pin_v, 'V')} − {si(drop_v, 'V')}) / {si(ohm, 'ohm')} = {si(flows, 'A')}"
        formula = "I = (V_module − V_pin − V_opto) / R"
        return flows, Working(formula=formula, substituted=put_in, source="horowitz-hill")

    on_a, on_working = at(0.0)
    off_a, off_working = at(logic.known)
    off = slot("off_a", "While the pin is high", "A").filled(off_a, origin="computed", working=(off_working,), digits=2)
    return current.filled(on_a, origin="computed", working=(on_working,)), off


def _pixels(
    slot: SlotMaker, catalog: Catalog, lamp: Lamp, part_id: str, picked: Picked, current: Slot, volts: Value | None
) -> LoadDesign:
    part = catalog.pixel(part_id)
    layout = getattr(lamp, "layout", None)
    count = sum(run.count for run in layout.runs) if layout else 0
    full_a = count * (COLOURS_EACH * part.colour_current_a.value)
    put_in = f"{plural(count, 'pixel')} · 3 · {si(part.colour_current_a.value, 'A')} = {si(full_a, 'A')}"
    working = Working(formula="I = n · 3 · I_colour, all white", substituted=put_in, source=part.colour_current_a.source)
    taken = (
        current.filled(full_a, origin="computed", working=(working,)) if count else current.empty("no pixels are laid out yet")
    )
    return LoadDesign(
        part_id=part_id,
        label=part.label,
        picked=Picked(part_id, part.label, picked.origin, picked.why),
        current=taken,
        rated=slot("rated_v", "Made for", "V").stated(part.voltage_v),
        rail=volts,
        is_coil=False,
        has_flyback=False,
        is_mains_side=False,
    )
