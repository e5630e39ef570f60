"""Ways out that several rules share: other schools and resistors for a line, one supply for both its ends."""

from collections.abc import Iterator
from dataclasses import replace
from typing import Final

from oddlamp.core.base import si
from oddlamp.core.checks.findings import Move
from oddlamp.core.design.design import Design
from oddlamp.core.design.lines import LevelDesign
from oddlamp.core.design.passages import Severity
from oddlamp.core.electrical.led import Spread
from oddlamp.core.electrical.level import Divider, divide, parallel_ohm
from oddlamp.core.electrical.preferred import neighbour
from oddlamp.core.english import inner
from oddlamp.core.modules.goals import dialect_of
from oddlamp.core.plan.document import Document, at_path
from oddlamp.core.plan.lights import PIXEL_KINDS
from oddlamp.core.resolve.carry import usual_pairs
from oddlamp.core.resolve.judge_levels import CLAMP_STOP_A, Scene, in_the_way_ohm, judge_level
from oddlamp.core.resolve.levels import try_school
from oddlamp.core.resolve.schools import SCHOOLS, offered_at, place_of

LEAST_PULL_OHM: Final = 470.0
PULLS_OHM: Final = (1e3, 2.2e3, 4.7e3, 1e4, 2.2e4, 4.7e4, 1e5)
UNHEARD: Final = ("LVL-UNDER", "LVL-MARGIN", "PIX-DATA-LEVEL")
SCHOTTKY_V: Final = 0.3  # from memory, at half a milliampere


def is_spoken_on(design: Design, level: LevelDesign) -> bool:
    """Tell whether any talk sends anything along this direction of a wire, or the board's program has to by itself."""
    dialect = dialect_of(design, level.receiver)
    if dialect is not None and dialect.volatile and dialect.enters == "always":
        return True
    for talk in design.talks.values():
        for hop in talk.hops:
            if hop.link_id == level.line.owner_id:
                goes = "out" if hop.way == level.line.lead else "back"
                if any(word.direction == goes for word in talk.vocabulary.words):
                    return True
    return False


def may_be_left_out(design: Design, level: LevelDesign) -> bool:
    """Tell whether the wire can go: nothing is said on it, and the module is not set up through it."""
    if not level.line.is_spoken or level.receiver.node.kind != "module" or is_spoken_on(design, level):
        return False
    setup = level.receiver.node.setup
    return setup is None or setup.route != "board"


def school_patch(level: LevelDesign, school: str, **values: float | None) -> Document:
    """Build the merge patch that brings a level across another way, with its proposed parts but for those given."""
    return at_path((*level.line.path, "shift"), {"school": school, "values": values or None})


def divider_patch(level: LevelDesign, **values: float | None) -> Document:
    """Build the merge patch that makes a line a divider with these values."""
    return at_path(level.line.path, {"is_omitted": None, "shift": {"school": "divider", "values": values}})


def clears(design: Design, tried: LevelDesign, codes: tuple[str, ...], severity: Severity) -> bool:
    """Tell whether a line tried another way has none of these verdicts, and no stop in their place.

    A stop may become a look, a look may not stay one.
    """
    found = judge_level(Scene(design.plan, design.rails), tried)
    mine = [it for it in found if it.code in codes]
    return not any(it.severity == "stop" for it in found) and not any(severity == "look" or it.severity == "stop" for it in mine)


def _other_schools(design: Design, level: LevelDesign, codes: tuple[str, ...], severity: Severity) -> Iterator[Move]:
    """Offer the first other school, of those that can carry this line, that clears a verdict."""
    lamp = design.lamps.get(level.line.owner_id) if level.is_bits else None
    for school in offered_at(place_of(level, lamp.kind if lamp else None)):
        if school != level.school.id and clears(design, try_school(design.plan, design.catalog, level, school), codes, severity):
            patch = at_path(level.line.path, {"is_omitted": None, "shift": {"school": school, "values": None}})
            yield Move(label=f"Take {SCHOOLS[school].built} instead", patch=patch)
            return


def _fits(divider: Divider, sent: Spread, level: LevelDesign) -> bool:
    volts = divide(sent, divider).voltage_v
    return volts.most <= level.limit.known and volts.least >= level.high.high


def ways_down(design: Design, level: LevelDesign) -> Iterator[Move]:
    """Offer what brings a level down under its limit."""
    if level.line.kind == "bus":
        yield from _other_schools(design, level, ("LVL-OVER",), "look")
        return
    sent = level.sent_spread
    an_input = design.plan.inputs[level.line.owner_id] if level.line.kind == "input" else None
    if level.pull is not None and level.pull_v is not None:
        yield from _other_pulls(design, level)
    own = level.receiver.logic
    is_enough = own is not None and own.value is not None and level.limit.value is not None and own.high <= level.limit.value
    if an_input is not None and an_input.rail is not None and own is not None and is_enough:
        yield Move(
            label=f"Feed it from the {inner(level.receiver.label)}'s own {own.text}",
            patch=at_path(("inputs", level.line.owner_id, "rail"), None),
        )
    if sent is not None and level.high.value is not None and level.pull_v is None:
        yield from _dividers(design, level, sent)
    if level.sent_spread is not None and level.pull_v is not None:
        yield from _other_schools(design, level, ("LVL-OVER",), "look")
    if may_be_left_out(design, level):
        yield Move(label="Leave this wire out: nothing is said on it", patch=at_path((*level.line.path, "is_omitted"), True))


def _dividers(design: Design, level: LevelDesign, sent: Spread) -> Iterator[Move]:
    if level.divider is not None:
        finer = design.catalog.resistors["metal-film"].tolerance_ratio.value
        same = replace(level.divider, tolerance_ratio=finer)
        if finer < level.divider.tolerance_ratio and _fits(same, sent, level):
            yield Move(
                label=f"Use {si(finer, 'ratio')} parts ({si(divide(sent, same).voltage_v.most, 'V')} at worst)",
                patch=divider_patch(level, tolerance_ratio=finer),
            )
    tolerance = level.tolerance.known if level.tolerance else design.catalog.resistors["carbon-film"].tolerance_ratio.value
    for upper_ohm, lower_ohm in usual_pairs(design.catalog, design.series):
        pair = Divider(upper_ohm=upper_ohm, lower_ohm=lower_ohm, tolerance_ratio=tolerance, burden=level.burden)
        if _fits(pair, sent, level):
            label = (
                f"Use {si(upper_ohm, 'ohm')} over {si(lower_ohm, 'ohm')} ({si(divide(sent, pair).voltage_v.most, 'V')} at worst)"
            )
            yield Move(label=label, patch=divider_patch(level, upper_ohm=upper_ohm, lower_ohm=lower_ohm))
            break


def _other_pulls(design: Design, level: LevelDesign) -> Iterator[Move]:
    """Offer a pull-up to the receiver's own supply, or none at all."""
    for rail in design.rails.values():
        own = level.receiver.logic
        if own is not None and own.value is not None and rail.voltage.value == own.value and rail.end == level.receiver.end:
            yield Move(label=f"Pull it up to {rail.label}", patch=at_path((*level.line.path, "pull_to"), rail.id))
            break
    yield Move(label="Take its pull-up out", patch=at_path(level.line.path, {"pull_ohm": None, "pull_to": None}))


def ways_up(design: Design, level: LevelDesign, severity: Severity) -> Iterator[Move]:
    """Offer what makes a high heard; where none of the usual does, whatever other school would."""
    offered = list(_ways_up(design, level, severity))
    offered = offered or list(_other_schools(design, level, UNHEARD, severity))
    yield from offered or _fed_alike(design, level)


def _fed_alike(design: Design, level: LevelDesign) -> Iterator[Move]:
    """Offer to feed a chip from a rail at the board's own volts, where nothing brings the board's highs to it."""
    node, sent = level.receiver, level.sent.value
    for rail in design.rails.values() if level.line.kind == "bus" else ():
        if rail.voltage.value == sent and rail.end == level.sender.end and rail.id != node.rail_id:
            yield Move(
                label=f"Feed the {inner(node.label)} from {rail.label}", patch=at_path(("nodes", node.id, "rail"), rail.id)
            )
            return


def _ways_up(design: Design, level: LevelDesign, severity: Severity) -> Iterator[Move]:
    if level.line.kind == "bus":
        return  # what crosses it has to pass both ways
    sent, codes = level.sent_spread, UNHEARD
    if level.burden.load_ohm is not None and level.school.id != "direct":
        yield Move(label="Take its pull-down out", patch=at_path(level.line.path, {"pull_ohm": None, "pull_to": None}))
    if level.school.id in ("direct", "mosfet") and level.received.value is not None:
        yield Move(label="Put a gate that hears 2.0 V between", patch=school_patch(level, "gate"))
    lamp = design.plan.lamps[level.line.owner_id] if level.is_bits else None
    if lamp is not None and lamp.kind in PIXEL_KINDS and level.school.id != "diode-fed":
        tried = try_school(design.plan, design.catalog, level, "diode-fed")
        if clears(design, tried, codes, severity):
            label = f"Feed the first pixel through a diode: it hears {tried.high.text}"
            yield Move(label=label, patch=school_patch(level, "diode-fed"))
    if lamp is not None and sent is not None and lamp.kind in PIXEL_KINDS:
        for part in design.catalog.pixels.values():
            if part.kind == lamp.kind and part.input_high_v is not None and part.input_high_v.value <= sent.least:
                patch = at_path(("lamps", level.line.owner_id, "choice"), {"part": part.id, "overrides": None})
                yield Move(label=f"Take pixels that hear {si(part.input_high_v.value, 'V')}", patch=patch)
    if sent is not None and level.school.id in ("divider", "zener", "clamp"):
        if sent.most <= level.limit.known:
            if clears(design, try_school(design.plan, design.catalog, level, "direct"), codes, severity):
                yield Move(label="Use a straight wire", patch=school_patch(level, "direct"))
        else:
            yield from _dividers(design, level, sent)
            if level.school.id == "zener":
                yield from _stiffer_zener(design, level, codes, severity)


def _stiffer_zener(design: Design, level: LevelDesign, codes: tuple[str, ...], severity: Severity) -> Iterator[Move]:
    """Offer the largest smaller resistor that lets a zener reach its volts."""
    if level.extra is None or level.extra.value is None:
        return
    ohm = level.extra.value
    for _ in range(24):
        ohm = neighbour(ohm, -1, design.series)
        if ohm < 100:
            return
        tried = try_school(design.plan, design.catalog, level, "zener", {"series_ohm": ohm})
        if clears(design, tried, codes, severity):
            yield Move(label=f"Fit {si(ohm, 'ohm')}", patch=school_patch(level, "zener", series_ohm=ohm))
            return


def ways_low(design: Design, level: LevelDesign, severity: Severity) -> Iterator[Move]:
    """Offer what lets a low be heard."""
    if level.drop is not None and level.pull_v is None:
        tried = try_school(design.plan, design.catalog, level, "diode", {"diode_v": SCHOTTKY_V})
        if clears(design, tried, ("LVL-LOW",), severity):
            patch = school_patch(level, "diode", diode_v=SCHOTTKY_V)
            yield Move(label=f"Take a Schottky diode, {si(SCHOTTKY_V, 'V')}", patch=patch)
    if level.pull is not None and level.pull_v is not None and level.line.kind != "bus":
        yield from _weaker_pull(design, level, ("LVL-LOW",), severity)
        yield Move(label="Take its pull-up out", patch=at_path(level.line.path, {"pull_ohm": None, "pull_to": None}))
    yield from _other_schools(design, level, ("LVL-LOW",), severity)


def _weaker_pull(design: Design, level: LevelDesign, codes: tuple[str, ...], severity: Severity) -> Iterator[Move]:
    now_ohm = level.pull.known if level.pull is not None else 0.0
    for ohm in PULLS_OHM:
        if ohm > now_ohm and clears(design, try_school(design.plan, design.catalog, level, None, pull_ohm=ohm), codes, severity):
            yield Move(label=f"Pull it with {si(ohm, 'ohm')}", patch=at_path((*level.line.path, "pull_ohm"), ohm))
            return


def ways_faster(design: Design, level: LevelDesign, limit_s: float) -> Iterator[Move]:
    """Offer smaller resistors, or a gate, that make an edge fast enough."""
    rise = level.rise.value or 0.0
    if level.school.id == "divider" and level.upper and level.lower and rise > 0:
        sent, edge_ohm = level.sent_spread, parallel_ohm(level.upper.known, level.lower.known)
        ratio = level.tolerance.known if level.tolerance else 0.05
        for upper_ohm, lower_ohm in usual_pairs(design.catalog, design.series):
            pair = Divider(upper_ohm=upper_ohm, lower_ohm=lower_ohm, tolerance_ratio=ratio, burden=level.burden)
            if rise * parallel_ohm(upper_ohm, lower_ohm) / edge_ohm <= limit_s and sent and _fits(pair, sent, level):
                label = f"Use {si(upper_ohm, 'ohm')} over {si(lower_ohm, 'ohm')}"
                yield Move(label=label, patch=divider_patch(level, upper_ohm=upper_ohm, lower_ohm=lower_ohm))
                break
    elif level.extra is not None and rise > 0:
        # A shifter's first stretch does not shorten with its pull-up: a little less is asked of the rest.
        aim_s = 0.95 * limit_s if level.school.id == "mosfet" else limit_s
        faster = neighbour(level.extra.known * aim_s / rise * (1 + 1e-6), -1, design.series)
        if faster >= LEAST_PULL_OHM:
            patch = school_patch(level, level.school.id, **{level.extra.path[-1]: faster})
            yield Move(label=f"Use {si(faster, 'ohm')}", patch=patch)
    if level.line.kind == "bus" and level.pull is not None and rise > 0:
        fit_ohm = neighbour(level.pull.known * limit_s / rise * (1 + 1e-6), -1, design.series)
        if fit_ohm >= LEAST_PULL_OHM:
            yield Move(label=f"Pull it with {si(fit_ohm, 'ohm')}", patch=at_path((*level.line.path, "pull_ohm"), fit_ohm))
    usual_ohm = design.catalog.proposals["pixel-series"].value or 330.0
    if level.series is not None and level.series.known > usual_ohm:
        tried = try_school(design.plan, design.catalog, level, None, series_ohm=usual_ohm)
        if clears(design, tried, ("LVL-SLOW",), "look"):
            yield Move(label=f"Put in {si(usual_ohm, 'ohm')}", patch=at_path(level.series.path, usual_ohm))
    yield from _other_schools(design, level, ("LVL-SLOW",), "look")


def one_supply(design: Design, level: LevelDesign) -> Iterator[Move]:
    """Offer to feed both ends from one supply, or to put something between."""
    mine, line = design.rails.get(level.sender.rail_id or ""), level.line
    if line.kind == "input":
        yield Move(label="Feed it from the pin's own supply", patch=at_path(("inputs", line.owner_id, "rail"), None))
        return
    collection, name = ("lamps", line.owner_id) if level.is_bits else ("nodes", level.receiver.id)
    load = design.lamps[name].load if collection == "lamps" else None
    suits = load is None or (
        mine is not None
        and mine.voltage.value is not None
        and load.rated.value is not None
        and load.rated.low <= mine.voltage.value <= load.rated.high
    )
    if mine is not None and mine.end == level.receiver.end and suits:
        yield Move(label=f"Feed it from {mine.label} too", patch=at_path((collection, name, "rail"), mine.id))
    if level.sent.value is not None and in_the_way_ohm(level) < level.sent.value / CLAMP_STOP_A:
        yield Move(label="Put a gate between, fed like the receiver", patch=school_patch(level, "gate"))
