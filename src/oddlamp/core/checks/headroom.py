"""The rule for headroom: volts left for a resistor to set the current with, and ways to more of them."""

from collections.abc import Iterator
from dataclasses import replace
from functools import partial
from typing import Final

from oddlamp.core.base import Working, si
from oddlamp.core.checks.findings import Breach, Move, Rule
from oddlamp.core.checks.leds import channel_patch, name_of
from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import ChannelDesign
from oddlamp.core.design.passages import Severity
from oddlamp.core.design.supplies import RailDesign
from oddlamp.core.electrical.led import LedBranch, Spread, led_point, size_led_resistor
from oddlamp.core.electrical.preferred import FLOAT_SLACK
from oddlamp.core.english import offered
from oddlamp.core.plan.document import at_path, join_patches
from oddlamp.core.resolve.judge_lamps import HEADROOM_LOOK_V, SPREAD_LOOK_RATIO, source_ohm

RAIL_MOST_V = 5.5  # what stands on a 5 V rail can stand this much; from memory


def behind_ohm(design: Design, channel: ChannelDesign) -> float:
    """Return the resistance of the source behind a channel, ohm."""
    lamp = design.lamps[channel.lamp_id]
    host = design.nodes[lamp.host]
    return source_ohm(lamp, channel, host, design.rails.get(lamp.rail_id or ""), design.rails.get(host.rail_id or ""))


def led_has_headroom(design: Design) -> Iterator[Breach]:
    """The resistor has enough volts left to set the current, with the source loaded."""
    for lamp in design.lamps.values():
        for channel in lamp.channels:
            it, branch = design.passages[channel.signal_id].found("LED-HEADROOM"), channel.branch
            if it is None or branch is None:
                continue
            drive, forward = branch.drive_voltage_v, branch.forward_voltage_v
            sag_v = behind_ohm(design, channel) * channel.wanted.known * channel.in_parallel
            kept_v, severity = branch.driver_drop_v.value, it.severity
            loaded_v, left_v, name = drive.value - sag_v, branch.left_v, name_of(lamp.label, channel)
            if it.case == "unlit":
                sagged = f" under load ({si(drive.value, 'V')} without)" if sag_v > FLOAT_SLACK else ""
                message = (
                    f"{name} needs at least {si(forward.least, 'V')} and gets {si(loaded_v, 'V')}{sagged}: it may not light."
                )
            elif it.case == "little":
                lights = (
                    f" By its curve {channel.current.text} flows, {channel.current.spread_text} at worst."
                    if channel.point and channel.point.is_by_curve
                    else ""
                )
                left = f"leaves {si(left_v, 'V')}" if left_v > 0 else f"lacks {si(-left_v, 'V')}, and leaves nothing"
                message = f"{name} {left} for its resistor: too little to set the current.{lights}"
            else:
                ratio = channel.point.spread_ratio if channel.point else None
                spread = f"{ratio:.1f} : 1" if ratio else "down to nothing"
                message = f"{name} may be anything from dim to bright: its current can spread {spread}."
            put_in = f"{si(drive.value, 'V')} − {si(forward.value, 'V')} = {si(drive.value - forward.value, 'V')}"
            put_in += f" − {si(kept_v, 'V')} in the switch" if kept_v else ""
            put_in += f" − {si(sag_v, 'V')} in the source" if sag_v > FLOAT_SLACK else ""
            put_in += f"; {channel.current.spread_text or 'no current to state'}"
            yield Breach(
                severity=severity,
                where=channel.signal_id,
                stage=lamp.stage,
                message=message,
                ways=partial(_headroom_fixes, design, channel, severity),
                working=(
                    Working(
                        formula="headroom = V_S − V_F, wanted 0.5 V or more and a spread under 5 : 1",
                        substituted=put_in,
                        source="common-practice",
                    ),
                ),
                numbers={"missing_headroom_v": HEADROOM_LOOK_V - left_v},
            )


def _headroom_fixes(design: Design, channel: ChannelDesign, severity: Severity) -> Iterator[Move]:
    """Offer a better supply, and the colour that leaves most: one that clears the verdict, or at least takes a stop away."""
    yield from _better_supply(design, channel)
    branch = channel.branch
    if branch is None:
        return
    sag_v = behind_ohm(design, channel) * channel.wanted.known * channel.in_parallel
    for led in sorted(design.catalog.leds.values(), key=lambda it: it.forward_voltage_v.value):
        if channel.id != "main" or led.caution is not None or led.forward_voltage_v.value >= channel.led.forward_voltage_v.value:
            continue  # a colour of several is there for its colour
        volts = led.forward_voltage_v
        n = channel.in_series
        forward = Spread(least=n * volts.low, value=n * volts.value, most=n * volts.high)
        is_lit = severity == "stop" and branch.left_v + branch.forward_voltage_v.value - forward.value - sag_v >= HEADROOM_LOOK_V
        lights = branch.drive_voltage_v.value - sag_v - forward.least - branch.driver_drop_v.least > FLOAT_SLACK
        if lights and (is_lit or _is_steady(channel, replace(branch, forward_voltage_v=forward))):
            yield Move(
                label=f"Take {offered(led.label)} LED",
                patch=channel_patch(channel, led={"part": led.id, "overrides": None}, resistor_ohm=None),
            )
            break
    if channel.in_series > 1:
        yield Move(
            label="Take one LED less in series", patch=channel_patch(channel, in_series=channel.in_series - 1, resistor_ohm=None)
        )


def _is_steady(channel: ChannelDesign, branch: LedBranch, ohm: float | None = None) -> bool:
    """Tell whether a branch has headroom and a steady current, its resistor sized anew unless one is given."""
    if branch.left_v < HEADROOM_LOOK_V:
        return False
    if ohm is None:
        ohm = size_led_resistor(branch, wanted_current_a=channel.wanted.known).resistance_ohm
    ratio = led_point(replace(branch, curve=None), resistance_ohm=ohm).spread_ratio
    return ratio is not None and ratio <= SPREAD_LOOK_RATIO


def _better_supply(design: Design, channel: ChannelDesign) -> Iterator[Move]:
    """Offer the source of least volts that steadies a branch: of the same volts, or of more that all on a 5 V rail can stand."""
    lamp = design.lamps[channel.lamp_id]
    rail = design.rails.get((lamp.rail_id if lamp.takes_rail else design.nodes[lamp.host].rail_id) or "")
    branch, ohm = channel.branch, channel.resistor.value
    if rail is None or rail.source_id is None or branch is None:
        return
    drive = branch.drive_voltage_v
    if (rail.voltage.value, rail.voltage.min) != (drive.value, drive.least):
        return  # a regulator stands between
    host = design.nodes[lamp.host].part
    regulated = host.logic_voltage_v if host is not None and not lamp.takes_rail else None
    for part in sorted(
        design.catalog.sources.values(),
        key=lambda it: (it.voltage_v.value, -it.voltage_v.low, it.current_max_a.value if it.current_max_a else 0.0),
    ):
        gives = part.current_max_a
        if part.id == (rail.source.id if rail.source else None) or gives is None or gives.value < design.budgets[rail.id].wants_a:
            continue
        volts = Spread(least=part.voltage_v.low, value=part.voltage_v.value, most=part.voltage_v.high)
        patch = at_path(("sources", rail.source_id, "choice"), {"part": part.id, "overrides": None})
        is_same = volts.value == drive.value and volts.least > drive.least
        if is_same and ohm is not None and _is_steady(channel, replace(branch, drive_voltage_v=volts), ohm):
            yield Move(label=f"Take {offered(part.label)}, steadier", patch=patch)
            return
        is_more = drive.value < volts.value and volts.most <= RAIL_MOST_V and not _harms(design, rail, volts.most)
        if regulated is not None:  # the pins then stand at what the board makes of it
            volts = Spread(least=regulated.low, value=regulated.value, most=regulated.high)
        if is_more and _is_steady(channel, replace(branch, drive_voltage_v=volts)):
            resized = channel_patch(channel, resistor_ohm=None)
            yield Move(label=f"Take {offered(part.label)}", patch=join_patches([patch, resized]))
            return


def _harms(design: Design, rail: RailDesign, most_v: float) -> bool:
    """Tell whether more volts on a rail would reach something else over a wire that was settled as straight."""
    return any(
        way.sender.rail_id == rail.id
        and way.sent.value == rail.voltage.value
        and (way.receiver.logic is None or way.receiver.logic.value != rail.voltage.value)
        and (way.school.id, way.school.origin) == ("direct", "own")
        and way.limit.value is not None
        and way.limit.value < most_v
        for way in design.levels
    )


RULES: Final = (
    Rule(
        "LED-HEADROOM",
        "lamp",
        led_has_headroom,
        "drive, its source loaded, at or below the lowest forward voltage",
        "under 0.5 V left for the resistor, or a worst-case current spread over 5 : 1",
        "common practice, no source",
    ),
)
