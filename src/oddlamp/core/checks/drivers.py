"""Rules for what stands between pin and lamp: what pins give, and transistors that are driven fully."""

from collections.abc import Iterator
from functools import partial
from typing import Final

from oddlamp.core.base import Working, at_most, si
from oddlamp.core.checks.fewer import that_clear
from oddlamp.core.checks.findings import Breach, Move, Rule
from oddlamp.core.checks.levels import told
from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import ChannelDesign, LampDesign, SwitchDesign
from oddlamp.core.design.lines import PinLoad
from oddlamp.core.design.passages import Obstacle
from oddlamp.core.design.values import Value
from oddlamp.core.electrical.drivers import FORCED_GAIN, FORCED_GAIN_MOST
from oddlamp.core.electrical.led import led_point
from oddlamp.core.electrical.preferred import neighbour, next_preferred
from oddlamp.core.english import inner
from oddlamp.core.parts.sourced import Sourced
from oddlamp.core.plan.document import at_path
from oddlamp.core.resolve.judge_lamps import over
from oddlamp.core.resolve.switches import SIZED_ANEW, ease, is_enough

RESISTORS_TRIED = 100


def with_mosfet(lamp: LampDesign) -> Move:
    """Offer to drive a lamp through a MOSFET."""
    return Move(label="Put a MOSFET between", patch=at_path(("lamps", lamp.id, "drive"), {"school": "mosfet", "choice": None}))


def pin_gives_enough(design: Design) -> Iterator[Breach]:
    """A pin carries no more than is recommended, and never more than its absolute limit."""
    yield from sender_carries(design)
    for lamp in design.lamps.values() if "PIN-CURRENT" in design.met else ():
        part = design.nodes[lamp.host].part
        for load in design.loads(lamp):
            it = design.passages[load.signal_id].found("PIN-CURRENT")
            if it is None or part is None:
                continue
            usual, absolute, severity = part.pin_recommended_a, part.pin_absolute_a, it.severity
            limit = usual if it.case == "usual" or absolute is None else absolute
            asked_a = load.most_a if it.case == "worst" else load.nominal_a
            put_in = f"{si(load.nominal_a, 'A')}, at most {si(load.most_a, 'A')}; {si(usual.value, 'A')} recommended"
            put_in += f", {si(absolute.value, 'A')} absolute" if absolute else ""
            yield Breach(
                severity=severity,
                where=load.signal_id,
                stage=lamp.stage,
                message=f"{design.signals[load.signal_id].line.name} asks {si(asked_a, 'A')} of a pin that gives {si(limit.value, 'A')}.",
                working=(Working(formula="I_pin = n · I_F", substituted=put_in, source=limit.source),),
                ways=partial(_less, design, lamp, load, usual, absolute),
                numbers={"pin_current_a": load.nominal_a, "worst_pin_current_a": load.most_a},
            )


def sender_carries(design: Design) -> Iterator[Breach]:
    """What a level shift hangs on a pin is no more than the pin should carry."""
    for level, it in told(design, "PIN-CURRENT"):
        part, carried = level.sender.part, level.carried
        if part is None or not carried.value:
            continue
        usual, absolute = part.pin_recommended_a, part.pin_absolute_a
        limit = absolute if absolute is not None and (it.severity == "stop" or not over(carried.value, usual.value)) else usual
        put_in = f"{carried.text}, at most {si(carried.high, 'A', digits=2)}; {si(usual.value, 'A')} recommended"
        usual_parts = at_path(
            level.line.path, {"shift": {"values": None}, **({"pull_ohm": None, "pull_to": None} if level.pull else {})}
        )
        yield Breach(
            severity=it.severity,
            where=level.id,
            stage=level.stage,
            message=f"The resistors of this line ask {carried.text} of the {inner(level.sender.label)}'s pin, which gives {si(limit.value, 'A')}.",
            working=(*carried.working, Working(formula="I_pin ≤ I_recommended", substituted=put_in, source=limit.source)),
            ways=partial(
                that_clear, design, "PIN-CURRENT", level.id, (Move(label="Take the usual resistors", patch=usual_parts),)
            ),
            numbers={"pin_current_a": carried.value, "worst_pin_current_a": carried.high},
        )


def _less(design: Design, lamp: LampDesign, load: PinLoad, usual: Sourced, absolute: Sourced | None) -> Iterator[Move]:
    channel = next((it for it in lamp.channels if it.signal_id == load.signal_id), None)
    switch = channel.switch if channel is not None else lamp.switch
    if switch is not None:
        yield from _less_base(design, lamp, switch, usual.value)
        yield from _other_switches(design, lamp, switch, "mosfet")
    elif channel is not None:
        each_a = at_most(usual.value / channel.in_parallel)
        path = ("lamps", lamp.id, "channels", channel.id)
        has_room = channel.branch is not None and channel.branch.left_v > 0
        # Sized for so little already, with no more headroom than the curve eats up, another aim changes nothing.
        is_own = channel.resistor.origin == "own" and over(load.nominal_a, usual.value)
        if has_room and (each_a < channel.wanted.known or is_own):
            patch = at_path(path, {"wanted_current_a": each_a, "resistor_ohm": None})
            yield Move(label=f"Aim for {si(each_a, 'A')} each", patch=patch)
        else:
            ohm = _steadying_ohm(channel, usual.value, absolute.value if absolute else None)
            if ohm is not None:
                yield Move(label=f"Fit {si(ohm, 'ohm')}", patch=at_path((*path, "resistor_ohm"), ohm))
        if lamp.kind == "led":
            yield with_mosfet(lamp)
    elif lamp.kind in ("led", "rgb", "buzzer"):
        yield with_mosfet(lamp)


def _steadying_ohm(channel: ChannelDesign, usual_a: float, absolute_a: float | None) -> float | None:
    """Return the least resistor that keeps a pin at its usual current, and under its limit at worst; little headroom needs it."""
    if channel.branch is None or channel.resistor.value is None:
        return None
    ohm = channel.resistor.value
    for _ in range(RESISTORS_TRIED):
        ohm = neighbour(ohm, 1, channel.branch.series)
        current = led_point(channel.branch, resistance_ohm=ohm, wanted_current_a=channel.wanted.known).current_a
        most_a = current.most * (1 if channel.branch.is_shared else channel.in_parallel)
        is_under = absolute_a is None or not over(most_a, absolute_a)
        if is_under and not over(current.value * channel.in_parallel, usual_a):
            return ohm
    return None


def _less_base(design: Design, lamp: LampDesign, switch: SwitchDesign, usual_a: float) -> Iterator[Move]:
    """Offer a larger base resistor while it still gives the base a twentieth of the load's current."""
    logic, base_emitter_v = design.nodes[lamp.host].logic, switch.part.base_emitter_v
    if switch.base is None or logic is None or logic.value is None or base_emitter_v is None:
        return
    left_v = logic.value - base_emitter_v.value
    ohm = next_preferred(left_v / usual_a, design.series)
    if switch.load.known <= FORCED_GAIN_MOST * left_v / ohm:
        values = {"school": "npn", "values": {"base_ohm": ohm}}
        yield Move(label=f"Fit {si(ohm, 'ohm')} in the base", patch=at_path(("lamps", lamp.id, "drive"), values))


def _switches(design: Design) -> Iterator[tuple[LampDesign, str, SwitchDesign]]:
    for lamp in design.lamps.values():
        if lamp.switch is not None:
            yield lamp, f"{lamp.id}.main", lamp.switch
        for channel in lamp.channels:
            if channel.switch is not None:
                yield lamp, channel.signal_id, channel.switch


def _driven(design: Design, code: str) -> Iterator[tuple[LampDesign, str, SwitchDesign | None, Obstacle]]:
    """Walk the switches that have an obstacle of a code, once a line."""
    for lamp in design.lamps.values() if code in design.met else ():
        for signal in design.lamp_signals(lamp):
            it = design.passages[signal.line.id].found(code)
            if it is not None:
                channel = next((channel for channel in lamp.channels if channel.signal_id == signal.line.id), None)
                yield lamp, signal.line.id, channel.switch if channel is not None else lamp.switch, it


def _carries_too_much(design: Design, lamp: LampDesign, where: str, switch: SwitchDesign) -> Breach:
    most, symbol = switch.part.current_most_a, "I_C" if switch.base is not None else "I_D"
    put_in = f"{switch.load.text} > {si(most.value, 'A')}"
    return Breach(
        severity="stop",
        where=where,
        stage=lamp.stage,
        message=f"{lamp.label} takes {switch.load.text}; the {inner(switch.part.label)} carries {si(most.value, 'A')}.",
        working=(Working(formula=f"{symbol} ≤ {symbol},max", substituted=put_in, source=most.source),),
        ways=partial(_other_switches, design, lamp, switch),
        numbers={"current_a": switch.load.known},
    )


def base_gets_enough(design: Design) -> Iterator[Breach]:
    """An NPN gets enough base current to be surely on, and carries what its load takes."""
    for lamp, where, switch, it in _driven(design, "DRV-BASE"):
        if switch is None or switch.base is None:
            yield Breach(
                severity=it.severity,
                where=where,
                stage=lamp.stage,
                message=f"{lamp.label}'s transistor is never on: {it.because}.",
                working=(Working(formula="V_pin > V_BE", substituted=it.because, source="horowitz-hill"),),
                fixes=(with_mosfet(lamp),),
                numbers={"bases": 1},
            )
        elif it.case == "carries":
            yield _carries_too_much(design, lamp, where, switch)
        else:
            base = switch.base
            better = neighbour(base.exact_ohm * (1 + 1e-6), -1, design.series)
            fixed = {"school": "npn", "values": {"base_ohm": better}}
            yield Breach(
                severity=it.severity,
                where=where,
                stage=lamp.stage,
                message=f"The base of {lamp.label}'s transistor gets {si(base.base_current_a, 'A')} for {switch.load.text}: one part in {base.forced_gain:.0f}, and {FORCED_GAIN_MOST:.0f} at most keeps it surely on.",
                working=base.working,
                fixes=(
                    Move(
                        label=f"Fit {si(better, 'ohm')} (one part in {FORCED_GAIN:.0f})",
                        patch=at_path(("lamps", lamp.id, "drive"), fixed),
                    ),
                ),
                numbers={"forced_gain": base.forced_gain},
            )


def gate_gets_enough(design: Design) -> Iterator[Breach]:
    """A MOSFET's resistance is specified at or below the gate volts there are; the threshold is no drive level."""
    for lamp, where, switch, it in _driven(design, "DRV-GATE-LEVEL"):
        if switch is None or switch.gate is None:
            continue
        part, gate, specified = switch.part, switch.gate, switch.part.gate_specified_v
        if it.case == "carries" or specified is None:
            yield _carries_too_much(design, lamp, where, switch)
            continue
        threshold = f" It barely starts at {si(part.gate_threshold_v.value, 'V')}." if part.gate_threshold_v else ""
        seen = gate.text if it.severity == "stop" else f"at worst {si(gate.low, 'V')}"
        yield Breach(
            severity=it.severity,
            where=where,
            stage=lamp.stage,
            message=f"The gate of {lamp.label}'s MOSFET gets {seen}; its resistance is specified at {si(specified.value, 'V')}.{threshold}",
            working=(
                *gate.working,
                Working(
                    formula="V_GS ≥ the volts R_DS(on) is specified at",
                    substituted=f"{gate.text} against {si(specified.value, 'V')}",
                    source=specified.source,
                ),
            ),
            ways=partial(_other_switches, design, lamp, switch),
            numbers={"missing_v": specified.value - gate.known},
        )


def gate_is_held(design: Design) -> Iterator[Breach]:
    """A gate is held off while its pin floats at start-up."""
    for lamp, where, switch in _switches(design):
        if switch.gate is not None and not switch.has_pull_down:
            patch = at_path(("lamps", lamp.id, "drive"), {"school": "mosfet", "values": {"has_pull_down": True}})
            yield Breach(
                severity="look",
                where=where,
                stage=lamp.stage,
                message=f"Nothing holds the gate of {lamp.label}'s MOSFET while the board starts: it may flash or glow.",
                working=(
                    Working(
                        formula="a pin floats until the program makes it an output",
                        substituted="no resistor from gate to ground",
                        source="common-practice",
                    ),
                ),
                fixes=(Move(label="Put 100 kΩ from gate to ground", patch=patch),),
                numbers={"gates": 1},
            )


def switch_blocks(design: Design) -> Iterator[Breach]:
    """What switches a load blocks its rail while it is off."""
    for lamp, where, switch in _switches(design):
        obstacles = design.passages[where].obstacles
        it = next((it for it in obstacles if (it.code, it.case) == ("DRV-VOLTS", "blocks")), None)
        rail, blocks = _stands_at(lamp), switch.part.blocks_v
        if it is None or rail is None or blocks is None:
            continue
        seen = rail.text if it.severity == "stop" else f"up to {si(rail.high, 'V')}"
        yield Breach(
            severity=it.severity,
            where=f"{where}.switch",
            stage=lamp.stage,
            message=f"While {lamp.label} is off its transistor stands {seen}; this one blocks {si(blocks.value, 'V')}.",
            working=(
                Working(
                    formula="V_CE or V_DS while off = V_rail",
                    substituted=f"{rail.spread_text or rail.text} against {si(blocks.value, 'V')}",
                    source=blocks.source,
                ),
            ),
            ways=partial(_other_switches, design, lamp, switch),
            numbers={"off_v": rail.high - blocks.value},
        )


def _stands_at(lamp: LampDesign) -> Value | None:
    """Return the volts a lamp's switch holds off."""
    return lamp.load.rail if lamp.load else lamp.channels[0].drive


def _other_switches(design: Design, lamp: LampDesign, switch: SwitchDesign, kind: str = "") -> Iterator[Move]:
    """Offer transistors, or only those of a kind, that carry the load, block its rail, and are driven by the pin there is."""
    logic, rail = design.nodes[lamp.host].logic, _stands_at(lamp)
    pin_v = logic.low if logic is not None and logic.value is not None else 0.0
    rail_v = rail.high if rail is not None and rail.value is not None else 0.0
    for part in sorted(design.catalog.transistors.values(), key=ease):
        if (
            part.id != switch.part.id
            and kind in ("", part.kind)
            and is_enough(part, load_a=switch.load.known, rail_v=rail_v, pin_v=pin_v)
        ):
            choice = {"school": part.kind, "choice": {"part": part.id, "overrides": None}, "values": SIZED_ANEW}
            yield Move(label=f"Take a {inner(part.label)}", patch=at_path(("lamps", lamp.id, "drive"), choice))


RULES: Final = (
    Rule(
        "DRV-BASE",
        "lamp",
        base_gets_enough,
        "forced gain over 100, or more than the transistor carries",
        "forced gain over 20",
        "common practice; transistor part, from memory",
    ),
    Rule(
        "DRV-GATE-LEVEL",
        "lamp",
        gate_gets_enough,
        "nominal gate volts under those the on-resistance is specified at, or more than the MOSFET carries",
        "only the worst case under them",
        "transistor part, from memory",
    ),
    Rule("DRV-GATE-PULLDOWN", "lamp", gate_is_held, "", "no resistor from gate to ground", "common practice"),
    Rule(
        "PIN-CURRENT",
        "lamp",
        pin_gives_enough,
        "nominal current of all LEDs on the pin, or of a level shift's resistors, over its absolute limit",
        "nominal current over the recommended limit, or the worst case over the absolute limit",
        "limits of the board part, from memory",
    ),
)
