"""The pictures of a lamp: its current, its operating point on the diode curve, its circuit."""

from dataclasses import replace
from functools import lru_cache

from oddlamp.core.base import si
from oddlamp.core.design.lamps import ChannelDesign, LampDesign, SwitchDesign
from oddlamp.core.electrical.diode import DiodeCurve
from oddlamp.sheets.charts import Axis, Band, ChartPicture, Dot, Lane, Mark, Stroke, ticks
from oddlamp.sheets.models import Schematic, SchematicPart, Symbol

SAID = {"resistor": "{} resistor", "led": "LED: {}"}
CURVE_POINTS = 28


def current_picture(lamp: LampDesign) -> ChartPicture | None:
    """Draw what flows in each channel against what is wanted and what it stands; None where there is nothing to draw."""
    channels = lamp.channels
    if not channels or lamp.open_because is not None:
        return None
    most = 1.15 * max(
        max(it.limit.known, it.wanted.known, it.current.high if it.current.value is not None else 0) for it in channels
    )
    said = [
        f"{_named(lamp, it)}: {it.current_with_pin.text} of {it.wanted.text} wanted, {it.limit.text} at most"
        for it in channels
        if it.current.value is not None
    ]
    bands, marks, dots = [], [], []
    for lane, it in enumerate(channels):
        is_first = lane == 0
        bands += [
            Band(tone="lamp", lane=lane, from_x=0, to_x=it.wanted.known),
            Band(tone="hatch", lane=lane, from_x=it.limit.known),
        ]
        if it.current.min is not None and it.current.max is not None:
            bands.append(Band(tone="spread", lane=lane, from_x=it.current.min, to_x=it.current.max, is_thin=True))
        marks += [
            Mark(at=it.wanted.known, lane=lane, is_dashed=True, label="wanted" if is_first else ""),
            Mark(at=it.limit.known, lane=lane, tone="cut", weight=3, label="harm" if is_first else ""),
        ]
        if it.current.value is not None:
            dots += [Dot(x=it.current.value, lane=lane, shape="ring"), Dot(x=it.current_with_pin.known, lane=lane)]
    return ChartPicture(
        text="; ".join(said) or "No current to draw",
        note="Bar: what flows. Ring: what the resistor alone would let through. Grey: at worst.",
        x=Axis(most=most, ticks=ticks(most, lambda a: si(a, "A"))),
        lanes=tuple(Lane(label=_named(lamp, it) if len(channels) > 1 else "") for it in channels),
        bands=tuple(bands),
        marks=tuple(marks),
        dots=tuple(dots),
    )


def _named(lamp: LampDesign, channel: ChannelDesign) -> str:
    return lamp.label if channel.id == "main" else channel.id.capitalize()


def circuit(lamp: LampDesign, switch: SwitchDesign | None) -> Schematic | None:
    """Say what stands in the drive's circuit, in the order from plus to ground; the screen draws it with standard symbols."""
    first, load = lamp.channels[0] if lamp.channels else None, lamp.load
    pulls_low = first.is_inverted if first else load is not None and load.input is not None and load.on_when == "low"
    chain = _chain(lamp, from_plus=switch is not None or not pulls_low)
    if not chain:
        return None
    is_from_pin = switch is None and not pulls_low
    rail = first.drive if first else load.rail if load else None
    flows = f", {load.current.text}" if load is not None and load.current.value is not None else ""
    top = ("pin" if is_from_pin else rail.text if rail is not None else "") + flows
    end = f"{switch.part.label} to ground, its {'base' if switch.base else 'gate'} through {switch.series.text}" if switch else ""
    return Schematic(
        text=", ".join(
            (
                top,
                *(SAID.get(part.symbol, "{}").format(part.label) for part in chain),
                end or ("pin that pulls low" if pulls_low else "to ground"),
            )
        ),
        top=top,
        chain=chain,
        switch=None if switch is None else "npn" if switch.base else "mosfet",
        series=switch.series.text if switch else None,
        pull_down=switch.pull_down.text if switch and switch.pull_down is not None and switch.has_pull_down else None,
        has_flyback=bool(load and load.is_coil and load.has_flyback),
        lacks_flyback=bool(load and load.is_coil and not load.has_flyback),
        across=load.across.text if load and load.across else None,
        bottom="pin" if pulls_low and switch is None else "ground",
    )


def _chain(lamp: LampDesign, *, from_plus: bool) -> tuple[SchematicPart, ...]:
    """Return the parts of a drive in their usual order: the resistor before the LED, or behind it over a pin that pulls low."""
    if lamp.load is not None and lamp.load.input is None:
        symbol: Symbol = "buzzer" if lamp.kind == "buzzer" else "coil" if lamp.load.is_coil else "load"
        return (SchematicPart(symbol=symbol, label=lamp.load.label),)
    if lamp.load is not None and lamp.load.input is not None:
        inside = lamp.load.input
        led = SchematicPart(symbol="led", label=f"opto-coupler and indicator, {si(inside.drop_v, 'V')}")
        return led, SchematicPart(symbol="resistor", label=si(inside.resistance_ohm, "ohm"))
    if not lamp.channels:
        return ()
    first = lamp.channels[0]
    led = SchematicPart(symbol="led", label=f"{first.in_series} in series" if first.in_series > 1 else first.led.label)
    if first.resistor.value is None:
        return (led,)
    resistor = SchematicPart(symbol="resistor", label=first.resistor.text)
    return (resistor, led) if from_plus else (led, resistor)


def curve_picture(lamp: LampDesign, channel: ChannelDesign) -> ChartPicture | None:
    """Draw current over volts: the diode's curve with its spread, the resistor's line, and where they cross."""
    if channel.point is None or channel.branch is None or channel.branch.curve is None or channel.resistor.value is None:
        return None
    branch, curve = channel.branch, channel.branch.curve
    most_a = 1.25 * max(channel.limit.known, channel.wanted.known)
    most_v = max(branch.drive_voltage_v.most, 1.1 * branch.forward_voltage_v.most)
    ohm = branch.seen_ohm(channel.resistor.known)
    drive_v = branch.drive_voltage_v.value - branch.driver_drop_v.value
    flows = channel.point.curve_a
    point_a = flows.value if flows else channel.current.value or 0.0
    point_v = max(drive_v - point_a * ohm, 0.0)
    least, middle, most = (
        _drawn(curve, forward_v, branch.in_series, most_a)
        for forward_v in (branch.forward_voltage_v.least, branch.forward_voltage_v.value, branch.forward_voltage_v.most)
    )
    name = "" if channel.id == "main" else f", {channel.id}"
    return ChartPicture(
        title="" if channel.id == "main" else channel.id.capitalize(),
        text=f"{lamp.label}{name}: by its curve {si(point_a, 'A')} flows at {si(point_v, 'V')} across the LED",
        note="Thick line: the LED's own curve, its spread behind it. Copper: what resistor and driver allow. Dot: where they meet. Across: volts.",
        size="half",
        x=Axis(most=most_v, ticks=ticks(most_v, lambda v: f"{v:g}")),
        y=Axis(most=most_a, ticks=ticks(most_a, lambda a: si(a, "A"))[::2]),
        strokes=(
            Stroke(points=(*least, *most[::-1]), tone="spread", is_area=True),
            Stroke(points=middle, weight=3),
            Stroke(points=((max(drive_v - most_a * ohm, 0.0), min(most_a, drive_v / ohm)), (drive_v, 0.0)), tone="copper"),
        ),
        marks=(
            Mark(at=channel.limit.known, is_across=True, tone="cut", weight=2.4, label="harm"),
            Mark(at=channel.wanted.known, is_across=True, is_dashed=True, weight=1.4),
        ),
        dots=(Dot(x=point_v, y=point_a, shape="dot"),),
    )


@lru_cache(maxsize=64)
def _steps(most_a: float) -> tuple[float, ...]:
    return tuple(round(most_a * (k / CURVE_POINTS) ** 2, 9) for k in range(1, CURVE_POINTS + 1))


@lru_cache(maxsize=512)
def _drawn(curve: DiodeCurve, forward_v: float, in_series: int, most_a: float) -> tuple[tuple[float, float], ...]:
    """Return the curve of LEDs that together drop ``forward_v`` as volts and currents; remembered, because like LEDs are many."""
    shifted = replace(curve, forward_voltage_v=forward_v / in_series)
    return tuple((round(in_series * shifted.drop_v(a), 4), a) for a in _steps(most_a))
