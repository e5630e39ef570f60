"""What sets a module up, for its sheet: one sentence, and the steps to walk."""

from collections.abc import Iterator, Mapping
from typing import Final, Literal

from pydantic import Field

from oddlamp.core.base import Model, si
from oddlamp.core.behaviour.compile import program_of
from oddlamp.core.design.design import Design
from oddlamp.core.design.supplies import NodeDesign
from oddlamp.core.english import inner, plural
from oddlamp.core.errors import OutOfRange
from oddlamp.core.firmware.radio import wants_clock
from oddlamp.core.modules.driving import Hung, driving
from oddlamp.core.modules.goals import (
    air_of,
    dialect_of,
    join_button_of,
    name_for,
    network_of,
    partner_of,
    port_of,
    setup_of_node,
    wanted_of_module,
)
from oddlamp.core.modules.own_radio import NETWORK_NAME_MOST, OwnRadio, own_radio_script, own_secrets
from oddlamp.core.modules.pass_through import Between, pass_through_program
from oddlamp.core.modules.script import (
    UNKNOWN,
    Goal,
    Route,
    Step,
    as_text,
    filled,
    is_bound_by_address,
    is_on_a_wire,
    script,
    shown,
)
from oddlamp.core.modules.wifi import secrets_of, wifi_script
from oddlamp.core.parts.dialect import Dialect
from oddlamp.core.parts.models import BoardPart, ModulePart
from oddlamp.core.pins.board import hears_in_software
from oddlamp.core.plan.document import Document, at_path, join_patches

ROUTES: Mapping[Route, str] = {"adapter": "the adapter", "board": "the board", "pass-through": "a program on the board"}


class SetupWay(Model):
    """What is sent, and what is answered."""

    sent: str
    answer: str


class SetupStep(Model):
    """One step: what to do, what is sent where something is, and what to think if the answer differs."""

    text: str
    ways: tuple[SetupWay, ...]
    advice: str


class BlinkShown(Model):
    """How the module's LED goes in one state, to be drawn moving: lit and dark by turns, s; one alone is steady, none is dark."""

    means: str
    text: str
    turns_s: tuple[float, ...]


class SetupShown(Model):
    """A module's set-up: what it will be, step by step, or why not. ``keep`` settles the name and PIN that are proposed."""

    sentence: str
    steps: tuple[SetupStep, ...] = ()
    text: str = Field(default="", description="All of it as lines, to copy or to print")
    program: str = Field(default="", description="What makes the board the adapter, where the route is through one; to copy")
    blinks: tuple[BlinkShown, ...] = Field(default=(), description="What its LED shows in each state, as far as it shows any")
    proposed: str = ""
    keep: Document | None = None
    asks: tuple[Literal["network", "password"], ...] = Field(
        default=(), description="What only the maker knows, asked for when the steps are copied and kept nowhere"
    )
    refused: str = Field(default="", description="Why what the maker typed of that cannot be; empty where it can")
    other: "SetupShown | None" = Field(default=None, description="That of the module it is bound to")
    other_label: str = ""


def setup_of(design: Design, node_id: str, *, over: str | None = None, network: str = "", password: str = "") -> SetupShown:
    """Lay out the set-up of a module of a plan; what cannot be is told in the sentence. A bound pair shows both.

    Args:
        design: the plan, worked out.
        node_id: the module, or a board whose own radio is used.
        over: the radio link that is meant, where a board's own radio has several; its first where none is given.
        network: the house's network, where one is joined, put into the steps and kept nowhere.
        password: of that, or of the module's own network, likewise.
    Raises:
        OutOfRange: no such module, and no such board.
    """
    node = design.nodes.get(node_id)
    if node is None or not is_set_up(design, node):
        allowed = "one of " + ", ".join(name for name, it in design.nodes.items() if is_set_up(design, it))
        raise OutOfRange(field="node", given=node_id, allowed=allowed)
    if node.node.kind == "board":
        mine_too = [name for name in design.airs if node_id in (design.plan.links[name].a, design.plan.links[name].b)]
        return _own_radio(design, node, over if over in mine_too else mine_too[0], network, password)
    secrets, refused = dict[bytes, bytes](), ""
    try:
        secrets = secrets_of(network, password)
    except OutOfRange as error:
        refused = f"The {error.field} wants {error.allowed}."
    mine, partner = _one(design, node, secrets), partner_of(design, node_id)
    mine = mine.model_copy(update={"refused": refused})
    if partner is None:
        return mine
    return mine.model_copy(update={"other": _one(design, partner), "other_label": partner.label})


def is_set_up(design: Design, node: NodeDesign) -> bool:
    """Tell whether there are steps for a node: a module, or a board whose own radio carries words."""
    return node.node.kind == "module" or (node.node.kind == "board" and air_of(design, node.id) is not None)


def _own_radio(design: Design, node: NodeDesign, air: str, network: str, password: str) -> SetupShown:
    """Lay out what a board with a radio on it wants before a phone reaches it."""
    part = node.part
    link, transport = design.plan.links[air], design.airs[air].transport
    is_wifi = design.airs[air].radio == "wifi"
    own = link.name if link.kind == "air" else None
    name = own or name_for(design, "", NETWORK_NAME_MOST)
    talks = [it for it in design.talks.values() if it.b == node.id and it.vocabulary.words]
    talk = next((it for it in talks if any(hop.link_id == air for hop in it.hops)), None)
    first = talk.vocabulary.words[0].label if talk is not None else ""
    has_time = network_of(link) == "station" and wants_clock(program_of(design, node.id))
    goal = OwnRadio(name, transport.id, network_of(link), port_of(link), first, has_time, join_button_of(design, air))
    secrets, refused = dict[bytes, bytes](), ""
    try:
        secrets = own_secrets(network, password)
    except OutOfRange as error:
        refused = f"The {error.field} wants {error.allowed}."
    dialect = design.catalog.own_radio(part) if isinstance(part, BoardPart) and is_wifi else None
    steps = tuple(filled(step, secrets) for step in own_radio_script(goal, dialect))
    where = _secret(Goal("", "", 0, network=goal.network)) if is_wifi else "by BLE"
    sentence = (
        f"{plural(len(steps), 'step')} let a phone find the {inner(node.label)} as {name}, {where}, by {inner(transport.label)}."
    )
    return SetupShown(
        sentence=sentence,
        steps=tuple(_step(step) for step in steps),
        text=_as_lines(sentence, steps),
        blinks=tuple(_blinks(dialect)) if dialect is not None and goal.button else (),
        proposed="" if own else "Name proposed from the project's title",
        keep=None if own else at_path(("links", air, "name"), name),
        asks=() if not is_wifi else ("network", "password") if goal.network == "station" else ("password",),
        refused=refused,
    )


def _as_lines(sentence: str, steps: tuple[Step, ...]) -> str:
    return "\n".join([sentence, *(f"{at}. {as_text(step)}" for at, step in enumerate(steps, 1))])


def _one(design: Design, node: NodeDesign, secrets: Mapping[bytes, bytes] | None = None) -> SetupShown:
    setup, part = setup_of_node(node), node.part
    dialect = dialect_of(design, node)
    if dialect is None or not isinstance(part, ModulePart):
        return SetupShown(sentence="How this family is set up is not worked out yet.")
    goal, missing = wanted_of_module(design, node, part)
    if goal.role == "master" and goal.partner is None:
        return SetupShown(sentence="A master calls another module, and there is none at the other end: let it be a slave.")
    route: Route = setup.route or "adapter"
    if route == "board" and not _has_usb_chip(design, node.id):
        return SetupShown(sentence="Its board has no USB chip of its own that could speak to the module: take an adapter.")
    between = _between(design, node.id) if route == "pass-through" else None
    if route == "pass-through" and (between is None or goal.network is not None):
        why = (
            "it arrives at 115200 Bd, too fast for that"
            if goal.network is not None
            else "it hangs on the pins of the USB plug, or on no board"
        )
        return SetupShown(sentence=f"No program of the board can pass on what it says: {why}. Take an adapter.")
    try:
        steps = wifi_script(goal, dialect, route) if goal.network is not None else script(goal, dialect, route)
        steps = tuple(filled(step, secrets or {}) for step in steps)
    except OutOfRange as error:
        return SetupShown(sentence=f"It cannot be set up like this: its {error.field} is {error.given}; give {error.allowed}.")
    hung = [Hung(pin.name, pin.label) for pin in design.pins if pin.host == node.id and pin.label is not None]
    tries = driving(part, hung)
    if not steps and not tries:
        return SetupShown(sentence="Nothing is set in this family on a wire: link to it, and write to its control.")
    bond = ""
    if goal.partner is not None:
        calls = ", which calls the first of its kind that it finds"
        bond = f", bound to {_whom(design, node, goal)}" if is_bound_by_address(dialect) else calls
    steps = (*steps, *tries)
    if not is_on_a_wire(dialect):
        sentence = f"Nothing is set on a wire: {plural(len(tries), 'step')} from the phone try all that hangs on the {inner(node.label)}."
    else:
        sentence = f"{plural(len(steps), 'step')} through {ROUTES[route]} make the {inner(node.label)} {goal.name}, {si(goal.speed_bd, 'Bd')}, {_secret(goal)}{bond}."
    told, patch = _proposed(goal, missing if is_on_a_wire(dialect) else (), node.id)
    return SetupShown(
        sentence=sentence,
        steps=tuple(_step(step) for step in steps),
        text=_as_lines(sentence, steps),
        program=pass_through_program(between, _first_speed(steps), design.catalog.packages) if between is not None else "",
        blinks=tuple(_blinks(dialect)),
        proposed=told,
        keep=patch,
        asks=() if goal.network is None else ("network", "password") if goal.network == "station" else ("password",),
    )


STATES: Final = {"setup": "In set-up mode", "waiting": "Nobody is linked", "linked": "Somebody is linked"}


def _blinks(dialect: Dialect) -> Iterator[BlinkShown]:
    """Say what the LED does in each state; where all of them look alike there is nothing to read off it."""
    shown_in = [state for state in STATES if state != "setup" or dialect.enters == "key"]
    if len({dialect.blinks[state].turns_s for state in shown_in}) < 2:  # type: ignore[index]
        return
    for it in dialect.joins:
        means = f"Its button was held for {si(it.held_s, 's')} or longer"
        yield BlinkShown(means=means, text=it.blink.text, turns_s=it.blink.turns_s)
    for state in shown_in:
        blink = dialect.blinks[state]  # type: ignore[index]
        yield BlinkShown(means=STATES[state], text=blink.text, turns_s=blink.turns_s)


def _secret(goal: Goal) -> str:
    if goal.network is None:
        return f"PIN {goal.pin}"
    return "with a network of its own" if goal.network == "access-point" else "a guest in the house's network"


def _whom(design: Design, node: NodeDesign, goal: Goal) -> str:
    partner = partner_of(design, node.id)
    label = inner(partner.label) if partner is not None else "other"
    return (
        f"the {label}, whose address its own steps ask for: set that one up first" if goal.partner == UNKNOWN else f"the {label}"
    )


def _first_speed(steps: tuple[Step, ...]) -> int:
    """Return the speed that the script begins with."""
    return next((step.speeds_bd[0] for step in steps if step.speeds_bd), 9600)


def _between(design: Design, node_id: str) -> Between | None:
    """Return the pins of its board that a module hangs on, None where they are the USB plug's own or there are none."""
    pins = {
        pin.needs & {"digital-in", "digital-out"}: pin
        for pin in design.pins
        if pin.line.kind == "wire" and node_id in (pin.line.sender, pin.line.receiver) and pin.label is not None
    }
    heard, said = pins.get(frozenset({"digital-in"})), pins.get(frozenset({"digital-out"}))
    part = design.nodes[heard.host].part if heard is not None else None
    if heard is None or said is None or part is None:
        return None
    at = [part.pin(it.label or "") for it in (heard, said)]
    if any(it is None or it.busy_with in ("upload", "usb") for it in at):
        return None
    ports = {it.port for it in at if it is not None}
    port = ports.pop() if len(ports) == 1 else None
    if not hears_in_software(part):  # packages of other chips name their ports each in its own way
        return None
    numbers = [
        str(it.chip)
        if it is not None and it.chip is not None and not it.label.isdigit() and not it.label.startswith("A")
        else it.label
        for it in at
        if it is not None
    ]
    return Between(port, *numbers)


def _step(step: Step) -> SetupStep:
    ways = tuple(
        SetupWay(sent=shown(way.sent), answer=f"{'… ' if way.ends else ''}{shown(way.answer)}{'…' if way.begins else ''}")
        for way in step.ways
    )
    return SetupStep(text=step.text, ways=ways, advice=step.advice)


def _proposed(goal: Goal, missing: tuple[str, ...], node_id: str) -> tuple[str, Document | None]:
    if not missing:
        return "", None
    values = {"name": goal.name, "pin_code": goal.pin}
    patch = join_patches(at_path(("nodes", node_id, "setup", field), values[field]) for field in missing)
    told = " and ".join("PIN" if field == "pin_code" else field for field in missing)
    why = "; the PIN is none that modules leave the factory with" if "pin_code" in missing else ""
    return f"{told[:1].upper()}{told[1:]} proposed from the project's title{why}", patch


def _has_usb_chip(design: Design, node_id: str) -> bool:
    """Tell whether the board a module hangs on has a USB chip beside its own, on pins that can be reached."""
    links = [it for it in design.plan.links.values() if it.kind == "wire" and node_id in (it.a, it.b)]
    boards = [design.nodes[it.b if it.a == node_id else it.a].part for it in links]
    return any(
        isinstance(it, BoardPart) and any(pin.busy_with == "upload" and pin.port is not None for pin in it.pins) for it in boards
    )
