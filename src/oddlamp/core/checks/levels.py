"""Rules for the hook-up: nothing over a limit, everything heard, one ground."""

from collections.abc import Iterator

from oddlamp.core.base import Working, si
from oddlamp.core.design import CrossingDesign, Design
from oddlamp.core.electrical.led import Spread
from oddlamp.core.electrical.level import Divider, divide
from oddlamp.core.findings import Breach, Move, Severity
from oddlamp.core.plan.document import at_path


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
    if crossing.receiver.node.kind != "module" or is_spoken_on(design, crossing):
        return False
    setup = crossing.receiver.node.setup
    return setup is None or setup.route != "board"


def input_not_overdriven(design: Design) -> Iterator[Breach]:
    """A receiving pin never sees more than it may have."""
    for crossing in design.crossings.values():
        got, limit = crossing.received, crossing.limit
        if got.value is None or limit.value is None or got.high <= limit.value:
            continue
        severity: Severity = "stop" if got.value > limit.value else "look"
        who = f"The {crossing.receiver.label.lower()}"
        seen = (
            f"{who} gets {si(got.value, 'V')} and may have {si(limit.value, 'V')}."
            if severity == "stop"
            else f"At worst {who.lower()} gets {si(got.high, 'V')} and may have {si(limit.value, 'V')}."
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


def level_is_heard(design: Design) -> Iterator[Breach]:
    """A high is heard as high, at worst too."""
    for crossing in design.crossings.values():
        got, high = crossing.received, crossing.high
        if got.value is None or high.value is None:
            continue
        severity: Severity = "stop" if got.value < high.value else "look"
        if got.value >= high.value and got.low >= high.high:
            continue
        put_in = f"{got.text} against {high.text}; at worst {si(got.low, 'V')} against {si(high.high, 'V')}"
        who = crossing.receiver.label.lower()
        message = (
            f"The {who} gets {got.text} and hears a high only from {high.text}."
            if severity == "stop"
            else f"At worst the {who} gets {si(got.low, 'V')} and hears a high only from {si(high.high, 'V')}."
        )
        yield Breach(
            severity=severity,
            where=crossing.id,
            stage=crossing.stage,
            message=message,
            fixes=tuple(_ways_up(design, crossing)),
            working=(*got.working, Working(formula="V_received ≥ V_IH", substituted=put_in, source=high.working[0].source)),
            numbers={"missing_v": high.value - got.value, "worst_missing_v": high.high - got.low},
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
                message=f"The {a.label.lower()} and the {b.label.lower()} stand at two ends without a common ground.",
                working=(
                    Working(
                        formula="a level is volts above the receiver's own ground",
                        substituted=f"{a.end} and {b.end}",
                        source="common-practice",
                    ),
                ),
                fixes=(Move(label=f"Put the {b.label.lower()} at the same end", patch=at_path(("nodes", b.id, "end"), a.end)),),
                numbers={"grounds": 2},
            )


def _fits(divider: Divider, sent: Spread, crossing: CrossingDesign) -> bool:
    level = divide(sent, divider).voltage_v
    return level.most <= crossing.limit.known and level.least >= crossing.high.high


def divider_patch(crossing: CrossingDesign, **values: float | None) -> dict[str, object]:
    """Build the merge patch that makes a line a divider with these values."""
    return at_path(("signals", crossing.id), {"is_omitted": None, "shift": {"school": "divider", "values": values}})


def _ways_down(design: Design, crossing: CrossingDesign) -> Iterator[Move]:
    sent = crossing.sent_spread
    if sent is not None and crossing.high.value is not None:
        if crossing.upper and crossing.lower and crossing.tolerance:
            finer = design.catalog.resistors["metal-film"].tolerance_ratio.value
            same = Divider(upper_ohm=crossing.upper.known, lower_ohm=crossing.lower.known, tolerance_ratio=finer)
            if finer < crossing.tolerance.known and _fits(same, sent, crossing):
                yield Move(
                    label=f"Use {si(finer, 'ratio')} parts ({si(divide(sent, same).voltage_v.most, 'V')} at worst)",
                    patch=divider_patch(crossing, tolerance_ratio=finer),
                )
        tolerance = (
            crossing.tolerance.known if crossing.tolerance else design.catalog.resistors["carbon-film"].tolerance_ratio.value
        )
        for upper_ohm, lower_ohm in design.catalog.proposals["divider"].pairs:
            pair = Divider(upper_ohm=upper_ohm, lower_ohm=lower_ohm, tolerance_ratio=tolerance)
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
    if sent is not None and crossing.school.id == "divider":
        if sent.most <= crossing.limit.known:
            yield Move(
                label="Use a straight wire",
                patch=at_path(("signals", crossing.id, "shift"), {"school": "direct", "values": None}),
            )
        else:
            yield from _ways_down(design, crossing)
