"""The drawing of a circuit: boxes, parts and threads with their places, so that no thread runs through a part or a label.

Parts stand in columns, threads only in the gaps between them, above them and below; each net has a track of its own in each
gap. That no thread meets a part follows from this, and a test measures it.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Final, Literal

from oddlamp.core.bench.circuit import Net, Tap
from oddlamp.core.bench.layers import Block, Side, blocks_of, is_bar
from oddlamp.core.bench.wiring import BARE, BLACK, Wiring, told_pin
from oddlamp.core.design.design import Design

PITCH: Final = 24.0  # from pin to pin of a box
HALF: Final = 12.0  # by which pins of every second column are off, so that no two threads lie on each other
HEAD: Final = 30.0  # of a box, for its name
SIDES: Final[tuple[Side, Side]] = ("left", "right")
SMALL: Final = 0.92  # of the text at pins, beside that of names
TRACK: Final = 10.0
GAP: Final = 24.0  # between boxes of a column
EDGE: Final = 16.0
PART_W: Final = 44.0
LABEL_MOST: Final = 24
BAR_STEP: Final = 26.0


@dataclass(frozen=True, slots=True)
class Text:
    """A text with the rectangle it takes; ``anchor`` says which end of it ``x`` is."""

    told: str
    x: float
    y: float
    w: float
    h: float
    anchor: Literal["start", "middle", "end"] = "start"


@dataclass(frozen=True, slots=True)
class Place:
    """Where a thread bends, ends, or is met."""

    x: float
    y: float


Stroke = tuple[Place, ...]


@dataclass(frozen=True, slots=True)
class PinDot:
    """A pin of a box; ``is_wired`` is not so where its line has no other end yet."""

    told: Text
    x: float
    y: float
    is_wired: bool


@dataclass(frozen=True, slots=True)
class Box:
    """A part: one with pins of its own, or one that stands in a thread; ``is_turned`` where its first leg is at the right."""

    piece: str
    kind: str
    x: float
    y: float
    w: float
    h: float
    label: Text
    pins: tuple[PinDot, ...]
    stage: str
    is_turned: bool = False


@dataclass(frozen=True, slots=True)
class NetThread:
    """A net as it is drawn: strokes, each two places or more, and dots where three meet."""

    net: str
    kind: str
    colour: str
    strokes: tuple[Stroke, ...]
    dots: tuple[Place, ...]
    label: Text | None = None


@dataclass(frozen=True)
class Drawing:
    """All of it, from 0, 0 to its width and height."""

    width: float
    height: float
    boxes: tuple[Box, ...]
    threads: tuple[NetThread, ...]


def drawing(design: Design, of: Wiring) -> Drawing:
    """Draw the circuit of a wiring list."""
    colours = _colours(of)
    blocks = list(blocks_of(of.circuit, _orders(design, of)))
    boxes: list[Box] = []
    threads: list[NetThread] = []
    top, width = EDGE, 0.0
    for block in blocks:
        made = _Drawn(of, block, top, colours)
        boxes += made.boxes
        threads += made.threads
        top, width = made.bottom + 2 * EDGE, max(width, made.right)
    return Drawing(width + EDGE, max(top, 2 * EDGE), tuple(boxes), tuple(threads))


def _orders(design: Design, of: Wiring) -> dict[str, tuple[tuple[str, ...], tuple[str, ...]]]:
    """Return the pins of each board as they stand on it, its plug at the top: those of its left edge, and of its right one."""
    found = {}
    for node in design.nodes.values():
        piece = of.circuit.pieces.get(node.id)
        if node.node.kind != "board" or piece is None or node.part is None:
            continue
        rows = {pin.label: pin.row for pin in node.part.pins}
        left = tuple(it for it in piece.pins if rows.get(it) == "bottom")
        right = tuple(it for it in piece.pins if rows.get(it) in ("top", "right"))
        supply = tuple(it for it in piece.pins if it not in rows)
        found[node.id] = (left + supply, right)
    return found


class _Drawn:
    """One block with its places."""

    def __init__(self, of: Wiring, block: Block, top: float, colours: Mapping[str, str]) -> None:
        self.of, self.block, self.colours = of, block, colours
        self.boxes: list[Box] = []
        self.threads: list[NetThread] = []
        self.pin_at: dict[Tap, tuple[float, float]] = {}
        self.bars = [net for net in block.nets if is_bar(net)]
        self.wide = {net.id for net in block.nets if not is_bar(net) and len({block.channel(it) for it in net.taps}) > 1}
        self.top = top + TRACK * (len(self.wide) + 1)
        self.left = EDGE + max((self._bar_label_w(net) for net in self.bars), default=0.0) + EDGE
        self._columns()
        self._bars()
        self._threads()

    def _bar_label_w(self, net: Net) -> float:
        return width_of(_short(net.label))

    # Columns

    def _columns(self) -> None:
        layers = sorted(set(self.block.layer.values()))
        heights: dict[str, tuple[float, float]] = {}
        ordered: dict[int, list[str]] = {}
        for layer in sorted(layers, key=lambda it: (abs(it), it)):
            names = [name for name, at in self.block.layer.items() if at == layer]
            wanted = {name: self._wanted(name, heights) for name in names}
            names.sort(key=lambda name: wanted[name])
            ordered[layer] = names
            y = self.top
            for name in names:
                h = self._height(name)
                y = max(y, wanted[name] - h / 2 if wanted[name] else y)
                y = PITCH * round((y - self.top) / PITCH + 0.49) + self.top
                heights[name] = (y, h)
                y += h + GAP / 2
        x = self.left
        channels = self._channels(layers)
        for layer in range(min(layers), max(layers) + 1):
            x += channels.get(layer - 1, 0) * TRACK + 2 * TRACK
            width = max((self._width(name) for name in ordered.get(layer, [])), default=0.0)
            for name in ordered.get(layer, []):
                self._box(name, x, heights[name][0] + (HALF if layer % 2 else 0.0), width)
            x += width
        self.right = x + channels.get(max(layers), 0) * TRACK + 2 * TRACK
        self.edges = self._edges()
        self.under = max((it.y + it.h for it in self.boxes), default=self.top) + GAP

    def _channels(self, layers: list[int]) -> dict[int, int]:
        """Count the tracks of each gap."""
        found: dict[int, set[str]] = {}
        for net in self.block.nets:
            for tap in net.taps:
                found.setdefault(self.block.channel(tap), set()).add(net.id)
        rank = {net.id: place for place, net in enumerate(self.block.nets)}
        self.tracks = {
            channel: {name: at for at, name in enumerate(sorted(nets, key=rank.__getitem__))} for channel, nets in found.items()
        }
        return {channel: len(nets) for channel, nets in self.tracks.items()}

    def _wanted(self, name: str, heights: Mapping[str, tuple[float, float]]) -> float:
        """Return the height at which a part would like to stand: that of what it hangs on, 0 where it hangs on nothing yet."""
        found = []
        for pin in self.of.circuit.pieces[name].pins:
            net = self.of.circuit.net_of.get(Tap(name, pin))
            if net is None or is_bar(net):
                continue
            for tap in net.taps:
                if tap.piece != name and tap.piece in heights:
                    found.append(heights[tap.piece][0] + self._offset(tap))
        return sum(found) / len(found) if found else 0.0

    def _on(self, name: str, side: Side) -> list[str]:
        """Return the pins of a part at one side, from above."""
        return [it for it in self.of.circuit.pieces[name].pins if self.block.side.get(Tap(name, it)) == side]

    def _offset(self, tap: Tap) -> float:
        piece = self.of.circuit.pieces[tap.piece]
        if piece.is_inline:
            return HEAD - PITCH / 4
        return HEAD + PITCH * self._on(tap.piece, self.block.side[tap]).index(tap.pin)

    def _height(self, name: str) -> float:
        if self.of.circuit.pieces[name].is_inline:
            return 1.5 * PITCH
        return HEAD + PITCH * max(len(self._on(name, "left")), len(self._on(name, "right")), 1)

    def _width(self, name: str) -> float:
        piece = self.of.circuit.pieces[name]
        label = width_of(_short(self._label(name)))
        if piece.is_inline:
            return max(PART_W, label) + 4
        sides = [max((SMALL * width_of(told_pin(piece, it)) for it in self._on(name, side)), default=0.0) for side in SIDES]
        return max(label + EDGE, sum(sides) + 3 * EDGE, 64.0)

    def _label(self, name: str) -> str:
        return self.of.part(name) if self.of.circuit.pieces[name].is_inline else self.of.names[name]

    def _box(self, name: str, x: float, y: float, column_w: float) -> None:
        piece, h, w = self.of.circuit.pieces[name], self._height(name), self._width(name)
        told = _short(self._label(name))
        x += (column_w - w) / 2
        pins = []
        if piece.is_inline:
            middle, start = y + HEAD - PITCH / 4, x + (w - PART_W) / 2
            for pin in piece.pins:
                at = (start if self.block.side[Tap(name, pin)] == "left" else start + PART_W, middle)
                self.pin_at[Tap(name, pin)] = at
                pins.append(PinDot(Text("", *at, 0, 0), *at, Tap(name, pin) in self.of.circuit.net_of))
            label = Text(told, x + w / 2, y + 11, width_of(told), 14, "middle")
            is_turned = self.block.side[Tap(name, piece.pins[0])] == "right"
            self.boxes.append(Box(name, piece.kind, start, middle - 8, PART_W, 16, label, tuple(pins), piece.stage, is_turned))
            return
        for side in SIDES:
            for place, pin in enumerate(self._on(name, side)):
                px, py = (x if side == "left" else x + w), y + HEAD + PITCH * place
                called = told_pin(piece, pin).removeprefix("pin ")
                text_w = SMALL * width_of(called)
                text = Text(
                    called, px + 9 if side == "left" else px - 9, py + 4, text_w, 12, "start" if side == "left" else "end"
                )
                self.pin_at[Tap(name, pin)] = (px, py)
                pins.append(PinDot(text, px, py, Tap(name, pin) in self.of.circuit.net_of))
        label = Text(told, x + w / 2, y + 18, width_of(told), 16, "middle")
        self.boxes.append(Box(name, piece.kind, x, y, w, h - PITCH / 2 + 4, label, tuple(pins), piece.stage))

    def _edges(self) -> dict[int, float]:
        """Return where each gap begins: behind the widest box of the column before it."""
        ends: dict[int, float] = {}
        for box in self.boxes:
            layer = self.block.layer[box.piece]
            w = max(box.w, box.label.w + 4)
            ends[layer] = max(ends.get(layer, 0.0), box.x + box.w / 2 + w / 2)
        first = min(self.block.layer.values())
        found = {first - 1: self.left}
        for layer in range(first, max(self.block.layer.values()) + 1):
            found[layer] = ends.get(layer, found[layer - 1])
        return found

    # Threads

    def _track(self, channel: int, net_id: str) -> float:
        return self.edges[channel] + TRACK * (1.5 + self.tracks[channel][net_id])

    def _bars(self) -> None:
        self.bar_y = {net.id: self.under + BAR_STEP * at for at, net in enumerate(self.bars)}
        self.bottom = self.under + BAR_STEP * len(self.bars)

    def _threads(self) -> None:
        above = {net_id: self.top - TRACK * (at + 1.5) for at, net_id in enumerate(sorted(self.wide))}
        for net in self.block.nets:
            strokes: list[Stroke] = []
            dots: list[Place] = []
            by_channel: dict[int, list[tuple[float, float]]] = {}
            for tap in net.taps:
                by_channel.setdefault(self.block.channel(tap), []).append(self.pin_at[tap])
            label = None
            for channel, pins in by_channel.items():
                x = self._track(channel, net.id)
                far = [self.bar_y[net.id]] if net.id in self.bar_y else [above[net.id]] if net.id in self.wide else []
                strokes += self._joined(x, pins, far)
                dots += [Place(x, y) for y in _inside([*(it[1] for it in pins), *far])]
                dots += [Place(x, self.bar_y[net.id])] if net.id in self.bar_y else []
            if net.id in self.bar_y:
                y = self.bar_y[net.id]
                strokes.append((Place(self.left, y), Place(self.right, y)))
                told = _short(net.label)
                label = Text(told, self.left - 8, y + 4, width_of(told), 14, "end")
            elif net.id in self.wide:
                tracks = sorted(self._track(channel, net.id) for channel in by_channel)
                strokes.append((Place(tracks[0], above[net.id]), Place(tracks[-1], above[net.id])))
                dots += [Place(x, above[net.id]) for x in tracks[1:-1]]
            self.threads.append(NetThread(net.id, net.kind, self._colour(net), tuple(strokes), tuple(dots), label))

    def _joined(self, x: float, pins: list[tuple[float, float]], far: list[float]) -> Iterable[Stroke]:
        """Draw each pin to the track; the first and the last with a corner, so that the thread can be followed."""
        ys = sorted([*(y for _, y in pins), *far])
        if len(pins) == 2 and not far:
            (ax, ay), (bx, by) = pins
            yield (Place(ax, ay), Place(x, ay), Place(x, by), Place(bx, by))
            return
        for px, py in pins:
            yield (Place(px, py), Place(x, py))
        if ys[0] != ys[-1]:
            yield (Place(x, ys[0]), Place(x, ys[-1]))

    def _colour(self, net: Net) -> str:
        return self.colours.get(net.id) or self.colours.get(net.id.partition(":")[0]) or BLACK


def _colours(of: Wiring) -> dict[str, str]:
    """Return the colour of each net, and of each line that of its first wire."""
    found: dict[str, str] = {}
    for it in of.wires:
        if it.runs.colour != BARE:
            found.setdefault(it.net.id, it.runs.colour)
            found.setdefault(it.net.id.partition(":")[0], it.runs.colour)
    return found


def width_of(text: str) -> float:
    """Return how wide a text is at most in 13 px type: by kinds of letters, wide ones of other scripts as wide as they are high."""
    return sum(14.0 if it > "\u1100" else 12.5 if it in "WM@…%" else 10.0 if it.isupper() else 7.8 for it in text)


def _inside(heights: list[float]) -> list[float]:
    """Return the heights at which something joins a track that goes on both ways."""
    ends = (min(heights), max(heights))
    return sorted({it for it in heights if it not in ends})


def _short(text: str) -> str:
    return text if len(text) <= LABEL_MOST else text[: LABEL_MOST - 1] + "…"
