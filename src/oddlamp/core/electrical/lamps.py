"""Lamps of a plan: drive, drop, wanted current, resistor, and the point it works at."""

from oddlamp.core.base import Working, si
from oddlamp.core.design import ChannelDesign, LampDesign, NodeDesign, Picked, RailDesign
from oddlamp.core.electrical.led import LedBranch, Spread, led_point, size_led_resistor
from oddlamp.core.electrical.supplies import pick_part
from oddlamp.core.parts.models import Catalog, LedPart, LogicPart
from oddlamp.core.plan.lights import Channel, Lamp
from oddlamp.core.plan.model import Plan
from oddlamp.core.values import NOT_YET, Slot, Value, first_known

CHANNELS = {"led": ("main",), "rgb": ("red", "green", "blue")}
KIND_NAMES = {
    "led": "LED",
    "rgb": "RGB LED",
    "pixels-one-wire": "one-wire pixels",
    "pixels-clocked": "clocked pixels",
    "buzzer": "buzzer",
    "relay": "relay",
}


def spread_of(value: Value) -> Spread:
    """Return a known value with its corners."""
    return Spread(least=value.low, value=value.known, most=value.high)


def resolve_lamps(
    plan: Plan, catalog: Catalog, nodes: dict[str, NodeDesign], rails: dict[str, RailDesign]
) -> dict[str, LampDesign]:
    """Resolve every lamp, in the order the plan wants them seen."""
    wanted = plan.order.get("lamps", ())
    ids = [name for name in wanted if name in plan.lamps] + [name for name in plan.lamps if name not in wanted]
    return {name: _lamp(plan, catalog, nodes[plan.lamps[name].host], rails, name) for name in ids}


def _lamp(plan: Plan, catalog: Catalog, host: NodeDesign, rails: dict[str, RailDesign], lamp_id: str) -> LampDesign:
    lamp = plan.lamps[lamp_id]
    rail_id = lamp.rail or host.rail_id
    common = None
    if lamp.kind == "rgb":
        proposed = catalog.proposals["common"]
        common = (
            Picked(lamp.common, lamp.common, "own")
            if lamp.common
            else Picked(proposed.words[0], proposed.words[0], "proposed", proposed.why)
        )
    is_inverted = common is not None and common.id == "anode"
    stage = f"lamps.{lamp_id}"
    drive = _drive(lamp_id, stage, host, rails.get(rail_id or "") if is_inverted else None, is_inverted)
    because = _open_because(lamp, host)
    channels = (
        ()
        if lamp.kind not in CHANNELS
        else tuple(
            _channel(plan, catalog, host.part, drive, lamp_id, lamp, channel_id, is_inverted, because)
            for channel_id in CHANNELS[lamp.kind]
        )
    )
    label = lamp.label or lamp_id.replace("_", " ").capitalize()
    return LampDesign(
        id=lamp_id,
        label=label,
        kind=lamp.kind,
        host=lamp.host,
        rail_id=rail_id,
        common=common,
        channels=channels,
        open_because=because,
    )


def _open_because(lamp: Lamp, host: NodeDesign) -> str | None:
    if lamp.kind not in ("led", "rgb"):
        return f"{KIND_NAMES[lamp.kind]}: {NOT_YET}"
    school = lamp.drive.school if lamp.drive else "pin"
    if school != "pin":
        return f"drive through {'a MOSFET' if school == 'mosfet' else 'an NPN transistor'}: {NOT_YET}"
    if any(channel.sharing == "one" and (channel.in_parallel or 1) > 1 for channel in lamp.channels.values()):
        return f"several LEDs on one resistor: {NOT_YET}"
    return None if host.part else f"lamps on this kind of host: {NOT_YET}"


def _drive(lamp_id: str, stage: str, host: NodeDesign, rail: RailDesign | None, is_inverted: bool) -> Value:
    """Return the volts across LED and resistor together: the pin's own high, or the rail above a pin that sinks."""
    slot = Slot(id=f"{lamp_id}.drive_v", stage=stage, label="Drive", unit="V")
    if is_inverted and rail is None:
        return slot.empty("no rail feeds the common leg")
    source = rail.voltage if rail is not None else host.logic
    if source is None or source.value is None:
        return slot.empty((source.because if source else None) or "its host has no supply")
    what = f"the rail {rail.label}, into a pin that pulls low" if rail is not None else f"a pin of the {host.label.lower()}, high"
    return slot.filled(source.value, origin=source.origin, spread=(source.low, source.high), because=what, working=source.working)


def _channel(
    plan: Plan,
    catalog: Catalog,
    part: LogicPart | None,
    drive: Value,
    lamp_id: str,
    lamp: Lamp,
    channel_id: str,
    is_inverted: bool,
    open_because: str | None,
) -> ChannelDesign:
    channel = next((it for name, it in getattr(lamp, "channels", {}).items() if name == channel_id), None) or Channel()
    path, stage = f"{lamp_id}.{channel_id}", f"lamps.{lamp_id}"

    def slot(field: str, label: str, unit: str) -> Slot:
        return Slot(id=f"{path}.{field}", stage=stage, label=label, unit=unit)

    led_id, choice = pick_part(channel.led, proposal="led" if channel_id == "main" else f"led-{channel_id}", catalog=catalog)
    led = catalog.led(led_id)
    overrides = channel.led.overrides if channel.led else {}
    forward = first_known(
        slot("forward_voltage_v", "Forward voltage", "V"),
        reading=plan.measured.get(f"{path}.forward_voltage_v"),
        own=overrides.get("forward_voltage_v"),
        part=led.forward_voltage_v,
    )
    limit = first_known(
        slot("absolute_current_a", "Limit of the LED", "A"),
        reading=None,
        own=overrides.get("absolute_current_a"),
        part=led.absolute_current_a,
    )
    wanted = _wanted(slot("wanted_current_a", "Wanted", "A"), channel, led, part)
    tolerance = _tolerance(slot("tolerance_ratio", "Tolerance", "ratio"), channel, catalog)
    in_series, in_parallel = channel.in_series or 1, channel.in_parallel or 1
    resistor_slot = slot("resistor_ohm", "Series resistor", "ohm")
    results = {
        "exact": slot("exact_ohm", "Exact", "ohm"),
        "current": slot("current_a", "Through the LED", "A"),
        "current_with_pin": slot("current_with_pin_a", "With the pin's own resistance", "A"),
        "power": slot("resistor_power_w", "In the resistor", "W"),
    }
    because = open_because or (drive.because if drive.value is None else None)
    branch, point = None, None
    own_resistor = resistor_slot.filled(channel.resistor_ohm, origin="own") if channel.resistor_ohm else None
    if because is None and part is not None:
        r_pin = part.output_resistance_ohm
        string = Spread(least=in_series * forward.low, value=in_series * forward.known, most=in_series * forward.high)
        driver = Spread(least=r_pin.low, value=r_pin.value, most=r_pin.high)
        branch = LedBranch(
            drive_voltage_v=spread_of(drive),
            forward_voltage_v=string,
            driver_resistance_ohm=driver,
            tolerance_ratio=tolerance.known,
        )
    if branch is None or branch.drive_voltage_v.value <= branch.forward_voltage_v.value:
        short = (
            because
            or f"{si(drive.known, 'V')} leaves nothing for a resistor above a drop of {si(in_series * forward.known, 'V')}"
        )
        filled = {name: it.empty(short) for name, it in results.items()}
        resistor = own_resistor or resistor_slot.empty(short, origin="proposed")
    else:
        sizing = size_led_resistor(branch, wanted_current_a=wanted.known)
        why = "the smallest E24 value that never exceeds what is wanted"
        resistor = own_resistor or resistor_slot.filled(
            sizing.resistance_ohm, origin="proposed", because=why, working=sizing.working
        )
        point = led_point(branch, resistance_ohm=resistor.known)
        filled = {
            "exact": results["exact"].filled(sizing.exact_ohm, origin="computed", working=sizing.working[:1]),
            "current": results["current"].filled(
                point.current_a.value,
                origin="computed",
                spread=(point.current_a.least, point.current_a.most),
                working=point.working,
            ),
            "current_with_pin": results["current_with_pin"].filled(
                point.current_with_pin_a,
                origin="computed",
                because=f"the pin itself is about {si(branch.driver_resistance_ohm.value, 'ohm')}",
            ),
            "power": results["power"].filled(
                point.resistor_power_w,
                origin="computed",
                digits=2,
                working=(
                    Working(
                        formula="P = I² R",
                        substituted=f"{si(point.current_a.value, 'A')}² · {resistor.text} = {si(point.resistor_power_w, 'W', digits=2)}",
                        source="horowitz-hill",
                    ),
                ),
            ),
        }
    return ChannelDesign(
        id=channel_id,
        lamp_id=lamp_id,
        led=led,
        led_picked=Picked(led_id, led.label, choice.origin, choice.why),
        in_series=in_series,
        in_parallel=in_parallel,
        is_inverted=is_inverted,
        forward=forward,
        wanted=wanted,
        limit=limit,
        tolerance=tolerance,
        drive=drive,
        resistor=resistor,
        branch=branch,
        point=point,
        **filled,
    )


def _wanted(slot: Slot, channel: Channel, led: LedPart, part: LogicPart | None) -> Value:
    if channel.wanted_current_a is not None:
        return slot.filled(channel.wanted_current_a, origin="own")
    usual = led.usual_current_a.value
    if part is not None and part.pin_recommended_a.value < usual:
        return slot.stated(part.pin_recommended_a, origin="proposed", because="what one pin of this part should give")
    return slot.stated(led.usual_current_a, origin="proposed", because="the usual full current of such an LED")


def _tolerance(slot: Slot, channel: Channel, catalog: Catalog) -> Value:
    if channel.tolerance_ratio is not None:
        return slot.filled(channel.tolerance_ratio, origin="own")
    part = catalog.resistors[catalog.proposals["resistor"].part or ""]
    return slot.stated(
        part.tolerance_ratio, origin="proposed", because=f"{part.label.lower()}, {catalog.proposals['resistor'].why}"
    )
