"""Rules for the hook-up: nothing over a limit, everything heard, one ground."""

from collections.abc import Iterator
from dataclasses import replace

from oddlamp.core.base import Working, inner, si
from oddlamp.core.design import CrossingDesign, Design
from oddlamp.core.electrical.crossings import CLAMP_V, try_school, usual_pairs
from oddlamp.core.electrical.led import Spread
from oddlamp.core.electrical.level import Divider, divide, parallel_ohm
from oddlamp.core.electrical.preferred import neighbour
from oddlamp.core.findings import Breach, Move, Severity
from oddlamp.core.plan.document import at_path

CLAMP_STOP_A = 1e-3
SLOW_LOOK_RATIO = 0.1
SLOW_STOP_RATIO = 0.25
LEAST_PULL_OHM = 470.0
DUST_V = 1e-12
PULLED_UP = ("gate", "mosfet", "diode")  # their highs are the receiver's own supply
PASSED_ON = ("direct", "diode-fed")  # theirs are the sender's
SCHOTTKY_V = 0.3  # from memory, at half a milliampere


def is_spoken_on(design: Design, crossing: CrossingDesign) -> bool:
    """Tell whether any talk sends anything along this direction of a wire."""
    for talk in design.talks.values():
        for hop in talk.hops:
            if hop.link_id == crossing.link_id:
                goes = "out" if hop.way == crossing.way else "back"
                if any(word.direction == goes for word in talk.vocabulary.words):
                    return True
    return False


def may_be_left_out(design: Design, crossing: CrossingDesign) -> bool:
    """Tell whether the wire can go: nothing is said on it, and the module is not set up through it."""
    if not crossing.is_wire or crossing.receiver.node.kind != "module" or is_spoken_on(design, crossing):
        return False
    setup = crossing.receiver.node.setup
    return setup is None or setup.route != "board"


def _name(design: Design, crossing: CrossingDesign) -> str:
    """Name the receiver of a line: ``The module``, ``The board's pin of Dimmer``, ``Lightning``."""
    if crossing.stage.startswith("inputs."):
        return f"The {inner(crossing.receiver.label)}'s pin of {crossing.sender.label}"
    if crossing.stage.startswith("lamps."):
        return crossing.receiver.label
    if crossing.is_key:
        return f"The {inner(crossing.receiver.label)}'s key pin"
    return f"The {inner(crossing.receiver.label)}"


def _is_pixels(crossing: CrossingDesign) -> bool:
    return crossing.stage.startswith("lamps.")


def input_not_overdriven(design: Design) -> Iterator[Breach]:
    """A receiving pin never sees more than it may have; a clamp that is leant on is another rule's."""
    for crossing in design.levels:
        got, limit = crossing.received, crossing.limit
        if got.value is None or limit.value is None or got.high <= limit.value or crossing.school.id == "clamp":
            continue
        severity: Severity = "stop" if got.value > limit.value else "look"
        follows = crossing.receiver.inputs is not None and crossing.receiver.inputs.input_max_v is None
        if severity == "look" and follows and _sag_together(crossing):
            continue
        who = _name(design, crossing)
        seen = (
            f"{who} gets {si(got.value, 'V')} and may have {si(limit.value, 'V')}."
            if severity == "stop"
            else f"At worst {inner(who)} gets {si(got.high, 'V')} and may have {si(limit.value, 'V')}."
        )
        yield Breach(
            severity=severity,
            where=crossing.id,
            stage=crossing.stage,
            message=seen,
            working=(*got.working, *limit.working),
            fixes=tuple(_ways_down(design, crossing)),
            numbers={"voltage_v": got.value, "worst_voltage_v": got.high},
        )


def clamp_is_not_leant_on(design: Design) -> Iterator[Breach]:
    """A receiver's clamp diode is leant on only with little current, and it is said."""
    for crossing in design.levels:
        if crossing.injected_a is None or crossing.injected_a <= 0 or crossing.extra is None:
            continue
        severity: Severity = "stop" if crossing.injected_a > CLAMP_STOP_A else "look"
        yield Breach(
            severity=severity,
            where=crossing.id,
            stage=crossing.stage,
            message=f"{_name(design, crossing)} is held by its own clamp diode, which must take {si(crossing.injected_a, 'A')}: some makers allow 1 mA, some none.",
            working=crossing.received.working,
            fixes=tuple(_ways_down(design, crossing)),
            numbers={"injected_a": crossing.injected_a},
        )


def level_is_heard(design: Design) -> Iterator[Breach]:
    """A high is heard as high at nominal values."""
    yield from _unheard(design, pixels=False, only="stop")


def level_has_margin(design: Design) -> Iterator[Breach]:
    """A high is heard as high at worst too."""
    yield from _unheard(design, pixels=False, only="look")


def low_is_heard(design: Design) -> Iterator[Breach]:
    """A low is heard as low, at worst too: a diode and pull-ups lift it."""
    for crossing in design.levels:
        rests, low = crossing.rests, crossing.low
        if rests.value is None or low.value is None or rests.high <= low.low:
            continue
        severity: Severity = "stop" if rests.value > low.value else "look"
        who = _name(design, crossing)
        told = (rests.value, low.value) if severity == "stop" else (rests.high, low.low)
        text = f"gets {si(told[0], 'V')} for a low and hears one only up to {si(told[1], 'V')}."
        yield Breach(
            severity=severity,
            where=crossing.id,
            stage=crossing.stage,
            message=f"{who} {text}" if severity == "stop" else f"At worst {inner(who)} {text}",
            working=(
                *rests.working,
                Working(
                    formula="V_low ≤ V_IL",
                    substituted=f"{rests.text} against {low.text}; at worst {si(rests.high, 'V')} against {si(low.low, 'V')}",
                    source=low.source,
                ),
            ),
            fixes=tuple(_ways_low(crossing)),
            numbers={"over_v": rests.value - low.value, "worst_over_v": rests.high - low.low},
        )


def _ways_low(crossing: CrossingDesign) -> Iterator[Move]:
    path = ("signals", crossing.id, "shift")
    drop = crossing.drop
    if drop is not None and crossing.rests.high - drop.high + SCHOTTKY_V <= crossing.low.low:
        schottky = {"school": "diode", "values": {"diode_v": SCHOTTKY_V}}
        yield Move(label=f"Take a Schottky diode, {si(SCHOTTKY_V, 'V')}", patch=at_path(path, schottky))
    yield Move(label="Use a gate or shifter board", patch=at_path(path, {"school": "gate", "values": None}))


def pixels_hear_their_data(design: Design) -> Iterator[Breach]:
    """The data of pixels and matrix modules reaches their threshold, which follows their own supply."""
    yield from _unheard(design, pixels=True)


def _unheard(design: Design, *, pixels: bool, only: Severity | None = None) -> Iterator[Breach]:
    for crossing in design.levels:
        got, high = crossing.received, crossing.high
        if got.value is None or high.value is None or _is_pixels(crossing) != pixels:
            continue
        if crossing.stage.startswith("inputs.") and design.plan.inputs[crossing.link_id].kind in ("knob", "sensor"):
            continue  # read as a level, not as high or low
        nominal_short, worst_short = got.value < high.value - DUST_V, got.low < high.high - DUST_V
        if only is not None and nominal_short != (only == "stop"):
            continue
        # Only what differs between the two counts at worst; a threshold that is stated does not follow.
        follows = crossing.receiver.inputs is not None and crossing.receiver.inputs.input_high_v is None
        if follows and _sag_together(crossing):
            worst_short = nominal_short
        if not nominal_short and not worst_short:
            continue
        severity: Severity = "stop" if nominal_short else "look"
        put_in = f"{got.text} against {high.text} ({si(got.value - high.value, 'V')}); at worst {si(got.low, 'V')} against {si(high.high, 'V')}"
        who = _name(design, crossing)
        message = (
            f"{who} gets {got.text} and hears a high only from {high.text}."
            if severity == "stop"
            else f"At worst {inner(who)} gets {si(got.low, 'V')} and hears a high only from {si(high.high, 'V')}."
        )
        if pixels and severity == "stop":
            message = f"{who} hears a high from {high.text} and its {crossing.id.partition('.')[2]} line gives {got.text}: {si(got.value - high.value, 'V')}."
        yield Breach(
            severity=severity,
            where=crossing.id,
            stage=crossing.stage,
            message=message,
            fixes=tuple(_ways_up(design, crossing)),
            working=(*got.working, Working(formula="V_received ≥ V_IH", substituted=put_in, source=high.source)),
            numbers={"missing_v": high.value - got.value, "worst_missing_v": high.high - got.low},
        )


def _sag_together(crossing: CrossingDesign) -> bool:
    """Tell whether a high and the receiver's own supply are one rail's volts: then they rise and sag together."""
    a, b = crossing.sender.logic, crossing.unaided.logic
    if crossing.school.id in PULLED_UP or a is None or b is None or crossing.sender.rail_id != crossing.unaided.rail_id:
        return crossing.school.id in PULLED_UP
    return (a.value, a.min, a.max) == (b.value, b.min, b.max) and crossing.school.id in PASSED_ON


def edge_is_fast_enough(design: Design) -> Iterator[Breach]:
    """An edge is over before its bit is: under a tenth of it, and under what the receiver takes."""
    for crossing in design.levels:
        rise = crossing.rise.value
        if rise is None:
            continue
        severity: Severity
        if crossing.edge_most_s is not None:
            if rise <= crossing.edge_most_s:
                continue
            severity, limit_s = "stop", crossing.edge_most_s
            what = f"its data needs edges under {si(limit_s, 's')}"
        elif crossing.bit_s is not None:
            if rise <= SLOW_LOOK_RATIO * crossing.bit_s:
                continue
            severity = "stop" if rise > SLOW_STOP_RATIO * crossing.bit_s else "look"
            limit_s = SLOW_LOOK_RATIO * crossing.bit_s
            what = f"a bit lasts {si(crossing.bit_s, 's')}, and a tenth of that is {si(limit_s, 's')}"
        else:
            continue
        put_in = f"{crossing.rise.text} against {si(limit_s, 's')}"
        yield Breach(
            severity=severity,
            where=crossing.id,
            stage=crossing.stage,
            message=f"The edge to {_name(design, crossing).removeprefix('The ')} takes {crossing.rise.text}: {what}.",
            working=(
                *crossing.rise.working,
                Working(formula="t_rise ≤ a tenth of a bit, or the stated edge", substituted=put_in, source="common-practice"),
            ),
            fixes=tuple(_ways_faster(design, crossing, limit_s)),
            numbers={"rise_s": rise},
        )


def _ways_faster(design: Design, crossing: CrossingDesign, limit_s: float) -> Iterator[Move]:
    path = ("signals", crossing.id, "shift")
    rise = crossing.rise.value or 0.0
    if crossing.school.id == "divider" and crossing.upper and crossing.lower and rise > 0:
        sent, tolerance = crossing.sent_spread, crossing.tolerance
        edge_ohm = parallel_ohm(crossing.upper.known, crossing.lower.known)
        for upper_ohm, lower_ohm in usual_pairs(design.catalog, design.series):
            ratio = tolerance.known if tolerance else 0.05
            pair = Divider(upper_ohm=upper_ohm, lower_ohm=lower_ohm, tolerance_ratio=ratio, burden=crossing.burden)
            if rise * parallel_ohm(upper_ohm, lower_ohm) / edge_ohm <= limit_s and sent and _fits(pair, sent, crossing):
                label = f"Use {si(upper_ohm, 'ohm')} over {si(lower_ohm, 'ohm')}"
                yield Move(label=label, patch=divider_patch(crossing, upper_ohm=upper_ohm, lower_ohm=lower_ohm))
                break
    elif crossing.extra is not None and rise > 0:
        # A shifter's first stretch does not shorten with its pull-up: a little less is asked of the rest.
        aim_s = 0.95 * limit_s if crossing.school.id == "mosfet" else limit_s
        faster = neighbour(crossing.extra.known * aim_s / rise * (1 + 1e-6), -1, design.series)
        field = crossing.extra.id.rpartition(".")[2]
        if faster >= LEAST_PULL_OHM:
            yield Move(
                label=f"Use {si(faster, 'ohm')}", patch=at_path(path, {"school": crossing.school.id, "values": {field: faster}})
            )
    yield Move(label="Use a gate or shifter board", patch=at_path(path, {"school": "gate", "values": None}))


def pixel_line_has_its_resistor(design: Design) -> Iterator[Breach]:
    """The data line of pixels has its usual resistor against reflections."""
    for lead in design.leads.values():
        lamp = design.plan.lamps.get(lead.link_id)
        if lamp is None or lamp.kind not in ("pixels-one-wire", "pixels-clocked") or not lead.stage.startswith("lamps."):
            continue
        signal = design.plan.signals.get(lead.id)
        if signal is not None and signal.series_ohm is not None and 100 <= signal.series_ohm <= 600:
            continue
        usual = design.catalog.proposals["pixel-series"]
        has = f"{si(signal.series_ohm, 'ohm')} in series" if signal and signal.series_ohm else "no resistor in it"
        yield Breach(
            severity="look",
            where=lead.id,
            stage=lead.stage,
            message=f"{lead.receiver.label}'s {lead.id.partition('.')[2]} line has {has}; 220 to 470 Ω at the pin is usual against ringing.",
            working=(Working(formula="220 Ω ≤ R_series ≤ 470 Ω", substituted=has, source=usual.source),),
            fixes=(
                Move(
                    label=f"Put in {si(usual.value or 330, 'ohm')}",
                    patch=at_path(("signals", lead.id, "series_ohm"), usual.value),
                ),
            ),
            numbers={"missing": 1},
        )


def grounds_are_joined(design: Design) -> Iterator[Breach]:
    """A wire joins two nodes with one ground."""
    for link_id, link in design.plan.links.items():
        a, b = design.nodes[link.a], design.nodes[link.b]
        if link.kind == "wire" and a.end and b.end and a.end != b.end:
            yield Breach(
                severity="stop",
                where=link_id,
                stage=f"links.{link_id}",
                message=f"The {inner(a.label)} and the {inner(b.label)} stand at two ends without a common ground.",
                working=(
                    Working(
                        formula="a level is volts above the receiver's own ground",
                        substituted=f"{a.end} and {b.end}",
                        source="common-practice",
                    ),
                ),
                fixes=(Move(label=f"Put the {inner(b.label)} at the same end", patch=at_path(("nodes", b.id, "end"), a.end)),),
                numbers={"grounds": 2},
            )


def nothing_feeds_back(design: Design) -> Iterator[Breach]:
    """No high goes into a part that another supply feeds, and that may be off: it would run through its clamp diode."""
    for crossing in design.levels:
        sent = crossing.sent
        if crossing.received.value is None or sent.value is None or crossing.school.id == "gate":
            continue
        mine, other = (source_of(design, it.rail_id) for it in (crossing.sender, crossing.receiver))
        if mine is None or other is None or mine == other:
            continue
        ohm = _series_ohm(design, crossing)
        current_a = max(0.0, sent.value - CLAMP_V) / ohm
        if current_a <= CLAMP_STOP_A:
            continue
        who, names = _name(design, crossing), [it.replace("_", " ") for it in (mine, other)]
        put_in = f"({sent.text} − {si(CLAMP_V, 'V')}) / {si(ohm, 'ohm')} = {si(current_a, 'A', digits=2)}; some makers allow 1 mA, some none"
        yield Breach(
            severity="look",
            where=crossing.id,
            stage=crossing.stage,
            message=f"{who} and its sender have supplies of their own ({names[0]} and {names[1]}): while {names[1]} is off, {si(current_a, 'A', digits=2)} feeds it through its pin.",
            working=(
                Working(
                    formula="I = (V_OH − 0.6 V) / R_series into a part without supply",
                    substituted=put_in,
                    source="common-practice",
                ),
            ),
            fixes=tuple(_one_supply(design, crossing)),
            numbers={"fed_a": current_a},
        )


def source_of(design: Design, rail_id: str | None) -> str | None:
    """Return the supply behind a rail, through converters and boards' own outputs; None where it is not known."""
    seen: set[str] = set()
    while rail_id in design.plan.rails and rail_id not in seen:
        seen.add(str(rail_id))
        rail = design.rails[str(rail_id)]
        if rail.source_id is not None:
            return rail.source_id
        feed = (design.plan.rails[str(rail_id)].fed_by or "").partition(".")[0]
        converter = design.plan.converters.get(feed)
        rail_id = converter.from_rail if converter else design.nodes[feed].rail_id if feed in design.nodes else None
    return None


def _series_ohm(design: Design, crossing: CrossingDesign) -> float:
    """Return what stands in the way of a current from the sender into the receiver's pin, ohm."""
    part, signal = crossing.sender.part, design.plan.signals.get(crossing.id)
    ohm = part.output_resistance_ohm.value if part else 1.0
    fitted = crossing.upper or crossing.extra
    return ohm + (fitted.known if fitted else 0.0) + ((signal.series_ohm or 0.0) if signal else 0.0)


def _one_supply(design: Design, crossing: CrossingDesign) -> Iterator[Move]:
    """Offer to feed both ends from one supply, or to put a gate between."""
    mine = design.rails.get(crossing.sender.rail_id or "")
    if crossing.stage.startswith("inputs."):
        yield Move(label="Feed it from the pin's own supply", patch=at_path(("inputs", crossing.link_id, "rail"), None))
        return
    collection, name = ("lamps", crossing.link_id) if crossing.stage.startswith("lamps.") else ("nodes", crossing.receiver.id)
    load = design.lamps[name].load if collection == "lamps" else None
    suits = load is None or (
        mine is not None
        and mine.voltage.value is not None
        and load.rated.value is not None
        and load.rated.low <= mine.voltage.value <= load.rated.high
    )
    if mine is not None and mine.end == crossing.receiver.end and suits:
        yield Move(label=f"Feed it from {mine.label} too", patch=at_path((collection, name, "rail"), mine.id))
    yield Move(
        label="Put a gate between, fed like the receiver",
        patch=at_path(("signals", crossing.id, "shift"), {"school": "gate", "values": None}),
    )


def _fits(divider: Divider, sent: Spread, crossing: CrossingDesign) -> bool:
    level = divide(sent, divider).voltage_v
    return level.most <= crossing.limit.known and level.least >= crossing.high.high


def divider_patch(crossing: CrossingDesign, **values: float | None) -> dict[str, object]:
    """Build the merge patch that makes a line a divider with these values."""
    return at_path(("signals", crossing.id), {"is_omitted": None, "shift": {"school": "divider", "values": values}})


def _ways_down(design: Design, crossing: CrossingDesign) -> Iterator[Move]:
    sent = crossing.sent_spread
    an_input = design.plan.inputs.get(crossing.link_id) if crossing.stage.startswith("inputs.") else None
    if an_input is not None and an_input.rail is not None:
        yield Move(
            label=f"Feed it from the {inner(crossing.receiver.label)}'s own {crossing.receiver.logic.text if crossing.receiver.logic else 'supply'}",
            patch=at_path(("inputs", crossing.link_id, "rail"), None),
        )
    if sent is not None and crossing.high.value is not None:
        if crossing.divider is not None:
            finer = design.catalog.resistors["metal-film"].tolerance_ratio.value
            same = replace(crossing.divider, tolerance_ratio=finer)
            if finer < crossing.divider.tolerance_ratio and _fits(same, sent, crossing):
                yield Move(
                    label=f"Use {si(finer, 'ratio')} parts ({si(divide(sent, same).voltage_v.most, 'V')} at worst)",
                    patch=divider_patch(crossing, tolerance_ratio=finer),
                )
        tolerance = (
            crossing.tolerance.known if crossing.tolerance else design.catalog.resistors["carbon-film"].tolerance_ratio.value
        )
        for upper_ohm, lower_ohm in usual_pairs(design.catalog, design.series):
            pair = Divider(upper_ohm=upper_ohm, lower_ohm=lower_ohm, tolerance_ratio=tolerance, burden=crossing.burden)
            if _fits(pair, sent, crossing):
                label = f"Use {si(upper_ohm, 'ohm')} over {si(lower_ohm, 'ohm')} ({si(divide(sent, pair).voltage_v.most, 'V')} at worst)"
                yield Move(label=label, patch=divider_patch(crossing, upper_ohm=upper_ohm, lower_ohm=lower_ohm))
                break
    if may_be_left_out(design, crossing):
        yield Move(
            label="Leave this wire out: nothing is said on it", patch=at_path(("signals", crossing.id, "is_omitted"), True)
        )


def _ways_up(design: Design, crossing: CrossingDesign) -> Iterator[Move]:
    sent = crossing.sent_spread
    if crossing.school.id in ("direct", "mosfet") and crossing.received.value is not None:
        shift = {"school": "gate", "values": None}
        yield Move(label="Put a gate that hears 2.0 V between", patch=at_path(("signals", crossing.id, "shift"), shift))
    lamp = design.plan.lamps.get(crossing.link_id) if _is_pixels(crossing) else None
    if lamp is not None and lamp.kind != "matrix" and crossing.school.id != "diode-fed":
        tried = try_school(design.plan, design.catalog, crossing, "diode-fed")
        is_stop = (crossing.received.value or 0.0) < (crossing.high.value or 0.0) - DUST_V
        if (
            tried is not None
            and tried.received.value is not None
            and (tried.received.low >= tried.high.high or (is_stop and tried.received.value >= tried.high.known))
        ):
            patch = at_path(("signals", crossing.id, "shift"), {"school": "diode-fed", "values": None})
            yield Move(label=f"Feed the first pixel through a diode: it hears {tried.high.text}", patch=patch)
    if lamp is not None and sent is not None and lamp.kind in ("pixels-one-wire", "pixels-clocked"):
        for part in design.catalog.pixels.values():
            if part.kind == lamp.kind and part.input_high_v is not None and part.input_high_v.value <= sent.least:
                patch = at_path(("lamps", crossing.link_id, "choice"), {"part": part.id, "overrides": None})
                yield Move(label=f"Take pixels that hear {si(part.input_high_v.value, 'V')}", patch=patch)
    if sent is not None and crossing.school.id == "divider":
        if sent.most <= crossing.limit.known:
            yield Move(
                label="Use a straight wire",
                patch=at_path(("signals", crossing.id, "shift"), {"school": "direct", "values": None}),
            )
        else:
            yield from _ways_down(design, crossing)
