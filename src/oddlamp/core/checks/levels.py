"""Rules for levels: nothing over a limit, everything heard, fast enough, one ground, nothing fed back."""

from collections.abc import Iterator
from functools import partial
from typing import Final

from oddlamp.core.base import Working, si
from oddlamp.core.checks.findings import Breach, Move, Rule
from oddlamp.core.checks.ways import one_supply, ways_down, ways_faster, ways_low, ways_up
from oddlamp.core.design.design import Design
from oddlamp.core.design.lines import LevelDesign
from oddlamp.core.design.passages import Obstacle
from oddlamp.core.english import inner, plural
from oddlamp.core.plan.document import Document, at_path, join_patches
from oddlamp.core.plan.signals import is_bus_link, shared_link
from oddlamp.core.resolve.carry import CLAMP_V
from oddlamp.core.resolve.judge_levels import fed_back_a, in_the_way_ohm, slowest_s
from oddlamp.core.resolve.supplies import supply_behind


def told(design: Design, *codes: str) -> Iterator[tuple[LevelDesign, Obstacle]]:
    """Walk the lines whose level has an obstacle of these codes."""
    for level in () if design.met.isdisjoint(codes) else design.levels:
        for obstacle in design.passages[level.id].obstacles:
            if obstacle.code in codes:
                yield level, obstacle


def name_of(level: LevelDesign) -> str:
    """Name the receiver of a line: ``The module``, ``The board's pin of Dimmer``, ``Lightning``."""
    match level.line.kind:
        case "input":
            return f"The {inner(level.receiver.label)}'s pin of {level.sender.label}"
        case "data":
            return level.receiver.label
        case "key" | "enable" | "reset":
            return f"The {inner(level.receiver.label)}'s {level.line.kind} pin"
        case _:
            return f"The {inner(level.receiver.label)}"


def input_not_overdriven(design: Design) -> Iterator[Breach]:
    """A receiving pin never sees more than it may have; a clamp that is leant on is another rule's."""
    for level, it in told(design, "LVL-OVER"):
        got, limit, who = level.received, level.limit, name_of(level)
        seen = (
            f"{who} gets {si(got.known, 'V')}; it stands {si(limit.known, 'V')} at most."
            if it.severity == "stop"
            else f"At worst {inner(who)} gets {si(got.high, 'V')}; it stands {si(limit.known, 'V')} at most."
        )
        yield Breach(
            severity=it.severity,
            where=level.id,
            stage=level.stage,
            message=seen,
            working=(*got.working, *limit.working),
            ways=partial(ways_down, design, level),
            numbers={"voltage_v": got.known, "worst_voltage_v": got.high},
        )
    for lamp in design.lamps.values():
        for channel in lamp.channels:
            found = design.passages[channel.signal_id].found("LVL-OVER")
            if found is not None and channel.floats is not None:
                yield Breach(
                    severity=found.severity,
                    where=channel.signal_id,
                    stage=lamp.stage,
                    message=f"{design.signals[channel.signal_id].line.name}: {found.because}. Its rail stands above its pin.",
                    working=channel.floats.working,
                    fixes=rail_above_ways(design, lamp.id),
                    numbers={"voltage_v": channel.floats.known, "worst_voltage_v": channel.floats.high},
                )


def rail_above_ways(design: Design, lamp_id: str) -> tuple[Move, ...]:
    """Offer what keeps a pin from seeing a rail above it through a lamp: a transistor a colour, or the pin's own rail."""
    lamp = design.lamps[lamp_id]
    host = design.nodes[lamp.host]
    same = next(
        (
            rail
            for rail in design.rails.values()
            if host.logic and rail.voltage.value == host.logic.value and rail.end == host.end
        ),
        None,
    )
    each = "in each colour" if len(lamp.channels) > 1 else "between"
    fixes = [Move(label=f"Put a MOSFET {each}", patch=at_path(("lamps", lamp.id, "drive"), {"school": "mosfet"}))]
    if same is not None:
        patch = at_path(("lamps", lamp.id, "rail"), same.id)
        fixes.append(Move(label=f"Feed the common leg from {same.label}", patch=patch))
    return tuple(fixes)


def clamp_is_not_leant_on(design: Design) -> Iterator[Breach]:
    """A receiver's clamp diode is leant on only with little current, and it is said; also where a level over the limit was accepted."""
    for level, it in told(design, "LVL-DIRECT-RISK"):
        yield Breach(
            severity=it.severity,
            where=level.id,
            stage=level.stage,
            message=f"{name_of(level)} is held by its own clamp diode, which must take {si(level.injected_a or 0, 'A')}: some makers allow 1 mA, some none.",
            working=level.received.working,
            ways=partial(ways_down, design, level),
            numbers={"injected_a": level.injected_a or 0.0},
        )
    for level, _ in told(design, "LVL-OVER"):
        logic = level.receiver.logic
        if f"LVL-OVER@{level.id}" not in design.plan.accepted or logic is None or logic.value is None:
            continue
        over_v = level.received.high - logic.known - CLAMP_V
        if over_v <= 0:
            continue
        ohm = in_the_way_ohm(level)
        current_a = over_v / ohm
        put_in = f"({si(level.received.high, 'V')} − {logic.text} − {si(CLAMP_V, 'V')}) / {si(ohm, 'ohm')} = {si(current_a, 'A', digits=2)}"
        yield Breach(
            severity="look",
            where=level.id,
            stage=level.stage,
            message=f"You took the risk of too high a level: up to {si(current_a, 'A', digits=2)} goes through the {inner(level.receiver.label)}'s clamp diode; some makers allow 1 mA, some none.",
            working=(Working(formula="I_clamp = (V_in − V_DD − 0.6 V) / R", substituted=put_in, source="from-memory"),),
            ways=partial(ways_down, design, level),
            numbers={"injected_a": current_a},
        )


def level_is_heard(design: Design) -> Iterator[Breach]:
    """A high is heard as high at nominal values."""
    return unheard(design, "LVL-UNDER")


def level_has_margin(design: Design) -> Iterator[Breach]:
    """A high is heard as high at worst too."""
    return unheard(design, "LVL-MARGIN")


def unheard(design: Design, code: str) -> Iterator[Breach]:
    """Tell of highs that are not heard, by one of the codes for it."""
    for level, it in told(design, code):
        got, high, who = level.received, level.high, name_of(level)
        put_in = f"{got.text} against {high.text} ({si(got.known - high.known, 'V')}); at worst {si(got.low, 'V')} against {si(high.high, 'V')}"
        if it.severity == "look":
            message = f"At worst {inner(who)} gets {si(got.low, 'V')} and hears a high only from {si(high.high, 'V')}."
        elif level.is_bits:
            message = f"{who} hears a high from {high.text} and its {level.line.lead} line gives {got.text}: {si(got.known - high.known, 'V')}."
        else:
            message = f"{who} gets {got.text} and hears a high only from {high.text}."
        yield Breach(
            severity=it.severity,
            where=level.id,
            stage=level.stage,
            message=message,
            ways=partial(ways_up, design, level, it.severity),
            working=(*got.working, Working(formula="V_received ≥ V_IH", substituted=put_in, source=high.source)),
            numbers={"missing_v": high.known - got.known, "worst_missing_v": high.high - got.low},
        )


def low_is_heard(design: Design) -> Iterator[Breach]:
    """A low is heard as low, at worst too: a diode and pull-ups lift it."""
    for level, it in told(design, "LVL-LOW"):
        rests, low, who = level.rests, level.low, name_of(level)
        seen = (rests.known, low.known) if it.severity == "stop" else (rests.high, low.low)
        text = f"gets {si(seen[0], 'V')} for a low and hears one only up to {si(seen[1], 'V')}."
        yield Breach(
            severity=it.severity,
            where=level.id,
            stage=level.stage,
            message=f"{who} {text}" if it.severity == "stop" else f"At worst {inner(who)} {text}",
            working=(
                *rests.working,
                Working(
                    formula="V_low ≤ V_IL",
                    substituted=f"{rests.text} against {low.text}; at worst {si(rests.high, 'V')} against {si(low.low, 'V')}",
                    source=low.source,
                ),
            ),
            ways=partial(ways_low, design, level, it.severity),
            numbers={"over_v": rests.known - low.known, "worst_over_v": rests.high - low.low},
        )


def edge_is_fast_enough(design: Design) -> Iterator[Breach]:
    """An edge is over before its bit is: under a tenth of it, and under what the receiver takes."""
    for level, it in told(design, "LVL-SLOW"):
        limit_s = slowest_s(level) or 0.0
        what = (
            f"its data needs edges under {si(limit_s, 's')}"
            if level.edge_most_s is not None
            else f"a bit lasts {si(level.bit_s or 0, 's')}, and a tenth of that is {si(limit_s, 's')}"
        )
        yield Breach(
            severity=it.severity,
            where=level.id,
            stage=level.stage,
            message=f"The edge to {name_of(level).removeprefix('The ')} takes {level.rise.text}: {what}.",
            working=(
                *level.rise.working,
                Working(
                    formula="t_rise ≤ a tenth of a bit, or the stated edge",
                    substituted=f"{level.rise.text} against {si(limit_s, 's')}",
                    source="common-practice",
                ),
            ),
            ways=partial(ways_faster, design, level, limit_s),
            numbers={"rise_s": level.rise.known},
        )


def grounds_are_joined(design: Design) -> Iterator[Breach]:
    """What is wired together has one ground: wires, inputs, and lamps with the rail that feeds them."""
    seen: set[str] = set()
    for signal in design.signals.values():
        line, found = signal.line, design.passages[signal.line.id].found("LVL-GROUND")
        if found is None or line.stage in seen:
            continue
        seen.add(line.stage)
        yield Breach(
            severity=found.severity,
            where=line.owner_id,
            stage=line.stage,
            message=_apart(design, line.owner, found),
            working=(
                Working(
                    formula="a level is volts above the receiver's own ground, and current needs a way back",
                    substituted=found.because,
                    source="common-practice",
                ),
            ),
            fixes=tuple(_join_grounds(design, line.owner)),
            numbers={"grounds": 2},
        )


def _apart(design: Design, owner: tuple[str, str], found: Obstacle) -> str:
    collection, name = owner
    if collection == "links":
        link = design.plan.links[name]
        a, b = design.nodes[link.a], design.nodes[link.b]
        return f"The {inner(a.label)} and the {inner(b.label)} stand at two ends without a common ground."
    label = next(signal.line for signal in design.signals.values() if signal.line.owner == owner).name.partition(",")[0]
    return f"{label} is fed at one end and wired to another: {found.because}."


def _join_grounds(design: Design, owner: tuple[str, str]) -> Iterator[Move]:
    """Offer to bring both ends together: the second node, or the rail with its source, to where the host stands."""
    collection, name = owner
    if collection == "links":
        link = design.plan.links[name]
        a, b = design.nodes[link.a], design.nodes[link.b]
        apart = [b.id]
        if is_bus_link(design.plan, name):  # all that hang on it share one ground
            chips = [it for it, links in design.buses.items() if any(shared_link(design.plan, link) == name for link in links)]
            apart = [it for it in chips if design.nodes[it].end != a.end] or apart
        who = inner(b.label) if len(apart) == 1 else plural(len(apart), "chip")
        patch = join_patches(at_path(("nodes", it, "end"), a.end) for it in apart)
        yield Move(label=f"Put the {who} at the same end", patch=patch)
        return
    thing = design.plan.lamps[name] if collection == "lamps" else design.plan.inputs[name]
    host = design.nodes[thing.host]
    rail = design.rails.get(thing.rail or "")
    if rail is not None:
        patches: list[Document] = [at_path(("rails", rail.id, "end"), host.end)]
        source = supply_behind(design.plan, design.rails, rail.id)
        if source is not None:
            patches.append(at_path(("sources", source, "end"), host.end))
        yield Move(label=f"Join the ground of {rail.label} to the {inner(host.label)}'s", patch=join_patches(patches))
        yield Move(label=f"Feed it where the {inner(host.label)} stands", patch=at_path((collection, name, "rail"), None))


def nothing_feeds_back(design: Design) -> Iterator[Breach]:
    """No high goes into a part that another supply feeds, and that may be off: it would run through its clamp diode."""
    for level, it in told(design, "SUP-BACKFEED"):
        mine, other = (supply_behind(design.plan, design.rails, end.rail_id) for end in (level.sender, level.receiver))
        names = [_supply(design, source) for source in (mine, other)]
        current_a, ohm, who = fed_back_a(level), in_the_way_ohm(level), name_of(level)
        put_in = f"({level.sent.text} − {si(CLAMP_V, 'V')}) / {si(ohm, 'ohm')} = {si(current_a, 'A', digits=2)}; some makers allow 1 mA, some none"
        yield Breach(
            severity=it.severity,
            where=level.id,
            stage=level.stage,
            message=f"{who} and what sends to it have supplies of their own. While {names[1]} is off and {names[0]} is on, {si(current_a, 'A', digits=2)} flows into its pin and half runs it.",
            working=(
                Working(
                    formula="I = (V_OH − 0.6 V) / R_series into a part without supply",
                    substituted=put_in,
                    source="common-practice",
                ),
            ),
            ways=partial(one_supply, design, level),
            numbers={"fed_a": current_a},
        )


def _supply(design: Design, source: str | None) -> str:
    label = design.plan.sources[source].label if source is not None else None
    return f"the supply {inner(label)}" if label else f"the supply {(source or '').replace('_', ' ')}"


RULES: Final = (
    Rule(
        "LVL-OVER",
        "line",
        input_not_overdriven,
        "nominal level over the receiver's limit: the fixed one if stated, else its nominal supply + 0.3 V",
        "only the worst case (supply spread, resistor tolerance) over that limit",
        "divider rule; JESD8C for a lightly loaded output; limits of the part, from memory",
    ),
    Rule(
        "LVL-UNDER",
        "line",
        level_is_heard,
        "nominal high level under the receiver's V_IH",
        "",
        "divider rule; V_IH of the part, from memory",
    ),
    Rule(
        "LVL-MARGIN",
        "line",
        level_has_margin,
        "",
        "only the worst-case high level under the highest V_IH",
        "divider rule; V_IH of the part, from memory",
    ),
    Rule(
        "LVL-LOW",
        "line",
        low_is_heard,
        "nominal low level over the receiver's V_IL",
        "only the worst-case low over the lowest V_IL",
        "Kirchhoff's law; V_IL of the part and the diode's drop, from memory",
    ),
    Rule(
        "LVL-SLOW",
        "line",
        edge_is_fast_enough,
        "rise time over a quarter of a bit, or over the edge that pixel data needs",
        "rise time over a tenth of a bit",
        "2.2 R C; a tenth of a bit, common practice",
    ),
    Rule(
        "LVL-DIRECT-RISK",
        "line",
        clamp_is_not_leant_on,
        "over 1 mA into the receiver's clamp diode at worst",
        "any current into it",
        "from memory",
    ),
    Rule(
        "SUP-BACKFEED",
        "line",
        nothing_feeds_back,
        "",
        "a line between two supplies of their own lets over 1 mA into its receiver while the receiver's is off",
        "common practice",
    ),
    Rule("LVL-GROUND", "line", grounds_are_joined, "a wire joins two places without a common ground", "", "common practice"),
)
