"""Rules for what rails carry: their worst instant, their average, what makes them, and how warm that gets."""

from collections.abc import Iterator
from functools import partial
from typing import Final

from oddlamp.core.base import Working, first_free, si
from oddlamp.core.checks.fewer import tried
from oddlamp.core.checks.findings import Breach, Move, Rule
from oddlamp.core.design.design import Design
from oddlamp.core.design.supplies import Budget, Burden, Feed, RailDesign
from oddlamp.core.design.values import Value
from oddlamp.core.english import inner, offered, plural
from oddlamp.core.parts.models import ModulePart
from oddlamp.core.parts.supply import SourcePart
from oddlamp.core.plan.document import at_path, join_patches
from oddlamp.core.plan.edits import own_supply
from oddlamp.core.plan.lights import PIXEL_KINDS
from oddlamp.core.resolve.budgets import AVERAGE_MOST_RATIO
from oddlamp.core.resolve.chosen import window_of
from oddlamp.core.resolve.feeds import THREE
from oddlamp.core.resolve.judge_lamps import over
from oddlamp.core.resolve.supplies import ring_behind, supply_behind

SAG_LOOK_RATIO: Final = 0.1  # of its volts, at the worst instant; common practice, no source
DECOUPLING_LEAST_F: Final = 1e-5  # beside a radio; common practice, no source
FLOAT_SLACK_V: Final = 1e-6
CAP_STEP: Final = 0.01


def rails_carry_their_peaks(design: Design) -> Iterator[Breach]:
    """What feeds a rail gives what is drawn with all of it lit. A board's 3.3 V pin and a coin cell have rules of their own."""
    for rail_id, budget in design.budgets.items():
        rail = design.rails[rail_id]
        if (
            budget.gives is None
            or rail.feed is None
            or rail.feed.output == THREE
            or _is_coin(rail.feed)
            or _in_ring(design, rail)
        ):
            continue
        yield from _peak(design, rail, budget, budget.gives, "SUP-RAIL-PEAK")


def pins_carry_their_rails(design: Design) -> Iterator[Breach]:
    """A board's 3.3 V pin gives what hangs on it."""
    for rail_id, budget in design.budgets.items():
        rail = design.rails[rail_id]
        if budget.gives is not None and rail.feed is not None and rail.feed.output == THREE and not _in_ring(design, rail):
            yield from _peak(design, rail, budget, budget.gives, "SUP-33V-PIN")


def _in_ring(design: Design, rail: RailDesign) -> bool:
    return bool(ring_behind(design.plan, design.rails, rail.id))


def _is_coin(feed: Feed) -> bool:
    return feed.source is not None and feed.source.kind == "coin"


def _peak(design: Design, rail: RailDesign, budget: Budget, gives: Value, code: str) -> Iterator[Breach]:
    asked = budget.worst
    if not over(asked.high, gives.known):
        return
    is_stop = over(asked.known, gives.known)
    what = f"the {inner(rail.feed.label)}" if rail.feed is not None else "it"
    seen = asked.text if is_stop else f"{si(asked.high, 'A')} at worst"
    yield Breach(
        severity="stop" if is_stop else "look",
        where=f"{rail.id}.peak",
        stage=rail.stage,
        message=f"{rail.label} carries {seen} with all of it lit; {what} gives {si(gives.known, 'A')}.",
        working=(*asked.working, *gives.working),
        ways=partial(tried, design, code, f"{rail.id}.peak", partial(_lighter, design, rail, budget, gives.known)),
        numbers={"short_a": asked.high - gives.known},
    )


def _lighter(design: Design, rail: RailDesign, budget: Budget, gives_a: float) -> Iterator[Move]:
    """Offer a cap on what can be dimmed, a supply that carries it, or one of its own for what takes most."""
    capped = [(it, full) for it in budget.own if (full := _full_a(design, it)) > 0]
    fixed_a = budget.worst.high - sum(it.most_a - it.least_a for it, _ in capped)
    room_a, full_a = gives_a - fixed_a, sum(full for _, full in capped)
    share = int(room_a / full_a / CAP_STEP) * CAP_STEP if full_a > 0 else 0.0
    if share >= CAP_STEP:
        name = capped[0][0].label if len(capped) == 1 else "all pixels"
        caps = {it.lamp_id: {"brightness_cap_ratio": round(share, 2)} for it, _ in capped}
        yield Move(label=f"Cap {name} at {si(share, 'ratio')}", patch={"lamps": caps})
    yield from larger_supply(design, rail, budget.wants_a)
    yield from _other_rail(design, rail, budget)
    yield from _moved_node(design, rail, budget, gives_a)
    yield from _own_supply(design, rail, budget)
    yield from _shorter(design, rail, budget, gives_a)


def _own_supply(design: Design, rail: RailDesign, budget: Budget) -> Iterator[Move]:
    """Offer a supply of its own to the lamp that takes most, on this rail or on one made from it."""
    behind = [it for name in budget.on for it in design.budgets[name].own]
    heavy = max((it for it in (*budget.own, *behind) if it.lamp_id), key=lambda it: it.most_a, default=None)
    lamp = design.lamps[heavy.lamp_id] if heavy is not None else None
    if heavy is None or lamp is None or not lamp.takes_rail:
        return
    volts = design.rails[heavy.rail_id].voltage.value
    fit = smallest_supply(design, volts, max(heavy.most_a, heavy.average_a / AVERAGE_MOST_RATIO)) if volts is not None else None
    if fit is not None:
        yield Move(label=f"Give {heavy.label} {offered(fit.label)} of its own", patch=own_supply(design.plan, lamp.id, fit.id))


def _full_a(design: Design, it: Burden) -> float:
    """Return what the pixels of a lamp take at most with no cap at all, over what they take dark, A; nothing for other things."""
    lamp = design.lamps.get(it.lamp_id)
    if (
        lamp is None
        or lamp.kind not in PIXEL_KINDS
        or lamp.load is None
        or lamp.load.current.value is None
        or lamp.load.pixel is None
    ):
        return 0.0
    each = lamp.load.pixel.colour_current_a
    return lamp.load.current.known * each.high / each.value


def larger_supply(design: Design, rail: RailDesign, asked_a: float) -> Iterator[Move]:
    """Offer the smallest supply of the same volts that gives so much, where a source feeds the rail."""
    if rail.source_id is None or rail.voltage.value is None:
        return
    fit = smallest_supply(
        design, rail.feed.source.voltage_v.value if rail.feed and rail.feed.source else rail.voltage.known, asked_a
    )
    if fit is not None:
        patch = at_path(("sources", rail.source_id, "choice"), {"part": fit.id, "overrides": None})
        yield Move(label=f"Take {offered(fit.label)}", patch=patch)


def smallest_supply(design: Design, volts: float, asked_a: float) -> SourcePart | None:
    """Return the smallest adapter of some volts that gives so much; None where none does."""
    fits = [
        it
        for it in design.catalog.sources.values()
        if it.kind == "adapter"
        and it.voltage_v.value == volts
        and it.current_max_a is not None
        and it.current_max_a.value >= asked_a
    ]
    return min(fits, key=lambda it: it.current_max_a.value if it.current_max_a is not None else 0.0, default=None)


def _other_rail(design: Design, rail: RailDesign, budget: Budget) -> Iterator[Move]:
    """Offer to feed what hangs on a board's pin, or behind a converter, from a converter that gives enough."""
    feed = rail.feed
    if feed is None or feed.kind == "source" or feed.from_rail is None or rail.voltage.value is None:
        return
    before = design.rails[feed.from_rail].voltage
    own = {feed.converter.id} if feed.converter is not None else set()
    for part in sorted(design.catalog.converters.values(), key=lambda it: it.current_max_a.value):
        drop_v = part.dropout_v.value if part.dropout_v is not None else 0.0
        makes = abs(part.output_v.value - rail.voltage.known) < 0.05 and not part.has_trimmer
        fed = before.value is not None and part.input_window_v.low <= before.low and before.high <= part.input_window_v.high
        if (
            part.id in own
            or not makes
            or not fed
            or before.low < rail.voltage.known + drop_v
            or part.current_max_a.value < budget.worst.high
        ):
            continue
        name = feed.id if feed.kind == "converter" else first_free("regulator", design.plan.converters.__contains__)
        choice = {"part": part.id, "overrides": None}
        made = at_path(("converters", name), {"from_rail": feed.from_rail, "choice": choice})
        yield Move(
            label=f"Make it with {offered(part.label)}", patch=join_patches([made, at_path(("rails", rail.id, "fed_by"), name)])
        )
        return


def _shorter(design: Design, rail: RailDesign, budget: Budget, gives_a: float) -> Iterator[Move]:
    """Offer to shorten the longest chain to what the rest leaves it, where no cap and no supply is enough."""
    chains = [it for it in budget.own if _full_a(design, it) > 0]
    longest = max(chains, key=lambda it: it.most_a, default=None)
    load = design.lamps[longest.lamp_id].load if longest is not None else None
    if longest is None or load is None or load.pixels < 2:
        return
    each_a = max(longest.most_a, longest.average_a / AVERAGE_MOST_RATIO) / load.pixels
    count = int((gives_a - (budget.wants_a - longest.most_a)) / each_a)
    if 0 < count < load.pixels:
        patch = at_path(("lamps", longest.lamp_id, "layout"), {"runs": [{"count": count}], "shape": None})
        yield Move(label=f"Shorten {longest.label} to {plural(count, 'pixel')}", patch=patch)


def _moved_node(design: Design, rail: RailDesign, budget: Budget, gives_a: float) -> Iterator[Move]:
    """Offer to feed the module that takes most from another rail at its place, on a carrier where it is bare."""
    heavy = max((it for it in budget.own if not it.lamp_id), key=lambda it: it.most_a, default=None)
    node = next((it for it in design.nodes.values() if heavy is not None and it.stage == heavy.stage), None)
    part = node.part if node is not None else None
    if heavy is None or node is None or not isinstance(part, ModulePart) or budget.worst.high - heavy.most_a > gives_a:
        return
    carrier = design.catalog.modules.get(part.on_carrier or "")
    put_on = at_path(("nodes", node.id, "choice"), {"part": part.on_carrier, "overrides": None})
    for kind, patch in ((part, {}), (carrier, put_on)):
        for other in design.rails.values():
            gives, volts = design.budgets[other.id].gives, other.voltage
            window = window_of(kind, volts.known) if kind is not None and volts.value is not None else None
            if kind is None or window is None or gives is None or other.id == rail.id or other.end != rail.end:
                continue
            if (
                rail.feed is not None
                and rail.feed.kind == "source"
                and supply_behind(design.plan, design.rails, other.id) == rail.source_id
            ):
                continue  # it would come back to this rail
            is_above = other.id == (rail.feed.from_rail if rail.feed is not None else None)
            asked_a = design.budgets[other.id].wants_a + (0.0 if is_above else heavy.most_a)
            if window.low <= volts.low and volts.high <= window.high and gives.known >= asked_a:
                on = " on a carrier" if patch else ""
                fed = at_path(("nodes", node.id, "rail"), other.id)
                yield Move(label=f"Feed the {inner(node.label)}{on} from {other.label}", patch=join_patches([patch, fed]))


def with_less_light(budget: Budget, average_a: float) -> Iterator[Move]:
    """Offer to reckon with so much less light from a rail's lamps that it carries no more than some current on average, A."""
    lit = [it for it in budget.own if it.lamp_id and it.average_a > it.least_a]
    lit_a = sum(it.average_a - it.least_a for it in lit)
    share = min(1.0, (average_a - (budget.average.known - lit_a)) / lit_a) if lit_a > 0 else 0.0
    if share >= CAP_STEP:
        usages = {it.lamp_id: {"usage_ratio": int(1000 * share * it.usage_ratio) / 1000} for it in lit}
        yield Move(label=f"Reckon with its lamps at {si(int(share * 100) / 100, 'ratio')} of that light", patch={"lamps": usages})


def _longer_lived(design: Design, rail: RailDesign, budget: Budget, gives_a: float) -> Iterator[Move]:
    """Offer a supply that carries so much for hours, or lamps that are lit for less of it."""
    yield from larger_supply(design, rail, budget.wants_a)
    yield from _other_rail(design, rail, budget)
    yield from _moved_node(design, rail, budget, gives_a)
    yield from with_less_light(budget, AVERAGE_MOST_RATIO * gives_a)
    yield from _own_supply(design, rail, budget)
    yield from _shorter(design, rail, budget, gives_a)


def rails_last_on_average(design: Design) -> Iterator[Breach]:
    """For hours a source gives four fifths of what it is rated for."""
    for rail_id, budget in design.budgets.items():
        rail, gives = design.rails[rail_id], budget.gives
        if (
            gives is None
            or rail.feed is None
            or _is_coin(rail.feed)
            or _in_ring(design, rail)
            or budget.average.known <= AVERAGE_MOST_RATIO * gives.known
        ):
            continue
        is_stop = over(budget.average.known, gives.known)
        yield Breach(
            severity="stop" if is_stop else "look",
            where=f"{rail.id}.average",
            stage=rail.stage,
            message=f"{rail.label} carries {budget.average.text} on average; the {inner(rail.feed.label)} gives {gives.text}"
            + (", and never so much for long." if is_stop else ", and gets warm with so much for hours."),
            working=budget.average.working,
            ways=partial(
                tried, design, "SUP-RAIL-AVG", f"{rail.id}.average", partial(_longer_lived, design, rail, budget, gives.known)
            ),
            numbers={"over_a": budget.average.known - AVERAGE_MOST_RATIO * gives.known},
        )


def sources_hold_their_volts(design: Design) -> Iterator[Breach]:
    """A source does not lose more than a tenth of its volts inside and in its lead, with all of it lit."""
    for rail in design.rails.values():
        loaded, volts = design.budgets[rail.id].loaded, rail.voltage
        if rail.source_id is None or loaded.value is None or volts.value is None or volts.origin == "measured":
            continue
        lost_v = volts.known - loaded.known
        if lost_v <= SAG_LOOK_RATIO * volts.known:
            continue
        put_in = f"{volts.text} − {loaded.text} = {si(lost_v, 'V')}, {si(lost_v / volts.known, 'ratio')} of it"
        yield Breach(
            severity="look",
            where=f"{rail.id}.sag",
            stage=rail.stage,
            message=f"{rail.label} falls from {volts.text} to {loaded.text} with all of it lit: lamps dim, and what needs its volts may start again.",
            working=(Working(formula="V = V_open − I R, solved for all loads", substituted=put_in, source="horowitz-hill"),),
            ways=partial(tried, design, "SUP-SAG", f"{rail.id}.sag", partial(_stiffer, design, rail)),
            numbers={"lost_v": lost_v},
        )


def _stiffer(design: Design, rail: RailDesign) -> Iterator[Move]:
    """Offer to leave a long lead out, and sources of like volts that lose less of them."""
    feed, budget = rail.feed, design.budgets[rail.id]
    if feed is None or feed.source is None or rail.source_id is None:
        return
    if feed.lead_ohm > 0:
        yield Move(label="Leave its longer lead out", patch=at_path(("sources", rail.source_id, "cable"), None))
    mine_ohm = feed.source.resistance_ohm.value if feed.source.resistance_ohm is not None else 0.0
    for part in design.catalog.sources.values():
        ohm = part.resistance_ohm.value if part.resistance_ohm is not None else 0.0
        is_like = abs(part.voltage_v.value - feed.source.voltage_v.value) < 0.05 * part.voltage_v.value
        carries = part.current_max_a is not None and part.current_max_a.value >= budget.wants_a
        if is_like and carries and ohm < mine_ohm and ohm * budget.worst.high < SAG_LOOK_RATIO * part.voltage_v.value:
            patch = at_path(("sources", rail.source_id, "choice"), {"part": part.id, "overrides": None})
            yield Move(label=f"Take {offered(part.label)}", patch=patch)


def radios_are_steadied(design: Design) -> Iterator[Breach]:
    """A rail with a radio on it has its capacitors: proposed, unless less is told."""
    for rail in design.rails.values():
        own_f = design.plan.rails[rail.id].decoupling_f
        radios = [it for it in design.nodes.values() if it.rail_id == rail.id and it.part is not None and it.part.radios]
        if own_f is None or own_f >= DECOUPLING_LEAST_F or not radios:
            continue
        usual = design.catalog.proposals["decoupling"]
        yield Breach(
            severity="look",
            where=f"{rail.id}.decoupling",
            stage=rail.stage,
            message=f"{rail.label} has {si(own_f, 'F')} beside the {inner(radios[0].label)}; its radio's peaks want 100 nF and 10 to 100 µF close by.",
            working=(Working(formula="C ≥ 10 µF", substituted=si(own_f, "F"), source=usual.source),),
            fixes=(
                Move(label=f"Put in {si(usual.value or 4.7e-5, 'F')}", patch=at_path(("rails", rail.id, "decoupling_f"), None)),
            ),
            numbers={"missing_f": DECOUPLING_LEAST_F - own_f},
        )


RULES: Final = (
    Rule("SUP-RAIL-PEAK", "whole", rails_carry_their_peaks, "with all of it lit a rail carries more than its source, converter or board gives", "only the worst case of that is more", "source, board, module and lamp parts, from memory"),
    Rule("SUP-33V-PIN", "whole", pins_carry_their_rails, "with all of it lit a board's 3.3 V pin carries more than it gives", "only the worst case of that is more", "board and module parts, from memory"),
    Rule("SUP-RAIL-AVG", "whole", rails_last_on_average, "on average a rail carries more than its feed gives", "more than four fifths of it", "common practice"),
    Rule("SUP-SAG", "whole", sources_hold_their_volts, "", "a source loses more than a tenth of its volts inside and in its lead with all of it lit", "common practice"),
    Rule("SUP-DECOUPLING", "whole", radios_are_steadied, "", "under 10 µF are told beside a radio", "common practice"),
)  # fmt: skip
