"""Pins for every line of the plan: settled ones first, then the first pin that can, marked proposed."""

from collections.abc import Mapping
from typing import Final, Literal, NamedTuple

from oddlamp.core.design.lines import PinDesign
from oddlamp.core.design.supplies import NodeDesign
from oddlamp.core.design.talks import AirDesign
from oddlamp.core.parts.models import LogicPart, Pin
from oddlamp.core.plan.model import Plan, Signal
from oddlamp.core.plan.signals import Line, Needs

ABILITY_NAMES = {
    "digital-out": "an output",
    "digital-in": "an input",
    "pwm": "PWM",
    "analog-in": "an analogue input",
    "uart-rx": "a serial port",
    "uart-tx": "a serial port",
}
# What few pins can do and lines ask for; every other ability costs a pin nothing.
SOUGHT: Final = frozenset({"digital-out", "digital-in", "pwm", "analog-in", "uart-rx", "uart-tx", "interrupt"})


class _Request(NamedTuple):
    """One end of a line that takes a pin."""

    line: Line
    field: Literal["pin", "far_pin"]
    host: str
    needs: Needs
    wishes: Needs
    signal: Signal

    @property
    def settled(self) -> str | None:
        """The pin the plan names."""
        return self.signal.pin if self.field == "pin" else self.signal.far_pin


def deaf_converters(plan: Plan, nodes: Mapping[str, NodeDesign], airs: Mapping[str, AirDesign]) -> dict[str, tuple[str, ...]]:
    """Return by host the converters that read nothing, because the Wi-Fi of their board runs."""
    ends = {end for name, air in airs.items() if air.radio == "wifi" for end in (plan.links[name].a, plan.links[name].b)}
    return {name: part.deaf_on_wifi for name in ends if (part := nodes[name].part) is not None and part.deaf_on_wifi}


def assign_pins(
    plan: Plan, nodes: Mapping[str, NodeDesign], lines: Mapping[str, Line], deaf: Mapping[str, tuple[str, ...]]
) -> tuple[PinDesign, ...]:
    """Give every end of a line that takes a pin its pin, in the order of the lines.

    Takes the requests that the fewest pins can serve first, and of the pins that can, the calmest: not read at
    start-up, not on the upload or the status LED, not moving at start-up, with the fewest other abilities. What a line
    only wishes for is looked for first, and done without where no pin is left that can.
    """
    requests = _requests(plan, nodes, lines)
    pins: dict[tuple[str, str], PinDesign] = {}
    for host in dict.fromkeys(request.host for request in requests):
        part = nodes[host].part
        mine = [request for request in requests if request.host == host]
        taken = {label for request in mine if (label := request.settled)}
        # Lines that need the same are many, and what can serve them is the same pins in the same order.
        kinds = {needs for it in mine for needs in (it.needs, it.needs | it.wishes)}
        able = {needs: _able(part, needs, deaf.get(host, ())) for needs in kinds}
        for request in sorted(mine, key=lambda it: len(able[it.needs | it.wishes] or able[it.needs])):
            pins[request.line.id, request.field] = _assign(able, request, taken)
    return tuple(pins[request.line.id, request.field] for request in requests)


def _assign(able: Mapping[Needs, list[Pin]], request: _Request, taken: set[str]) -> PinDesign:
    line, field, host, needs, wishes, signal = request
    if request.settled is not None:
        return PinDesign(line, field, host, needs, request.settled, "own", "", signal)
    best = next((pin for pin in (*able[needs | wishes], *able[needs]) if pin.label not in taken), None)
    if best is not None:
        taken.add(best.label)
    why = "the first calm pin that can" if best else _why_none(len(able[needs]), needs)
    return PinDesign(line, field, host, needs, best.label if best else None, "proposed", why, signal)


def first_free_pin(part: LogicPart, needs: Needs, taken: set[str], deaf: tuple[str, ...] = ()) -> Pin | None:
    """Return the calmest pin that can, is not taken, and is not read by a converter that is deaf, or None."""
    return next((pin for pin in _able(part, needs, deaf) if pin.label not in taken), None)


def is_deaf(pin: Pin, needs: Needs, deaf: tuple[str, ...]) -> bool:
    """Tell whether a line wants volts read at a pin whose converter reads nothing."""
    return "analog-in" in needs and pin.converter is not None and pin.converter in deaf


def needs_in_words(needs: Needs) -> str:
    """Name what a line needs of its pin."""
    return " and ".join(ABILITY_NAMES[need] for need in sorted(needs - {"digital-out"} if "pwm" in needs else needs))


def what_lacks(pin: Pin, needs: Needs) -> str:
    """Name, by the code of its finding, what a pin lacks that a line needs."""
    lacking = needs - pin.abilities
    if lacking <= {"pwm"}:
        return "PIN-PWM"
    if not {"digital-in", "digital-out"} & pin.abilities:
        return "PIN-ANALOG-ONLY"
    return "PIN-INPUT-ONLY" if "digital-out" in lacking else "PIN-CANT"


def _able(part: LogicPart | None, needs: Needs, deaf: tuple[str, ...]) -> list[Pin]:
    """List the pins that can, the calmest first."""
    pins = [pin for pin in part.usable_pins if needs <= pin.abilities and not is_deaf(pin, needs, deaf)] if part else []
    # A pin that is no output has no pull of its own either: a button there would hang in the air.
    return sorted(pins, key=lambda pin: ("digital-in" in needs and "digital-out" not in pin.can, unease(pin)))


def unease(pin: Pin) -> tuple[bool, bool, bool, bool, int]:
    """Put pins in order, the calmest first: those last that something else will want."""
    wanted = len(SOUGHT & pin.abilities)
    return (pin.strap is not None, pin.busy_with == "upload", pin.busy_with is not None, not pin.is_quiet_at_start, wanted)


def _why_none(count: int, needs: Needs) -> str:
    if not count:
        return f"no pin here can be {needs_in_words(needs)}"
    what = (
        f"all {count} pins that can be {needs_in_words(needs)} are"
        if count > 1
        else f"the one pin that can be {needs_in_words(needs)} is"
    )
    return f"{what} taken"


def _requests(plan: Plan, nodes: Mapping[str, NodeDesign], lines: Mapping[str, Line]) -> list[_Request]:
    found: list[_Request] = []
    for line in lines.values():
        signal = plan.signals.get(line.id) or Signal()
        if signal.is_omitted:
            continue
        if line.near is not None and nodes[line.near].part is not None:
            found.append(_Request(line, "pin", line.near, line.near_needs, line.near_wishes, signal))
        if line.far_needs and nodes[line.far[0]].part is not None:
            found.append(_Request(line, "far_pin", line.far[0], line.far_needs, frozenset(), signal))
    return found
