"""Pins for every line of the plan: settled ones first, then the first pin that can, marked proposed."""

from oddlamp.core.design import CrossingDesign, LampDesign, NodeDesign, PinDesign
from oddlamp.core.electrical.crossings import key_line
from oddlamp.core.parts.models import LogicPart, Pin
from oddlamp.core.plan.lights import SIGNALS_BY_KIND
from oddlamp.core.plan.model import Plan, Signal

ABILITY_NAMES = {
    "digital-out": "an output",
    "digital-in": "an input",
    "pwm": "PWM",
    "analog-in": "an analogue input",
    "uart-rx": "a serial port",
    "uart-tx": "a serial port",
}


def assign_pins(
    plan: Plan, nodes: dict[str, NodeDesign], lamps: dict[str, LampDesign], crossings: dict[str, CrossingDesign]
) -> dict[str, PinDesign]:
    """Give every line that ends at a pin its pin.

    Takes the requests that the fewest pins can serve first, and of the pins that can, the calmest:
    not on the upload or the status LED, not read or moving at start-up, with the fewest other abilities.
    """
    requests = _requests(plan, nodes, lamps, crossings)
    pins: dict[str, PinDesign] = {}
    for host_id in dict.fromkeys(host for _, host, _ in requests):
        part = nodes[host_id].part
        mine = [(signal_id, needs) for signal_id, host, needs in requests if host == host_id]
        taken = {label for signal_id, _ in mine if (label := (plan.signals.get(signal_id) or Signal()).pin)}
        for signal_id, needs in sorted(mine, key=lambda it: len(_able(part, it[1]))):
            signal = plan.signals.get(signal_id) or Signal()
            if signal.pin is not None:
                pins[signal_id] = PinDesign(signal_id, host_id, needs, signal.pin, "own", "", signal)
                continue
            free = [pin for pin in _able(part, needs) if pin.label not in taken]
            best = min(free, key=_unease) if free else None
            if best is not None:
                taken.add(best.label)
            why = "the first calm pin that can" if best else _why_none(part, needs)
            pins[signal_id] = PinDesign(signal_id, host_id, needs, best.label if best else None, "proposed", why, signal)
    return {signal_id: pins[signal_id] for signal_id, _, _ in requests}


def first_free_pin(part: LogicPart, needs: frozenset[str], taken: set[str]) -> Pin | None:
    """Return the calmest pin that can and is not taken, or None."""
    return min((pin for pin in _able(part, needs) if pin.label not in taken), key=_unease, default=None)


def needs_in_words(needs: frozenset[str]) -> str:
    """Name what a line needs of its pin."""
    return " and ".join(ABILITY_NAMES[need] for need in sorted(needs - {"digital-out"} if "pwm" in needs else needs))


def _able(part: LogicPart | None, needs: frozenset[str]) -> list[Pin]:
    return [pin for pin in part.pins if needs <= set(pin.can)] if part else []


def _unease(pin: Pin) -> tuple[bool, bool, bool, int]:
    return pin.busy_with is not None, pin.strap is not None, not pin.is_quiet_at_start, len(pin.can)


def _why_none(part: LogicPart | None, needs: frozenset[str]) -> str:
    able = _able(part, needs)
    if not able:
        return f"no pin here can be {needs_in_words(needs)}"
    return (
        f"all {len(able)} pins that can be {needs_in_words(needs)} are taken"
        if len(able) > 1
        else f"the one pin that can be {needs_in_words(needs)} is taken"
    )


def _requests(
    plan: Plan, nodes: dict[str, NodeDesign], lamps: dict[str, LampDesign], crossings: dict[str, CrossingDesign]
) -> list[tuple[str, str, frozenset[str]]]:
    """List (line, host, what it needs of a pin) for every line that takes one."""
    out: list[tuple[str, str, frozenset[str]]] = []
    for crossing in crossings.values():
        ends = [(crossing.sender, "digital-out"), (crossing.receiver, "digital-in")]
        boards = [(node, need) for node, need in ends if node.node.kind == "board"]
        # A wire between two boards has a pin at each end, and one place in the plan: not assigned yet.
        if len(boards) == 1 and not crossing.is_omitted:
            out.append((crossing.id, boards[0][0].id, frozenset({boards[0][1]})))
    dimmed = _dimmed(plan)
    for lamp in lamps.values():
        need = frozenset({"digital-out", "pwm"} if lamp.id in dimmed else {"digital-out"})
        out += [(f"{lamp.id}.{lead}", lamp.host, need) for lead in SIGNALS_BY_KIND[lamp.kind]]
    for name in plan.nodes:
        key = key_line(plan, name)
        if key is not None:
            out.append((f"{name}.key", key[1], frozenset({"digital-out"})))
    for name, it in plan.inputs.items():
        out.append((f"{name}.in", it.host, frozenset({"analog-in" if it.kind == "knob" else "digital-in"})))
    return [request for request in out if nodes[request[1]].part is not None]


def _dimmed(plan: Plan) -> set[str]:
    """Return the lamps some rule sets between dark and full, which takes PWM."""
    dimmed: set[str] = set()
    for rule in plan.rules.values():
        for action in rule.do:
            values = action.values
            shades = () if values is None else (values.level, values.red, values.green, values.blue)
            if action.verb in ("level", "colour") and any(shade not in (None, 0, 1) for shade in shades):
                group = plan.groups.get(action.target or "")
                dimmed |= set(group.members) if group else {action.target or ""}
    return dimmed & {name for name, lamp in plan.lamps.items() if lamp.kind in ("led", "rgb", "buzzer")}
