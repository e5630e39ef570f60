"""Rules for LEDs: never over, enough for each, resistors that stay cool, colours that balance, dark when off."""

import math
from collections.abc import Iterator
from dataclasses import replace
from typing import Final

from oddlamp.core.base import Working, si
from oddlamp.core.checks.findings import Breach, Move, Rule
from oddlamp.core.checks.levels import rail_above_ways
from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import ChannelDesign
from oddlamp.core.electrical.led import RATINGS_W, Spread, size_led_resistor
from oddlamp.core.electrical.preferred import FLOAT_SLACK, Series, neighbour, next_preferred
from oddlamp.core.plan.document import at_path
from oddlamp.core.resolve.judge_lamps import HEADROOM_LOOK_V, over

UNDER_LOOK_RATIO = 0.5
BALANCE_LOOK_RATIO = 1.2
BALANCE_GOOD_RATIO = 1.1  # nobody sees less; common practice
BALANCE_STEPS_MOST = 40
GHOST_LOOK_A = 2e-5  # 20 uA shows in the dark; common practice


def name_of(label: str, channel: ChannelDesign) -> str:
    """Name a channel as it reads at the head of a sentence."""
    return label if channel.id == "main" else f"{label}, {channel.id},"


def channel_patch(channel: ChannelDesign, **fields: object) -> dict[str, object]:
    """Build a merge patch for one channel of a lamp."""
    return {"lamps": {channel.lamp_id: {"channels": {channel.id: fields}}}}


def led_current_within_limit(design: Design) -> Iterator[Breach]:
    """An LED gets no more than is wanted, and never more than it can stand."""
    for lamp in design.lamps.values():
        for channel in lamp.channels:
            it = design.passages[channel.signal_id].found("LED-OVER")
            if it is None or channel.point is None:
                continue
            current, limit_a, wanted_a = channel.point.current_a, channel.limit.known, channel.wanted.known
            name, severity = name_of(lamp.label, channel), it.severity
            gets = si(current.value, "A")
            # The head of the sheet tells what flows with the pin's own resistance; a resistor is judged without that help.
            who = f"{name} gets" if channel.current_with_pin.text == gets else f"By its resistor alone {name} gets"
            if it.case == "limit":
                message = f"{who} {gets}. It can stand {si(limit_a, 'A')}."
            elif it.case == "wanted":
                message = f"{who} {gets}, more than the {si(wanted_a, 'A')} wanted."
            else:
                message = f"At worst {name} gets {si(current.most, 'A')}. It can stand {si(limit_a, 'A')}."
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
    is_stop = channel.point is not None and over(channel.point.current_a.value, channel.limit.known)
    for value in dict.fromkeys((*((best,) if is_stop else ()), max(best, safe))):
        if value > channel.resistor.known:
            yield Move(label=f"Fit {si(value, 'ohm')}", patch=channel_patch(channel, resistor_ohm=value))


def _flat(value: float) -> Spread:
    return Spread(least=value, value=value, most=value)


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
                message=f"{name_of(lamp.label, channel)} gets {si(current, 'A')}, under half of the {si(wanted_a, 'A')} wanted.",
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
                message=f"{name_of(lamp.label, channel)}: {channel.in_parallel} LEDs share one resistor. The one with the least drop takes most, up to {si(current.most, 'A')}.",
                working=(Working(formula="I_R divides by the LEDs' own curves", substituted=put_in, source="common-practice"),),
                fixes=(
                    Move(label="Give each its own resistor", patch=channel_patch(channel, sharing="each", resistor_ohm=None)),
                ),
                numbers={"worst_current_a": current.most},
            )


def resistor_stays_cool(design: Design) -> Iterator[Breach]:
    """A resistor dissipates no more than half of its rating."""
    for lamp in design.lamps.values():
        for channel in lamp.channels:
            if channel.point is None or channel.rating.value is None:
                continue
            power_w, rating_w = channel.point.resistor_power_w, channel.rating.value
            if 2 * power_w <= rating_w * (1 + FLOAT_SLACK):
                continue
            put_in = f"2 · {si(power_w, 'W')} = {si(2 * power_w, 'W')} of {si(rating_w, 'W')}"
            yield Breach(
                severity="stop" if power_w > rating_w else "look",
                where=channel.signal_id,
                stage=lamp.stage,
                message=f"The resistor of {lamp.label} turns {si(power_w, 'W')} into heat; it is rated {si(rating_w, 'W')}, and should be rated twice its heat.",
                working=(Working(formula="2 I² R ≤ rating", substituted=put_in, source="common-practice"),),
                fixes=tuple(_cooler(channel, power_w)),
                numbers={"power_w": power_w},
            )


def _cooler(channel: ChannelDesign, power_w: float) -> Iterator[Move]:
    """Offer the next rating, and a current that the usual one can take."""
    needed_w = next((it for it in RATINGS_W if it >= 2 * power_w), None)
    if needed_w is not None:
        yield Move(label=f"Take one rated {si(needed_w, 'W')}", patch=channel_patch(channel, rating_w=needed_w))
    count = channel.in_parallel if channel.sharing == "one" else 1
    left_v = max(channel.branch.left_v, FLOAT_SLACK) if channel.branch else 1.0
    cool_a = float(f"{0.9 * channel.rating.known / 2 / left_v / count:.2g}")
    if cool_a < channel.wanted.known:
        patch = channel_patch(channel, wanted_current_a=cool_a, resistor_ohm=None)
        yield Move(label=f"Aim for {si(cool_a, 'A')}", patch=patch)
    elif channel.resistor.origin == "own":
        patch = channel_patch(channel, rating_w=None, resistor_ohm=None)
        yield Move(label=f"Size it anew, for {channel.wanted.text}", patch=patch)


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
            yield Breach(
                severity="look",
                where=channel.signal_id,
                stage=lamp.stage,
                message=f"{name_of(lamp.label, channel)} still glows when off: {channel.ghost.text} flows, because its rail stands above its pin.",
                working=channel.ghost.working,
                fixes=rail_above_ways(design, lamp.id),
                numbers={"ghost_a": channel.ghost.value},
            )


def common_leg_fits(design: Design) -> Iterator[Breach]:
    """A common leg goes to the rail that its drive needs."""
    for lamp in design.lamps.values() if "LED-POLARITY" in design.met else ():
        it = next((found for passage in design.passages_of(lamp) if (found := passage.found("LED-POLARITY"))), None)
        if it is None:
            continue
        yield Breach(
            severity=it.severity,
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


RULES: Final = (
    Rule(
        "LED-OVER",
        "lamp",
        led_current_within_limit,
        "nominal current over the LED's absolute limit",
        "nominal current over what is wanted, or the worst-case current over the absolute limit",
        "Ohm's law; limits of the LED part, from memory until measured or overridden",
    ),
    Rule(
        "LED-UNDER",
        "lamp",
        led_gets_enough,
        "",
        "a settled resistor leaves under half of the wanted current, with 0.5 V or more of headroom",
        "common practice, no source",
    ),
    Rule(
        "LED-SHARED-R",
        "lamp",
        leds_have_their_own_resistors,
        "",
        "LEDs side by side on one resistor",
        "common practice, no source",
    ),
    Rule(
        "LED-POWER",
        "lamp",
        resistor_stays_cool,
        "the resistor dissipates more than its rating (proposed: at least twice its heat)",
        "it dissipates more than half of its rating",
        "P = I^2 R; derating by 2, common practice",
    ),
    Rule(
        "LED-RGB-UNBALANCED",
        "lamp",
        colours_are_balanced,
        "",
        "shares of the wanted current differ by more than 1.2 : 1 between colours",
        "common practice, no source",
    ),
    Rule(
        "LED-POLARITY", "lamp", common_leg_fits, "a common leg at ground with switches that pull to ground", "", "common practice"
    ),
    Rule(
        "LED-GHOST",
        "lamp",
        off_lamps_are_dark,
        "",
        "over 20 uA by the diode curve through an off lamp whose rail stands above its pin",
        "diode equation; 20 uA, common practice",
    ),
    Rule("EYE-CAUTION", "lamp", eyes_are_warned, "", "infra-red or ultraviolet light", "common practice"),
)
