"""Rules for what sets its own current: relays, buzzers, strips and modules get what they are made for, and no more."""

import math
from collections.abc import Iterator
from functools import partial
from typing import Final

from oddlamp.core.base import Working, at_most, si
from oddlamp.core.checks.drivers import switch_blocks, with_mosfet
from oddlamp.core.checks.findings import Breach, Move, Rule
from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import LampDesign
from oddlamp.core.design.passages import Obstacle, Severity
from oddlamp.core.design.values import Value
from oddlamp.core.english import inner
from oddlamp.core.parts.check import loads_of
from oddlamp.core.parts.supply import SourcePart
from oddlamp.core.plan.document import at_path
from oddlamp.core.plan.edits import own_supply
from oddlamp.core.resolve.judge_lamps import OPTO_ON_LEAST_A, over

DISC_OHM = 1000.0  # usual across a piezo disc; common practice
LED_SUPPLY_V = 12.0  # the usual second supply for strings of LEDs; common practice


def _found(design: Design, lamp: LampDesign, code: str, case: str = "") -> Obstacle | None:
    """Return what stands in a lamp's way by a code, and a case of it where one is named."""
    if code not in design.met:
        return None
    obstacles = (it for passage in design.passages_of(lamp) for it in passage.obstacles)
    return next((it for it in obstacles if it.code == code and case in ("", it.case)), None)


def load_has_its_driver(design: Design) -> Iterator[Breach]:
    """What takes more than a pin gives, or more volts than it has, is not hung on a pin."""
    for lamp in design.lamps.values():
        it, host, load = _found(design, lamp, "DRV-NEEDED"), design.nodes[lamp.host], lamp.load
        if it is None or load is None or host.part is None or host.logic is None:
            continue
        limit = host.part.pin_recommended_a
        rail_v = load.rail.value if load.rail and load.rail.value is not None else load.rated.known
        why = (
            f"asks {load.current.text} of a pin that gives {si(limit.value, 'A')}"
            if it.case == "current"
            else f"is made for {load.rated.text} and a pin gives {host.logic.text}"
        )
        yield Breach(
            severity=it.severity,
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
                with_mosfet(lamp),
                Move(label="Put an NPN between", patch=at_path(("lamps", lamp.id, "drive"), {"school": "npn", "choice": None})),
            ),
            numbers={"load_a": load.current.known},
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
        if load.across is not None and not over(load.across.known, most_ohm):
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


def opto_lets_go(design: Design) -> Iterator[Breach]:
    """A relay module gets enough through its input to pull in, and next to nothing when it shall let go."""
    for lamp in design.lamps.values():
        it, load = _found(design, lamp, "DRV-OPTO"), lamp.load
        if it is None or load is None or load.off_current is None:
            continue
        off_level = "low" if load.on_when == "high" else "high"
        if it.case == "off":
            message = (
                f"{lamp.label} may not let go: with its pin {off_level}, {load.off_current.text} still flows through its input."
            )
            told = load.off_current
        else:
            message = (
                f"{lamp.label} may not pull in: with its pin {load.on_when}, only {load.current.text} flows through its input."
            )
            told = load.current
        yield Breach(
            severity=it.severity,
            where=f"{lamp.id}.main",
            stage=lamp.stage,
            message=message,
            working=told.working,
            ways=partial(_opto_ways, design, lamp),
            numbers={"off_a": load.off_current.known, "missing_on_a": OPTO_ON_LEAST_A - load.current.known},
        )


def _opto_ways(design: Design, lamp: LampDesign) -> Iterator[Move]:
    """Offer what pulls an input down to ground whatever the pin's volts are: a switch, or the other kind of module."""
    if lamp.load is not None and lamp.load.on_when == "low":
        yield with_mosfet(lamp)
    for part in design.catalog.loads.values():
        if part.kind == "relay" and lamp.load is not None and part.id != lamp.load.part_id:
            patch = {
                "choice": {"part": part.id, "overrides": None},
                "drive": {"school": "mosfet", "choice": None, "values": {"has_flyback": True}},
            }
            yield Move(label=f"Take a {inner(part.label)}, through a MOSFET", patch=at_path(("lamps", lamp.id), patch))


def load_gets_its_volts(design: Design) -> Iterator[Breach]:
    """What sets its own current stands at a rail it is made for, and what switches it blocks that rail."""
    yield from switch_blocks(design)
    for lamp in design.lamps.values():
        it, load = _found(design, lamp, "DRV-VOLTS", "rail"), lamp.load
        if it is None or load is None or load.rail is None:
            continue
        rail, rated, severity = load.rail, load.rated, it.severity
        seen = rail.text if severity == "stop" else f"{rail.spread_text} at worst"
        works = f", and works from {load.works_from.text}" if load.works_from is not None else ""
        yield Breach(
            severity=severity,
            where=f"{lamp.id}.supply",
            stage=lamp.stage,
            message=f"{lamp.label} is made for {rated.spread_text or rated.text}{works}; its rail gives {seen}.",
            working=(
                Working(
                    formula="V_least ≤ V_rail ≤ V_most of the part",
                    substituted=f"{rail.text}{f' ({rail.spread_text})' if rail.spread_text else ''} against {rated.spread_text or rated.text}",
                    source=rated.source,
                ),
            ),
            ways=partial(_other_volts, design, lamp, severity),
            numbers={"off_v": max(rated.low - rail.low, rail.high - rated.high)},
        )


def _other_volts(design: Design, lamp: LampDesign, severity: Severity) -> Iterator[Move]:
    """Offer rails and parts that go together, and a supply of its own."""
    load = lamp.load
    if load is None or load.rail is None:
        return

    least_v = load.works_from.known if load.works_from is not None else load.rated.low

    def suits(volts: Value, least_v: float, most_v: float) -> bool:
        low, high = (volts.low, volts.high) if severity == "look" else (volts.known, volts.known)
        return least_v <= low and high <= most_v

    for rail in design.rails.values():
        is_other = rail.end == design.nodes[lamp.host].end and rail.voltage.value is not None and rail.id != lamp.rail_id
        if is_other and suits(rail.voltage, least_v, load.rated.high):
            yield Move(label=f"Feed it from {rail.label}", patch=at_path(("lamps", lamp.id, "rail"), rail.id))
    supply = suiting_supply(design, lamp)
    if supply is not None:
        label = f"Give it a {inner(supply.label)} of its own"
        yield Move(label=label, patch=own_supply(design.plan, lamp.id, supply.id))
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
    current = lamp.load.current if lamp.load else None
    taken_a = current.high if current is not None and current.value is not None else 0.0
    wanted_v = rated.known if rated is not None and rated.value is not None else LED_SUPPLY_V
    for part in sorted(
        design.catalog.sources.values(),
        key=lambda it: (
            it.kind != "adapter",
            abs(it.voltage_v.value - wanted_v),
            it.current_max_a.value if it.current_max_a else 0.0,
        ),
    ):
        volts = part.voltage_v
        if part.current_max_a is None or part.current_max_a.value < taken_a:
            continue
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


RULES: Final = (
    Rule(
        "DRV-NEEDED",
        "lamp",
        load_has_its_driver,
        "a load on a pin takes more than the pin's recommended current, or needs more volts than it has",
        "",
        "limits of board and load part, from memory",
    ),
    Rule(
        "DRV-VOLTS",
        "lamp",
        load_gets_its_volts,
        "a load's rail stands outside the volts it is made for, or over what its transistor blocks",
        "only the rail's worst case does",
        "load, pixel and transistor parts, from memory",
    ),
    Rule(
        "DRV-FLYBACK",
        "lamp",
        coil_has_its_diode,
        "a relay coil without a diode over it",
        "a buzzer coil without one",
        "common practice",
    ),
    Rule(
        "DRV-PIEZO",
        "lamp",
        disc_lets_go,
        "",
        "a piezo disc behind a transistor without a resistor across it, or one over half a period / 2.2 C",
        "RC edge; the disc's capacitance, from memory",
    ),
    Rule(
        "DRV-OPTO",
        "lamp",
        opto_lets_go,
        "",
        "over 0.1 mA through an opto-input while it should be off, or under 1 mA while it should be on",
        "Ohm's law; load part, from memory",
    ),
    Rule(
        "MAINS-CAUTION",
        "lamp",
        mains_is_warned,
        "",
        "a relay, whose contacts may switch mains",
        "local codes and licensed practice",
    ),
)
