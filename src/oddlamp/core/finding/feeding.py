"""Faults of what feeds a build: a rail that stands at other volts, a supply that carries too little, a board or module that hangs on none."""

from collections.abc import Callable
from typing import Final

from oddlamp.core.bench.circuit import Tap
from oddlamp.core.bench.devices import Fault
from oddlamp.core.bench.layers import is_bar
from oddlamp.core.finding.broken import Broken, Put
from oddlamp.core.finding.states import Mark
from oddlamp.core.finding.way import Way

GONE_V: Final = 0.0
BRIDGED_V: Final = 0.05
FLAT_RATIO: Final = 0.6
TURNED_V: Final = -0.8  # where the diodes inside every chip hold a supply that is the wrong way round; from memory
SAGS_TO: Final = 0.6  # of its volts with the lamp lit: under what a board runs at


def at_rail(kind: str, volts: Callable[[float], float], when: Callable[[Way], bool], mark: Mark | None = None) -> Put:
    """A rail that stands at other volts than it should."""

    def put(way: Way) -> Broken | None:
        rail = way.rail
        if rail is None or rail.voltage.value is None or not when(way):
            return None
        at = volts(rail.voltage.value)
        fault = Fault(kind, f"rail.{rail.id}", f"{rail.label} is wrong", rails={f"rail.{rail.id}": at})
        return Broken(rail.stage, fault, frozenset({mark}) if mark else frozenset())

    return put


def is_fed(way: Way) -> bool:
    """Tell whether it is known what feeds the board."""
    return way.rail is not None and way.rail.feed is not None


def _source_kind(way: Way) -> str:
    rail = way.rail
    while rail is not None and rail.feed is not None and rail.feed.kind == "converter" and rail.feed.from_rail:
        rail = way.design.rails.get(rail.feed.from_rail)
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
