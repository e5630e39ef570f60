"""Rules for what makes one rail out of another: converters and boards' own regulators."""

from collections.abc import Iterator
from functools import partial
from typing import Final

from oddlamp.core.base import Working, si
from oddlamp.core.checks.fewer import tried
from oddlamp.core.checks.findings import Breach, Move, Rule
from oddlamp.core.checks.rails import smallest_supply
from oddlamp.core.design.design import Design
from oddlamp.core.design.passages import Severity
from oddlamp.core.design.supplies import RailDesign
from oddlamp.core.design.values import Slot, Value
from oddlamp.core.electrical.cells import junction_c
from oddlamp.core.english import inner, offered
from oddlamp.core.parts.models import BoardPart
from oddlamp.core.plan.document import at_path
from oddlamp.core.resolve.budgets import heat_of
from oddlamp.core.resolve.chosen import is_fed_past_regulator, window_of

JUNCTION_MOST_C: Final = 125.0  # of a regulator's chip; from memory
JUNCTION_LOOK_C: Final = 100.0  # warm enough to burn a finger on its case; common practice, no source
AMBIENT_C: Final = 25.0


def converters_have_enough(design: Design) -> Iterator[Breach]:
    """A converter is fed inside its window, and with as much over its output as it needs."""
    for rail in design.rails.values():
        part = rail.feed.converter if rail.feed is not None else None
        before = design.rails.get((rail.feed.from_rail if rail.feed is not None else None) or "")
        if rail.feed is None or part is None or before is None or before.voltage.value is None:
            continue
        drop_v = part.dropout_v.value if part.dropout_v is not None else 0.0
        wants_v = part.input_window_v.low if part.kind == "boost" else max(part.input_window_v.low, rail.feed.set_v + drop_v)
        if before.voltage.low >= wants_v - 1e-9:
            continue
        severity: Severity = "stop" if before.voltage.known < wants_v - 1e-9 else "look"
        gets = before.voltage.text if severity == "stop" else f"{si(before.voltage.low, 'V')} at worst"
        put_in = f"{si(rail.feed.set_v, 'V')} + {si(drop_v, 'V')} = {si(wants_v, 'V')} > {gets}"
        yield Breach(
            severity=severity,
            where=f"{rail.id}.dropout",
            stage=rail.stage,
            message=f"The {inner(part.label)} that makes {inner(rail.label)} needs {si(wants_v, 'V')} and gets {gets}: what it makes falls with it.",
            working=(Working(formula="V_in ≥ V_out + drop-out, and its least", substituted=put_in, source="from-memory"),),
            ways=partial(tried, design, "SUP-DROPOUT", f"{rail.id}.dropout", partial(_fits_better, design, rail)),
            numbers={"short_v": wants_v - before.voltage.low},
        )


def converters_stand_their_input(design: Design) -> Iterator[Breach]:
    """A converter stands what it is fed with."""
    for rail in design.rails.values():
        part = rail.feed.converter if rail.feed is not None else None
        before = design.rails.get((rail.feed.from_rail if rail.feed is not None else None) or "")
        if part is None or before is None or before.voltage.value is None or before.voltage.high <= part.input_window_v.high:
            continue
        severity: Severity = "stop" if before.voltage.known > part.input_window_v.high else "look"
        yield Breach(
            severity=severity,
            where=f"{rail.id}.input",
            stage=rail.stage,
            message=f"The {inner(part.label)} that makes {inner(rail.label)} stands {si(part.input_window_v.high, 'V')}; {inner(before.label)} gives {si(before.voltage.high, 'V')} at worst.",
            working=(Working(formula="V_in ≤ V_most", substituted=f"{si(before.voltage.high, 'V')} > {si(part.input_window_v.high, 'V')}", source=part.input_window_v.source),),
            ways=partial(tried, design, "SUP-CONVERTER-INPUT", f"{rail.id}.input", partial(_fits_better, design, rail)),
            numbers={"over_v": before.voltage.high - part.input_window_v.high},
        )  # fmt: skip


def regulators_stay_cool(design: Design) -> Iterator[Breach]:
    """A linear regulator, of a rail or on a board, turns what it keeps into heat, and stays under what its chip stands."""
    for rail in design.rails.values():
        budget = design.budgets[rail.id]
        converter = rail.feed.converter if rail.feed is not None else None
        if budget.heat is not None and converter is not None and converter.heat_k_w is not None:
            yield from _warm(
                design, rail.id, rail.stage, f"the {inner(converter.label)}", budget.heat, converter.heat_k_w.value, rail.end
            )
    for node_id, heat_k_w, heat in board_heats(design):
        node = design.nodes[node_id]
        yield from _warm(design, node_id, node.stage, f"the {inner(node.label)}'s own regulator", heat, heat_k_w, node.end)


def board_heats(design: Design) -> Iterator[tuple[str, float, Value]]:
    """Walk the boards that are fed through their own regulator, with what that turns into heat: what they take, their pins, and what is fed from them."""
    for node in design.nodes.values():
        part, rail = node.part, design.rails.get(node.rail_id or "")
        if (
            not isinstance(part, BoardPart)
            or part.regulator_k_w is None
            or part.regulated_v is None
            or rail is None
            or rail.voltage.value is None
        ):
            continue
        if is_fed_past_regulator(part, rail.voltage.known):
            continue
        slot = Slot(id=f"nodes.{node.id}.heat_w", stage=node.stage, label="Its regulator turns into heat", unit="W")
        out = Slot(id="", stage=node.stage, label="", unit="V").stated(part.regulated_v)
        heat = heat_of(slot, rail.voltage, out, behind_board_a(design, node.id))
        if heat is not None:
            yield node.id, part.regulator_k_w.value, heat


def behind_board_a(design: Design, node_id: str) -> float:
    """Return what runs through a board's own regulator at the worst instant, A."""
    node = design.nodes[node_id]
    mine = design.budgets[node.rail_id or ""].own
    by_pin = (
        it for it in mine if it.lamp_id and design.lamps[it.lamp_id].host == node_id and not design.lamps[it.lamp_id].takes_rail
    )
    itself = (it for it in mine if not it.lamp_id and it.stage == node.stage)
    outputs = (design.budgets[it.id].worst.known for it in design.rails.values() if it.feed is not None and it.feed.kind == "board" and it.feed.id == node_id)  # fmt: skip
    return sum(it.worst_a for it in (*itself, *by_pin)) + sum(outputs)


def _warm(design: Design, where: str, stage: str, what: str, heat: Value, heat_k_w: float, end: str | None) -> Iterator[Breach]:
    place = design.plan.ends.get(end or "")
    ambient_c = AMBIENT_C if place is None or place.ambient_c is None else place.ambient_c
    chip_c = junction_c(heat.known, heat_k_w, ambient_c)
    if chip_c <= JUNCTION_LOOK_C:
        return
    put_in = f"{ambient_c:.0f} °C + {heat.text} · {heat_k_w:g} K/W = {chip_c:.0f} °C"
    is_stop = chip_c > JUNCTION_MOST_C
    so = "it switches itself off, or dies" if is_stop else "it is too hot to touch"
    yield Breach(
        severity="stop" if is_stop else "look",
        where=f"{where}.heat",
        stage=stage,
        message=f"{what[:1].upper()}{what[1:]} turns {heat.text} into heat with all of it lit, and gets to {chip_c:.0f} °C: {so}.",
        working=(*heat.working, Working(formula="T = T_ambient + P · θ_JA ≤ 125 °C", substituted=put_in, source="horowitz-hill")),
        ways=partial(tried, design, "SUP-HEAT", f"{where}.heat", partial(_cooler, design, where)),
        numbers={"heat_w": heat.known},
    )


def _cooler(design: Design, where: str) -> Iterator[Move]:
    """Offer to feed a board past its own regulator: by a supply of the volts its pins stand at."""
    node = design.nodes.get(where)
    rail = design.rails.get(node.rail_id or "") if node is not None else None
    if (
        node is None
        or rail is None
        or rail.source_id is None
        or not isinstance(node.part, BoardPart)
        or node.part.regulated_v is None
    ):
        return
    budget = design.budgets[rail.id]
    fit = smallest_supply(design, node.part.regulated_v.value, budget.wants_a)
    if fit is not None and node.part.supply_v is not None:
        patch = at_path(("sources", rail.source_id, "choice"), {"part": fit.id, "overrides": None})
        yield Move(label=f"Take {offered(fit.label)}, at the pin past its regulator", patch=patch)


def _fits_better(design: Design, rail: RailDesign) -> Iterator[Move]:
    """Offer converters that make the same of what there is, or, of one with a trimmer, what it can make of it."""
    feed = rail.feed
    before = design.rails[feed.from_rail].voltage if feed is not None and feed.from_rail is not None else None
    if feed is None or feed.converter is None or before is None or before.value is None:
        return
    budget, path = design.budgets[rail.id], ("converters", feed.id)
    for part in design.catalog.converters.values():
        can = part.output_v.low <= feed.set_v <= part.output_v.high
        drop_v = part.dropout_v.value if part.dropout_v is not None else 0.0
        has = part.input_window_v.low <= before.low and before.high <= part.input_window_v.high
        goes = feed.set_v >= before.known if part.kind == "boost" else before.low >= feed.set_v + drop_v
        if (
            part.id != feed.converter.id
            and part.kind != "charger"
            and can
            and has
            and goes
            and part.current_max_a.value >= budget.wants_a
        ):
            set_v = feed.set_v if part.has_trimmer else None
            yield Move(
                label=f"Make it with {offered(part.label)}",
                patch=at_path(path, {"choice": {"part": part.id, "overrides": None}, "set_point_v": set_v}),
            )
            return
    yield from _other_source(design, rail)
    it = feed.converter
    least_v = int((before.low - (it.dropout_v.value if it.dropout_v is not None else 0.0)) * 10) / 10
    if it.has_trimmer and it.kind == "buck" and it.input_window_v.low <= before.low and least_v >= it.output_v.low:
        yield Move(label=f"Set it to {si(least_v, 'V')}", patch=at_path((*path, "set_point_v"), least_v))


def _other_source(design: Design, rail: RailDesign) -> Iterator[Move]:
    """Offer the source of least volts that suits a converter and all that hangs on its rail."""
    feed = rail.feed
    before = design.rails.get((feed.from_rail if feed is not None else None) or "")
    if feed is None or feed.converter is None or before is None or before.source_id is None:
        return
    it, wants_a = feed.converter, design.budgets[before.id].wants_a
    drop_v = it.dropout_v.value if it.dropout_v is not None else 0.0
    least_v = it.input_window_v.low if it.kind == "boost" else max(it.input_window_v.low, feed.set_v + drop_v)
    fed = [node.part for node in design.nodes.values() if node.rail_id == before.id and node.part is not None]
    lamps = [lamp.load for lamp in design.lamps.values() if lamp.rail_id == before.id and lamp.load is not None]
    for part in sorted(design.catalog.sources.values(), key=lambda one: (one.kind != "adapter", one.voltage_v.value)):
        volts, gives = part.voltage_v, part.current_max_a
        windows = [window_of(one, volts.value) for one in fed]
        stands = all(one is None or (one.low <= volts.low and volts.high <= one.high) for one in windows)
        lights = all(one.rated.value is None or (one.rated.low <= volts.low and volts.high <= one.rated.high) for one in lamps)
        carries = gives is not None and gives.value >= wants_a
        if stands and lights and carries and least_v <= volts.low and volts.high <= it.input_window_v.high:
            patch = at_path(("sources", before.source_id, "choice"), {"part": part.id, "overrides": None})
            yield Move(label=f"Take {offered(part.label)}", patch=patch)
            return


def set_points_are_set(design: Design) -> Iterator[Breach]:
    """A converter with a trimmer is set, with a meter and nothing connected, before anything hangs on it; inside what it can be set to."""
    for rail in design.rails.values():
        feed = rail.feed
        part = feed.converter if feed is not None else None
        if feed is None or part is None or not part.has_trimmer:
            continue
        is_off = not part.output_v.low <= feed.set_v <= part.output_v.high
        if not is_off and (rail.voltage.origin == "measured" or design.plan.converters[feed.id].is_set):
            continue
        off_v = part.tolerance_ratio.value * feed.set_v
        told = f"{si(feed.set_v, 'V')} give or take {si(off_v, 'V')}"
        range_ = f"{si(part.output_v.low, 'V')} to {si(part.output_v.high, 'V')}"
        yield Breach(
            severity="stop" if is_off else "look",
            where=f"{rail.id}.set_point",
            stage=rail.stage,
            message=f"The {inner(part.label)} can be set to {range_}, not to {si(feed.set_v, 'V')}."
            if is_off
            else f"Set the {inner(part.label)} to {told} with a meter and nothing connected, then fix its trimmer.",
            working=(Working(formula="V_least ≤ set point ≤ V_most", substituted=f"{si(feed.set_v, 'V')}, {range_}", source=part.output_v.source),),
            fixes=(Move(label=f"Set it to {si(part.output_v.value, 'V')}", patch=at_path(("converters", feed.id, "set_point_v"), part.output_v.value)),)  if is_off else (Move(label="It is set, and its trimmer is fixed", patch=at_path(("converters", feed.id, "is_set"), True)),),
            numbers={"volts": feed.set_v},
        )  # fmt: skip


RULES: Final = (
    Rule(
        "SUP-DROPOUT",
        "whole",
        converters_have_enough,
        "a converter's input is under what it makes and its drop-out, or under its least",
        "only at worst",
        "converter part, from memory",
    ),
    Rule(
        "SUP-CONVERTER-INPUT",
        "whole",
        converters_stand_their_input,
        "a converter's input is over what it stands",
        "only at worst",
        "converter part, from memory",
    ),
    Rule(
        "SUP-HEAT",
        "whole",
        regulators_stay_cool,
        "a linear regulator's chip gets over 125 °C with all of it lit",
        "over 100 °C",
        "P = (V_in - V_out) I, and heat to air from memory",
    ),
    Rule(
        "SUP-SETPOINT",
        "whole",
        set_points_are_set,
        "a converter is to be set to what it can't make",
        "a converter with a trimmer whose volts have not been measured",
        "common practice",
    ),
)
