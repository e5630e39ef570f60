"""What stands in the way of a level: over a limit, not heard, too slow, without a common ground."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from oddlamp.core.base import si
from oddlamp.core.design.lines import LevelDesign
from oddlamp.core.design.passages import Obstacle, Severity
from oddlamp.core.design.supplies import RailDesign
from oddlamp.core.design.values import spread_of
from oddlamp.core.electrical.preferred import FLOAT_SLACK
from oddlamp.core.plan.model import Plan
from oddlamp.core.resolve.carry import CLAMP_V
from oddlamp.core.resolve.schools import SCHOOLS
from oddlamp.core.resolve.supplies import supply_behind

CLAMP_STOP_A: Final = 1e-3
SLOW_LOOK_RATIO: Final = 0.1
SLOW_STOP_RATIO: Final = 0.25
DUST_V: Final = 1e-12
READ_AS_A_LEVEL: Final = ("knob", "sensor")


@dataclass(frozen=True, slots=True)
class Scene:
    """What a line is judged in: the plan, and its rails."""

    plan: Plan
    rails: Mapping[str, RailDesign]


def judge_level(scene: Scene, level: LevelDesign) -> tuple[Obstacle, ...]:
    """Find everything that stands in the way of one line's level, the way it is carried now."""
    found = [_ground(scene, level)]
    if level.received.value is not None:
        found += [
            _over(level),
            _leans(level),
            _unheard(scene, level),
            _low(level),
            _slow(level),
            _carried(level),
            _back_feed(scene, level),
        ]
    return tuple(it for it in found if it is not None)


def _ground(scene: Scene, level: LevelDesign) -> Obstacle | None:
    a, b = level.sender, level.unaided
    if level.is_omitted or not a.end or not b.end or a.end == b.end:
        return None
    return Obstacle("LVL-GROUND", "stop", f"{_end(scene, a.end)} and {_end(scene, b.end)} have no common ground")


def _end(scene: Scene, end: str) -> str:
    it = scene.plan.ends.get(end)
    return (it.label if it else None) or end.replace("_", " ")


def _over(level: LevelDesign) -> Obstacle | None:
    """A pin sees more than it may have; a clamp that is leant on is another verdict's."""
    got, limit = level.received, level.limit
    if limit.value is None or got.high <= limit.value or level.school.id == "clamp":
        return None
    severity: Severity = "stop" if got.known > limit.value else "look"
    follows = level.receiver.inputs is not None and level.receiver.inputs.input_max_v is None
    if severity == "look" and follows and _sag_together(level):
        return None
    return Obstacle("LVL-OVER", severity, f"{si(got.high, 'V')} may harm a pin that stands {si(limit.value, 'V')}")


def _leans(level: LevelDesign) -> Obstacle | None:
    """A receiver's clamp diode is leant on only with little current, and it is said."""
    if level.injected_a is None or level.injected_a <= 0 or level.extra is None:
        return None
    severity: Severity = "stop" if level.injected_a > CLAMP_STOP_A else "look"
    return Obstacle("LVL-DIRECT-RISK", severity, f"its clamp diode takes {si(level.injected_a, 'A')}")


def _unheard(scene: Scene, level: LevelDesign) -> Obstacle | None:
    """A high is heard as high; what is read as a level and not as high or low is not judged."""
    got, high = level.received, level.high
    if high.value is None or (level.line.kind == "input" and scene.plan.inputs[level.line.owner_id].kind in READ_AS_A_LEVEL):
        return None
    nominal_short, worst_short = got.known < high.value - DUST_V, got.low < high.high - DUST_V
    # Only what differs between the two counts at worst; a threshold that is stated does not follow.
    follows = level.receiver.inputs is not None and level.receiver.inputs.input_high_v is None
    if follows and _sag_together(level):
        worst_short = nominal_short
    if not nominal_short and not worst_short:
        return None
    code = "PIX-DATA-LEVEL" if level.is_bits else "LVL-UNDER" if nominal_short else "LVL-MARGIN"
    because = (
        f"{got.text} never counts as high, that begins at {high.text}"
        if nominal_short
        else f"at worst {si(got.low, 'V')} does not count as high, that begins at {si(high.high, 'V')}"
    )
    return Obstacle(code, "stop" if nominal_short else "look", because)


def _low(level: LevelDesign) -> Obstacle | None:
    """A low is heard as low: a diode and pull-ups lift it."""
    rests, low = level.rests, level.low
    if rests.value is None or low.value is None or rests.high <= low.low:
        return None
    severity: Severity = "stop" if rests.value > low.value else "look"
    told = (rests.value, low.value) if severity == "stop" else (rests.high, low.low)
    at_worst = "" if severity == "stop" else "at worst "
    return Obstacle(
        "LVL-LOW", severity, f"{at_worst}its low stands at {si(told[0], 'V')}, and counts only up to {si(told[1], 'V')}"
    )


def _slow(level: LevelDesign) -> Obstacle | None:
    """An edge is over before its bit is, and within what the receiver takes."""
    limit = slowest_s(level)
    if level.rise.value is None or limit is None or level.rise.value <= limit * (1 + FLOAT_SLACK):
        return None
    severity: Severity = "stop"
    if level.edge_most_s is None and level.bit_s is not None and level.rise.value <= SLOW_STOP_RATIO * level.bit_s:
        severity = "look"
    return Obstacle("LVL-SLOW", severity, f"its edge takes {level.rise.text}, {si(limit, 's')} is enough")


def slowest_s(level: LevelDesign) -> float | None:
    """Return the longest edge that is no matter, s; None where nothing is in a hurry."""
    if level.edge_most_s is not None:
        return level.edge_most_s
    return None if level.bit_s is None else SLOW_LOOK_RATIO * level.bit_s


def _carried(level: LevelDesign) -> Obstacle | None:
    """What a level shift hangs on a pin is no more than the pin should carry."""
    part, carried = level.sender.part, level.carried
    if part is None or not carried.value:
        return None
    usual, absolute = part.pin_recommended_a, part.pin_absolute_a
    slack = 1 + FLOAT_SLACK
    is_over = absolute is not None and carried.value > absolute.value * slack
    at_worst = absolute is not None and carried.high > absolute.value * slack
    if not is_over and not at_worst and carried.value <= usual.value * slack:
        return None
    limit = absolute if absolute is not None and (is_over or carried.value <= usual.value * slack) else usual
    because = f"its resistors ask {carried.text} of a pin that gives {si(limit.value, 'A')}"
    return Obstacle("PIN-CURRENT", "stop" if is_over else "look", because)


def _back_feed(scene: Scene, level: LevelDesign) -> Obstacle | None:
    """No high goes into a part that another supply feeds, and that may be off: it would run through its clamp diode."""
    if level.school.id == "gate" or level.sent.value is None:
        return None
    mine, other = (supply_behind(scene.plan, scene.rails, it.rail_id) for it in (level.sender, level.receiver))
    if mine is None or other is None or mine == other or fed_back_a(level) <= CLAMP_STOP_A:
        return None
    return Obstacle("SUP-BACKFEED", "look", f"{si(fed_back_a(level), 'A', digits=2)} may feed it while its supply is off")


def fed_back_a(level: LevelDesign) -> float:
    """Return what flows into a receiver without supply, A."""
    return max(0.0, level.sent.known - CLAMP_V) / in_the_way_ohm(level)


def in_the_way_ohm(level: LevelDesign) -> float:
    """Return what stands in the way of a current from the sender into the receiver's pin, ohm."""
    part = level.sender.part
    fitted = level.upper or level.extra
    own = level.series.known if level.series is not None else 0.0
    return (part.output_resistance_ohm.value if part else 1.0) + (fitted.known if fitted else 0.0) + own


def _sag_together(level: LevelDesign) -> bool:
    """Tell whether a high and the receiver's own supply are one rail's volts: then they rise and sag together."""
    high_of = SCHOOLS[level.school.id].high_of if level.school.id in SCHOOLS else "between"
    a, b = level.sender.logic, level.unaided.logic
    if level.pull is not None and level.pull_v is not None and (a is None or level.pull_v != spread_of(a)):
        return False  # a third rail has its say
    if high_of == "receiver" or a is None or b is None or level.sender.rail_id != level.unaided.rail_id:
        return high_of == "receiver"
    return (a.value, a.min, a.max) == (b.value, b.min, b.max) and high_of == "sender"
