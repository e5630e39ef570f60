"""Rules for LEDs: never over, enough headroom, and what a pin may give."""

from collections.abc import Iterator

from oddlamp.core.base import Working, si
from oddlamp.core.design import ChannelDesign, Design
from oddlamp.core.electrical.led import Spread, size_led_resistor
from oddlamp.core.electrical.preferred import FLOAT_SLACK
from oddlamp.core.findings import Breach, Move, Severity
from oddlamp.core.plan.document import at_path

HEADROOM_LOOK_V = 0.5
SPREAD_LOOK_RATIO = 3.0


def channel_patch(channel: ChannelDesign, **fields: object) -> dict[str, object]:
    """Build a merge patch for one channel of a lamp."""
    return at_path(("lamps", channel.lamp_id, "channels", channel.id), dict(fields))


def _over(current_a: float, limit_a: float) -> bool:
    return current_a > limit_a * (1 + FLOAT_SLACK)


def led_current_within_limit(design: Design) -> Iterator[Breach]:
    """An LED gets no more than is wanted, and never more than it can stand."""
    for lamp in design.lamps.values():
        for channel in lamp.channels:
            if channel.point is None:
                continue
            current, limit_a, wanted_a = channel.point.current_a, channel.limit.known, channel.wanted.known
            name = _name(lamp.label, channel)
            severity: Severity = "look"
            if _over(current.value, limit_a):
                severity = "stop"
                message = f"{name} gets {si(current.value, 'A')}. It can stand {si(limit_a, 'A')}."
            elif _over(current.value, wanted_a):
                message = f"{name} gets {si(current.value, 'A')}, more than the {si(wanted_a, 'A')} wanted."
            elif _over(current.most, limit_a):
                message = f"At worst {name} gets {si(current.most, 'A')}. It can stand {si(limit_a, 'A')}."
            else:
                continue
            limit = Working(
                formula="I_F ≤ I_wanted, and at worst ≤ I_max",
                substituted=f"{si(wanted_a, 'A')} wanted, {si(limit_a, 'A')} at most",
                source=channel.limit.working[0].source if channel.limit.working else "from-memory",
            )
            yield Breach(
                severity=severity,
                where=channel.signal_id,
                stage=lamp.stage,
                message=message,
                working=(*channel.point.working, limit),
                fixes=tuple(_resistor_fixes(channel)),
                numbers={"current_a": current.value, "worst_current_a": current.most},
            )


def _resistor_fixes(channel: ChannelDesign) -> Iterator[Move]:
    if channel.branch is None:
        return
    best = size_led_resistor(channel.branch, wanted_current_a=channel.wanted.known).resistance_ohm
    worst = channel.branch.model_copy(
        update={
            "drive_voltage_v": _flat(channel.branch.drive_voltage_v.most),
            "forward_voltage_v": _flat(channel.branch.forward_voltage_v.least),
        }
    )
    safe = size_led_resistor(worst, wanted_current_a=channel.limit.known * (1 - channel.branch.tolerance_ratio)).resistance_ohm
    for value in dict.fromkeys((best, max(best, safe))):
        if value > channel.resistor.known:
            yield Move(label=f"Fit {si(value, 'ohm')}", patch=channel_patch(channel, resistor_ohm=value))


def _flat(value: float) -> Spread:
    return Spread(least=value, value=value, most=value)


def led_has_headroom(design: Design) -> Iterator[Breach]:
    """The resistor has enough volts left to set the current."""
    for lamp in design.lamps.values():
        for channel in lamp.channels:
            if lamp.open_because is not None or channel.branch is None:
                continue
            drive, forward = channel.branch.drive_voltage_v, channel.branch.forward_voltage_v
            left_v, name = drive.value - forward.value, _name(lamp.label, channel)
            severity: Severity = "look"
            ratio = channel.point.spread_ratio if channel.point else None
            if drive.value - forward.least <= FLOAT_SLACK:
                severity = "stop"
                message = f"{name} needs at least {si(forward.least, 'V')} and gets {si(drive.value, 'V')}: it may not light."
            elif left_v < HEADROOM_LOOK_V - FLOAT_SLACK:
                message = f"{name} leaves {si(max(left_v, 0), 'V')} for its resistor: too little to set the current."
            elif ratio is None or ratio > SPREAD_LOOK_RATIO:
                spread = f"{ratio:.1f} : 1" if ratio else "down to nothing"
                message = f"{name} may be anything from dim to bright: its current can spread {spread}."
            else:
                continue
            put_in = f"{si(drive.value, 'V')} − {si(forward.value, 'V')} = {si(left_v, 'V')}; {channel.current.spread_text or 'no current to state'}"
            yield Breach(
                severity=severity,
                where=channel.signal_id,
                stage=lamp.stage,
                message=message,
                fixes=tuple(_headroom_fixes(design, channel)),
                working=(
                    Working(
                        formula="headroom = V_S − V_F, wanted 0.5 V or more and a spread under 3 : 1",
                        substituted=put_in,
                        source="common-practice",
                    ),
                ),
                numbers={"missing_headroom_v": HEADROOM_LOOK_V - left_v},
            )


def _headroom_fixes(design: Design, channel: ChannelDesign) -> Iterator[Move]:
    """Offer the colours that leave the resistor at least twice the least headroom at the lowest drive."""
    lower = [
        led
        for led in design.catalog.leds.values()
        if channel.drive.low - channel.in_series * led.forward_voltage_v.high >= 2 * HEADROOM_LOOK_V
    ]
    for led in sorted(lower, key=lambda it: it.forward_voltage_v.value)[:1]:
        yield Move(
            label=f"Take a {led.label.lower()} LED",
            patch=channel_patch(channel, led={"part": led.id, "overrides": None}, resistor_ohm=None),
        )
    if channel.in_series > 1:
        yield Move(
            label="Take one LED less in series", patch=channel_patch(channel, in_series=channel.in_series - 1, resistor_ohm=None)
        )


def pin_gives_enough(design: Design) -> Iterator[Breach]:
    """A pin gives no more than is recommended, and never more than its absolute limit."""
    for lamp in design.lamps.values():
        part = design.nodes[lamp.host].part
        for channel in lamp.channels:
            if channel.point is None or part is None:
                continue
            asked = channel.point.current_a.value * channel.in_parallel
            worst = channel.point.current_a.most * channel.in_parallel
            usual, absolute = part.pin_recommended_a, part.pin_absolute_a
            severity: Severity = "look"
            if absolute is not None and _over(asked, absolute.value):
                severity, limit = "stop", absolute
            elif _over(asked, usual.value):
                limit = usual
            elif absolute is not None and _over(worst, absolute.value):
                limit = absolute
            else:
                continue
            per_led_a = usual.value / channel.in_parallel
            put_in = f"{channel.in_parallel} · {si(channel.point.current_a.value, 'A')} = {si(asked, 'A')}, at most {si(worst, 'A')}; {si(usual.value, 'A')} recommended"
            put_in += f", {si(absolute.value, 'A')} absolute" if absolute else ""
            yield Breach(
                severity=severity,
                where=channel.signal_id,
                stage=lamp.stage,
                message=f"{_name(lamp.label, channel)} asks {si(asked if limit is usual or severity == 'stop' else worst, 'A')} of a pin that gives {si(limit.value, 'A')}.",
                working=(Working(formula="I_pin = n · I_F", substituted=put_in, source=limit.source),),
                fixes=(
                    Move(
                        label=f"Aim for {si(per_led_a, 'A')} each",
                        patch=channel_patch(channel, wanted_current_a=per_led_a, resistor_ohm=None),
                    ),
                ),
                numbers={"pin_current_a": asked, "worst_pin_current_a": worst},
            )


def _name(label: str, channel: ChannelDesign) -> str:
    return label if channel.id == "main" else f"{label}, {channel.id},"
