"""What sets a module up, for its sheet: one sentence, and the steps to walk."""

import re
from collections.abc import Mapping

from pydantic import Field

from oddlamp.core.base import Model, si
from oddlamp.core.design.design import Design
from oddlamp.core.english import inner, plural
from oddlamp.core.errors import OutOfRange
from oddlamp.core.modules.dialect import Dialect
from oddlamp.core.modules.script import Goal, Route, Step, as_text, proposed_pin, script, shown
from oddlamp.core.parts.models import BoardPart, ModulePart
from oddlamp.core.plan.document import Document, at_path, join_patches

ROUTES: Mapping[Route, str] = {"adapter": "the adapter", "board": "the board"}


class SetupWay(Model):
    """What is sent, and what is answered."""

    sent: str
    answer: str


class SetupStep(Model):
    """One step: what to do, what is sent where something is, and what to think if the answer differs."""

    text: str
    ways: tuple[SetupWay, ...]
    advice: str


class SetupShown(Model):
    """A module's set-up: what it will be, step by step, or why not. ``keep`` settles the name and PIN that are proposed."""

    sentence: str
    steps: tuple[SetupStep, ...] = ()
    text: str = Field(default="", description="All of it as lines, to copy or to print")
    proposed: str = ""
    keep: Document | None = None


def setup_of(design: Design, dialects: Mapping[str, Dialect], node_id: str) -> SetupShown:
    """Lay out the set-up of a module of a plan; what cannot be is told in the sentence.

    Raises:
        OutOfRange: no such module.
    """
    node = design.nodes.get(node_id)
    if node is None or node.node.kind != "module":
        allowed = "one of " + ", ".join(name for name, it in design.nodes.items() if it.node.kind == "module")
        raise OutOfRange(field="node", given=node_id, allowed=allowed)
    setup, part = node.node.setup, node.part
    like = (
        design.plan.parts[part.id].like
        if part is not None and part.id in design.plan.parts
        else part.id
        if part is not None
        else ""
    )
    dialect = next((it for it in dialects.values() if it.part == like and it.id == like), None)
    if dialect is None or not isinstance(part, ModulePart):
        return SetupShown(sentence="How this family is set up is not worked out yet.")
    wire = next((it for it in design.wires.values() if node_id in (design.plan.links[it.id].a, design.plan.links[it.id].b)), None)
    name = (setup.name if setup else None) or _name(design.plan.title, part.name_most_characters)
    pin = (setup.pin_code if setup else None) or proposed_pin(f"{design.plan.title} {node_id}", part.pin_code_digits[0])
    speed_bd = int(wire.baud.known) if wire is not None and wire.baud.value is not None else int(part.default_speed_bd.value)
    route: Route = (setup.route if setup else None) or "adapter"
    goal = Goal(name, pin, speed_bd, (setup.role if setup else None) or "slave")
    proposed = _proposed(name, pin, node_id, has_name=bool(setup and setup.name), has_pin=bool(setup and setup.pin_code))
    if route == "board" and not _has_usb_chip(design, node_id):
        return SetupShown(sentence="Its board has no USB chip of its own that could speak to the module: take an adapter.")
    if goal.role == "master":
        return SetupShown(sentence="How two modules are bound to each other is not worked out yet.")
    try:
        steps = script(goal, dialect, route)
    except OutOfRange as error:
        return SetupShown(sentence=f"It cannot be set up like this: its {error.field} is {error.given}; give {error.allowed}.")
    sentence = f"{plural(len(steps), 'step')} through {ROUTES[route]} make the {inner(node.label)} {name}, {si(speed_bd, 'Bd')}, PIN {pin}."
    return SetupShown(
        sentence=sentence,
        steps=tuple(_step(step) for step in steps),
        text="\n".join([sentence, *(f"{at}. {as_text(step)}" for at, step in enumerate(steps, 1))]),
        proposed=proposed[0],
        keep=proposed[1],
    )


def _step(step: Step) -> SetupStep:
    ways = tuple(
        SetupWay(sent=shown(way.sent), answer=f"{shown(way.answer)}…" if way.begins else shown(way.answer)) for way in step.ways
    )
    return SetupStep(text=step.text, ways=ways, advice=step.advice)


def _name(title: str, most: int) -> str:
    """Make a name of a project's title: capitals and digits that every module takes."""
    return re.sub(r"[^A-Z0-9]+", "-", title.upper().encode("ascii", "ignore").decode()).strip("-")[:most].strip("-") or "LAMP"


def _proposed(name: str, pin: str, node_id: str, *, has_name: bool, has_pin: bool) -> tuple[str, Document | None]:
    missing = [
        (what, field, value)
        for what, field, value, has in (("name", "name", name, has_name), ("PIN", "pin_code", pin, has_pin))
        if not has
    ]
    if not missing:
        return "", None
    patch = join_patches(at_path(("nodes", node_id, "setup", field), value) for _, field, value in missing)
    told = " and ".join(what for what, _, _ in missing)
    return (
        f"{told[:1].upper()}{told[1:]} proposed from the project's title; the PIN is none that modules leave the factory with",
        patch,
    )


def _has_usb_chip(design: Design, node_id: str) -> bool:
    """Tell whether the board a module hangs on has a USB chip beside its own, on pins that can be reached."""
    links = [it for it in design.plan.links.values() if it.kind == "wire" and node_id in (it.a, it.b)]
    boards = [design.nodes[it.b if it.a == node_id else it.a].part for it in links]
    return any(
        isinstance(it, BoardPart) and any(pin.busy_with == "upload" and pin.port is not None for pin in it.pins) for it in boards
    )
