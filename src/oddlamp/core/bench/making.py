"""A circuit while it is put together: its nets by what they belong to, and parts between them."""

from dataclasses import replace
from typing import Final

from oddlamp.core.base import si
from oddlamp.core.bench.circuit import FIRST, SECOND, Piece, PieceKind, Tap, Ties
from oddlamp.core.design.design import Design
from oddlamp.core.design.lines import SignalDesign
from oddlamp.core.design.supplies import NodeDesign
from oddlamp.core.design.values import Value
from oddlamp.core.english import inner
from oddlamp.core.plan.signals import Line

THREE: Final = "3V3"
FIVE: Final = "5V"
GND: Final = "GND"
LOGIC_V: Final = 4.0
SAME_V: Final = 0.3


class Maker:
    """The hand that puts a circuit together; what makes rails, lines and lamps works with it."""

    def __init__(self, design: Design) -> None:
        self.design, self.ties = design, Ties()

    def ground(self, end: str | None) -> str:
        """Return the net of the ground of one place."""
        label = self.design.plan.ends[end].label if end in self.design.plan.ends else None
        many = len({it.end for it in self.design.nodes.values() if it.node.kind in ("board", "module", "chip")}) > 1
        told = f"Ground, {inner(label)}" if label and many else "Ground"
        return self.ties.net(f"ground.{end or 'here'}", told, "ground", "")

    def rail(self, rail_id: str) -> str:
        """Return the net of a rail."""
        rail = self.design.rails[rail_id]
        return self.ties.net(f"rail.{rail_id}", rail.label, "supply", rail.stage)

    def end_of(self, rail_id: str | None, host: NodeDesign) -> str | None:
        """Return the place of a rail, or of a host where there is none."""
        rail = self.design.rails.get(rail_id or "")
        return rail.end if rail is not None else host.end

    def logic(self, node: NodeDesign) -> str | None:
        """Return the net that stands at the volts of a node's pins: its rail, or the pin its own regulator gives; None where it is not fed."""
        rail = self.design.rails.get(node.rail_id or "")
        if node.logic is None or node.logic.value is None:
            return self.rail(rail.id) if rail is not None else None
        if rail is not None and rail.voltage.value is not None and abs(rail.voltage.value - node.logic.value) < SAME_V:
            return self.rail(rail.id)
        if node.node.kind not in ("board", "module"):
            return None
        pin = THREE if node.logic.value < LOGIC_V else FIVE
        name = self.ties.net(f"own.{node.id}", f"{node.label}'s {pin.replace('V', '.') if pin == THREE else '5'} V pin", "supply", node.stage)  # fmt: skip
        self.pin(node.id, pin)
        self.ties.tie(name, Tap(node.id, pin))
        return name

    def pin(self, piece: str, pin: str) -> None:
        """Let a board or module have one more pin for supply."""
        it = self.ties.pieces[piece]
        if pin not in it.pins:
            self.ties.pieces[piece] = replace(it, pins=(*it.pins, pin))

    def add(self, piece_id: str, kind: PieceKind, label: str, pins: tuple[str, ...], stage: str, buy: str = "", *, fold: str = "") -> str:  # fmt: skip
        """Put a part with a place of its own in."""
        self.ties.add(Piece(piece_id, kind, label, pins, stage, buy, fold=fold))
        return piece_id

    def resistor(self, piece_id: str, value: Value, a: str, b: str, why: str, *, more: str = "", alike: str = "", fold: str = "") -> None:  # fmt: skip
        """Put a resistor between two nets; where its value is not known there is none yet."""
        if value.value is None:
            return
        buy = f"Resistor, {value.text}" + (f", {more}" if more else "")
        piece = Piece(
            piece_id, "resistor", value.text, (FIRST, SECOND), value.stage, buy, why, value.value, value.path, alike=alike
        )
        self._inline(piece, a, b)

    def between(
        self, piece_id: str, kind: PieceKind, label: str, a: str, b: str, stage: str, buy: str, why: str,
        made: float | None = None, path: tuple[str, ...] = (),
    ) -> None:  # fmt: skip
        """Put another part with two legs between two nets."""
        self._inline(Piece(piece_id, kind, label, (FIRST, SECOND), stage, buy, why, made, path), a, b)

    def _inline(self, piece: Piece, a: str, b: str) -> None:
        self.ties.add(piece)
        self.ties.tie(a, Tap(piece.id, FIRST))
        self.ties.tie(b, Tap(piece.id, SECOND))

    def net_at(self, line: Line, part: str = "") -> str:
        """Name a net of a line."""
        return self.ties.net(f"{line.id}:{part}" if part else line.id, line.name, "signal", line.stage)

    def host_tap(self, signal: SignalDesign, host: str | None) -> Tap | None:
        """Return the pin that a line takes on a host; None, and told, where it has none yet."""
        for pin in (signal.pin, signal.far_pin):
            if pin is not None and pin.host == host and pin.label is not None and host in self.ties.pieces:
                return Tap(host, pin.label)
        if host is not None:
            self.ties.open.append(f"{signal.line.name} has no pin yet.")
        return None

    def capacitor(self, piece_id: str, made: float, plus: str, minus: str, stage: str, path: tuple[str, ...] = ()) -> None:
        """Put a capacitor from a rail to ground; its first leg is plus."""
        told = si(made, "F")
        buy = f"Capacitor, {told}" + (", electrolytic" if made >= 1e-6 else ", ceramic")
        self.between(
            piece_id, "capacitor", told, plus, minus, stage, buy, "steadies the supply, close to what draws it", made, path
        )
