"""The circuit of a design: rails and what feeds them, every line with what stands in it, every lamp with what drives it."""

from oddlamp.core.bench.circuit import Circuit
from oddlamp.core.bench.fed import Fed
from oddlamp.core.bench.hung import Hung
from oddlamp.core.bench.lines import Lines
from oddlamp.core.bench.making import Maker
from oddlamp.core.design.design import Design

LINES_BETWEEN = frozenset({"wire", "bus", "key", "state", "enable", "reset"})


def netlist(design: Design) -> Circuit:
    """Build the circuit of a design: what has no pin yet, or no rail, is told as open."""
    maker = Maker(design)
    fed, lines = Fed(maker), Lines(maker)
    hung = Hung(maker, lines)
    for node in design.nodes.values():
        fed.node(node)
    for rail in design.rails.values():
        fed.rail(rail)
    for name, it in design.plan.inputs.items():
        lines.input(name, it)
    for signal in design.signals.values():
        if signal.line.kind in LINES_BETWEEN:
            lines.line(signal)
    for lamp in design.lamps.values():
        hung.lamp(lamp)
    return maker.ties.circuit()
