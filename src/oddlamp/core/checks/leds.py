"""Rules for LEDs: never over, enough headroom, and what a pin may give."""

import math
from collections.abc import Iterator
from dataclasses import replace

from oddlamp.core.base import Working, offered, si
from oddlamp.core.design import ChannelDesign, Design, RailDesign
from oddlamp.core.electrical.led import RATINGS_W, LedBranch, Spread, led_point, size_led_resistor
from oddlamp.core.electrical.preferred import FLOAT_SLACK, Series, neighbour, next_preferred
from oddlamp.core.findings import Breach, Move, Severity
from oddlamp.core.plan.document import at_path, join_patches

HEADROOM_LOOK_V = 0.5
SPREAD_LOOK_RATIO = 3.0
RAIL_MOST_V = 5.5  # what stands on a 5 V rail can stand this much; from memory
UNDER_LOOK_RATIO = 0.5
BALANCE_LOOK_RATIO = 1.2
BALANCE_GOOD_RATIO = 1.1  # nobody sees less; common practice
BALANCE_STEPS_MOST = 40
GHOST_LOOK_A = 2e-5  # 20 uA shows in the dark; common practice


def channel_patch(channel: ChannelDesign, **fields: object) -> dict[str, object]:
    """Build a merge patch for one channel of a lamp."""
    return {"lamps": {channel.lamp_id: {"channels": {channel.id: fields}}}}


def _over(current_a: float, limit_a: float) -> bool:
    return current_a > limit_a * (1 + FLOAT_SLACK)


def led_current_within_limit(design: Design) -> Iterator[Breach]:
    """An LED gets no more than is wanted, and never more than it can stand."""
    for lamp in design.lamps.values():
        for channel in lamp.channels:
            if channel.point is None or channel.sharing == "one":
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
            clear = next((move.label for move in reversed(tuple(_resistor_fixes(channel)))), "")
            if clear:
                message += f" Clear from {clear.removeprefix('Fit ')} up."
            limit = Working(
                formula="I_F ≤ I_wanted, and at worst ≤ I_max",
                substituted=f"{si(wanted_a, 'A')} wanted, {si(limit_a, 'A')} at most",
                source=channel.limit.source,
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
    if channel.branch is None or channel.branch.left_v <= 0:
        return
    best = size_led_resistor(channel.branch, wanted_current_a=channel.wanted.known).resistance_ohm
    worst = replace(
        channel.branch,
        drive_voltage_v=_flat(channel.branch.drive_voltage_v.most),
        forward_voltage_v=_flat(channel.branch.forward_voltage_v.least),
        driver_drop_v=_flat(channel.branch.driver_drop_v.least),
    )
    safe = size_led_resistor(worst, wanted_current_a=channel.limit.known * (1 - channel.branch.tolerance_ratio)).resistance_ohm
    # What only brings the nominal current down leaves a look, which is better than a stop and no better than a look.
    is_stop = channel.point is not None and _over(channel.point.current_a.value, channel.limit.known)
    for value in dict.fromkeys((*((best,) if is_stop else ()), max(best, safe))):
        if value > channel.resistor.known:
            yield Move(label=f"Fit {si(value, 'ohm')}", patch=channel_patch(channel, resistor_ohm=value))


def _flat(value: float) -> Spread:
    return Spread(least=value, value=value, most=value)


def led_has_headroom(design: Design) -> Iterator[Breach]:
    """The resistor has enough volts left to set the current, with the source loaded."""
    for lamp in design.lamps.values():
        for channel in lamp.channels:
            if lamp.open_because is not None or channel.branch is None:
                continue
            branch = channel.branch
            drive, forward = branch.drive_voltage_v, branch.forward_voltage_v
            sag_v = _source_ohm(design, channel) * channel.wanted.known * channel.in_parallel
            kept_v = branch.driver_drop_v.value
            loaded_v, left_v, name = drive.value - sag_v, branch.left_v, _name(lamp.label, channel)
            severity: Severity = "look"
            ratio = channel.point.spread_ratio if channel.point else None
            shared = channel.sharing == "one"
            if loaded_v - forward.least - branch.driver_drop_v.least <= FLOAT_SLACK:
                severity = "stop"
                sagged = f" under load ({si(drive.value, 'V')} without)" if sag_v > FLOAT_SLACK else ""
                message = (
                    f"{name} needs at least {si(forward.least, 'V')} and gets {si(loaded_v, 'V')}{sagged}: it may not light."
                )
            elif left_v < HEADROOM_LOOK_V - FLOAT_SLACK:
                lights = (
                    f" By its curve {channel.current.text} flows, {channel.current.spread_text} at worst."
                    if channel.point and channel.point.is_by_curve
                    else ""
                )
                message = f"{name} leaves {si(max(left_v, 0), 'V')} for its resistor: too little to set the current.{lights}"
            elif not shared and (ratio is None or ratio > SPREAD_LOOK_RATIO):
                spread = f"{ratio:.1f} : 1" if ratio else "down to nothing"
                message = f"{name} may be anything from dim to bright: its current can spread {spread}."
            else:
                continue
            put_in = f"{si(drive.value, 'V')} − {si(forward.value, 'V')} = {si(drive.value - forward.value, 'V')}"
            put_in += f" − {si(kept_v, 'V')} in the switch" if kept_v else ""
            put_in += f" − {si(sag_v, 'V')} in the source" if sag_v > FLOAT_SLACK else ""
            put_in += f"; {channel.current.spread_text or 'no current to state'}"
            yield Breach(
                severity=severity,
                where=channel.signal_id,
                stage=lamp.stage,
                message=message,
                fixes=tuple(_headroom_fixes(design, channel, severity)),
                working=(
                    Working(
                        formula="headroom = V_S − V_F, wanted 0.5 V or more and a spread under 3 : 1",
                        substituted=put_in,
                        source="common-practice",
                    ),
                ),
                numbers={"missing_headroom_v": HEADROOM_LOOK_V - left_v},
            )


def _source_ohm(design: Design, channel: ChannelDesign) -> float:
    """Return the resistance of the source behind a channel, ohm; what the pin itself adds is not the source's."""
    lamp = design.lamps[channel.lamp_id]
    host = design.nodes[lamp.host]
    is_from_pin = lamp.school is not None and lamp.school.id == "pin" and not channel.is_inverted
    if is_from_pin and host.part is not None and host.part.logic_voltage_v is not None and host.logic is not None:
        # A regulator makes the pin's volts, unless its own supply is already under them.
        fed = design.rails.get(host.rail_id or "")
        if fed is None or fed.voltage.value is None or fed.voltage.value >= host.part.logic_voltage_v.value:
            return 0.0
    rail = design.rails.get((host.rail_id if is_from_pin else lamp.rail_id) or "")
    return rail.resistance.known if rail and rail.resistance and rail.resistance.value is not None else 0.0


def _headroom_fixes(design: Design, channel: ChannelDesign, severity: Severity) -> Iterator[Move]:
    """Offer a better supply, and the colour that leaves most: one that clears the verdict, or at least takes a stop away."""
    yield from _better_supply(design, channel)
    branch = channel.branch
    if branch is None:
        return
    sag_v = _source_ohm(design, channel) * channel.wanted.known * channel.in_parallel
    for led in sorted(design.catalog.leds.values(), key=lambda it: it.forward_voltage_v.value):
        if channel.id != "main" or led.caution is not None or led.forward_voltage_v.value >= channel.led.forward_voltage_v.value:
            continue  # a colour of several is there for its colour
        volts = led.forward_voltage_v
        n = channel.in_series
        forward = Spread(least=n * volts.low, value=n * volts.value, most=n * volts.high)
        is_lit = severity == "stop" and branch.left_v + branch.forward_voltage_v.value - forward.value - sag_v >= HEADROOM_LOOK_V
        if is_lit or _is_steady(channel, replace(branch, forward_voltage_v=forward)):
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
    for part in sorted(design.catalog.sources.values(), key=lambda it: (it.voltage_v.value, -it.voltage_v.low)):
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
        for way in (*design.crossings.values(), *design.leads.values())
    )


def led_gets_enough(design: Design) -> Iterator[Breach]:
    """A settled resistor leaves at least half of what is wanted."""
    for lamp in design.lamps.values():
        for channel in lamp.channels:
            if channel.point is None or channel.resistor.origin == "proposed" or channel.branch is None:
                continue
            current, wanted_a = channel.point.current_a.value, channel.wanted.known
            if current >= UNDER_LOOK_RATIO * wanted_a or channel.branch.left_v < HEADROOM_LOOK_V:
                continue
            put_in = f"{si(current, 'A')} of {si(wanted_a, 'A')} wanted"
            best = size_led_resistor(channel.branch, wanted_current_a=wanted_a).resistance_ohm
            yield Breach(
                severity="look",
                where=channel.signal_id,
                stage=lamp.stage,
                message=f"{_name(lamp.label, channel)} gets {si(current, 'A')}, under half of the {si(wanted_a, 'A')} wanted.",
                working=(Working(formula="I_F ≥ I_wanted / 2", substituted=put_in, source="common-practice"),),
                fixes=(
                    Move(label=f"Fit {si(best, 'ohm')}", patch=channel_patch(channel, resistor_ohm=best)),
                    Move(label=f"Want {si(current, 'A')}", patch=channel_patch(channel, wanted_current_a=current)),
                ),
                numbers={"missing_a": wanted_a - current},
            )


def leds_have_their_own_resistors(design: Design) -> Iterator[Breach]:
    """LEDs side by side have a resistor each."""
    for lamp in design.lamps.values():
        for channel in lamp.channels:
            if channel.sharing != "one" or channel.point is None:
                continue
            current = channel.point.current_a
            put_in = f"{si(current.value, 'A')} each if all were alike; up to {si(current.most, 'A')} through the one with the least drop"
            yield Breach(
                severity="look",
                where=channel.signal_id,
                stage=lamp.stage,
                message=f"{_name(lamp.label, channel)}: {channel.in_parallel} LEDs share one resistor. The one with the least drop takes most, up to {si(current.most, 'A')}.",
                working=(Working(formula="I_R divides by the LEDs' own curves", substituted=put_in, source="common-practice"),),
                fixes=(
                    Move(label="Give each its own resistor", patch=channel_patch(channel, sharing="each", resistor_ohm=None)),
                ),
                numbers={"worst_current_a": current.most},
            )


def resistor_stays_cool(design: Design) -> Iterator[Breach]:
    """A resistor dissipates no more than half of its rating."""
    rating = design.catalog.resistors[design.catalog.proposals["resistor"].part or ""].rating_w
    for lamp in design.lamps.values():
        for channel in lamp.channels:
            if channel.point is None:
                continue
            power_w = channel.point.resistor_power_w
            if 2 * power_w <= rating.value * (1 + FLOAT_SLACK):
                continue
            needs = next((it for it in RATINGS_W if it >= 2 * power_w), None)
            take = f"Take one rated {si(needs, 'W')}." if needs else "No usual resistor takes that."
            put_in = f"2 · {si(power_w, 'W', digits=2)} = {si(2 * power_w, 'W', digits=2)} of {si(rating.value, 'W')}"
            count = channel.in_parallel if channel.sharing == "one" else 1
            left_v = max(channel.branch.left_v, FLOAT_SLACK) if channel.branch else 1.0
            cool_a = float(f"{0.9 * rating.value / 2 / left_v / count:.2g}")
            yield Breach(
                severity="stop" if power_w > rating.value else "look",
                where=channel.signal_id,
                stage=lamp.stage,
                message=f"The resistor of {lamp.label} turns {si(power_w, 'W', digits=2)} into heat; a usual one is rated {si(rating.value, 'W')}. {take}",
                working=(Working(formula="2 I² R ≤ rating", substituted=put_in, source=rating.source),),
                fixes=(
                    Move(
                        label=f"Aim for {si(cool_a, 'A')}",
                        patch=channel_patch(channel, wanted_current_a=cool_a, resistor_ohm=None),
                    ),
                ),
                numbers={"power_w": power_w},
            )


def colours_are_balanced(design: Design) -> Iterator[Breach]:
    """The colours of one lamp get like currents where like currents are wanted."""
    for lamp in design.lamps.values():
        points = [(channel, channel.point) for channel in lamp.channels if channel.point is not None]
        if len(points) < 2:
            continue
        shares = [point.current_a.value / channel.wanted.known for channel, point in points]
        if min(shares) <= 0 or max(shares) / min(shares) <= BALANCE_LOOK_RATIO:
            continue
        told = " / ".join(channel.current.text for channel, _ in points)
        found = _balanced([channel for channel, _ in points], min(shares), design.series)
        values = ", ".join(si(ohm, "ohm") for ohm in found)
        fitted = {channel.id: {"resistor_ohm": ohm} for (channel, _), ohm in zip(points, found, strict=False)}
        balance = Move(label=f"Balance with {values}", patch=at_path(("lamps", lamp.id, "channels"), fitted))
        yield Breach(
            severity="look",
            where=lamp.id,
            stage=lamp.stage,
            message=f"{lamp.label}'s colours get {told}: their drops differ, so like resistors give unlike light.",
            working=(
                Working(
                    formula="largest share of what is wanted / smallest ≤ 1.2",
                    substituted=f"{max(shares):.2f} / {min(shares):.2f} = {max(shares) / min(shares):.2f}",
                    source="common-practice",
                ),
            ),
            fixes=(balance,) if found else (),
            numbers={"ratio": max(shares) / min(shares)},
        )


def _balanced(channels: list[ChannelDesign], share: float, series: Series) -> tuple[float, ...]:
    """Return resistors that give every colour a like share of what it wants, near the share of the dimmest and none over.

    Where the steps of the series are too coarse for that, the finer E24.
    """
    options = []
    for channel in channels:
        if channel.branch is None or channel.branch.left_v <= 0:
            return ()
        whole_ohm = channel.branch.left_v / channel.branch.on_one_resistor / channel.wanted.known  # gives all that is wanted
        ohm = next_preferred(whole_ohm / min(1.0, share * BALANCE_LOOK_RATIO), series)
        row = [(ohm, whole_ohm / ohm)]
        while row[-1][1] > share / BALANCE_LOOK_RATIO and len(row) < BALANCE_STEPS_MOST:
            ohm = neighbour(ohm, 1, series)
            row.append((ohm, whole_ohm / ohm))
        options.append(row)
    picks = [[min(row, key=lambda it: abs(math.log(it[1] / target))) for row in options] for row in options for _, target in row]

    def worth(pick: list[tuple[float, float]]) -> tuple[float, float]:
        got = [gives for _, gives in pick]
        return max(max(got) / min(got), BALANCE_GOOD_RATIO), abs(math.log(min(got) / share))

    best = min(picks, key=worth)
    if worth(best)[0] > BALANCE_LOOK_RATIO and series != "E24":
        return _balanced(channels, share, "E24")
    return tuple(ohm for ohm, _ in best)


def off_lamps_are_dark(design: Design) -> Iterator[Breach]:
    """A lamp on a rail above its pin goes dark when the pin is high."""
    for lamp in design.lamps.values():
        for channel in lamp.channels:
            if channel.ghost is None or channel.ghost.value is None or channel.ghost.value <= GHOST_LOOK_A:
                continue
            host = design.nodes[lamp.host]
            same = next(
                (rail for rail in design.rails.values() if host.logic and rail.voltage.value == host.logic.value and rail.end == host.end),
                None,
            )  # fmt: skip
            fixes = [Move(label="Put a MOSFET in each colour", patch=at_path(("lamps", lamp.id, "drive"), {"school": "mosfet"}))]
            if same is not None:
                fixes.append(
                    Move(label=f"Feed the common leg from {same.label}", patch=at_path(("lamps", lamp.id, "rail"), same.id))
                )
            yield Breach(
                severity="look",
                where=channel.signal_id,
                stage=lamp.stage,
                message=f"{_name(lamp.label, channel)} still glows when off: {channel.ghost.text} flows, because its rail stands above its pin.",
                working=channel.ghost.working,
                fixes=tuple(fixes),
                numbers={"ghost_a": channel.ghost.value},
            )


def common_leg_fits(design: Design) -> Iterator[Breach]:
    """A common leg goes to the rail that its drive needs."""
    for lamp in design.lamps.values():
        if lamp.common is None or lamp.school is None or lamp.school.id == "pin" or lamp.common.id == "anode":
            continue
        yield Breach(
            severity="stop",
            where=lamp.id,
            stage=lamp.stage,
            message=f"{lamp.label} has its common leg at ground, and its switches pull to ground: it never lights.",
            working=(
                Working(
                    formula="a switch to ground wants the common leg at plus",
                    substituted="common: cathode",
                    source="common-practice",
                ),
            ),
            fixes=(
                Move(label="Make it a common anode", patch=at_path(("lamps", lamp.id, "common"), "anode")),
                Move(label="Drive it straight from the pins", patch=at_path(("lamps", lamp.id, "drive"), {"school": "pin"})),
            ),
            numbers={"legs": 1},
        )


def eyes_are_warned(design: Design) -> Iterator[Breach]:
    """Light that hurts before it looks bright is named."""
    for lamp in design.lamps.values():
        cautions = {channel.led.caution: channel.led for channel in lamp.channels if channel.led.caution}
        for kind, led in cautions.items():
            told = (
                "Infra-red is not seen: do not stare into it, and keep it away from faces."
                if kind == "infra-red"
                else "Ultraviolet looks dim and still harms: shield eyes and skin."
            )
            yield Breach(
                severity="look",
                where=lamp.id,
                stage=lamp.stage,
                message=f"{lamp.label}: {told}",
                working=(Working(formula="caution by kind of light", substituted=led.label, source="common-practice"),),
                numbers={"lamps": 1},
            )


def _name(label: str, channel: ChannelDesign) -> str:
    return label if channel.id == "main" else f"{label}, {channel.id},"
