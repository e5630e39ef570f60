"""The numbers of one current path of LEDs: its resistor, what flows, what still flows when it is off."""

from oddlamp.core.base import Working, si
from oddlamp.core.design.values import NOT_YET, Slot, SlotMaker, Value
from oddlamp.core.electrical.diode import curve_current_a
from oddlamp.core.electrical.led import RATINGS_W, LedBranch, LedPoint, size_led_resistor
from oddlamp.core.electrical.preferred import FLOAT_SLACK, Series, next_preferred
from oddlamp.core.english import inner
from oddlamp.core.parts.models import Catalog, LedPart, LogicPart
from oddlamp.core.plan.lights import Channel

BARE_LEAST_OHM = 10.0
FLOATING_A = 1e-6


def flows_of(
    slot: SlotMaker,
    branch: LedBranch | None,
    point: LedPoint | None,
    resistor: Value,
    sizing: tuple[float, tuple[Working, ...]] | None,
    because: str,
) -> dict[str, Value]:
    """Return what flows in a channel, by the name of its field in the design: exact, current, with its pin, by its curve, power."""
    slots = {
        "exact": slot("exact_ohm", "Exact", "ohm"),
        "current": slot("current_a", "Through the LED", "A"),
        "current_with_pin": slot("current_with_pin_a", "With what drives it", "A"),
        "curve": slot("curve_a", "By the diode curve", "A"),
        "power": slot("resistor_power_w", "In the resistor", "W"),
        "across": slot("across_v", "Across its resistor", "V"),
    }
    if point is None or branch is None:
        return {name: it.empty(because) for name, it in slots.items()}
    current, curve = point.current_a, point.curve_a
    power = si(point.resistor_power_w, "W", digits=2)
    rating = f"; take one rated {si(point.rating_w, 'W')}" if point.rating_w else "; more than any usual rating"
    return {
        "exact": slots["exact"].filled(sizing[0], origin="computed", working=sizing[1])
        if sizing
        else slots["exact"].empty("the usual drop leaves nothing for a resistor"),
        "current": slots["current"].filled(
            current.value,
            origin="computed",
            spread=(current.least, current.most),
            because="by the diode curve: a constant drop says nothing here" if point.is_by_curve else None,
            working=point.working,
        ),
        "current_with_pin": slots["current_with_pin"].filled(
            point.current_with_pin_a,
            origin="computed",
            because=f"pin, switch and source are about {si(branch.driver_resistance_ohm.value, 'ohm')}"
            + (f" and carry all {branch.in_parallel}" if branch.in_parallel > 1 else ""),
        ),
        "curve": slots["curve"].filled(curve.value, origin="computed", spread=(curve.least, curve.most))
        if curve
        else slots["curve"].empty(NOT_YET),
        "power": slots["power"].filled(
            point.resistor_power_w,
            origin="computed",
            digits=2,
            working=(
                Working(
                    formula="P = I² R, and twice that to the next rating",
                    substituted=f"{si(current.value * branch.on_one_resistor, 'A')}² · {resistor.text} = {power}{rating}",
                    source="horowitz-hill",
                ),
            ),
        ),
        "across": across_of(slots["across"], branch, point, resistor),
    }


def across_of(slot: Slot, branch: LedBranch, point: LedPoint, resistor: Value) -> Value:
    """Return the volts across a resistor while its LEDs are lit, by the curve: what a meter shows there."""
    curve, ratio = point.curve_a, branch.tolerance_ratio
    if curve is None or resistor.value is None:
        return slot.empty(NOT_YET)
    count, ohm = branch.on_one_resistor, resistor.known
    # At the corners of the current its resistor is at its own other end.
    least, value, most = (
        count * curve.least * ohm * (1 + ratio),
        count * curve.value * ohm,
        count * curve.most * ohm * (1 - ratio),
    )
    told = f"{count} · " if count > 1 else ""
    put_in = f"{told}{si(curve.value, 'A')} · {resistor.text} = {si(value, 'V')}"
    working = Working(formula="V_R = I R, with the current of the diode curve", substituted=put_in, source="horowitz-hill")
    return slot.filled(value, origin="computed", spread=(min(least, value), max(most, value)), working=(working,))


def ghost_of(slot: SlotMaker, logic: Value | None, branch: LedBranch | None, resistor: Value) -> Value | None:
    """Return what still flows from a rail above the pin while the pin is high, by the curve."""
    if branch is None or branch.curve is None or resistor.value is None or logic is None or logic.value is None:
        return None
    above_v = branch.drive_voltage_v.value - logic.known
    ohm = branch.seen_ohm(resistor.known)
    current_a = curve_current_a(branch.curve, drive_v=above_v, resistance_ohm=ohm, in_series=branch.in_series)
    put_in = f"{si(branch.drive_voltage_v.value, 'V')} − {logic.text} = {si(above_v, 'V')} across LED and {si(ohm, 'ohm')}: {si(current_a, 'A')}"
    working = Working(formula="the curve at V_rail − V_OH", substituted=put_in, source="horowitz-hill")
    return slot("ghost_a", "While it is off", "A").filled(current_a, origin="computed", working=(working,), digits=2)


def floats_of(slot: SlotMaker, logic: Value | None, branch: LedBranch | None) -> Value | None:
    """Return the volts of a pin that is no output yet, under a lamp from a higher rail: all but the drop at a microampere."""
    if branch is None or branch.curve is None or logic is None or logic.value is None:
        return None
    drive, drop_v = branch.drive_voltage_v, branch.in_series * branch.curve.drop_v(FLOATING_A)
    if drive.most <= logic.high:
        return None
    volts = [max(v - drop_v, 0.0) for v in (drive.least, drive.value, drive.most)]
    put_in = f"{si(drive.value, 'V')} − {si(drop_v, 'V')} = {si(volts[1], 'V')}"
    working = Working(
        formula="V_pin = V_rail − V_F at 1 µA, while the pin is no output", substituted=put_in, source="horowitz-hill"
    )
    return slot("floats_v", "Its pin while the board starts", "V").filled(
        volts[1], origin="computed", spread=(volts[0], volts[2]), working=(working,)
    )


def rating_of(slot: Slot, catalog: Catalog, channel: Channel, point: LedPoint | None) -> Value:
    """Return what the resistor is rated for: as told, else the usual quarter watt, or the next rating over twice its heat."""
    if channel.rating_w is not None:
        return slot.filled(channel.rating_w, origin="own")
    usual = catalog.resistors[catalog.proposals["resistor"].part or ""].rating_w
    needed_w = 2 * point.resistor_power_w if point is not None else 0.0
    if needed_w <= usual.value * (1 + FLOAT_SLACK):
        return slot.stated(usual, origin="proposed", because="the usual part, at least twice what it turns into heat")
    rated_w = next((it for it in RATINGS_W if it >= needed_w), RATINGS_W[-1])
    return slot.filled(
        rated_w, origin="proposed", because=f"twice the {si(needed_w / 2, 'W', digits=2)} it turns into heat, or more"
    )


def wanted_of(slot: Slot, channel: Channel, led: LedPart, part: LogicPart | None) -> Value:
    """Return the current wanted: as told, else the usual one of the LED, or what one pin should give."""
    if channel.wanted_current_a is not None:
        return slot.filled(channel.wanted_current_a, origin="own")
    usual = led.usual_current_a.value
    if part is not None and part.pin_recommended_a.value < usual:
        return slot.stated(part.pin_recommended_a, origin="proposed", because="what one pin of this part should give")
    return slot.stated(led.usual_current_a, origin="proposed", because="the usual full current of such an LED")


def tolerance_of(slot: Slot, catalog: Catalog, channel: Channel) -> Value:
    """Return the tolerance of a channel's resistor."""
    if channel.tolerance_ratio is not None:
        return slot.filled(channel.tolerance_ratio, origin="own")
    part = catalog.resistors[catalog.proposals["resistor"].part or ""]
    return slot.stated(
        part.tolerance_ratio, origin="proposed", because=f"{inner(part.label)}, {catalog.proposals['resistor'].why}"
    )


def resistor_of(
    slot: Slot, series: Series, channel: Channel, branch: LedBranch | None, wanted_a: float, limit_a: float, because: str | None
) -> tuple[tuple[float, tuple[Working, ...]] | None, Value]:
    """Return the exact value with its working, and the resistor fitted or proposed."""
    own = slot.filled(channel.resistor_ohm, origin="own") if channel.resistor_ohm else None
    if branch is None:
        return None, own or slot.empty(because or NOT_YET, origin="proposed")
    if branch.left_v <= 0:
        worst_v = branch.drive_voltage_v.most - branch.forward_voltage_v.least - branch.driver_drop_v.least
        safe = next_preferred(max(BARE_LEAST_OHM, worst_v / limit_a), series)
        why = "the usual drop leaves nothing to divide; this one keeps even the least drop under its limit"
        return None, own or slot.filled(safe, origin="proposed", because=why)
    sizing = size_led_resistor(branch, wanted_current_a=wanted_a)
    why = f"the smallest {series} value that never exceeds what is wanted"
    resistor = own or slot.filled(sizing.resistance_ohm, origin="proposed", because=why, working=sizing.working)
    return (sizing.exact_ohm, sizing.working[:1]), resistor
