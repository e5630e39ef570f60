"""Rules for what stands between pin and load, and for what pins, ports and the whole chip may carry together."""

import math
from collections.abc import Iterable, Iterator

from oddlamp.core.base import Working, and_list, at_most, inner, si
from oddlamp.core.checks.pins import line_name
from oddlamp.core.design import ChannelDesign, Design, LampDesign, PinLoad, SwitchDesign
from oddlamp.core.electrical.drivers import FORCED_GAIN, FORCED_GAIN_MOST
from oddlamp.core.electrical.led import led_point
from oddlamp.core.electrical.preferred import FLOAT_SLACK, neighbour, next_preferred
from oddlamp.core.electrical.switches import SIZED_ANEW, ease, is_enough
from oddlamp.core.findings import Breach, Move, Severity
from oddlamp.core.parts.check import loads_of
from oddlamp.core.parts.models import PortGroup, Sourced, SourcePart
from oddlamp.core.plan.document import at_path
from oddlamp.core.starts import own_supply
from oddlamp.core.values import Value

SWITCHED = ("relay", "strip")
OPTO_OFF_MOST_A = 1e-4
RESISTORS_TRIED = 100
DISC_OHM = 1000.0  # usual across a piezo disc; common practice
LED_SUPPLY_V = 12.0  # the usual second supply for strings of LEDs; common practice
OPTO_ON_LEAST_A = 1e-3  # from memory: what a usual opto-coupler needs to pull its relay in


def _over(current_a: float, limit_a: float) -> bool:
    return current_a > limit_a * (1 + FLOAT_SLACK)


def _with_mosfet(lamp: LampDesign) -> Move:
    return Move(label="Put a MOSFET between", patch=at_path(("lamps", lamp.id, "drive"), {"school": "mosfet", "choice": None}))


def pin_gives_enough(design: Design) -> Iterator[Breach]:
    """A pin carries no more than is recommended, and never more than its absolute limit."""
    yield from sender_carries(design)
    for lamp in design.lamps.values():
        part = design.nodes[lamp.host].part
        if part is None or (lamp.load is not None and lamp.switch is None and lamp.kind in SWITCHED):
            continue  # DRV-NEEDED tells of those
        for load in lamp.loads:
            usual, absolute = part.pin_recommended_a, part.pin_absolute_a
            severity: Severity = "look"
            if absolute is not None and _over(load.nominal_a, absolute.value):
                severity, limit = "stop", absolute
            elif _over(load.nominal_a, usual.value):
                limit = usual
            elif absolute is not None and _over(load.most_a, absolute.value):
                limit = absolute
            else:
                continue
            put_in = f"{si(load.nominal_a, 'A')}, at most {si(load.most_a, 'A')}; {si(usual.value, 'A')} recommended"
            put_in += f", {si(absolute.value, 'A')} absolute" if absolute else ""
            asked_a = load.nominal_a if limit is usual or severity == "stop" else load.most_a
            yield Breach(
                severity=severity,
                where=load.signal_id,
                stage=lamp.stage,
                message=f"{line_name(design, load.signal_id)} asks {si(asked_a, 'A')} of a pin that gives {si(limit.value, 'A')}.",
                working=(Working(formula="I_pin = n · I_F", substituted=put_in, source=limit.source),),
                fixes=tuple(_less(design, lamp, load, usual, absolute)),
                numbers={"pin_current_a": load.nominal_a, "worst_pin_current_a": load.most_a},
            )


def sender_carries(design: Design) -> Iterator[Breach]:
    """What a level shift hangs on a pin is no more than the pin should carry."""
    for crossing in design.levels:
        part, carried = crossing.sender.part, crossing.carried
        if part is None or carried.value is None or not carried.value:
            continue
        usual, absolute = part.pin_recommended_a, part.pin_absolute_a
        is_over = absolute is not None and _over(carried.value, absolute.value)
        if not is_over and not _over(carried.value, usual.value) and not (absolute and _over(carried.high, absolute.value)):
            continue
        limit = absolute if absolute is not None and (is_over or not _over(carried.value, usual.value)) else usual
        put_in = f"{carried.text}, at most {si(carried.high, 'A', digits=2)}; {si(usual.value, 'A')} recommended"
        yield Breach(
            severity="stop" if is_over else "look",
            where=crossing.id,
            stage=crossing.stage,
            message=f"The resistors of this line ask {carried.text} of the {inner(crossing.sender.label)}'s pin, which gives {si(limit.value, 'A')}.",
            working=(*carried.working, Working(formula="I_pin ≤ I_recommended", substituted=put_in, source=limit.source)),
            fixes=(Move(label="Take the usual resistors", patch=at_path(("signals", crossing.id, "shift", "values"), None)),),
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
        if has_room and (each_a < channel.wanted.known or _over(load.nominal_a, usual.value)):
            patch = at_path(path, {"wanted_current_a": each_a, "resistor_ohm": None})
            yield Move(label=f"Aim for {si(each_a, 'A')} each", patch=patch)
        else:
            ohm = _steadying_ohm(channel, usual.value, absolute.value if absolute else None)
            if ohm is not None:
                yield Move(label=f"Fit {si(ohm, 'ohm')}", patch=at_path((*path, "resistor_ohm"), ohm))
        if lamp.kind == "led":
            yield _with_mosfet(lamp)
    elif lamp.kind in ("led", "rgb", "buzzer"):
        yield _with_mosfet(lamp)


def _steadying_ohm(channel: ChannelDesign, usual_a: float, absolute_a: float | None) -> float | None:
    """Return the least resistor that keeps a pin at its usual current, and under its limit at worst; little headroom needs it."""
    if channel.branch is None or channel.resistor.value is None:
        return None
    ohm = channel.resistor.value
    for _ in range(RESISTORS_TRIED):
        ohm = neighbour(ohm, 1, channel.branch.series)
        current = led_point(channel.branch, resistance_ohm=ohm, wanted_current_a=channel.wanted.known).current_a
        most_a = current.most * (1 if channel.branch.is_shared else channel.in_parallel)
        is_under = absolute_a is None or not _over(most_a, absolute_a)
        if is_under and not _over(current.value * channel.in_parallel, usual_a):
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


def port_carries_together(design: Design) -> Iterator[Breach]:
    """Pins that share a port carry no more together than it takes."""
    yield from (breach for breach in _together(design) if breach is not None and not breach.where.endswith(".chip"))


def chip_carries_together(design: Design) -> Iterator[Breach]:
    """All pins of a chip carry no more together than it takes."""
    yield from (breach for breach in _together(design) if breach is not None and breach.where.endswith(".chip"))


def _together(design: Design) -> Iterator[Breach | None]:
    for node in design.nodes.values():
        if node.part is None:
            continue
        mine = [(lamp, load) for lamp in design.lamps.values() if lamp.host == node.id for load in lamp.loads]
        at = {pin.signal_id: pin.label for pin in design.pins.values() if pin.host == node.id}
        for group in node.part.port_groups:
            here = [(lamp, load) for lamp, load in mine if at.get(load.signal_id) in group.pins]
            for way, limit in (("source", group.source_a), ("sink", group.sink_a)):
                if limit is not None:
                    some = [(lamp, load) for lamp, load in here if load.way == way]
                    yield _too_much(design, node.id, some, limit, f"Pins {group.label}", f"{_key(group)}_{way}")
        if node.part.chip_most_a is not None:
            yield _too_much(design, node.id, mine, node.part.chip_most_a, f"All pins of the {inner(node.label)}", "chip")


def _key(group: PortGroup) -> str:
    return group.label.lower().replace(" ", "_")


def _too_much(
    design: Design, host: str, loads: Iterable[tuple[LampDesign, PinLoad]], limit: Sourced, what: str, key: str
) -> Breach | None:
    loads = list(loads)
    nominal_a, most_a = together_a(design, loads)
    if not _over(most_a, limit.value):
        return None
    severity: Severity = "stop" if _over(nominal_a, limit.value) else "look"
    asked_a = nominal_a if severity == "stop" else most_a
    at_worst = "" if severity == "stop" else "At worst "
    lamps = list(dict.fromkeys(lamp.label for lamp, _ in loads))
    lit = (
        f"{lamps[0]} is on"
        if len(lamps) == 1
        else f"{and_list(lamps) if len(lamps) < 4 else f'{len(lamps)} lamps'} are on together"
    )
    put_in = f"{len(loads)} pins, {si(nominal_a, 'A')}, at most {si(most_a, 'A')}; {si(limit.value, 'A')} together"
    message = f"{what} carry {si(asked_a, 'A')} when {lit}; they may carry {si(limit.value, 'A')}."
    return Breach(
        severity=severity,
        where=f"{host}.{key}",
        stage=f"pins.{host}" if design.nodes[host].node.kind == "board" else f"nodes.{host}",
        message=at_worst + (inner(message) if at_worst else message),
        working=(Working(formula="sum over lamps that can be on together", substituted=put_in, source=limit.source),),
        fixes=tuple(_shed(design, loads, limit.value)),
        numbers={"current_a": nominal_a, "worst_current_a": most_a},
    )


def together_a(design: Design, loads: Iterable[tuple[LampDesign, PinLoad]]) -> tuple[float, float]:
    """Add loads up over lamps that can be on together: of a group that never is, only the largest counts, A."""
    nominal: dict[str, float] = {}
    most: dict[str, float] = {}
    apart = {member: name for name, group in design.plan.groups.items() if group.never_together for member in group.members}
    by_lamp: dict[str, tuple[float, float]] = {}
    for lamp, load in loads:
        before = by_lamp.get(lamp.id, (0.0, 0.0))
        by_lamp[lamp.id] = (before[0] + load.nominal_a, before[1] + load.most_a)
    for lamp_id, (one, other) in by_lamp.items():
        key = apart.get(lamp_id, f"lamp {lamp_id}")
        nominal[key], most[key] = max(nominal.get(key, 0.0), one), max(most.get(key, 0.0), other)
    return sum(nominal.values()), sum(most.values())


def _left_of(channels: list[ChannelDesign], share: float) -> float:
    """Return what is left of the worst current once every channel aims for a share of what it wants, its resistor sized anew."""
    left = [0.0]
    for it in channels:
        if it.branch is not None and it.branch.left_v > 0 and it.resistor.value is not None and share > 0:
            aim_a = at_most(it.wanted.known * share)
            left.append(
                it.resistor.value / next_preferred(it.branch.left_v / aim_a / it.branch.on_one_resistor, it.branch.series)
            )
    return max(left)


def _shed(design: Design, loads: list[tuple[LampDesign, PinLoad]], limit_a: float) -> Iterator[Move]:
    """Offer what brings the sum under its limit at worst: less current for all, or a MOSFET for each."""
    lamps = list({lamp.id: lamp for lamp, _ in loads}.values())
    _, most_a = together_a(design, loads)
    channels = [channel for lamp in lamps for channel in lamp.channels if channel.switch is None]
    # A little under, and no more digits than an aim deserves; less yet where the steps of the series take some back.
    start = math.floor(98 * limit_a / most_a)
    share = next((n / 100 for n in range(start, 0, -1) if most_a * _left_of(channels, n / 100) <= limit_a), 0.0)
    wanted = min((channel.wanted.known for channel in channels), default=0.0) * share
    if channels and wanted > 1e-4:
        patch: dict[str, object] = {
            "lamps": {
                lamp.id: {
                    "channels": {
                        channel.id: {"wanted_current_a": at_most(channel.wanted.known * share), "resistor_ohm": None}
                        for channel in lamp.channels
                    }
                }
                for lamp in lamps
                if lamp.channels
            }
        }
        yield Move(label=f"Aim for {si(share, 'ratio')} of the current in each", patch=patch)
    switchable = [lamp for lamp in lamps if lamp.kind in ("led", "rgb", "buzzer", "relay") and lamp.rail_id in design.rails]
    if len(switchable) == len(lamps):
        drives = {lamp.id: {"drive": {"school": "mosfet", "choice": None}} for lamp in lamps}
        for lamp in lamps:
            if lamp.common is not None and lamp.common.id == "cathode":
                drives[lamp.id]["common"] = "anode"  # type: ignore[assignment]
        yield Move(label="Put a MOSFET under each", patch={"lamps": drives})


def load_has_its_driver(design: Design) -> Iterator[Breach]:
    """What takes more than a pin gives, or more volts than it has, is not hung on a pin."""
    for lamp in design.lamps.values():
        host = design.nodes[lamp.host]
        load = lamp.load
        if load is None or load.current.value is None or lamp.school is None or lamp.school.id != "pin" or host.part is None:
            continue
        if load.off_current is not None or host.logic is None or host.logic.value is None:
            continue
        limit = host.part.pin_recommended_a
        rail_v = load.rail.value if load.rail and load.rail.value is not None else load.rated.known
        lacks_volts = lamp.kind in SWITCHED and host.logic.value < load.rated.low
        if not _over(load.current.value, limit.value) and not lacks_volts:
            continue
        why = (
            f"asks {load.current.text} of a pin that gives {si(limit.value, 'A')}"
            if _over(load.current.value, limit.value)
            else f"is made for {load.rated.text} and a pin gives {host.logic.text}"
        )
        yield Breach(
            severity="stop",
            where=f"{lamp.id}.main",
            stage=lamp.stage,
            message=f"{lamp.label} {why}: it needs a driver.",
            working=(
                *load.current.working,
                Working(
                    formula="I_load ≤ I_pin, V_load ≤ V_pin",
                    substituted=f"{load.current.text} against {si(limit.value, 'A')}; {si(rail_v, 'V')} against {host.logic.text}",
                    source=limit.source,
                ),
            ),
            fixes=(
                _with_mosfet(lamp),
                Move(label="Put an NPN between", patch=at_path(("lamps", lamp.id, "drive"), {"school": "npn", "choice": None})),
            ),
            numbers={"load_a": load.current.value},
        )


def coil_has_its_diode(design: Design) -> Iterator[Breach]:
    """A coil has a diode over it: what drives it would be killed when it lets go."""
    for lamp in design.lamps.values():
        load = lamp.load
        if load is None or not load.is_coil or load.has_flyback or load.current.value is None:
            continue
        school = lamp.school.id if lamp.school else "pin"
        drive = {"school": school, "values": {"has_flyback": True}}
        yield Breach(
            severity="stop" if lamp.kind == "relay" else "look",
            where=f"{lamp.id}.main",
            stage=lamp.stage,
            message=f"{lamp.label} is a coil without a diode over it: letting go, it kicks back tens of volts and kills what drives it.",
            working=(
                Working(
                    formula="V = L dI/dt when the current is cut",
                    substituted=f"{load.current.text} cut at once",
                    source="common-practice",
                ),
            ),
            fixes=(Move(label="Put a diode over the coil, its ring to plus", patch=at_path(("lamps", lamp.id, "drive"), drive)),),
            numbers={"coils": 1},
        )


def disc_lets_go(design: Design) -> Iterator[Breach]:
    """A piezo disc behind a transistor has a resistor across it that empties it within half of its tone's period."""
    for lamp in design.lamps.values():
        load = lamp.load
        if load is None or load.holds_f is None or load.tone is None:
            continue
        half = load.tone.half_period
        most_ohm = half.known / (math.log(9) * load.holds_f)
        if load.across is not None and not _over(load.across.known, most_ohm):
            continue
        ohm = min(DISC_OHM, at_most(most_ohm))
        message = f"{lamp.label} is a piezo disc: the transistor charges it, nothing lets that go, and it stays all but silent."
        if load.across is not None:
            message = f"{load.across.text} across {lamp.label} empties it too slowly for its tone."
        put_in = f"{half.text} / (2.2 · {si(load.holds_f, 'F')}) = {si(most_ohm, 'ohm')}"
        yield Breach(
            severity="look",
            where=f"{lamp.id}.main",
            stage=lamp.stage,
            message=message,
            working=(Working(formula="R ≤ t_low / (2.2 C)", substituted=put_in, source="horowitz-hill"),),
            fixes=(
                Move(
                    label=f"Put {si(ohm, 'ohm')} across it",
                    patch=at_path(("lamps", lamp.id, "drive", "values", "across_ohm"), ohm),
                ),
                Move(label="Drive it straight from the pin", patch=at_path(("lamps", lamp.id, "drive"), {"school": "pin"})),
            ),
            numbers={"discs": 1},
        )


def _switches(design: Design) -> Iterator[tuple[LampDesign, str, SwitchDesign]]:
    for lamp in design.lamps.values():
        if lamp.switch is not None:
            yield lamp, f"{lamp.id}.main", lamp.switch
        for channel in lamp.channels:
            if channel.switch is not None:
                yield lamp, channel.signal_id, channel.switch


def base_gets_enough(design: Design) -> Iterator[Breach]:
    """An NPN gets enough base current to be surely on, and carries what its load takes."""
    for lamp, where, switch in _switches(design):
        base = switch.base
        if base is None:
            continue
        most = switch.part.current_most_a
        if _over(switch.load.known, most.value):
            yield Breach(
                severity="stop",
                where=where,
                stage=lamp.stage,
                message=f"{lamp.label} takes {switch.load.text}; the {inner(switch.part.label)} carries {si(most.value, 'A')}.",
                working=(
                    Working(
                        formula="I_C ≤ I_C,max", substituted=f"{switch.load.text} > {si(most.value, 'A')}", source=most.source
                    ),
                ),
                fixes=(_with_mosfet(lamp),),
                numbers={"current_a": switch.load.known},
            )
        elif base.forced_gain > FORCED_GAIN_MOST * (1 + FLOAT_SLACK):
            better = neighbour(base.exact_ohm * (1 + 1e-6), -1, design.series)
            path = ("lamps", lamp.id, "drive")
            fixed = {"school": "npn", "values": {"base_ohm": better}}
            yield Breach(
                severity="stop" if base.forced_gain > 5 * FORCED_GAIN_MOST else "look",
                where=where,
                stage=lamp.stage,
                message=f"The base of {lamp.label}'s transistor gets {si(base.base_current_a, 'A')} for {switch.load.text}: one part in {base.forced_gain:.0f}, and {FORCED_GAIN_MOST:.0f} at most keeps it surely on.",
                working=base.working,
                fixes=(Move(label=f"Fit {si(better, 'ohm')} (one part in {FORCED_GAIN:.0f})", patch=at_path(path, fixed)),),
                numbers={"forced_gain": base.forced_gain},
            )


def gate_gets_enough(design: Design) -> Iterator[Breach]:
    """A MOSFET's resistance is specified at or below the gate volts there are; the threshold is no drive level."""
    for lamp, where, switch in _switches(design):
        part, gate = switch.part, switch.gate
        if gate is None or gate.value is None or part.gate_specified_v is None:
            continue
        specified, most = part.gate_specified_v, part.current_most_a
        if _over(switch.load.known, most.value):
            yield Breach(
                severity="stop",
                where=where,
                stage=lamp.stage,
                message=f"{lamp.label} takes {switch.load.text}; this MOSFET carries {si(most.value, 'A')}.",
                working=(
                    Working(
                        formula="I_D ≤ I_D,max", substituted=f"{switch.load.text} > {si(most.value, 'A')}", source=most.source
                    ),
                ),
                fixes=tuple(_other_switches(design, lamp, switch)),
                numbers={"current_a": switch.load.known},
            )
            continue
        if gate.low >= specified.value * (1 - 1e-3):
            continue
        severity: Severity = "stop" if gate.value < specified.value * (1 - 1e-3) else "look"
        threshold = f" It barely starts at {si(part.gate_threshold_v.value, 'V')}." if part.gate_threshold_v else ""
        seen = gate.text if severity == "stop" else f"at worst {si(gate.low, 'V')}"
        yield Breach(
            severity=severity,
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
            fixes=tuple(_other_switches(design, lamp, switch)),
            numbers={"missing_v": specified.value - gate.value},
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


def opto_lets_go(design: Design) -> Iterator[Breach]:
    """A relay module gets enough through its input to pull in, and next to nothing when it shall let go."""
    for lamp in design.lamps.values():
        load = lamp.load
        if load is None or load.off_current is None or load.off_current.value is None or load.current.value is None:
            continue
        off_level = "low" if load.on_when == "high" else "high"
        if load.off_current.value > OPTO_OFF_MOST_A:
            message = (
                f"{lamp.label} may not let go: with its pin {off_level}, {load.off_current.text} still flows through its input."
            )
            told = load.off_current
        elif load.current.value < OPTO_ON_LEAST_A:
            message = (
                f"{lamp.label} may not pull in: with its pin {load.on_when}, only {load.current.text} flows through its input."
            )
            told = load.current
        else:
            continue
        yield Breach(
            severity="look",
            where=f"{lamp.id}.main",
            stage=lamp.stage,
            message=message,
            working=told.working,
            fixes=tuple(_opto_ways(design, lamp)),
            numbers={"off_a": load.off_current.value, "missing_on_a": OPTO_ON_LEAST_A - load.current.value},
        )


def _opto_ways(design: Design, lamp: LampDesign) -> Iterator[Move]:
    """Offer what pulls an input down to ground whatever the pin's volts are: a switch, or the other kind of module."""
    if lamp.load is not None and lamp.load.on_when == "low":
        yield _with_mosfet(lamp)
    for part in design.catalog.loads.values():
        if part.kind == "relay" and lamp.load is not None and part.id != lamp.load.part_id:
            patch = {
                "choice": {"part": part.id, "overrides": None},
                "drive": {"school": "mosfet", "choice": None, "values": {"has_flyback": True}},
            }
            yield Move(label=f"Take a {inner(part.label)}, through a MOSFET", patch=at_path(("lamps", lamp.id), patch))


def load_gets_its_volts(design: Design) -> Iterator[Breach]:
    """What sets its own current stands at a rail it is made for, and what switches it blocks that rail."""
    yield from _switch_blocks(design)
    for lamp in design.lamps.values():
        load = lamp.load
        if load is None or load.rail is None or load.rail.value is None or load.rated.value is None:
            continue
        if not lamp.takes_rail:
            continue  # DRV-NEEDED tells what a pin lacks
        rail, rated = load.rail, load.rated
        nominal_off = not rated.low <= rail.known <= rated.high
        if not nominal_off and rated.low <= rail.low and rail.high <= rated.high:
            continue
        severity: Severity = "stop" if nominal_off else "look"
        seen = rail.text if nominal_off else f"{rail.spread_text} at worst"
        yield Breach(
            severity=severity,
            where=f"{lamp.id}.supply",
            stage=lamp.stage,
            message=f"{lamp.label} is made for {rated.spread_text or rated.text} and its rail gives {seen}.",
            working=(
                Working(
                    formula="V_least ≤ V_rail ≤ V_most of the part",
                    substituted=f"{rail.text}{f' ({rail.spread_text})' if rail.spread_text else ''} against {rated.spread_text or rated.text}",
                    source=rated.source,
                ),
            ),
            fixes=tuple(_other_volts(design, lamp, severity)),
            numbers={"off_v": max(rated.low - rail.low, rail.high - rated.high)},
        )


def _switch_blocks(design: Design) -> Iterator[Breach]:
    for lamp, where, switch in _switches(design):
        rail, blocks = _stands_at(lamp), switch.part.blocks_v
        if rail is None or rail.value is None or blocks is None or not _over(rail.high, blocks.value):
            continue
        is_stop = _over(rail.value, blocks.value)
        seen = rail.text if is_stop else f"up to {si(rail.high, 'V')}"
        yield Breach(
            severity="stop" if is_stop else "look",
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
            fixes=tuple(_other_switches(design, lamp, switch)),
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


def _other_volts(design: Design, lamp: LampDesign, severity: Severity) -> Iterator[Move]:
    """Offer rails and parts that go together, and a supply of its own."""
    load = lamp.load
    if load is None or load.rail is None:
        return

    def suits(volts: Value, least_v: float, most_v: float) -> bool:
        low, high = (volts.low, volts.high) if severity == "look" else (volts.known, volts.known)
        return least_v <= low and high <= most_v

    for rail in design.rails.values():
        is_other = rail.end == design.nodes[lamp.host].end and rail.voltage.value is not None and rail.id != lamp.rail_id
        if is_other and suits(rail.voltage, load.rated.low, load.rated.high):
            yield Move(label=f"Feed it from {rail.label}", patch=at_path(("lamps", lamp.id, "rail"), rail.id))
    supply = suiting_supply(design, lamp)
    if supply is not None:
        label = f"Give it a {inner(supply.label)} of its own"
        yield Move(label=label, patch=own_supply(design, lamp.id, supply.id))
    for name, part in loads_of(design.catalog, lamp.kind).items():
        if name != load.part_id and suits(load.rail, part.voltage_v.low, part.voltage_v.high):
            taken: dict[str, object] = {"choice": {"part": name, "overrides": None}}
            with_diode = part.is_coil and not load.has_flyback
            if with_diode:
                taken["drive"] = {"choice": None, "values": {"has_flyback": True}}
            label = f"Take a {inner(part.label)}{', a diode over it' if with_diode else ''}"
            yield Move(label=label, patch=at_path(("lamps", lamp.id), taken))


def suiting_supply(design: Design, lamp: LampDesign) -> SourcePart | None:
    """Return the adapter, else the supply, nearest to what a load is made for and within it; for LEDs one of 12 V; or None."""
    rated = lamp.load.rated if lamp.load else None
    wanted_v = rated.known if rated is not None and rated.value is not None else LED_SUPPLY_V
    for part in sorted(
        design.catalog.sources.values(),
        key=lambda it: (not it.id.startswith("adapter"), abs(it.voltage_v.value - wanted_v), it.id),
    ):
        volts = part.voltage_v
        if (
            rated.low <= volts.low and volts.high <= rated.high
            if rated is not None and rated.value is not None
            else volts.value == LED_SUPPLY_V
        ):
            return part
    return None


def mains_is_warned(design: Design) -> Iterator[Breach]:
    """What can switch mains is named, with the caution that goes with it."""
    for lamp in design.lamps.values():
        if lamp.load is not None and lamp.load.is_mains_side:
            where = f"{lamp.id}.main"
            yield Breach(
                severity="look",
                where=where,
                stage=lamp.stage,
                message=f"{lamp.label} can switch mains: only inside an approved, enclosed, fused product, wired by a licensed person where the law says so; never on a breadboard.",
                working=(Working(formula="caution by kind of load", substituted=lamp.load.label, source="common-practice"),),
                numbers={"relays": 1},
            )
