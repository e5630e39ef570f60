"""Rules for what has a charge or fails for moments: cells, power banks, packs, and pick-ups on a track."""

from collections.abc import Iterator
from functools import partial
from typing import Final

from oddlamp.core.base import Working, si
from oddlamp.core.checks.fewer import tried
from oddlamp.core.checks.findings import Breach, Move, Rule
from oddlamp.core.checks.rails import with_less_light
from oddlamp.core.design.design import Design
from oddlamp.core.design.supplies import RailDesign
from oddlamp.core.electrical.cells import hold_up_f
from oddlamp.core.electrical.preferred import next_preferred
from oddlamp.core.english import inner, offered
from oddlamp.core.plan.document import at_path
from oddlamp.core.resolve.budgets import PULSE_F
from oddlamp.core.resolve.run_times import compared, hours, stops_at

DIP_V: Final = 1.0
STEADY_F: Final = 2.2e-4
LIKE_V: Final = 0.2


def banks_stay_awake(design: Design) -> Iterator[Breach]:
    """A power bank is drawn enough from that it does not take its load for none."""
    for rail in design.rails.values():
        part = rail.feed.source if rail.feed is not None else None
        average = design.budgets[rail.id].average
        if part is None or part.sleeps_under_a is None or average.known >= part.sleeps_under_a.high:
            continue
        under = part.sleeps_under_a
        put_in = f"{average.text} < {si(under.low, 'A')} to {si(under.high, 'A')}"
        yield Breach(
            severity="look",
            where=f"{rail.id}.sleep",
            stage=rail.stage,
            message=f"{rail.label} gives {average.text} on average; a power bank takes less than {si(under.low, 'A')} to {si(under.high, 'A')} for nothing connected, and switches itself off.",
            working=(Working(formula="I_average ≥ what keeps it awake", substituted=put_in, source=under.source),),
            ways=partial(tried, design, "SUP-BANK-SLEEP", f"{rail.id}.sleep", partial(_without_sleep, design, rail)),
            numbers={"short_a": under.high - average.known},
        )


def _without_sleep(design: Design, rail: RailDesign) -> Iterator[Move]:
    for part in design.catalog.sources.values():
        is_like = part.voltage_v.value == rail.voltage.value and part.sleeps_under_a is None
        most = part.current_max_a
        if rail.source_id is not None and is_like and most is not None and most.value >= design.budgets[rail.id].worst.high:
            patch = at_path(("sources", rail.source_id, "choice"), {"part": part.id, "overrides": None})
            yield Move(label=f"Take {offered(part.label)}", patch=patch)
            return


def coin_cells_are_eased(design: Design) -> Iterator[Breach]:
    """A coin cell gives little for long, and pulses only with a capacitor beside it."""
    for rail in design.rails.values():
        part = rail.feed.source if rail.feed is not None else None
        if part is None or part.eased_a is None or part.pulse_a is None:
            continue
        budget, own_f = design.budgets[rail.id], design.plan.rails[rail.id].decoupling_f
        has_capacitor = own_f is not None and own_f >= PULSE_F
        most = part.current_max_a
        if budget.worst.known > part.pulse_a.value and not has_capacitor:
            is_stop = most is not None and budget.worst.known > most.high
            yield Breach(
                severity="stop" if is_stop else "look",
                where=f"{rail.id}.pulse",
                stage=rail.stage,
                message=f"{rail.label} is drawn {budget.worst.text} for moments, where it gives {si(part.pulse_a.value, 'A')} without a capacitor beside it.",
                working=budget.worst.working,
                ways=partial(
                    tried, design, "SUP-COIN", f"{rail.id}.pulse", partial(_off_the_coin, design, rail, can_steady=not is_stop)
                ),
                numbers={"worst_a": budget.worst.known},
            )
        if budget.average.known > part.eased_a.value:
            yield Breach(
                severity="look",
                where=f"{rail.id}.long",
                stage=rail.stage,
                message=f"{rail.label} is drawn {budget.average.text} on average, where over {si(part.eased_a.value, 'A')} cost it much of its charge.",
                working=budget.average.working,
                ways=partial(
                    tried, design, "SUP-COIN", f"{rail.id}.long", partial(_less_of_the_coin, design, rail, part.eased_a.value)
                ),
                numbers={"average_a": budget.average.known},
            )


def _off_the_coin(design: Design, rail: RailDesign, *, can_steady: bool) -> Iterator[Move]:
    if can_steady:
        patch = at_path(("rails", rail.id, "decoupling_f"), STEADY_F)
        yield Move(label=f"Put {si(STEADY_F, 'F')} beside it", patch=patch)
    yield from _cells_of(design, rail)


def _less_of_the_coin(design: Design, rail: RailDesign, eased_a: float) -> Iterator[Move]:
    yield from _cells_of(design, rail)
    yield from with_less_light(design.budgets[rail.id], eased_a)


def _cells_of(design: Design, rail: RailDesign) -> Iterator[Move]:
    """Offer cells of the same volts that are not swallowed, and carry what is drawn."""
    for part in design.catalog.sources.values() if rail.source_id is not None and rail.voltage.value is not None else ():
        is_like = part.kind == "cells" and abs(part.voltage_v.value - rail.voltage.known) < LIKE_V
        if is_like and part.current_max_a is not None and part.current_max_a.value >= design.budgets[rail.id].wants_a:
            patch = at_path(("sources", str(rail.source_id), "choice"), {"part": part.id, "overrides": None})
            yield Move(label=f"Take {offered(part.label)}", patch=patch)


def evenings_are_lasted(design: Design) -> Iterator[Breach]:
    """A source lasts as long as is wanted of it."""
    for rail in design.rails.values():
        run, source = design.run_times.get(rail.id), design.plan.sources.get(rail.source_id or "")
        if run is None or source is None or not source.wanted_run_time_s or run.lasts.known >= source.wanted_run_time_s:
            continue
        yield Breach(
            severity="look",
            where=f"{rail.id}.run_time",
            stage=rail.stage,
            message=f"{rail.label} lasts {run.text}; {hours(source.wanted_run_time_s)} are wanted.",
            working=run.lasts.working,
            ways=partial(
                tried, design, "SUP-RUNTIME", f"{rail.id}.run_time", partial(_longer, design, rail, source.wanted_run_time_s)
            ),
            numbers={"short_s": source.wanted_run_time_s - run.lasts.known},
        )


def _longer(design: Design, rail: RailDesign, wanted_s: float) -> Iterator[Move]:
    """Offer a source that lasts so long, or lamps that are lit for less of it."""
    run, stops = design.run_times[rail.id], stops_at(rail, design.rails, design.nodes)
    for part, other in compared(design.catalog.sources, rail, run.average_a, stops):
        if other.lasts.known >= wanted_s and rail.source_id is not None:
            patch = at_path(("sources", rail.source_id, "choice"), {"part": part.id, "overrides": None})
            yield Move(label=f"Take {offered(part.label)}: {other.text}", patch=patch)
    yield from with_less_light(design.budgets[rail.id], run.average_a * run.lasts.known / wanted_s)


def share_for(design: Design, rail: RailDesign, wanted_s: float) -> float | None:
    """Return what share of the light that is reckoned with a source lasts so long for; None where nothing is lit, 0 where even the dark is too much."""
    run, budget = design.run_times[rail.id], design.budgets[rail.id]
    lit_a = sum(it.average_a - it.least_a for it in budget.own if it.lamp_id)
    if lit_a <= 0:
        return None
    may_a = run.average_a * run.lasts.known / wanted_s
    return max(0.0, min(1.0, (may_a - (run.average_a - lit_a)) / lit_a))


def gaps_are_held(design: Design) -> Iterator[Breach]:
    """What fails for moments has a capacitor that holds its rail up meanwhile."""
    for rail in design.rails.values():
        part, source = rail.feed.source if rail.feed is not None else None, design.plan.sources.get(rail.source_id or "")
        drawn = design.budgets[rail.id].worst
        if part is None or part.gap_s is None or source is None or drawn.known <= 0:
            continue
        dip_v = source.dip_v or DIP_V
        wants_f, own_f = hold_up_f(drawn.known, part.gap_s.value, dip_v), design.plan.rails[rail.id].decoupling_f or 0.0
        if own_f >= wants_f * (1 - 1e-9):
            continue
        put_in = f"{drawn.text} · {si(part.gap_s.value, 's')} / {si(dip_v, 'V')} = {si(wants_f, 'F')}"
        usual_f = next_preferred(wants_f * (1 - 1e-9), "E6")
        has = si(own_f, "F") if own_f else "none is told"
        yield Breach(
            severity="look",
            where=f"{rail.id}.hold_up",
            stage=rail.stage,
            message=f"{rail.label} fails for {si(part.gap_s.value, 's')} at a time; to fall no more than {si(dip_v, 'V')} it wants {si(wants_f, 'F')} behind it, and {has}.",
            working=(Working(formula="C = I · t / ΔV", substituted=put_in, source="horowitz-hill"),),
            fixes=(Move(label=f"Put {si(usual_f, 'F')} behind it", patch=at_path(("rails", rail.id, "decoupling_f"), usual_f)),),
            numbers={"short_f": wants_f - own_f},
        )


def converters_are_no_chargers(design: Design) -> Iterator[Breach]:
    """Only a charger charges: a plain converter knows neither how much current a cell takes, nor when it is full."""
    for rail in design.rails.values():
        feed = rail.feed
        part = feed.converter if feed is not None else None
        plan = design.plan.converters.get(feed.id) if feed is not None else None
        if feed is None or part is None or plan is None or not plan.charges or part.kind == "charger":
            continue
        chargers = [it for it in design.catalog.converters.values() if it.kind == "charger"]
        yield Breach(
            severity="stop",
            where=f"{rail.id}.charges",
            stage=rail.stage,
            message=f"The {inner(part.label)} is no charger: at {si(feed.set_v, 'V')} it pushes what it can into the cells and never stops. Two in series want 8.40 V, 4.20 V ± 0.05 V each, a limit of current, an end, and their balance.",
            working=(Working(formula="a charger has a limit of current and an end", substituted=part.label, source="common-practice"),),
            fixes=(
                *(Move(label=f"Take {offered(it.label)}", patch=at_path(("converters", feed.id), {"choice": {"part": it.id, "overrides": None}, "set_point_v": None})) for it in chargers),
                Move(label="It charges nothing", patch=at_path(("converters", feed.id, "charges"), None)),
            ),
            numbers={"converters": 1},
        )  # fmt: skip


def lithium_is_warned(design: Design) -> Iterator[Breach]:
    """Cells that burn are named, where they are used and where they are charged."""
    for rail in design.rails.values():
        part = rail.feed.source if rail.feed is not None else None
        plan = design.plan.converters.get(rail.feed.id) if rail.feed is not None and rail.feed.converter is not None else None
        if (part is None or not part.is_lithium) and (plan is None or not plan.charges):
            continue
        series = (
            " Two in series want a balancing charger, and protection on each cell."
            if part is None or (part.cells_in_series or 1) > 1
            else ""
        )
        yield Breach(
            severity="look",
            where=f"{rail.id}.lithium",
            stage=rail.stage,
            message=f"{rail.label}: lithium cells burn. Protected cells, a fuse close to them, the charger made for them, never unattended while they charge, never pierced; look how warm they get.{series}",
            working=(Working(formula="caution by kind of source", substituted="lithium cells", source="common-practice"),),
            numbers={"cells": 1},
        )  # fmt: skip


RULES: Final = (
    Rule("SUP-BANK-SLEEP", "whole", banks_stay_awake, "", "on average a power bank gives less than keeps it awake", "source part, from memory"),
    Rule("SUP-COIN", "whole", coin_cells_are_eased, "a coin cell is pulsed with more than it ever gives, and has no capacitor", "it is pulsed with over 15 mA and has no capacitor, or gives over 3 mA on average", "source part, from memory"),
    Rule("SUP-RUNTIME", "whole", evenings_are_lasted, "", "a source lasts less long than is wanted of it", "t = Q / I, and its curve from memory"),
    Rule("SUP-HOLDUP", "whole", gaps_are_held, "", "a source that fails for moments has too small a capacitor behind it", "C = I dt / dV"),
    Rule("SUP-NOT-A-CHARGER", "whole", converters_are_no_chargers, "cells are charged by what is no charger", "", "common practice"),
    Rule("LITHIUM-CAUTION", "whole", lithium_is_warned, "", "lithium cells, or something that charges cells", "common practice"),
)  # fmt: skip
