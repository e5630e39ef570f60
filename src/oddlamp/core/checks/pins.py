"""Rules for pins: can it, is it free, and does it let the board start."""

from collections.abc import Collection, Iterator

from oddlamp.core.base import Working, inner, si
from oddlamp.core.design import Design, PinDesign
from oddlamp.core.electrical.level import Level, pulled_level
from oddlamp.core.findings import Breach, Move, Severity
from oddlamp.core.parts.models import Pin
from oddlamp.core.pins.assign import first_free_pin, needs_in_words
from oddlamp.core.plan.document import at_path
from oddlamp.core.plan.model import Plan


def line_name(design: Design, signal_id: str) -> str:
    """Name a line as people would: ``Moon, red``, ``Cue``, or ``Board to module``."""
    if signal_id in design.crossings:
        crossing = design.crossings[signal_id]
        return f"{crossing.sender.label} to {inner(crossing.receiver.label)}"
    owner, _, lead = signal_id.partition(".")
    if owner in design.lamps:
        return design.lamps[owner].label + ("" if lead == "main" else f", {lead}")
    if owner in design.nodes:
        return f"Key of {inner(design.nodes[owner].label)}"
    an_input = design.plan.inputs[owner]
    return an_input.label or owner.replace("_", " ").capitalize()


def _part_pin(design: Design, pin: PinDesign) -> Pin | None:
    part = design.nodes[pin.host].part
    return part.pin(pin.label) if part and pin.label else None


def _move_away(design: Design, pin: PinDesign) -> tuple[Move, ...]:
    """Offer the calmest free pin, or to leave the choice open again."""
    part = design.nodes[pin.host].part
    taken = {other.label for other in design.pins.values() if other.host == pin.host and other.label}
    free = first_free_pin(part, pin.needs, taken) if part else None
    if free is None:
        return ()
    return (
        Move(
            label=f"Move {line_name(design, pin.signal_id)} to {free.label}",
            patch=at_path(("signals", pin.signal_id, "pin"), free.label),
        ),
    )


def pin_can(design: Design) -> Iterator[Breach]:
    """A pin can do what its line needs, and is on the board at all."""
    for pin in design.pins.values():
        it = _part_pin(design, pin)
        if pin.label is None or (it is not None and pin.needs <= set(it.can)):
            continue
        needs = needs_in_words(pin.needs)
        what = f"There is no pin {pin.label} on this board." if it is None else f"Pin {pin.label} cannot be {needs}."
        can = "none" if it is None else ", ".join(it.can)
        yield Breach(
            severity="stop",
            where=pin.signal_id,
            stage=pin.stage,
            message=f"{line_name(design, pin.signal_id)} needs {needs}. {what}",
            working=(
                Working(
                    formula="needed ⊆ able",
                    substituted=f"needs {', '.join(sorted(pin.needs))}; able {can}",
                    source=it.source if it else "from-memory",
                ),
            ),
            fixes=_move_away(design, pin),
            numbers={"missing": 1},
        )


def pin_used_once(design: Design) -> Iterator[Breach]:
    """A pin carries one line."""
    seen: dict[tuple[str, str], str] = {}
    for pin in design.pins.values():
        if pin.label is None:
            continue
        first = seen.setdefault((pin.host, pin.label), pin.signal_id)
        if first != pin.signal_id:
            yield Breach(
                severity="stop",
                where=pin.signal_id,
                stage=pin.stage,
                message=f"Pin {pin.label} is given twice: to {line_name(design, first)} and to {line_name(design, pin.signal_id)}.",
                working=(Working(formula="one line a pin", substituted=f"{first}, {pin.signal_id}", source="common-practice"),),
                fixes=_move_away(design, pin),
                numbers={"lines": 2},
            )


def every_line_has_a_pin(design: Design) -> Iterator[Breach]:
    """Every line that needs a pin has one."""
    for pin in design.pins.values():
        if pin.label is None:
            yield Breach(
                severity="stop",
                where=pin.signal_id,
                stage=pin.stage,
                message=f"{line_name(design, pin.signal_id)} has no pin: {pin.why}.",
                working=(Working(formula="the first pin that can and is free", substituted=pin.why, source="from-memory"),),
                fixes=tuple(_lamp_away(design, pin)),
                numbers={"missing": 1},
            )


def _lamp_away(design: Design, pin: PinDesign) -> Iterator[Move]:
    owner = pin.signal_id.partition(".")[0]
    for board_id, board in design.catalog.boards.items():
        part = design.nodes[pin.host].part
        if (
            design.nodes[pin.host].node.kind == "board"
            and part
            and board_id != part.id
            and len([p for p in board.pins if pin.needs <= set(p.can)]) > len([p for p in part.pins if pin.needs <= set(p.can)])
        ):
            yield Move(label=f"Take the {board.label}", patch=at_path(("nodes", pin.host, "choice"), {"part": board_id}))
    if owner in design.lamps:
        yield Move(label=f"Take {design.lamps[owner].label} out", patch=without_lamp(design, owner))


def upload_pins_are_free(design: Design) -> Iterator[Breach]:
    """Nothing hangs on the pins the upload uses."""
    for pin in design.pins.values():
        it = _part_pin(design, pin)
        if it is not None and it.busy_with == "upload":
            yield Breach(
                severity="look",
                where=pin.signal_id,
                stage=pin.stage,
                message=f"Pin {pin.label} belongs to the USB upload: unplug {line_name(design, pin.signal_id)} each time you upload.",
                working=(Working(formula="upload pins stay free", substituted=f"pin {pin.label}", source=it.source),),
                fixes=_move_away(design, pin),
                numbers={"pins": 1},
            )


def strap_lets_it_start(design: Design) -> Iterator[Breach]:
    """A pin read at start-up has the level the chip must find there."""
    for pin in design.pins.values():
        it, host = _part_pin(design, pin), design.nodes[pin.host]
        if it is None or it.strap is None or host.part is None or host.logic is None or host.logic.value is None:
            continue
        level = _rest_level(design, pin, it, host.logic.value)
        if level is None:
            continue
        volts, supply_v = level.voltage_v.value, host.logic.value
        low_v, high_v = host.part.input_low_ratio.value * supply_v, host.part.input_high_ratio.value * supply_v
        if volts <= low_v if it.strap == "low" else volts >= high_v:
            continue
        reads = (
            "reads as low" if volts <= low_v else "reads as high" if volts >= high_v else "is neither a sure low nor a sure high"
        )
        severity: Severity = "stop"
        limits = Working(
            formula="low ≤ V_IL, high ≥ V_IH",
            substituted=f"V_IL {si(low_v, 'V')}, V_IH {si(high_v, 'V')}",
            source=host.part.input_low_ratio.source,
        )
        yield Breach(
            severity=severity,
            where=pin.signal_id,
            stage=pin.stage,
            message=f"Pin {pin.label} must be {it.strap} at start-up. {line_name(design, pin.signal_id)} holds it at {si(volts, 'V')}, which {reads}: the board may not start.",
            working=(*level.working, limits),
            fixes=_move_away(design, pin),
            numbers={"off_by_v": volts - low_v if it.strap == "low" else high_v - volts},
        )


def _rest_level(design: Design, pin: PinDesign, it: Pin, supply_v: float) -> Level | None:
    """Return where the pin rests between the user's pull and the board's own, or None where nothing pulls."""
    signal = pin.signal
    if signal.pull_ohm is None or signal.pull_to is None:
        return None
    if signal.pull_to == "ground":
        if it.board_pull != "up" or it.board_pull_ohm is None:
            return pulled_level(up_to_v=0.0, up_ohm=1.0, down_ohm=signal.pull_ohm)
        return pulled_level(up_to_v=supply_v, up_ohm=it.board_pull_ohm, down_ohm=signal.pull_ohm)
    rail_v = design.rails[signal.pull_to].voltage.value
    if rail_v is None:
        return None
    if it.board_pull != "down" or it.board_pull_ohm is None:
        # Only a pull-up, so the pin rests at the rail: the lower resistor of this divider is open.
        return pulled_level(up_to_v=rail_v, up_ohm=signal.pull_ohm, down_ohm=1e12)
    return pulled_level(up_to_v=rail_v, up_ohm=signal.pull_ohm, down_ohm=it.board_pull_ohm)


def without_lamp(design: Design, lamp_id: str) -> dict[str, object]:
    """Build the merge patch that takes a lamp out, with everything that speaks of it."""
    return without_lamps(design.plan, {lamp_id})


def without_lamps(plan: Plan, gone: Collection[str]) -> dict[str, object]:
    """Build the merge patch that takes lamps out of a plan, with everything that speaks of them."""
    patch: dict[str, object] = {"lamps": dict.fromkeys(gone)}
    signals = {name: None for name in plan.signals if name.partition(".")[0] in gone}
    rules: dict[str, object] = {}
    for name, rule in plan.rules.items():
        if any(action.target in gone for action in rule.do):
            kept = [action.model_dump(mode="json", exclude_unset=True) for action in rule.do if action.target not in gone]
            rules[name] = {"do": kept} if kept else None
    groups = {
        name: {"members": [member for member in group.members if member not in gone]}
        for name, group in plan.groups.items()
        if not set(gone).isdisjoint(group.members)
    }
    cues = {
        name: {"steps": [step.model_dump(mode="json", exclude_unset=True) for step in cue.steps if step.target not in gone]}
        for name, cue in plan.cues.items()
        if any(step.target in gone for step in cue.steps)
    }
    standing = {name: None for name in plan.standing if name in gone}
    for field, part in (("signals", signals), ("rules", rules), ("groups", groups), ("cues", cues), ("standing", standing)):
        if part:
            patch[field] = part
    order = plan.order.get("lamps", ())
    if not set(gone).isdisjoint(order):
        patch["order"] = {"lamps": [name for name in order if name not in gone]}
    return patch


def without_input(design: Design, name: str) -> dict[str, object]:
    """Build the merge patch that takes an input out, with the rules it sets off."""
    plan = design.plan
    patch: dict[str, object] = {"inputs": {name: None}}
    signals = {it: None for it in plan.signals if it.partition(".")[0] == name}
    rules = {it: None for it, rule in plan.rules.items() if rule.when.input == name}
    for field, part in (("signals", signals), ("rules", rules)):
        if part:
            patch[field] = part
    if name in plan.order.get("inputs", ()):
        patch["order"] = {"inputs": [it for it in plan.order["inputs"] if it != name]}
    return patch
