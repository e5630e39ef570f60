"""The steps of bringing a build up, in the order to take them: what, where the probes go, and what the review says is there."""

from collections.abc import Iterator
from typing import Final

from oddlamp.core.base import si
from oddlamp.core.bench.circuit import FIRST, SECOND, Piece, Tap
from oddlamp.core.bench.figures import clocks, put_in_for_good, rail_taken
from oddlamp.core.bench.layers import is_bar
from oddlamp.core.bench.step import PHASES, Phase, Step
from oddlamp.core.bench.wiring import Wiring, told_pin
from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import ChannelDesign, LampDesign
from oddlamp.core.design.lines import SignalDesign
from oddlamp.core.design.values import Value
from oddlamp.core.english import inner
from oddlamp.core.plan.bench import Pass
from oddlamp.core.plan.lights import PIXEL_KINDS

JOINED_OHM: Final = 2.0  # of a wire with the probes' own; common practice
SHORT_OHM: Final = 100.0  # less from plus to ground is looked into before power; common practice
NEAR_NOTHING_V: Final = 0.1
CLAMP_PLAY_V: Final = 0.25  # a clamp diode inside a chip is no certain figure; common practice
LOST_RATIO: Final = 1.5  # what thin strips and contacts make of it; common practice
CONTACT_V: Final = 0.05
FED_KINDS: Final = frozenset({"board", "module", "chip", "gate", "load", "receiver", "sensor"})
HEARD_PINS: Final = ("DIN", "CIN", "CLK", "CS")
WARM_S: Final = 600.0


def steps_of(design: Design, of: Wiring, now: Pass) -> tuple[Step, ...]:
    """List the steps of a build. The final one has a check before its case is closed, and what was a socket or a connector then."""
    maker = _Steps(design, of)
    found = sorted(maker.all(now), key=lambda it: PHASES.index(it.phase))
    return tuple(found)


class _Steps:
    def __init__(self, design: Design, of: Wiring) -> None:
        self.design, self.of, self.circuit = design, of, of.circuit

    def all(self, now: Pass) -> Iterator[Step]:
        """Yield the steps, each phase in its own order; none where there is nothing to bring up."""
        if not self.circuit.pieces:
            return
        if now == "final":
            yield from put_in_for_good(self.circuit)
        yield from self._off()
        yield from self._bare()
        yield from self._quiet()
        yield from clocks(self.design)
        for lamp in self.design.lamps.values():
            yield from self._lit(lamp)
        yield from self._whole(now)

    def _measured(self, step_id: str, phase: Phase, title: str, how: str, value: Value, **more: object) -> Iterator[Step]:
        """Yield a step that measures a value of the review, where that is known."""
        if value.value is None:
            return
        because = value.working[0].substituted if value.working else value.because or ""
        yield Step(
            step_id, phase, title, how, value.stage, unit=value.unit, value_id=value.id, nominal=value.known, because=because,
            **{"least": value.low, "most": value.high, **more},  # type: ignore[arg-type]
        )  # fmt: skip

    # Nothing is switched on yet

    def _off(self) -> Iterator[Step]:
        for net in self.circuit.nets:
            if net.kind == "ground" and is_bar(net):
                how = f"Power off, plug out. One probe on {inner(net.label)}, the other on each ground pin in turn: {self._listed(net.taps)}. Type the most you see."
                yield Step(f"ground.{net.id}", "off", f"{net.label}: every ground pin is joined.", how, "", unit="ohm", least=0.0, most=JOINED_OHM, because="a wire and the probes, common practice")  # fmt: skip
        for net in self.circuit.nets:
            if net.kind == "supply" and is_bar(net):
                how = "Still off. Red on plus, black on ground; it may climb while capacitors fill: wait until it stands."
                yield Step(f"short.{net.id}", "off", f"{net.label}: no short to ground.", how, net.stage, unit="ohm", least=SHORT_OHM, because="less is a short, or something the wrong way round; common practice")  # fmt: skip
        yield from self._joined()
        seen: set[str] = set()
        for piece in self.circuit.pieces.values():
            if piece.kind == "resistor" and piece.made is not None and (piece.alike or piece.id) not in seen:
                seen.add(piece.alike or piece.id)
                yield self._resistor(piece)

    def _listed(self, taps: tuple[Tap, ...]) -> str:
        places = [self.of.names[it.piece] for it in taps if not self.circuit.pieces[it.piece].is_inline]
        return ", ".join(dict.fromkeys(places))

    def _resistor(self, piece: Piece) -> Step:
        alike = [it for it in self.circuit.pieces.values() if it.kind == "resistor" and piece.alike and it.alike == piece.alike]
        many = f" It is one of {len(alike)} alike: measure each, and type the one that is furthest off." if len(alike) > 1 else ""
        tolerance = self._tolerance(piece)
        made = piece.made or 0.0
        return Step(
            f"ohms.{piece.id}", "off", f"{self.of.part(piece.id)}, {piece.why}.",
            f"Across its two legs before it goes in, or with one leg free: what else hangs on it counts otherwise.{many}",
            piece.stage, unit="ohm", least=made * (1 - tolerance), nominal=made, most=made * (1 + tolerance),
            because=f"± {si(tolerance, 'ratio')} as it is made", value_id=self._value_of(piece), piece=piece.id,
            takes=piece.value_path if self.circuit.is_alone(piece) else (),
        )  # fmt: skip

    def _tolerance(self, piece: Piece) -> float:
        signal = self.design.signals.get(piece.id.rpartition(".")[0])
        if signal is not None and signal.level is not None and signal.level.tolerance is not None:
            return signal.level.tolerance.known
        for lamp in self.design.lamps.values():
            for channel in lamp.channels:
                if piece.id.startswith(f"{channel.signal_id}.resistor"):
                    return channel.tolerance.known
        return self._usual_tolerance

    @property
    def _usual_tolerance(self) -> float:
        return self.design.catalog.resistors[self.design.catalog.proposals["resistor"].part or ""].tolerance_ratio.value

    def _value_of(self, piece: Piece) -> str:
        """Return the id of the value that a resistor was made from."""
        for signal in self.design.signals.values():
            level = signal.level
            if level is not None and piece.id.startswith(f"{signal.line.id}."):
                found = next(
                    (it for it in level.parts if it.value == piece.made and it.unit == "ohm" and it.path == piece.value_path),
                    None,
                )
                if found is not None:
                    return found.id
        for lamp in self.design.lamps.values():
            for value in _ohms_of(lamp):
                if value.path == piece.value_path and value.value == piece.made and piece.id.startswith(f"{lamp.id}."):
                    return value.id
        return ""

    # Supply alone

    def _bare(self) -> Iterator[Step]:
        for rail in self.design.rails.values():
            feed = rail.feed
            if feed is None:
                continue
            ground = next((net for net in self.circuit.nets if net.id == f"ground.{rail.end or 'here'}"), None)
            named = {net.id for net in self.circuit.nets}
            red = Tap(f"rail.{rail.id}", "") if f"rail.{rail.id}" in named else None
            black = Tap(ground.id, "") if ground is not None else None
            takes = ("measured", rail.voltage.id)
            lithium = feed.source is not None and feed.source.is_lithium
            caution = "Lithium cells: no short, not for a moment; a fuse at the cell." if lithium else ""
            if feed.converter is not None and feed.converter.has_trimmer:
                how = f"Nothing on its output yet. Feed it, turn its trimmer until the meter shows {rail.voltage.text}, then fix the trimmer with a drop of varnish."
                yield from self._measured(f"set.{rail.id}", "bare", f"Set {inner(feed.label)} to {rail.voltage.text}.", how, rail.voltage, red=red, black=black, takes=takes, caution=caution)  # fmt: skip
                continue
            is_board = feed.kind == "board"
            how = (
                "Boards and modules out of their sockets. Red on plus, black on ground; a minus on the meter means the wrong way round."
                if not is_board
                else "The board alone, powered. Red on that pin, black on ground."
            )
            yield from self._measured(f"rail.{rail.id}", "quiet" if is_board else "bare", f"{rail.label}: {rail.voltage.text}.", how, rail.voltage, red=red, black=black, takes=takes, caution=caution)  # fmt: skip

    # The program runs, and nothing is said

    def _quiet(self) -> Iterator[Step]:
        for piece in self.circuit.pieces.values():
            if piece.kind in FED_KINDS:
                yield from self._at_pins(piece)
        for signal in self.design.signals.values():
            level, line = signal.level, signal.line
            if level is None or level.is_omitted or level.received.value is None or self._has_no_pin(signal):
                continue
            over = self.design.passages[line.id].found("LVL-OVER")
            if over is not None and over.severity == "stop":
                continue  # it is not to be powered so: its verdict comes first
            clamped = {"least": level.received.low - CLAMP_PLAY_V, "most": level.received.high + CLAMP_PLAY_V} if level.school.id == "clamp" else {}  # fmt: skip
            ground = f"ground.{level.receiver.end or 'here'}"
            if line.kind == "wire" and not line.is_usb:
                far = self.of.names.get(line.receiver or "", level.receiver.label)
                where = "between the two resistors" if level.school.id == "divider" else f"where the {inner(far)} listens"
                how = f"Black on ground, red {where}. Everything in its socket, nothing sent: an idle line is high."
                yield from self._measured(f"idle.{line.id}", "quiet", f"Volts where the {inner(far)} listens, nothing sent.", how, level.received, red=self._far(signal), black=Tap(ground, ""), **clamped)  # fmt: skip
            elif line.kind == "input":
                yield from self._input(signal, ground)

    def _at_pins(self, piece: Piece) -> Iterator[Step]:
        """Yield the volts at the pins that feed a part: where its rail and its ground really arrive."""
        nets = {pin: net for pin in piece.pins if (net := self.circuit.net_of.get(Tap(piece.id, pin))) is not None}
        plus = next((pin for pin, net in nets.items() if net.kind == "supply" and net.id.startswith("rail.")), None)
        minus = next((pin for pin, net in nets.items() if net.kind == "ground"), None)
        if plus is None or minus is None or "+" in piece.pins:
            return
        rail = self.design.rails[nets[plus].id.removeprefix("rail.")]
        name = self.of.names[piece.id]
        how = f"In its socket, all dark. Right at its pins: red on {told_pin(piece, plus)}, black on {told_pin(piece, minus)}."
        yield from self._measured(f"fed.{piece.id}", "quiet", f"{name}: its supply arrives.", how, rail.voltage, red=Tap(piece.id, plus), black=Tap(piece.id, minus), piece=piece.id)  # fmt: skip

    def _has_no_pin(self, signal: SignalDesign) -> bool:
        return signal.line.near is not None and (signal.pin is None or signal.pin.label is None)

    def _far(self, signal: SignalDesign) -> Tap | None:
        """Return the pin at which a line arrives."""
        receiver = signal.line.receiver
        for name in (f"{signal.line.id}:far", signal.line.id):
            net = next((it for it in self.circuit.nets if it.id == name), None)
            found = next((it for it in net.taps if it.piece == receiver), None) if net is not None else None
            if found is not None:
                return found
        return None

    def _input(self, signal: SignalDesign, ground: str) -> Iterator[Step]:
        level, line = signal.level, signal.line
        if level is None or signal.pin is None:
            return
        kind, name = self.design.plan.inputs[line.owner_id].kind, inner(line.name)
        red, black = Tap(signal.pin.host, signal.pin.label or ""), Tap(ground, "")
        where = f"Black on ground, red on pin {signal.pin.label}"
        if kind in ("button", "switch"):
            told = self.design.plan.signals.get(line.id)
            is_down = told is not None and told.pull_ohm is not None and told.pull_to == "ground"
            state = "pressed" if kind == "button" else "switched on"
            rest = "pressed" if is_down else "let go" if kind == "button" else "switched off"
            yield from self._measured(f"high.{line.id}", "quiet", f"{line.name}, {state if is_down else rest}: high.", f"{where}. The program runs, so that its own pull-up is there.", level.received, red=red, black=black)  # fmt: skip
            other = ("let go" if kind == "button" else "switched off") if is_down else state
            yield Step(f"low.{line.id}", "quiet", f"{line.name}, {other}: near nothing.", f"{where}, while it is {other}.", line.stage, unit="V", least=0.0, nominal=0.0, most=NEAR_NOTHING_V, because="a contact that is closed, common practice", red=red, black=black)  # fmt: skip
        elif kind == "knob":
            yield from self._measured(f"high.{line.id}", "quiet", f"{line.name}, turned all the way up.", f"{where}, while {name} is turned up.", level.sent, red=red, black=black)  # fmt: skip
            yield Step(f"low.{line.id}", "quiet", f"{line.name}, turned all the way down: near nothing.", f"{where}, while {name} is turned down.", line.stage, unit="V", least=0.0, nominal=0.0, most=NEAR_NOTHING_V, because="its end at ground, common practice", red=red, black=black)  # fmt: skip

    # Lamp by lamp, with the program that tries the wiring

    def _lit(self, lamp: LampDesign) -> Iterator[Step]:
        for channel in lamp.channels:
            yield from self._channel(lamp, channel)
        if lamp.kind in PIXEL_KINDS:
            yield Step(f"order.{lamp.id}", "lit", f"{lamp.label} shows red, then green, then blue.", "Let the program that tries the wiring run. Another order is told on its sheet, as it was seen.", lamp.stage, kind="look")  # fmt: skip
            strip = self.design.strips.get(lamp.id)
            if strip is not None:
                how = "All white. Red on plus at its start, then on plus at its end, black on ground at the same place each time: the difference."
                yield from self._measured(
                    f"lost.{lamp.id}",
                    "lit",
                    f"{lamp.label}: volts lost to its end.",
                    how,
                    strip.lost,
                    least=0.0,
                    most=LOST_RATIO * (strip.lost.value or 0.0) + CONTACT_V,
                    **rail_taken(lamp, strip),
                )
        if lamp.load is not None:
            yield from self._fed(lamp)
        if lamp.kind not in PIXEL_KINDS and not lamp.channels:
            what = {"buzzer": "sounds", "relay": "clicks", "motor": "turns", "matrix": "shows its test"}.get(lamp.kind, "is lit")
            caution = "Fingers out of the way; know where the plug is." if lamp.kind == "motor" else "No mains on it yet: its contacts are tried with nothing on them." if lamp.load is not None and lamp.load.is_mains_side else ""  # fmt: skip
            yield Step(f"look.{lamp.id}", "lit", f"{lamp.label} {what}.", "Let the program that tries the wiring run, or switch it by hand.", lamp.stage, kind="look", caution=caution)  # fmt: skip

    def _fed(self, lamp: LampDesign) -> Iterator[Step]:
        """Yield the volts at a load itself, while it is switched on and off."""
        piece, load = self.circuit.pieces.get(lamp.id), lamp.load
        if piece is None or load is None:
            return
        if load.across_on is not None and {"+", "−"} <= set(piece.pins):
            red, black = Tap(lamp.id, "+"), Tap(lamp.id, "−")
            yield from self._measured(f"on.{lamp.id}.main", "lit", f"{lamp.label}, on: volts across it.", "Switched on by the program that tries the wiring, or by hand. Right at its two ends.", load.across_on, red=red, black=black)  # fmt: skip
            yield Step(f"still.{lamp.id}.main", "lit", f"{lamp.label}, off: nothing across it.", "The same place, while it is off.", lamp.stage, unit="V", least=-NEAR_NOTHING_V, nominal=0.0, most=NEAR_NOTHING_V, because="no current, no volts", red=red, black=black)  # fmt: skip

    def _joined(self) -> Iterator[Step]:
        """Yield the way of each line that nothing else measures: from the board's pin to where it is heard, through the resistor in it."""
        usual = self._usual_tolerance
        for signal in self.design.signals.values():
            level = signal.level
            if signal.line.kind != "data" or level is None or level.is_omitted or signal.pin is None or signal.pin.label is None:
                continue
            red = Tap(signal.pin.host, signal.pin.label)
            net = self.circuit.net_of.get(red)
            gate = self.circuit.pieces.get(f"{signal.line.id}.gate")
            far = next(
                (Tap(signal.line.owner_id, it) for it in HEARD_PINS if self._is_of(Tap(signal.line.owner_id, it), signal)), None
            )
            black = Tap(gate.id, "IN") if gate is not None else far
            if net is None or black is None or level.school.id not in ("direct", "gate", "diode-fed"):
                continue
            in_series = level.series if gate is None else None
            ohm = in_series.value if in_series is not None and in_series.value is not None else 0.0
            more = f", {si(ohm, 'ohm')} of its resistor" if ohm else ""
            yield Step(f"joined.{signal.line.id}", "off", f"{signal.line.name}: its way is whole.", f"Power off, the board out of its socket. From {self.of.name(red)} to {self.of.name(black)}{more}.", signal.line.stage, unit="ohm", least=ohm * (1 - usual), nominal=ohm or None, most=ohm * (1 + usual) + JOINED_OHM, because="a wire and the probes, common practice" if not ohm else "its resistor, and a wire", value_id=in_series.id if in_series is not None and ohm else "", red=red, black=black)  # fmt: skip
            if gate is not None and level.series is not None and level.series.value is not None and far is not None:
                made = level.series.known
                yield Step(f"joined.{signal.line.id}.far", "off", f"{signal.line.name}: from its gate on.", f"Power off. From {self.of.name(Tap(gate.id, 'OUT'))} to {self.of.name(far)}, {level.series.text} of its resistor.", signal.line.stage, unit="ohm", least=made * (1 - usual), nominal=made, most=made * (1 + usual) + JOINED_OHM, because="its resistor, and a wire", value_id=level.series.id, red=Tap(gate.id, "OUT"), black=far)  # fmt: skip

    def _is_of(self, tap: Tap, signal: SignalDesign) -> bool:
        net = self.circuit.net_of.get(tap)
        return net is not None and net.id.partition(":")[0] == signal.line.id

    def _channel(self, lamp: LampDesign, channel: ChannelDesign) -> Iterator[Step]:
        name = lamp.label if channel.id == "main" else f"{lamp.label}, {channel.id}"
        first = f"{channel.signal_id}.resistor"
        piece = first if first in self.circuit.pieces else f"{first}_1"
        if piece not in self.circuit.pieces or channel.across.value is None:
            return
        many = channel.in_parallel > 1 and channel.sharing == "each"
        how = f"Lit by the program that tries the wiring. One probe on each leg of {self.of.designators[piece]}" + (f"; each of the {channel.in_parallel} alike, and type the one furthest off" if many else "") + f". It means {channel.current_with_pin.text} through the LED."  # fmt: skip
        caution = {"infra-red": "Its light is not seen, and reaches the eye all the same: do not look into it.", "ultraviolet": "Shield eyes and skin, even when it looks dim."}.get(channel.led.caution or "", "")  # fmt: skip
        red, black = Tap(piece, FIRST), Tap(piece, SECOND)
        yield from self._measured(f"lit.{channel.signal_id}", "lit", f"{name}, lit: volts across {self.of.part(piece)}.", how, channel.across, red=red, black=black, piece=piece, caution=caution)  # fmt: skip
        if channel.in_series == 1 and not many:
            taps = self._leds_taps(lamp, channel)
            less_v = _less_at(channel)
            yield from self._measured(f"drop.{channel.signal_id}", "lit", f"{name}, lit: volts across the LED itself.", "Red on its anode, the longer leg, black on its cathode. What it drops is the one number that differs most from part to part.", channel.forward, red=taps[0], black=taps[1], least=channel.forward.low - less_v, takes=("measured", channel.forward.id) if less_v < NEAR_NOTHING_V else (), settles=((channel.resistor.path, channel.resistor.known),))  # fmt: skip
        if channel.ghost is None:
            yield Step(f"dark.{channel.signal_id}", "lit", f"{name}, dark: nothing across {self.of.designators[piece]}.", "The same place, while it is off.", lamp.stage, unit="V", least=-NEAR_NOTHING_V, nominal=0.0, most=NEAR_NOTHING_V, because="no current, no volts", red=red, black=black, piece=piece)  # fmt: skip

    def _leds_taps(self, lamp: LampDesign, channel: ChannelDesign) -> tuple[Tap | None, Tap | None]:
        """Return anode and cathode of one LED, or of one colour of three."""
        for led in (f"{lamp.id}.{channel.id}.led", f"{lamp.id}.{channel.id}.led_1"):
            if led in self.circuit.pieces:
                return Tap(led, "anode"), Tap(led, "cathode")
        own, common = Tap(lamp.id, channel.id), Tap(lamp.id, "common")
        if own not in self.circuit.net_of or common not in self.circuit.net_of:
            return None, None
        return (common, own) if lamp.common is not None and lamp.common.id == "anode" else (own, common)

    # All of it

    def _whole(self, now: Pass) -> Iterator[Step]:
        for node in self.design.nodes.values():
            if node.node.kind == "module":
                yield Step(f"blink.{node.id}", "whole", f"{node.label} in its socket: its light blinks as it waits.", "Its sheet shows how it should blink.", node.stage, kind="look")  # fmt: skip
        for talk in self.design.talks.values():
            word = next(iter(talk.vocabulary.words), None)
            if word is not None:
                yield Step(f"word.{talk.id}", "whole", f"The first word arrives: {word.label}.", "Pair, open a terminal, and send it. Then from the phone itself.", f"vocabularies.{talk.vocabulary.id}", kind="look")  # fmt: skip
        for rail in self.design.rails.values():
            budget = self.design.budgets.get(rail.id)
            if budget is None or rail.feed is None or rail.feed.kind != "source":
                continue
            lit = "Everything lit at once, all white."
            yield from self._measured(f"amps.{rail.id}", "whole", f"{rail.label}: current with all of it lit.", f"{lit} The meter in the plus lead, its range over {budget.worst.text}. Less is no fault: parts are reckoned at their most.", budget.worst, least=0.0)  # fmt: skip
            yield from self._measured(f"load.{rail.id}", "whole", f"{rail.label}: volts with all of it lit.", f"{lit} Red on plus, black on ground.", budget.loaded, **_spread_like(budget.loaded, rail.voltage))  # fmt: skip
        yield Step("warm", "whole", "Ten minutes with everything lit, then touch what may be warm.", "Regulators, transistors, resistors, the plug. What cannot be touched for three seconds is too hot: power off.", "", kind="wait", wait_s=WARM_S, caution="Hot parts burn: come near with the back of a finger.")  # fmt: skip
        if self.design.airs:
            yield Step("range", "whole", "Walk as far as it will be used from, and press.", "Through the walls and people that will be there.", "", kind="look")  # fmt: skip
            yield Step("lost", "whole", "Switch the phone's radio off while something is lit.", "It does what the plan says for a lost link.", "", kind="look")  # fmt: skip
        yield Step("cut", "whole", "Pull the plug, and put it in again.", "It comes up as the plan says, and nothing twitches.", "", kind="look")  # fmt: skip
        if now == "final":
            yield Step("closing", "whole", "Once more from the first word on, before the case is closed.", "And after it is closed: once more.", "", kind="look")  # fmt: skip


def _less_at(channel: ChannelDesign) -> float:
    """Return by how much less an LED drops at the current it has here than at the one its drop is told for, V."""
    branch, current = channel.branch, channel.curve
    if branch is None or branch.curve is None or not current.value or channel.forward.value is None:
        return 0.0
    return max(0.0, branch.curve.forward_voltage_v - branch.curve.drop_v(current.value))


def _spread_like(value: Value, like: Value) -> dict[str, float]:
    """Return the bounds of a value that is as far off as another may be."""
    if value.value is None or not like.value:
        return {}
    return {"least": value.low * like.low / like.value, "most": value.high * like.high / like.value}


def _ohms_of(lamp: LampDesign) -> Iterator[Value]:
    """Walk the resistors of a lamp."""
    for channel in lamp.channels:
        yield channel.resistor
    for switch in (lamp.switch, *(it.switch for it in lamp.channels)):
        if switch is not None:
            yield switch.series
            if switch.pull_down is not None:
                yield switch.pull_down
    if lamp.load is not None and lamp.load.across is not None:
        yield lamp.load.across
