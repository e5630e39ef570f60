"""Loads that set their own current: relays, buzzers, strips, matrix modules, and pixels at full white."""

from oddlamp.core.base import Working, si
from oddlamp.core.design.lamps import LoadDesign, OptoInput, SwitchDesign, ToneDesign
from oddlamp.core.design.supplies import NodeDesign, Picked, RailDesign
from oddlamp.core.design.values import Origin, Slot, SlotMaker, Value
from oddlamp.core.electrical.drivers import relay_module_current_a
from oddlamp.core.electrical.tones import nearest_note, tone_half_period_s
from oddlamp.core.english import plural
from oddlamp.core.parts.models import Catalog, LoadPart, PixelPart
from oddlamp.core.parts.own import as_used
from oddlamp.core.plan.lights import Lamp
from oddlamp.core.resolve.chosen import own_figures, pick_part
from oddlamp.core.resolve.switches import switch_drop

METRE = 1.0
COLOURS_EACH = 3


def resolve_load(slot: SlotMaker, catalog: Catalog, lamp: Lamp, host: NodeDesign, rail: RailDesign | None) -> LoadDesign:
    """Work out what a load takes from its rail, and what it asks of a pin that would drive it alone."""
    choice = getattr(lamp, "choice", None)
    part_id, picked = pick_part(choice, proposal=lamp.kind, catalog=catalog)
    overrides = own_figures(lamp)
    current = slot("load_a", "It takes", "A")
    volts = rail.voltage if rail and rail.voltage.value is not None else None
    if lamp.kind in ("pixels-one-wire", "pixels-clocked"):
        return _pixels(slot, as_used(catalog.pixel(part_id), overrides), lamp, picked, current, volts)
    part = as_used(catalog.load(part_id), overrides)
    rated = slot("rated_v", "Made for", "V").stated(part.voltage_v)
    drive = getattr(lamp, "drive", None)
    # A coil's diode is proposed: only who says that it is left out has none.
    has_flyback = part.is_coil and not (drive and drive.values and drive.values.has_flyback is False)
    off: Value | None = None
    if part.kind == "relay-module":
        taken, off = _module_input(slot, current, part, host, volts)
        if drive is not None and drive.school not in (None, "pin"):
            off = None  # a switch to ground lets the input go all the way up to the module's own supply
    else:
        taken = _taken(current, part, lamp, volts)
    is_switched = drive is not None and drive.school in ("npn", "mosfet")
    holds_f = part.capacitance_f.value if is_switched and part.capacitance_f is not None else None
    across_ohm = drive.values.across_ohm if holds_f is not None and drive is not None and drive.values is not None else None
    if across_ohm is not None:
        taken = _with_across(current, taken, across_ohm, volts)
    return LoadDesign(
        part_id=part_id,
        label=part.label,
        picked=Picked(part_id, part.label, picked.origin, picked.why),
        current=taken,
        rated=rated,
        works_from=slot("works_from_v", "Works, dimmer, from", "V").stated(part.works_from_v) if part.works_from_v else None,
        rail=volts,
        is_coil=part.is_coil,
        has_flyback=has_flyback,
        is_flyback_settled=bool(drive and drive.values and drive.values.has_flyback is not None),
        is_mains_side=part.is_mains_side,
        off_current=off,
        input=OptoInput(part.optocoupler_v.value, part.input_ohm.value) if part.optocoupler_v and part.input_ohm else None,
        on_when=part.on_when if off is not None else "high",
        tone=_tone(slot, catalog, part, lamp) if part.kind == "buzzer" else None,
        holds_f=holds_f,
        rail_ohm=part.rail_ohm.value if part.rail_ohm is not None else None,
        supply_a=part.current_a.value if part.kind == "relay-module" and part.current_a is not None else None,
        across=None
        if across_ohm is None
        else slot("across_ohm", "Across the disc", "ohm", ("drive", "values", "across_ohm")).filled(across_ohm, origin="own"),
    )


def _tone(slot: SlotMaker, catalog: Catalog, part: LoadPart, lamp: Lamp) -> ToneDesign:
    """Work out what a buzzer sounds at; one that sounds by itself takes no tone from its pin."""
    own, usual = getattr(lamp, "tone_hz", None), catalog.proposals["tone"]
    frequency_hz = own or usual.value or 2000.0
    origin: Origin = "proposed" if own is None else "own"
    half_s = tone_half_period_s(frequency_hz)
    note, cents = nearest_note(frequency_hz)
    off = "" if abs(cents) < 1 else f", {abs(cents):.0f} cents {'over' if cents > 0 else 'under'} it"
    put_in = f"1 / (2 · {si(frequency_hz, 'Hz', digits=4)}) = {si(half_s, 's', digits=4)}"
    working = Working(formula="t_high = t_low = 1 / (2 f)", substituted=put_in, source="iso-16")
    return ToneDesign(
        frequency=slot("tone_hz", "Tone", "Hz", ("tone_hz",)).filled(
            frequency_hz, origin=origin, because=usual.why if own is None else None, digits=4
        ),
        half_period=slot("half_period_s", "High, then low, for", "s").filled(
            half_s, origin="computed", working=(working,), digits=4
        ),
        note=f"nearest note {note}{off}",
        least_hz=part.tone_hz.low if part.tone_hz else None,
        most_hz=part.tone_hz.high if part.tone_hz else None,
        makes_own=not part.is_tone,
    )


def _taken(slot: Slot, part: LoadPart, lamp: Lamp, volts: Value | None) -> Value:
    if part.coil_ohm is not None:
        if volts is None:
            return slot.empty("no rail feeds it")
        low, ohm, high = part.coil_ohm.low, part.coil_ohm.value, part.coil_ohm.high
        current_a = volts.known / ohm
        put_in = f"{volts.text} / {si(ohm, 'ohm')} = {si(current_a, 'A')}"
        working = Working(formula="I = V / R_coil", substituted=put_in, source="horowitz-hill")
        return slot.filled(current_a, origin="computed", spread=(volts.low / high, volts.high / low), working=(working,))
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


def _with_across(slot: Slot, taken: Value, ohm: float, volts: Value | None) -> Value:
    """Add what the resistor across a disc takes while it is on."""
    if taken.value is None or volts is None:
        return taken
    both_a = taken.known + volts.known / ohm
    put_in = f"{taken.text} + {volts.text} / {si(ohm, 'ohm')} = {si(both_a, 'A')}"
    return slot.filled(
        both_a, origin="computed", working=(Working(formula="I = I_disc + V / R", substituted=put_in, source="horowitz-hill"),)
    )


def _module_input(
    slot: SlotMaker, current: Slot, part: LoadPart, host: NodeDesign, volts: Value | None
) -> tuple[Value, Value | None]:
    """Work out the input of an opto module while it is on, and what still flows while it is off."""
    logic = host.logic
    if volts is None or logic is None or logic.value is None or part.optocoupler_v is None or part.input_ohm is None:
        return current.empty("no rail feeds it"), None
    drop_v, ohm = part.optocoupler_v.value, part.input_ohm.value

    def at(pin_v: float) -> tuple[float, Working]:
        if part.on_when == "high":
            flows = max(0.0, pin_v - drop_v) / ohm
            put_in = f"({si(pin_v, 'V')} − {si(drop_v, 'V')}) / {si(ohm, 'ohm')} = {si(flows, 'A')}"
            return flows, Working(formula="I = (V_pin − V_opto) / R", substituted=put_in, source="horowitz-hill")
        flows = relay_module_current_a(module_v=volts.known, pin_v=pin_v, drop_v=drop_v, resistance_ohm=ohm)
        put_in = f"({volts.text} − {si(pin_v, 'V')} − {si(drop_v, 'V')}) / {si(ohm, 'ohm')} = {si(flows, 'A')}"
        formula = "I = (V_module − V_pin − V_opto) / R"
        return flows, Working(formula=formula, substituted=put_in, source="horowitz-hill")

    on_v, off_v = (logic.known, 0.0) if part.on_when == "high" else (0.0, logic.known)
    on_a, on_working = at(on_v)
    off_a, off_working = at(off_v)
    off = slot("off_a", f"While the pin is {'low' if part.on_when == 'high' else 'high'}", "A").filled(
        off_a, origin="computed", working=(off_working,), digits=2
    )
    return current.filled(on_a, origin="computed", working=(on_working,)), off


def _pixels(slot: SlotMaker, part: PixelPart, lamp: Lamp, picked: Picked, current: Slot, volts: Value | None) -> LoadDesign:
    layout = getattr(lamp, "layout", None)
    count = layout.count if layout and (layout.runs or layout.shape) else 0
    full_a = count * (COLOURS_EACH * part.colour_current_a.value)
    put_in = f"{plural(count, 'pixel')} · 3 · {si(part.colour_current_a.value, 'A')} = {si(full_a, 'A')}"
    working = Working(formula="I = n · 3 · I_colour, all white", substituted=put_in, source=part.colour_current_a.source)
    taken = (
        current.filled(full_a, origin="computed", working=(working,)) if count else current.empty("no pixels are laid out yet")
    )
    return LoadDesign(
        part_id=part.id,
        label=part.label,
        picked=Picked(part.id, part.label, picked.origin, picked.why),
        current=taken,
        rated=slot("rated_v", "Made for", "V").stated(part.voltage_v),
        works_from=slot("works_from_v", "Works, dimmer, from", "V").stated(part.works_from_v) if part.works_from_v else None,
        rail=volts,
        is_coil=False,
        has_flyback=False,
        is_mains_side=False,
        pixel=part,
        pixels=count,
        rail_ohm=part.rail_ohm.value if part.rail_ohm is not None else None,
    )


def on_volts(slot: SlotMaker, load: LoadDesign, switch: SwitchDesign | None, host: NodeDesign) -> Value | None:
    """Return the volts across a load while it is on: what its rail or its pin has, less what its switch or its pin keeps."""
    made, source = slot("across_v", "Across it, while it is on", "V"), load.rail if switch is not None else host.logic
    if load.current.value is None or load.input is not None or source is None or source.value is None:
        return None
    if switch is not None:
        drop, ohm = switch_drop(switch.part)
        kept = [
            drop_v + load.current.known * on_ohm
            for drop_v, on_ohm in ((drop.most, ohm.most), (drop.value, ohm.value), (drop.least, ohm.least))
        ]
    else:
        part = host.part
        kept = [load.current.known * (it if part is not None else 0.0) for it in (part.output_resistance_ohm.high, part.output_resistance_ohm.value, part.output_resistance_ohm.low)] if part is not None else [0.0, 0.0, 0.0]  # fmt: skip
    least, value, most = (max(volts - it, 0.0) for volts, it in zip((source.low, source.known, source.high), kept, strict=True))
    put_in = f"{source.text} − {si(kept[1], 'V')} = {si(value, 'V')}"
    working = Working(formula="V = V_supply − V_switch", substituted=put_in, source="horowitz-hill")
    return made.filled(value, origin="computed", spread=(least, most), working=(working,))
