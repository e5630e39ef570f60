"""Whether each hop, line and output pin lets something through: every judgement there is, made once."""

from collections.abc import Iterator, Mapping
from dataclasses import replace
from itertools import chain
from typing import Final

from oddlamp.core.base import si
from oddlamp.core.design.design import Design
from oddlamp.core.design.lines import SignalDesign
from oddlamp.core.design.passages import Obstacle, Passage
from oddlamp.core.design.supplies import NodeDesign
from oddlamp.core.design.values import NOT_YET
from oddlamp.core.english import inner
from oddlamp.core.modules.goals import role_of, setup_of_node
from oddlamp.core.parts.models import BoardPart, ChipPart, ModulePart
from oddlamp.core.plan.signals import WIRE_WAYS, bus_lines, told_by
from oddlamp.core.resolve.chosen import window_of
from oddlamp.core.resolve.judge_lamps import judge_channel, judge_load, judge_pin_load
from oddlamp.core.resolve.judge_levels import Scene, judge_level
from oddlamp.core.resolve.judge_pins import PinScene, judge_pins

RADIO_NAMES: Final = {"classic": "classic serial", "ble": "BLE", "wifi": "Wi-Fi"}


def resolve_passages(design: Design) -> dict[str, Passage]:
    """Judge every direction of every radio link, and every physical line.

    Returns:
        Passages by line, and by ``<link>.a_to_b`` and ``<link>.b_to_a`` for radio links.
    """
    scene = Scene(design.plan, design.rails)
    pins = PinScene(design)
    fed = {name: (*judge_supply(design, node), *judge_chip(design, node)) for name, node in design.nodes.items()}
    passages = {name: _line(design, scene, signal, pins, fed) for name, signal in design.signals.items()}
    for chip in (name for name, node in design.nodes.items() if node.node.kind == "chip"):
        before = tuple(passages[line] for line in bus_lines(design.plan, chip))
        mine = (signal.line for signal in design.signals.values() if signal.line.owner[0] == "lamps" and signal.line.near == chip)
        passages |= {line.id: replace(passages[line.id], behind=before) for line in mine}
    for link_id, air in design.airs.items():
        obstacles = tuple(_air(design, link_id))
        passages |= {f"{link_id}.{way}": Passage(f"{link_id}.{way}", air.stage, obstacles) for way in WIRE_WAYS}
    return passages


def _line(design: Design, scene: Scene, signal: SignalDesign, pins: PinScene, fed: Mapping[str, tuple[Obstacle, ...]]) -> Passage:
    line, level = signal.line, signal.level
    found: list[Iterator[Obstacle]] = [judge_pins(pins, signal)]
    open_because = None
    if level is not None:
        found.append(iter(judge_level(scene, level)))
        if level.is_omitted or level.received.value is None or level.high.value is None:
            open_because = level.received.because or level.high.because or NOT_YET
    if line.kind == "wire":
        found += [_speed(design, line.owner_id), _crossing(design, line.owner_id)]
    for node_id in dict.fromkeys((line.sender, line.receiver)):
        if node_id is not None:
            found.append(iter(fed[node_id]))
    lamp = design.lamps.get(line.owner_id) if line.owner[0] == "lamps" else None
    if lamp is not None:
        host = design.nodes[lamp.host]
        rail = design.rails.get(lamp.rail_id or "")
        if level is None:
            found.append(_lamp_ground(scene, host, design, lamp.rail_id if lamp.takes_rail else None))
        channel = next((it for it in lamp.channels if it.signal_id == line.id), None)
        if channel is not None:
            found.append(judge_channel(lamp, channel, host, rail, design.rails.get(host.rail_id or "")))
            open_because = lamp.open_because or (channel.current.because if channel.current.value is None else None)
            open_because = open_because or (f"the codes it sends: {NOT_YET}" if lamp.sends_codes else None)
        if lamp.load is not None:
            found.append(judge_load(lamp, lamp.load, host))
            if lamp.load.current.value is None:
                open_because = open_because or lamp.load.current.because
        if signal.load is not None:
            found.append(judge_pin_load(lamp, signal.load, host))
    return Passage(line.id, line.stage, tuple(chain.from_iterable(found)), open_because)


def _lamp_ground(scene: Scene, host: NodeDesign, design: Design, rail_id: str | None) -> Iterator[Obstacle]:
    """What is fed at one place and switched from another has no way back for its current without a common ground."""
    rail = design.rails.get(rail_id or "")
    if rail is not None and rail.end and host.end and rail.end != host.end:
        names = [
            (it.label if (it := scene.plan.ends.get(end)) else None) or end.replace("_", " ") for end in (rail.end, host.end)
        ]
        yield Obstacle("LVL-GROUND", "stop", f"{names[0]} and {names[1]} have no common ground")


def judge_supply(design: Design, node: NodeDesign) -> Iterator[Obstacle]:
    """A board or module is fed inside its window: at its own pin, or through its own regulator."""
    rail = design.rails.get(node.rail_id or "")
    if node.part is None or rail is None or rail.voltage.value is None:
        return
    window = window_of(node.part, rail.voltage.value)
    if window is None or (window.low <= rail.voltage.low and rail.voltage.high <= window.high):
        return
    is_off = not window.low <= rail.voltage.value <= window.high
    because = f"the {inner(node.label)} takes {si(window.low, 'V')} to {si(window.high, 'V')} and gets {rail.voltage.text}"
    is_over = rail.voltage.value > window.high
    is_clock = isinstance(node.part, BoardPart) and node.part.is_clock_bound and window is node.part.supply_v and not is_over
    code = "SUP-CLOCK" if is_clock and rail.voltage.low < window.low else "SUP-INPUT-WINDOW"
    yield Obstacle(code, "stop" if is_off else "look", because, node.id, harms=is_over or not is_off)


def judge_chip(design: Design, node: NodeDesign) -> Iterator[Obstacle]:
    """A chip that holds lamps, or tells something, hangs on the bus of a board, which can tell it from all others of its kind there."""
    part = node.part
    if not isinstance(part, ChipPart) or not (part.tells or any(lamp.host == node.id for lamp in design.lamps.values())):
        return
    board = told_by(design.plan, node.id)
    if board is None:
        yield Obstacle(
            "CHIP-BUS", "stop", f"no board tells the {inner(node.label)} anything: no two-wire bus leads to it", "untold"
        )
    elif address_of(design, node) is None:
        yield Obstacle("CHIP-BUS", "stop", f"the bus tells {part.addresses} of them apart and this is one more", "address")


def clock_chip(design: Design, node_id: str) -> ChipPart | None:
    """Return a node's part where it is a chip that tells the time."""
    part = design.nodes[node_id].part
    return part if isinstance(part, ChipPart) and part.tells == "time" else None


def clock_of(design: Design, board: str) -> int | None:
    """Return the address of the chip that tells a board the time, 7 bits; None where none hangs on its bus."""
    mine = (
        it for name, it in design.nodes.items() if clock_chip(design, name) is not None and told_by(design.plan, name) == board
    )
    return next((at for it in mine if (at := address_of(design, it)) is not None), None)


def address_of(design: Design, node: NodeDesign) -> int | None:
    """Return the address a chip is given on its bus, the next free of its kind, 7 bits; None where there is none left."""
    part, board = node.part, told_by(design.plan, node.id)
    if not isinstance(part, ChipPart):
        return None
    alike = [
        name
        for name, it in design.nodes.items()
        if isinstance(it.part, ChipPart) and it.part.first_address == part.first_address and told_by(design.plan, name) == board
    ]
    at = alike.index(node.id)
    return part.first_address + at if at < part.addresses else None


def _speed(design: Design, link_id: str) -> Iterator[Obstacle]:
    """A wire runs at a speed that each module on it can be set to."""
    wire, link = design.wires[link_id], design.plan.links[link_id]
    for name in (link.a, link.b):
        part = design.nodes[name].part
        if isinstance(part, ModulePart) and wire.baud.known not in part.data_speeds_bd:
            because = f"the {inner(design.nodes[name].label)} cannot be set to {wire.baud.text}"
            yield Obstacle("MOD-BAUD-MISMATCH", "stop", because, name)
            continue
        found_bd = setup_of_node(design.nodes[name]).found_bd
        if isinstance(part, ModulePart) and found_bd is not None and found_bd != wire.baud.known:
            because = f"the {inner(design.nodes[name].label)} speaks at {si(found_bd, 'Bd')}, the wire runs at {wire.baud.text}"
            yield Obstacle("MOD-BAUD-MISMATCH", "stop", because, name)


def _crossing(design: Design, link_id: str) -> Iterator[Obstacle]:
    """What one end sends the other hears: the two wires cross over. Straight is right only through a board whose chip is held in reset."""
    link = design.plan.links[link_id]
    if link.kind == "wire" and link.is_crossed is False and link.transport in (None, "uart"):
        yield Obstacle("MOD-WIRING", "stop", "both ends speak on one wire and listen on the other: TX is joined to TX", link_id)


def _air(design: Design, link_id: str) -> Iterator[Obstacle]:
    """Both ends of a radio link speak its radio; one calls and the other answers."""
    air, link = design.airs[link_id], design.plan.links[link_id]
    a, b = design.nodes[link.a], design.nodes[link.b]
    for node in (a, b):
        radios = radios_of(design, node)
        if radios is not None and air.radio not in radios:
            because = f"the {inner(node.label)} does not speak {RADIO_NAMES[air.radio]}"
            yield Obstacle("MOD-PHONE", "stop", because, node.id)
    for node, other in ((a, b), (b, a)):
        role, theirs = (role_of(design, it) if it.node.kind == "module" else None for it in (node, other))
        if role == "master" and isinstance(node.part, ModulePart) and "master" not in node.part.roles:
            yield Obstacle("MOD-ROLE", "stop", f"the {inner(node.label)} only waits to be called", node.id)
        elif role == "master" and other.id in design.handsets:
            because = f"the {inner(node.label)} is a master, which calls and never answers"
            yield Obstacle("MOD-ROLE", "stop", because, node.id)
        elif role is not None and role == theirs and node is a:
            yield Obstacle("MOD-ROLE", "stop", f"both modules are {role}s", node.id)


def radios_of(design: Design, node: NodeDesign) -> tuple[str, ...] | None:
    """Return the radios a node speaks; None where that is not known."""
    if node.id in design.handsets:
        return tuple(design.handsets[node.id].speaks)
    return node.part.radios if node.part else None
