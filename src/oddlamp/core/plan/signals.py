"""Every physical line of a plan, listed once: what it joins, what it needs of a pin, and what it is called.

It needs no catalogue, so that the plan's own references are checked against the same list that pins, levels and
currents are worked out for.
"""

import re
from collections.abc import Iterator
from typing import TYPE_CHECKING, Final, Literal, NamedTuple

from oddlamp.core.english import inner
from oddlamp.core.plan.lights import DIMMED_KINDS, LEADS, LEVEL_KINDS

if TYPE_CHECKING:
    from oddlamp.core.plan.lights import Lamp
    from oddlamp.core.plan.model import Input, Plan
    from oddlamp.core.plan.rules import CueStep

LineKind = Literal["wire", "bus", "drive", "data", "input", "key", "state", "enable", "reset"]
Needs = frozenset[str]
NO_PIN: Final[Needs] = frozenset()
OUT: Final[Needs] = frozenset({"digital-out"})
IN: Final[Needs] = frozenset({"digital-in"})
BOTH: Final[Needs] = frozenset({"digital-in", "digital-out"})
PWM: Final[Needs] = frozenset({"digital-out", "pwm"})
ANALOG: Final[Needs] = frozenset({"analog-in"})
WIRE_WAYS: Final = ("a_to_b", "b_to_a")
BUS_LEADS: Final = {"i2c": ("sda", "scl"), "spi": ("sck", "mosi", "miso", "select")}
PULLED_LEADS: Final = BUS_LEADS["i2c"]  # only ever pulled low, and up by a resistor
SHARED_LEADS: Final = frozenset({"sda", "scl", "sck", "mosi", "miso"})
SPARE_LINE: Final = re.compile(r"([a-z][a-z0-9_]{0,39})\.in_[1-9][0-9]?")
MODULE_LEADS: Final[tuple[LineKind, ...]] = ("key", "state", "enable", "reset")
NODE_LABELS: Final = {
    "phone": "Phone",
    "computer": "Computer",
    "remote": "Remote",
    "voice": "Voice helper",
    "feed": "Feed",
    "board": "Board",
    "module": "Module",
    "chip": "Chip",
}


class Span(NamedTuple):
    """What the least and the most of a value stand for."""

    least: int
    most: int
    unit: str


SPANS: Final = {"temperature": Span(-40, 80, "\u00b0C"), "humidity": Span(0, 100, "%")}  # of sensors on one line; from memory


class Line(NamedTuple):
    """One physical line.

    ``sender`` and ``receiver`` are nodes, or None where that end is the owner itself: a lamp, an input. ``near`` is the
    node whose pin it takes, as ``near_needs`` says; ``far`` the nodes at its other end, more than one on a bus, and
    ``far_needs`` what it needs of a pin there, where that is a board. ``near_wishes`` is what its pin had better be able to
    do as well, though nothing asks it yet: a mixed colour will be dimmed one day. ``is_usb`` where it runs in the board's plug.
    """

    id: str
    kind: LineKind
    owner: tuple[str, str]
    lead: str
    stage: str
    name: str
    sender: str | None
    receiver: str | None
    near: str | None
    near_needs: Needs
    far: tuple[str, ...] = ()
    far_needs: Needs = NO_PIN
    near_wishes: Needs = NO_PIN
    is_usb: bool = False

    @property
    def owner_id(self) -> str:
        """The id of the link, lamp, input or module it belongs to."""
        return self.owner[1]

    @property
    def is_spoken(self) -> bool:
        """Whether words run on it."""
        return self.kind == "wire"

    @property
    def path(self) -> tuple[str, str]:
        """Where the plan keeps what is decided of it."""
        return "signals", self.id


def node_label(plan: "Plan", node_id: str) -> str:
    """Name a node: as the plan does, or by what it is."""
    node = plan.nodes[node_id]
    return node.label or NODE_LABELS[node.kind]


def label_of(given: str | None, name: str) -> str:
    """Name a lamp, an input or a word: as the plan does, or by its id."""
    return given or name.replace("_", " ").capitalize()


def signal_ids(plan: "Plan") -> set[str]:
    """Return the id of every line that a plan may speak of: those there are, and those a module could have."""
    spare = {f"{node}.{lead}" for node, it in plan.nodes.items() if it.kind == "module" for lead in MODULE_LEADS}
    wires = {f"{link}.{way}" for link, it in plan.links.items() if it.kind == "wire" for way in WIRE_WAYS}
    return {line.id for line in _owned(plan)} | spare | wires | spare_lines(plan)


def spare_lines(plan: "Plan") -> set[str]:
    """Return the lines a plan speaks of that belong to inputs of which there are fewer now: what is decided of them is kept."""
    found = (SPARE_LINE.fullmatch(it) for it in plan.signals)
    return {it[0] for it in found if it is not None and it[1] in plan.inputs}


def signals(plan: "Plan") -> dict[str, Line]:
    """List every physical line of a plan once: wires, module pins, inputs, then lamps in the plan's order.

    A plan must hold what it speaks of. A bus has one line for all that hang on it at one board.
    """
    return {line.id: line for line in _owned(plan)}


def _owned(plan: "Plan") -> Iterator[Line]:
    yield from _wires(plan)
    for name in plan.nodes:
        yield from _module_lines(plan, name)
    dimmed = dimmed_lamps(plan)
    for name, lamp in plan.lamps.items():
        yield from _lamp_lines(name, lamp, is_dimmed=name in dimmed)
    for name, it in plan.inputs.items():
        yield from _input_lines(name, it)


def _wires(plan: "Plan") -> Iterator[Line]:
    buses: set[tuple[str, str]] = set()
    for name, link in plan.links.items():
        if link.kind != "wire" or link.a not in plan.nodes or link.b not in plan.nodes:
            continue
        if link.transport in BUS_LEADS:
            yield from _bus(plan, name, buses)
            continue
        for way, sender, receiver in (("a_to_b", link.a, link.b), ("b_to_a", link.b, link.a)):
            # Of two boards the sender's pin is the near one; of a board and something else, the board's.
            is_sender = plan.nodes[sender].kind == "board"
            near, far = (sender, receiver) if is_sender or plan.nodes[receiver].kind != "board" else (receiver, sender)
            yield Line(
                id=f"{name}.{way}",
                kind="wire",
                owner=("links", name),
                lead=way,
                stage=f"links.{name}",
                name=f"{node_label(plan, sender)} to {inner(node_label(plan, receiver))}",
                sender=sender,
                receiver=receiver,
                near=near if plan.nodes[near].kind == "board" else None,
                near_needs=OUT if near == sender else IN,
                far=(far,),
                far_needs=(IN if far == receiver else OUT) if plan.nodes[far].kind == "board" else NO_PIN,
                is_usb=link.transport == "usb",
            )


def _bus(plan: "Plan", name: str, buses: set[tuple[str, str]]) -> Iterator[Line]:
    link = plan.links[name]
    transport = str(link.transport)
    host, chip = (link.b, link.a) if plan.nodes[link.b].kind == "board" else (link.a, link.b)
    on_bus = [
        (it.a if it.b == host else it.b)
        for it in plan.links.values()
        if it.kind == "wire" and it.transport == transport and host in (it.a, it.b)
    ]
    is_first = (host, transport) not in buses
    buses.add((host, transport))
    for lead in BUS_LEADS[transport]:
        is_shared = lead in SHARED_LEADS
        if is_shared and not is_first:
            continue
        yield Line(
            id=f"{name}.{lead}",
            kind="bus",
            owner=("links", name),
            lead=lead,
            stage=f"links.{name}",
            name=f"{lead.upper() if is_shared else 'Select'} of {inner(node_label(plan, host))}",
            sender=chip if lead == "miso" else host,
            receiver=host if lead == "miso" else chip,
            near=host if plan.nodes[host].kind == "board" else None,
            near_needs=IN if lead == "miso" else OUT,
            far=tuple(dict.fromkeys(on_bus)) if is_shared else (chip,),
        )


def _module_lines(plan: "Plan", name: str) -> Iterator[Line]:
    """List a module's own pins that a board holds or hears: the key where set-up says so, the others where the plan has them."""
    node = plan.nodes[name]
    if node.kind != "module":
        return
    wired = [(link_id, link.b if link.a == name else link.a) for link_id, link in plan.links.items() if link.kind == "wire" and name in (link.a, link.b)]  # fmt: skip
    found = next(((link_id, it) for link_id, it in wired if it in plan.nodes and plan.nodes[it].kind == "board"), None)
    if found is None:
        return
    link_id, board = found
    for lead in MODULE_LEADS:
        is_there = (
            node.setup is not None and node.setup.key_from == "board" if lead == "key" else f"{name}.{lead}" in plan.signals
        )
        if is_there:
            is_heard = lead == "state"
            yield Line(
                id=f"{name}.{lead}",
                kind=lead,
                owner=("nodes", name),
                lead=lead,
                stage=f"links.{link_id}",
                name=f"{lead.capitalize()} of {inner(node_label(plan, name))}",
                sender=name if is_heard else board,
                receiver=board if is_heard else name,
                near=board,
                near_needs=IN if is_heard else OUT,
                far=(name,),
            )


def _lamp_lines(name: str, lamp: "Lamp", *, is_dimmed: bool) -> Iterator[Line]:
    label = label_of(lamp.label, name)
    for lead in LEADS[lamp.kind]:
        yield Line(
            id=f"{name}.{lead}",
            kind="data" if lamp.kind in LEVEL_KINDS else "drive",
            owner=("lamps", name),
            lead=lead,
            stage=f"lamps.{name}",
            name=label if lead == "main" else f"{label}, {lead}",
            sender=lamp.host,
            receiver=None,
            near=lamp.host,
            near_needs=PWM if is_dimmed else OUT,
            near_wishes=PWM if lamp.kind == "rgb" else NO_PIN,
        )


def input_lines(name: str, it: "Input") -> tuple[str, ...]:
    """Return the lines of an input: one, or one for each of several alike."""
    return tuple(f"{name}.in" if at == 1 else f"{name}.in_{at}" for at in range(1, (it.count or 1) + 1))


def _input_lines(name: str, it: "Input") -> Iterator[Line]:
    label = label_of(it.label, name)
    for at, line in enumerate(input_lines(name, it), 1):
        yield Line(
            id=line,
            kind="input",
            owner=("inputs", name),
            lead=line.partition(".")[2],
            stage=f"inputs.{name}",
            name=label if it.count in (None, 1) else f"{label} {at}",
            sender=None,
            receiver=it.host,
            near=it.host,
            near_needs=ANALOG if it.is_analog else BOTH if it.reads in SPANS else IN,
        )


def told_by(plan: "Plan", node_id: str) -> str | None:
    """Return the node whose program tells a host's pins: itself, or the board at the other end of a chip's bus; None for none."""
    if plan.nodes[node_id].kind != "chip":
        return node_id
    ends = ((it.a, it.b) for name, it in plan.links.items() if node_id in (it.a, it.b) and is_bus_link(plan, name))
    return next((end for pair in ends for end in pair if plan.nodes[end].kind == "board"), None)


def is_bus_link(plan: "Plan", link_id: str) -> bool:
    """Tell whether a link is a bus, which all that hang on it share."""
    it = plan.links[link_id]
    return it.kind == "wire" and it.transport in BUS_LEADS


def shared_link(plan: "Plan", link_id: str) -> str:
    """Return the link that the lines of a bus belong to: the first of those that share them; any other link is its own."""
    link = plan.links[link_id]
    if link.kind != "wire" or not is_bus_link(plan, link_id):
        return link_id
    host = link.b if plan.nodes[link.b].kind == "board" else link.a
    return next(
        name for name, it in plan.links.items() if it.kind == "wire" and it.transport == link.transport and host in (it.a, it.b)
    )


def bus_lines(plan: "Plan", chip: str) -> tuple[str, ...]:
    """Return the ids of the lines that a chip is told over."""
    mine = next((name for name, it in plan.links.items() if chip in (it.a, it.b) and is_bus_link(plan, name)), None)
    if mine is None:
        return ()
    leads = BUS_LEADS[str(getattr(plan.links[mine], "transport", ""))]
    return tuple(f"{shared_link(plan, mine)}.{lead}" for lead in leads if lead in SHARED_LEADS)


def _of_two_values(plan: "Plan", word: str | None) -> list[str]:
    """Return the names of what a word carries that has two values only: the least and the most, off and on."""
    words = [it.words[word] for it in plan.vocabularies.values() if word in it.words]
    return [
        name for it in words for name, one in it.parameters.items() if one.most is not None and one.most - (one.least or 0) <= 1
    ]


def _shades(step: "CueStep") -> tuple[float | None, ...]:
    return step.level, step.red, step.green, step.blue


def dimmed_lamps(plan: "Plan") -> set[str]:
    """Return the lamps that some rule or cue shows between dark and full, of the kinds that a pin dims by switching."""
    dimmed: set[str] = set()
    targets: set[str] = set()
    for rule in plan.rules.values():
        for action in rule.do:
            values = action.values
            shades = () if values is None else (values.level, values.red, values.green, values.blue)
            only_ends = {None, 0, 1, *(f"{{{name}}}" for name in _of_two_values(plan, rule.when.heard))}
            is_shaded = action.verb in ("level", "colour") and not only_ends.issuperset(shades)
            is_on_the_way = values is not None and (values.over_s or (action.verb == "pulse" and values.level not in only_ends))
            if is_shaded or is_on_the_way or action.verb in ("brighter", "dimmer", "add", "random"):
                targets.add(action.target or "")
    for cue in plan.cues.values():
        targets |= {step.target for step in cue.steps if step.fade_s or not {None, 0, 1}.issuperset(_shades(step))}
    for target in targets:
        dimmed |= {target} if target in plan.lamps else set(plan.groups[target].members) if target in plan.groups else set()
    return {name for name in dimmed if name in plan.lamps and plan.lamps[name].kind in DIMMED_KINDS}


def span_of(it: "Input") -> Span | None:
    """Return what the ends of an input's value stand for, where a sensor tells it in bits on its one line; None for others."""
    return SPANS.get(it.reads or "")
