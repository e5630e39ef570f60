"""Which lines of a design can be built many times over, and what comes of it."""

from oddlamp.core.design import ChannelDesign, CrossingDesign, Design
from oddlamp.core.electrical.chance import ManyBuilds, many_builds, many_levels
from oddlamp.core.errors import OutOfRange


def can_be_built(it: ChannelDesign | CrossingDesign) -> bool:
    """Whether a channel has a current by its curve, or a line a divider and ends to hold it against."""
    if isinstance(it, ChannelDesign):
        return (
            it.branch is not None
            and it.branch.curve is not None
            and it.resistor.value is not None
            and not it.branch.is_shared  # how they share is not drawn
        )
    return None not in (it.divider, it.sent_spread, it.limit.value, it.high.value)


def build_many(design: Design, signal_id: str, *, seed: int) -> ManyBuilds:
    """Build a channel of a lamp, or the divider of a line, ten thousand times.

    Raises:
        OutOfRange: there is no such line, or nothing on it is drawn at random.
    """
    channel = next((it for lamp in design.lamps.values() for it in lamp.channels if it.signal_id == signal_id), None)
    if channel is not None and channel.branch is not None and can_be_built(channel):
        return many_builds(channel.branch, resistance_ohm=channel.resistor.known, limit_a=channel.limit.known, seed=seed)
    way = design.crossings.get(signal_id) or design.leads.get(signal_id)
    if way is not None and way.divider is not None and way.sent_spread is not None and can_be_built(way):
        return many_levels(way.sent_spread, way.divider, limit_v=way.limit.known, high_v=way.high.high, seed=seed)
    raise OutOfRange(field="signal", given=signal_id, allowed="a lamp's channel with a current, or a line over two resistors")
