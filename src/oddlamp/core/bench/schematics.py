"""The circuit of each lamp drive and level shift as a drawing of its own, with standard symbols (IEC 60617, from memory), read off the circuit."""

import re
from collections.abc import Callable, Iterator
from functools import partial
from typing import Any, Final, NamedTuple

import schemdraw
from schemdraw import elements as elm

from oddlamp.core.bench.circuit import Piece
from oddlamp.core.bench.wiring import Wiring, told_pin
from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import LampDesign
from oddlamp.core.design.lines import LevelDesign

schemdraw.use("svg")
elm.style(elm.STYLE_IEC)
TOLD_MOST: Final = 26
ROOM_PT: Final = 70.0
NUMBER: Final = r"(-?[\d.]+)"
BOX: Final = re.compile(rf'height="[\d.]+pt" width="[\d.]+pt" viewBox="{NUMBER} {NUMBER} {NUMBER} {NUMBER}"')
PARTS: Final = (
    "upper", "lower", "series", "zener", "diode", "pull_up", "fet", "pull_low", "pull_high", "gate", "in_series", "pull",
)  # fmt: skip
LOADS: Final = {"buzzer": elm.Speaker, "motor": elm.Motor, "relay": elm.Inductor2}


class Sketch(NamedTuple):
    """One circuit: the id of its line, what it is of, and what draws it as SVG when it is asked for."""

    id: str
    label: str
    draw: Callable[[], str]


def schematics(design: Design, of: Wiring) -> Iterator[Sketch]:
    """List every lamp drive and every level shift that has parts of its own."""
    drawn = _Drawn(design, of)
    for lamp in design.lamps.values():
        for channel in lamp.channels:
            name = lamp.label + (f", {channel.id}" if channel.id != "main" else "")
            if drawn.has_drive(lamp, channel.signal_id):
                yield Sketch(
                    channel.signal_id, name, partial(drawn.drive, lamp, channel.signal_id, is_inverted=channel.is_inverted)
                )
        at = f"{lamp.id}.main"
        if lamp.load is not None and lamp.load.input is None and at in design.signals and drawn.has_drive(lamp, at):
            yield Sketch(at, lamp.label, partial(drawn.drive, lamp, at, is_inverted=False))
    for level in design.levels:
        if not level.is_omitted and drawn.parts_of(level):
            yield Sketch(level.id, level.line.name, partial(drawn.shift, level))


def _said(text: str) -> str:
    """Write a label as the library takes it: one line, no sign that begins a formula, not too long."""
    told = " ".join(text.replace("$", " ").split())
    return told if len(told) <= TOLD_MOST else told[: TOLD_MOST - 1] + "…"


class _Drawn:
    def __init__(self, design: Design, of: Wiring) -> None:
        self.design, self.of, self.circuit = design, of, of.circuit

    def _piece(self, piece_id: str) -> Piece | None:
        return self.circuit.pieces.get(piece_id)

    def _told(self, piece: Piece) -> str:
        """Say a part as the drawing of all does: its letter and number, and its value."""
        letter = self.of.designators.get(piece.id)
        return _said(f"{letter}  {piece.label}" if letter else piece.label)

    def _pin(self, signal_id: str) -> str:
        pin = self.design.signals[signal_id].pin
        if pin is None or pin.label is None:
            return "no pin yet"
        host = self.circuit.pieces.get(pin.host)
        return _said(f"{self.of.names.get(pin.host, pin.host)}, {told_pin(host, pin.label) if host is not None else pin.label}")

    def _rail(self, lamp: LampDesign) -> str:
        rail = self.design.rails.get(lamp.rail_id or "")
        return _said(rail.label if rail is not None else "supply")

    # Drives

    def has_drive(self, lamp: LampDesign, at: str) -> bool:
        """Tell whether a lamp stands on a line in the circuit."""
        return self._lit(lamp, at) is not None

    def drive(self, lamp: LampDesign, at: str, *, is_inverted: bool) -> str:
        """Draw what stands between a pin and its lamp, from plus on the left to ground or a transistor."""
        lit, resistor, many = (
            self._lit(lamp, at),
            self._piece(f"{at}.resistor") or self._piece(f"{at}.resistor_1"),
            self._many(at),
        )
        switch = self._piece(f"{at}.switch")
        sheet = schemdraw.Drawing(show=False)
        sheet.config(fontsize=11, unit=2.4)
        from_plus = switch is not None or is_inverted
        sheet.add(elm.Dot(open=True).label(self._rail(lamp) if from_plus else self._pin(at), loc="left"))
        parts = (lit, resistor) if from_plus else (resistor, lit)
        begun = sheet.here
        for piece in (it for it in parts if it is not None):
            sheet.add(self._symbol(lamp, piece))
        if many > 1:
            sheet.add(elm.Line().right().length(0.6).label(f"{many} alike", loc="top"))
        self._beside(sheet, at, begun)
        if switch is None:
            if is_inverted:
                sheet.add(elm.Dot(open=True).label(self._pin(at), loc="right"))
            else:
                sheet.add(elm.Line().down().length(0.6))
                sheet.add(elm.Ground())
            return _svg(sheet)
        self._switch(sheet, switch, at)
        return _svg(sheet)

    def _lit(self, lamp: LampDesign, at: str) -> Piece | None:
        """Return the LED, or the first of several, or the load that a line lights."""
        first = f"{lamp.id}.{at.partition('.')[2]}.led"
        return self._piece(first) or self._piece(f"{first}_1") or self._piece(lamp.id)

    def _many(self, at: str) -> int:
        return sum(it.alike == at and it.kind == "lamp" for it in self.circuit.pieces.values())

    def _symbol(self, lamp: LampDesign, piece: Piece) -> Any:
        told = self._told(piece)
        if piece.kind == "resistor":
            return elm.Resistor().right().label(told, loc="top")
        if piece.kind == "lamp":
            series = f", {piece.in_series} in series" if piece.in_series > 1 else ""
            return elm.LED().right().label(_said(told + series), loc="bottom")
        symbol = LOADS.get(lamp.kind)
        if symbol is elm.Inductor2 or symbol is elm.Motor:
            return symbol().right().label(told, loc="bottom", ofst=0.4)
        return elm.RBox().right().label(told, loc="bottom")

    def _beside(self, sheet: Any, at: str, begun: Any) -> None:
        """Draw what stands beside a load: a diode over a coil, a resistor over a disc."""
        for name, symbol in (("flyback", elm.Diode().reverse()), ("across", elm.Resistor())):
            piece = self._piece(f"{at}.{name}")
            if piece is None:
                continue
            end = sheet.here
            sheet.add(elm.Line().at(begun).up().length(1.2))
            top = sheet.here
            sheet.add(symbol.at(top).to((end[0], top[1])).label(self._told(piece), loc="top"))
            sheet.add(elm.Line().at((end[0], top[1])).to(end))
            sheet.move_from(end)

    def _switch(self, sheet: Any, switch: Piece, at: str) -> None:
        is_npn = "B" in switch.pins
        sheet.add(elm.Line().down().length(0.5))
        end = sheet.here
        part = (
            elm.BjtNpn().right().anchor("collector").at(end) if is_npn else elm.NFet().right().reverse().anchor("drain").at(end)
        )
        it = sheet.add(part.label(self._told(switch), loc="right"))
        sheet.add(elm.Ground().at(it.emitter if is_npn else it.source))
        gate = it.base if is_npn else it.gate
        series, pull = self._piece(f"{at}.{'base' if is_npn else 'gate'}"), self._piece(f"{at}.pull_down")
        sheet.add(elm.Line().at(gate).left().length(0.6))
        here = sheet.here
        if pull is not None:
            sheet.add(elm.Dot().at(here))
            sheet.add(elm.Resistor().at(here).down().label(self._told(pull), loc="top"))
            sheet.add(elm.Ground())
        if series is not None:
            sheet.add(elm.Resistor().at(here).left().label(self._told(series), loc="bottom"))
        sheet.add(elm.Dot(open=True).label(self._pin(at), loc="left"))

    # Level shifts

    def parts_of(self, level: LevelDesign) -> dict[str, Piece]:
        """Return the parts that stand in a line, by what they are there."""
        return {name: it for name in PARTS if (it := self._piece(f"{level.id}.{name}")) is not None}

    def shift(self, level: LevelDesign) -> str:
        """Draw how a line gets from its sender to its receiver."""
        school, mine = level.school.id, self.parts_of(level)
        sheet = schemdraw.Drawing(show=False)
        sheet.config(fontsize=11, unit=2.4)
        sheet.add(elm.Dot(open=True).label(_said(f"{level.sender.label} says"), loc="left"))
        if school == "mosfet" and "fet" in mine:
            self._fet(sheet, level, mine)
        elif school == "gate" and "gate" in mine:
            sheet.add(elm.Line().right().length(0.8))
            sheet.add(elm.RBox().right().label(self._told(mine["gate"]), loc="bottom"))
        else:
            through = mine.get("upper") or mine.get("series")
            if through is not None:
                sheet.add(elm.Resistor().right().label(self._told(through), loc="top"))
            if "diode" in mine:
                sheet.add(elm.Diode().right().reverse().label(self._told(mine["diode"]), loc="bottom"))
        self._hung(sheet, level, mine)
        if "in_series" in mine:
            sheet.add(elm.Resistor().right().label(self._told(mine["in_series"]), loc="top"))
        sheet.add(elm.Line().right().length(0.8))
        sheet.add(elm.Dot(open=True).label(_said(f"{level.receiver.label} hears"), loc="right"))
        return _svg(sheet)

    def _hung(self, sheet: Any, level: LevelDesign, mine: dict[str, Piece]) -> None:
        """Draw what goes from the receiver's side to ground, or up to its supply."""
        for name, symbol, is_up in (
            ("lower", elm.Resistor, False),
            ("zener", elm.Zener, False),
            ("pull_up", elm.Resistor, True),
            ("pull", elm.Resistor, level.pull_v is not None),
        ):
            piece = mine.get(name)
            if piece is None:
                continue
            here = sheet.add(elm.Dot()).center
            part = symbol().at(here)
            part = part.up() if is_up else part.down()
            sheet.add(
                (part.reverse() if name == "zener" else part).label(self._told(piece), loc="bottom" if not is_up else "top")
            )
            sheet.add(elm.Vdd().label(_said(f"{level.receiver.label}'s supply")) if is_up else elm.Ground())
            sheet.add(elm.Line().at(here).right().length(2.8 if is_up else 1.6))

    def _fet(self, sheet: Any, level: LevelDesign, mine: dict[str, Piece]) -> None:
        """Draw a MOSFET that lies in the line, its gate at the lower supply, and a pull-up on each side."""
        low, high = level.sender.logic, level.receiver.logic
        is_up = low is None or high is None or low.known <= high.known
        names = ("pull_low", "pull_high") if is_up else ("pull_high", "pull_low")
        here = sheet.add(elm.Line().right().length(1.2)).end
        self._pulled(sheet, here, mine.get(names[0]), level.sender.label)
        fet = elm.NFet().at(here).theta(90)
        it = sheet.add(fet.anchor("drain"))  # its two ends look alike: which is which is written to them
        middle = ((it.drain[0] + it.source[0]) / 2, it.drain[1] - 0.5)
        ends = ("S", "D") if is_up else ("D", "S")
        sheet.add(elm.Label().at(middle).label(f"{ends[0]}  {self._told(mine['fet'])}  {ends[1]}"))
        sheet.add(elm.Line().at(it.gate).up().length(0.4))
        sheet.add(elm.Vdd().label(_said(f"{(level.sender if is_up else level.receiver).label}'s supply")))
        sheet.add(elm.Line().at(it.source).right().length(1.2))
        far = sheet.here
        self._pulled(sheet, far, mine.get(names[1]), level.receiver.label)
        sheet.move_from(far)
        if "pull" in mine:  # the line's own stands beside that one
            sheet.add(elm.Line().at(far).right().length(2.8))

    def _pulled(self, sheet: Any, here: Any, piece: Piece | None, label: str) -> None:
        if piece is None:
            return
        sheet.add(elm.Dot().at(here))
        sheet.add(elm.Resistor().at(here).up().label(self._told(piece), loc="top"))
        sheet.add(elm.Vdd().label(_said(f"{label}'s supply")))


def _svg(sheet: Any) -> str:
    """Return the drawing, with room round it: the library reckons letters narrower than they are."""
    text = str(sheet.get_imagedata("svg").decode())
    found = BOX.search(text)
    if found is None:
        return text
    left, top, wide, high = map(float, found.groups())
    left, top, wide, high = left - ROOM_PT, top - 8, wide + 2 * ROOM_PT, high + 16
    head = f'height="{high:.1f}pt" width="{wide:.1f}pt" viewBox="{left:.1f} {top:.1f} {wide:.1f} {high:.1f}"'
    return f"{text[: found.start()]}{head}{text[found.end() :]}"
