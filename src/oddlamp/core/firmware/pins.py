"""The pins of a printed program: lamps, chains, displays, senders, inputs and ports, each by the name it has on the board."""

from collections.abc import Iterator
from typing import Final

from oddlamp.core.behaviour.each import keys_of
from oddlamp.core.behaviour.inputs import TURNED_MOST
from oddlamp.core.behaviour.program import Event, InputSpec, Program
from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import LampDesign
from oddlamp.core.design.lines import PinDesign
from oddlamp.core.firmware.calls import Row
from oddlamp.core.firmware.names import event_named, named, pin_number, said
from oddlamp.core.layouts.can import face_of
from oddlamp.core.layouts.signs import MODULE
from oddlamp.core.modules.known import links_known
from oddlamp.core.parts.models import BoardPart
from oddlamp.core.plan.lights import PIXEL_KINDS, MatrixLamp
from oddlamp.core.plan.model import Input
from oddlamp.core.plan.signals import input_lines, span_of, told_by
from oddlamp.core.resolve.passages import clock_chip, clock_of

HELD: Final = {"key": "LOW", "enable": "HIGH", "reset": "HIGH"}
PIN_NONE: Final = "0"
SHARES: Final = ("red", "green", "blue")
ON_OFF_TOP: Final = 1
DUTY_TOP: Final = 255


class Pins:
    """The pins of one host's program. ``told`` are their names, each once, in the order of the plan's lines."""

    def __init__(self, design: Design, program: Program) -> None:
        self.design, self.program, self.host = design, program, program.host
        self.part = design.nodes[self.host].part
        self.known = {*program.handlers, *own_events(design, self.host)}
        self.told: list[Row] = []
        self._names: dict[tuple[str, str], str] = {}
        for pin in design.pins:
            if pin.host == self.host and pin.label is not None and pin.line.kind != "wire":
                name = named("PIN", f"{pin.line.owner_id}_{pin.line.lead}")
                if (pin.line.id, pin.field) not in self._names:
                    self._names[pin.line.id, pin.field] = name
                    number = pin_number(self.part, pin.label) if self.part is not None else pin.label
                    self.told.append(
                        {
                            "name": name,
                            "pin": number,
                            "told": said(pin.name),
                            "stage": pin.line.stage,
                            "label": pin.label,
                            "line": pin.line,
                        }
                    )

    def of(self, line: str) -> str:
        """Return the name of a line's pin at this host."""
        signal = self.design.signals[line]
        for pin in (signal.pin, signal.far_pin):
            if pin is not None and (line, pin.field) in self._names and pin.host == self.host:
                return self._names[line, pin.field]
        return PIN_NONE

    def lamps(self, *, sounds: bool) -> Iterator[Row]:
        """Yield the pin of each line of each lamp that shows a light: how, which of its lights, and what it shows at most."""
        for name in self.program.lamps:
            lamp = self.design.lamps[name]
            if lamp.kind in PIXEL_KINDS or lamp.kind == "matrix" or lamp.sends_codes:
                continue
            inverted = {it.signal_id: it.is_inverted for it in lamp.channels}
            for light, signal in enumerate(self.design.lamp_signals(lamp)):
                if signal.pin is not None and signal.pin.label is not None:
                    is_low = inverted.get(signal.line.id, lamp.load is not None and lamp.load.on_when == "low")
                    yield {
                        "pin": self._number(signal.pin),
                        "lamp": named("LAMP", name),
                        "light": light,
                        "is_inverted": is_low,
                        "line": signal.line.id,
                        "stage": signal.line.stage,
                        "label": signal.pin.label,
                        "host": signal.pin.host,
                        **self._shows(lamp, signal.pin, sounds=sounds),
                    }

    def _number(self, pin: PinDesign) -> str:
        if pin.host == self.host:
            return self.of(pin.line.id)
        return str(16 * self.chips.index(pin.host) + int((pin.label or "0").lstrip("OP")))

    @property
    def chips(self) -> list[str]:
        """The chips beside the board that its program tells."""
        plan = self.design.plan
        mine = [it for it, node in plan.nodes.items() if node.kind == "chip" and told_by(plan, it) == self.host]
        return [it for it in mine if clock_chip(self.design, it) is None]

    @property
    def clock(self) -> int | None:
        """The address of the chip that tells the time, 7 bits; None for none."""
        return clock_of(self.design, self.host)

    def _shows(self, lamp: LampDesign, pin: PinDesign, *, sounds: bool) -> Row:
        is_dimmed = lamp.id in self.design.dimmed and "pwm" in pin.needs
        if pin.host != self.host:
            return {"kind": "CHIP_DIMMED", "top": 4095} if is_dimmed else {"kind": "CHIP_SWITCHED", "top": ON_OFF_TOP}
        if lamp.kind == "buzzer" and sounds:
            tone = lamp.load.tone if lamp.load is not None else None
            own = 0 if tone is None or tone.makes_own or tone.frequency.value is None else round(tone.frequency.value)
            return {"kind": "SOUNDS", "top": own}
        if is_dimmed:
            return {"kind": "DIMMED", "top": self.part.pwm_steps - 1 if isinstance(self.part, BoardPart) else DUTY_TOP}
        return {"kind": "SWITCHED", "top": ON_OFF_TOP}

    def chains(self) -> Iterator[Row]:
        """Yield each chain of pixels with its pins and the order its colours are sent in."""
        for name in self.program.lamps:
            lamp, plan = self.design.lamps[name], self.design.plan.lamps[name]
            if lamp.kind not in PIXEL_KINDS:
                continue
            pixel = lamp.load.pixel if lamp.load is not None else None
            told = getattr(plan, "order_seen", None) or getattr(plan, "colour_order", None)
            order = str(told or (pixel.colour_order if pixel is not None else "green-red-blue"))
            is_clocked = lamp.kind == "pixels-clocked"
            yield {
                "id": name,
                "lamp": named("LAMP", name),
                "data": self.of(f"{name}.data"),
                "clock": self.of(f"{name}.clock") if is_clocked else PIN_NONE,
                "is_clocked": is_clocked,
                "order": [SHARES.index(it) for it in order.split("-")],
            }

    def panels(self, place_of: dict[str, int]) -> Iterator[Row]:
        """Yield each display of modules: its pins, and how its modules stand."""
        first = 0
        for name in self.program.lamps:
            plan = self.design.plan.lamps[name]
            face = face_of(plan)
            if not isinstance(plan, MatrixLamp) or face is None:
                continue
            count, panel = plan.count or 1, plan.panel
            both = panel is not None and bool(panel.is_back_to_back)
            yield {
                "id": name,
                "lamp": named("LAMP", name),
                **{it: self.of(f"{name}.{it}") for it in ("data", "clock", "select")},
                "place": place_of[name],
                "first": first,
                "count": count,
                "seen": min((count + 1) // 2 if both else count, face.rows // MODULE * (face.columns // MODULE)),
                "turned": panel.turned or 0 if panel is not None else 0,
                "is_zig_zag": panel is not None and panel.turns == "zig-zag",
                "is_both_sides": both,
            }
            first += count

    def senders(self) -> Iterator[Row]:
        """Yield the infra-red LEDs that send codes."""
        for name in self.program.lamps:
            if self.design.lamps[name].sends_codes:
                yield {"id": name, "lamp": named("LAMP", name), "pin": self.of(f"{name}.{'main'}")}

    def inputs(self) -> Iterator[Row]:
        """Yield the inputs, each as it counts, and the events it sets off."""
        for name, it in self.design.plan.inputs.items():
            if it.host != self.host:
                continue
            for at, line in enumerate(input_lines(name, it)):
                key = name if it.count in (None, 1) else f"{name}.{at + 1}"
                yield self._input(key, self.program.inputs[key], it, line)

    @property
    def one_lines(self) -> list[str]:
        """The sensors that tell what they sense as bits on one line."""
        mine = [(name, it) for name, it in self.design.plan.inputs.items() if it.host == self.host and span_of(it) is not None]
        return [key for name, it in mine for key in keys_of(name, it)]

    def _input(self, key: str, spec: InputSpec, it: Input, line: str) -> Row:
        down, up = ("pressed", "released") if spec.kind == "button" else ("on", "off")
        is_low, is_pulled = self._rests(it, line)
        kind = "CONTACT" if spec.kind != "turned" else "TURNED" if spec.upper is None else "SENSOR"
        return {
            "key": key,
            "name": named("INPUT", key),
            "label": said(it.label or key),
            "stage": f"inputs.{key.partition('.')[0]}",
            "pin": self.of(line),
            "reads": f"ONE_LINE + {self.one_lines.index(key)}" if span_of(it) is not None else self.of(line),
            "kind": kind,
            "is_low": is_low,
            "is_pulled": is_pulled,
            "settle_ms": spec.settle_ms,
            "play": spec.play,
            "upper": TURNED_MOST if spec.upper is None else spec.upper,
            "lower": spec.lower,
            **{way: self.event(("input", key, what)) for way, what in (("down", down), ("up", up), ("moved", "moved"))},
        }

    def event(self, event: tuple[str, ...]) -> str:
        """Return the name of an event that sets something off, else that of none."""
        return event_named(event) if event in self.known else "EVENTS"

    def _rests(self, it: Input, line: str) -> tuple[bool, bool]:
        """Tell whether a contact is on while its line is low, and whether the board's own pull-up makes the high.

        A button or switch connects to ground, and a pull-up makes the high; where its line is pulled to ground it connects
        to the supply.
        """
        signal = self.design.plan.signals.get(line)
        pull_to = signal.pull_to if signal is not None and signal.pull_ohm is not None else None
        if it.kind in ("button", "switch"):
            return pull_to != "ground", pull_to is None
        return it.idle_high is True, False

    def held(self) -> Iterator[Row]:
        """Yield the pins of a module that the board holds: its key low, so that it carries words, enable and reset high, so that it runs."""
        for name, signal in self.design.signals.items():
            kind = signal.line.kind
            if kind in HELD and signal.line.near == self.host and signal.pin is not None and signal.pin.label is not None:
                yield {"pin": self.of(name), "level": HELD[kind], "told": said(signal.line.name)}

    def states(self) -> Iterator[Row]:
        """Yield the pins on which a module tells whether it is linked."""
        for it in links_known(self.design):
            if it.board == self.host and it.by == "pin" and it.module is not None:
                lost, back = (self.event(("link", it.air, what)) for what in ("lost", "back"))
                yield {"pin": self.of(f"{it.module}.state"), "lost": lost, "back": back, "air": it.air}


def own_events(design: Design, host: str) -> list[Event]:
    """Return the words for which the maker has a region of their own, in the order of the plan's words."""
    own = design.plan.programs.get(host)
    talks = [it for it in design.talks.values() if host in (it.a, it.b)]
    heard = {word.id for it in talks for word in it.vocabulary.words if word.direction == ("out" if it.b == host else "back")}
    wanted = [it.partition(".")[2] for it in (own.regions if own is not None else ()) if it.startswith("heard.")]
    return [("heard", it) for it in wanted if it in heard]


def all_lines_have_pins(design: Design, program: Program) -> Iterator[str]:
    """Yield the lamps and inputs whose lines have no pin."""
    for name in program.lamps:
        lamp = design.lamps[name]
        if any(it.pin is None or it.pin.label is None for it in design.lamp_signals(lamp)):
            yield f"{lamp.label}, which has no pin for each of its lines"
    for name, it in design.plan.inputs.items():
        if it.host == program.host and any(
            (pin := design.signals[line].pin) is None or pin.label is None for line in input_lines(name, it)
        ):
            yield f"{it.label or name}, which has no pin"
