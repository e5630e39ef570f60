"""Faults of what feeds a build: a rail that stands at other volts, a supply that carries too little, a board or module that hangs on none."""

from collections.abc import Callable
from typing import Final

from oddlamp.core.bench.circuit import Tap
from oddlamp.core.bench.devices import Fault
from oddlamp.core.bench.layers import is_bar
from oddlamp.core.design.supplies import RailDesign
from oddlamp.core.finding.broken import Broken, Put
from oddlamp.core.finding.states import Mark
from oddlamp.core.finding.way import Way

GONE_V: Final = 0.0
BRIDGED_V: Final = 0.05
FLAT_RATIO: Final = 0.6
TURNED_V: Final = -0.8  # where the diodes inside every chip hold a supply that is the wrong way round; from memory
SAGS_TO: Final = 0.6  # of its volts with the lamp lit: under what a board runs at


def at_rail(kind: str, volts: Callable[[float], float], when: Callable[[Way], bool], mark: Mark | None = None) -> Put:
    """The host's rail at other volts than it should have."""
    return lambda way: _at_rails(way, kind, volts, _rails(way)[:1], mark) if when(way) else None


def at_source(kind: str, volts: Callable[[float], float], when: Callable[[Way], bool]) -> Put:
    """What feeds the build at other volts than it should have: with the host's rail those that it is made from."""
    return lambda way: _at_rails(way, kind, volts, _rails(way)) if when(way) else None


def _at_rails(
    way: Way, kind: str, volts: Callable[[float], float], rails: list[RailDesign], mark: Mark | None = None
) -> Broken | None:
    at = {f"rail.{it.id}": volts(it.voltage.value) for it in rails if it.voltage.value is not None}
    if way.rail is None or f"rail.{way.rail.id}" not in at:
        return None
    fault = Fault(kind, f"rail.{way.rail.id}", f"{way.rail.label} is wrong", rails=at)
    return Broken(way.rail.stage, fault, frozenset({mark}) if mark else frozenset())


def _rails(way: Way) -> list[RailDesign]:
    """List the host's rail, and those that converters make it from, up to the source."""
    found, rail = list[RailDesign](), way.rail
    while rail is not None and rail not in found:
        found.append(rail)
        feed = rail.feed
        rail = way.design.rails.get(feed.from_rail or "") if feed is not None and feed.kind == "converter" else None
    return found


def is_fed(way: Way) -> bool:
    """Tell whether it is known what feeds the board."""
    return way.rail is not None and way.rail.feed is not None


def _source_kind(way: Way) -> str:
    rail = next(reversed(_rails(way)), None)
    return rail.feed.source.kind if rail is not None and rail.feed is not None and rail.feed.source is not None else ""


def is_on_cells(way: Way) -> bool:
    """Tell whether it runs on cells."""
    return _source_kind(way) in ("cells", "lithium", "coin")


def is_plugged(way: Way) -> bool:
    """Tell whether it is fed through a plug that cannot be turned round."""
    return _source_kind(way) in ("usb", "bank")


def is_set(way: Way) -> bool:
    """Tell whether its rail comes from a converter that is set by hand."""
    feed = way.rail.feed if way.rail is not None else None
    return feed is not None and feed.converter is not None and feed.converter.has_trimmer


def sag_ohm(way: Way) -> float:
    """Return what a supply resists that just carries the boards and not the lamp too, ohm; nothing where no supply is so."""
    rail = way.rail
    budget = way.design.budgets.get(rail.id) if rail is not None else None
    if rail is None or budget is None or not rail.voltage.value or not way.rail:
        return 0.0
    lamp_a = sum(it.lit_a for it in budget.own if it.lamp_id)
    hosts_a = sum(it.average_a for it in budget.own if not it.lamp_id)
    mine_a = next((it.lit_a for it in budget.own if it.lamp_id == way.lamp.id), 0.0)
    if hosts_a <= 0 or mine_a < hosts_a or lamp_a <= 0:
        return 0.0
    return (1 - SAGS_TO) * rail.voltage.value / (hosts_a + mine_a)


def weak(way: Way) -> Broken | None:
    """A supply that carries the boards and not the lamp too."""
    ohm = sag_ohm(way)
    return Broken(way.rail.stage, source_ohm=ohm) if ohm and way.rail is not None and way.is_board else None


def supply_off(kind: str, *, of_module: bool) -> Put:
    """A board or a module that hangs on no supply, or on no ground."""

    def put(way: Way) -> Broken | None:
        node = way.module if of_module else way.host
        if node is None or (of_module and node is way.host) or (not of_module and not way.is_board):
            return None
        piece = way.circuit.pieces.get(node.id)
        for pin in piece.pins if piece is not None else ():
            net = way.circuit.net_of.get(Tap(node.id, pin))
            if net is not None and is_bar(net) and net.kind == kind and (kind == "ground" or net.id == f"rail.{node.rail_id}"):
                fault = Fault(f"{kind} off", f"{node.id}.{pin}", f"{node.label} hangs on no {kind}", lost=frozenset({Tap(node.id, pin)}))  # fmt: skip
                return Broken(node.stage, fault)
        return None

    return put
