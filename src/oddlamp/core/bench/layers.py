"""Where parts stand on the drawing: boards in the middle, what hangs on their pins in columns to both sides, as far out as it is away."""

from collections import deque
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from typing import Final, Literal

from oddlamp.core.bench.circuit import INLINE, Circuit, Net, Tap

Side = Literal["left", "right"]
ROOTS: Final = ("board", "module")
BAR_FROM: Final = 3  # a rail or a ground with so many ends is drawn as a bar below, which all of them go down to


def is_bar(net: Net) -> bool:
    """Tell whether a net is drawn as a bar."""
    return net.kind != "signal" and len(net.taps) >= BAR_FROM


@dataclass
class Block:
    """Parts that share a ground or a supply, in columns: ``layer`` of each part, the boards' being 0, and the side of each pin."""

    layer: dict[str, int] = field(default_factory=dict)
    side: dict[Tap, Side] = field(default_factory=dict)
    nets: list[Net] = field(default_factory=list)

    def channel(self, tap: Tap) -> int:
        """Return the gap between columns that a pin looks into: 0 is the one to the right of the boards."""
        return self.layer[tap.piece] - (0 if self.side[tap] == "right" else 1)


def blocks_of(circuit: Circuit, order: Mapping[str, tuple[tuple[str, ...], tuple[str, ...]]]) -> Iterator[Block]:
    """Put the parts of a circuit into columns, those apart from each other in blocks of their own.

    Args:
        circuit: what is drawn.
        order: of boards the pins on their left and on their right side, from above.
    """
    for pieces in _apart(circuit):
        yield _Placer(circuit, pieces, order).placed()


def _apart(circuit: Circuit) -> list[list[str]]:
    """Split the parts into those that some net joins."""
    heads = {name: name for name in circuit.pieces}

    def head(name: str) -> str:
        while heads[name] != name:
            heads[name] = heads[heads[name]]
            name = heads[name]
        return name

    for net in circuit.nets:
        first = head(net.taps[0].piece)
        for tap in net.taps[1:]:
            heads[head(tap.piece)] = first
    found: dict[str, list[str]] = {}
    for name in circuit.pieces:
        found.setdefault(head(name), []).append(name)
    return list(found.values())


class _Placer:
    def __init__(
        self, circuit: Circuit, pieces: Iterable[str], order: Mapping[str, tuple[tuple[str, ...], tuple[str, ...]]]
    ) -> None:
        self.circuit, self.order = circuit, order
        self.pieces = dict.fromkeys(pieces)
        self.block = Block(nets=[net for net in circuit.nets if net.taps[0].piece in self.pieces])
        self.todo: deque[str] = deque()

    def placed(self) -> Block:
        """Walk outwards from the boards, or from what there is instead."""
        mine = list(self.pieces)
        kinds = {name: self.circuit.pieces[name].kind for name in mine}
        roots = next((found for kind in ROOTS if (found := [it for it in mine if kinds[it] == kind])), [])
        for name in roots:
            self._put(name, 0)
        self._walk()
        # What only rails reach stands at the left, beside the boards; what it leads to follows.
        for name in mine:
            if name not in self.block.layer:
                self._put(name, -1 if roots else 0)
                self._walk()
        for name in mine:
            self._sides(name)
        return self.block

    def _put(self, name: str, layer: int) -> None:
        self.block.layer[name] = layer
        self.todo.append(name)
        if name in self.order:
            left, right = self.order[name]
            sides: dict[Tap, Side] = {Tap(name, it): "left" for it in left}
            self.block.side |= sides | {Tap(name, it): "right" for it in right}

    def _walk(self) -> None:
        while self.todo:
            name = self.todo.popleft()
            for pin in self.circuit.pieces[name].pins:
                self._follow(Tap(name, pin))

    def _follow(self, tap: Tap) -> None:
        """Put what a pin leads to into the next column out, on the side it looks to."""
        net, layer = self.circuit.net_of.get(tap), self.block.layer[tap.piece]
        if net is None or is_bar(net):
            return
        side = self.block.side.setdefault(tap, "left" if layer < 0 else "right")
        facing: Side = "left" if side == "right" else "right"
        for other in net.taps:
            if other.piece not in self.block.layer:
                self._put(other.piece, layer + (1 if side == "right" else -1))
                self.block.side[other] = facing
                self._turn(other, side)
            elif other not in self.block.side:
                near = self.block.layer[other.piece]
                self.block.side[other] = facing if (near > layer) == (side == "right") and near != layer else side

    def _turn(self, tap: Tap, away: Side) -> None:
        """Let a part with two legs look the other way with its other leg."""
        piece = self.circuit.pieces[tap.piece]
        if piece.kind in INLINE:
            for pin in piece.pins:
                if pin != tap.pin:
                    self.block.side.setdefault(Tap(piece.id, pin), away)

    def _sides(self, name: str) -> None:
        """Let pins that only go down to a bar look where the others of their part do not, or outwards."""
        layer = self.block.layer[name]
        outward: Side = "left" if layer < 0 else "right"
        for at, pin in enumerate(self.circuit.pieces[name].pins):
            is_second = self.circuit.pieces[name].kind in INLINE and at == 1
            inward: Side = "right" if outward == "left" else "left"
            self.block.side.setdefault(Tap(name, pin), inward if is_second else outward)
