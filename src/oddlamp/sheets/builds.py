"""Which lines of a design can be built many times over, and what comes of it."""

from oddlamp.core.base import Model
from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import ChannelDesign
from oddlamp.core.design.lines import LevelDesign
from oddlamp.core.electrical.chance import ManyBuilds, many_builds, many_levels
from oddlamp.core.errors import OutOfRange
from oddlamp.sheets.charts import Axis, Band, ChartPicture, Mark, Tick


class BuildsShown(Model):
    """Many builds as they are shown."""

    sentence: str
    picture: ChartPicture


def can_be_built(it: ChannelDesign | LevelDesign) -> bool:
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
    way = design.level(signal_id)
    if way is not None and way.divider is not None and way.sent_spread is not None and can_be_built(way):
        return many_levels(way.sent_spread, way.divider, limit_v=way.limit.known, high_v=way.high.high, seed=seed)
    raise OutOfRange(field="signal", given=signal_id, allowed="a lamp's channel with a current, or a line over two resistors")


def heap(built: ManyBuilds) -> BuildsShown:
    """Draw the builds heaped up along an axis; an end they should not go past stands as a dashed line where it is near."""
    span = built.most - built.least or abs(built.most) or 1.0
    near = [it for it in built.bounds if built.least - 2 * span < it.at < built.most + 2 * span]
    tallest = max(1, *(it.count for it in built.bins))
    least, most = min([built.least, *(it.at for it in near)]), max([built.most, *(it.at for it in near)])
    room = 0.06 * (most - least or 1.0)

    def is_past(at: float) -> bool:
        return any(at > it.at if it.is_most else at < it.at for it in built.bounds)

    ends = [(built.least, built.least_text), (built.most, built.most_text)]
    clear = [Tick(at=at, text=text) for at, text in ends if all(abs(it.at - at) > 0.18 * (most - least) for it in near)]
    picture = ChartPicture(
        text=built.sentence,
        size="half",
        x=Axis(least=least - room, most=most + room, ticks=(*clear, *(Tick(at=it.at, text=it.text) for it in near))),
        y=Axis(most=1.05 * tallest),
        bands=tuple(
            Band(
                tone="cut" if is_past((it.least + it.most) / 2) else "ink",
                from_x=it.least,
                to_x=it.most,
                from_y=0.0,
                to_y=it.count,
            )
            for it in built.bins
        ),
        marks=tuple(Mark(at=it.at, tone="cut", weight=1.4, is_dashed=True) for it in near),
    )
    return BuildsShown(sentence=built.sentence, picture=picture)
