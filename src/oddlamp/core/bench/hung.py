"""What hangs on lines: every lamp with its resistors, and with the transistor that drives it."""

from typing import Final

from oddlamp.core.bench.circuit import Piece, Tap
from oddlamp.core.bench.lines import Lines
from oddlamp.core.bench.making import GND, Maker
from oddlamp.core.design.lamps import ChannelDesign, LampDesign, SwitchDesign
from oddlamp.core.design.lines import SignalDesign
from oddlamp.core.plan.lights import CHANNEL_KINDS, PIXEL_KINDS

PLUS: Final = "V+"
LEADS_OF: Final = {
    "pixels-one-wire": {"data": "DIN"},
    "pixels-clocked": {"data": "DIN", "clock": "CIN"},
    "matrix": {"data": "DIN", "clock": "CLK", "select": "CS"},
}


class Hung:
    """Hangs lamps on the lines of a circuit that is being put together."""

    def __init__(self, maker: Maker, lines: Lines) -> None:
        self.of, self.lines, self.design, self.ties = maker, lines, maker.design, maker.ties

    def lamp(self, lamp: LampDesign) -> None:
        """Put one lamp in, with what drives it."""
        if lamp.kind in CHANNEL_KINDS:
            self._leds(lamp)
        elif lamp.kind in LEADS_OF:
            self._told(lamp)
        else:
            self._load(lamp)

    def _up(self, lamp: LampDesign) -> str | None:
        if lamp.rail_id is None:
            self.ties.open.append(f"No rail feeds {lamp.label}.")
            return None
        return self.of.rail(lamp.rail_id)

    def _ground(self, lamp: LampDesign) -> str:
        host = self.design.nodes[lamp.host]
        return self.of.ground(self.of.end_of(lamp.rail_id, host) if lamp.takes_rail else host.end)

    def _pin(self, lamp: LampDesign, lead: str) -> tuple[SignalDesign, str] | None:
        """Return a line of a lamp and the net at its pin; None where it has none yet."""
        signal = self.design.signals[f"{lamp.id}.{lead}"]
        tap = self.of.host_tap(signal, lamp.host)
        if tap is None:
            return None
        net = self.of.net_at(signal.line)
        self.ties.tie(net, tap)
        return signal, net

    # LEDs

    def _leds(self, lamp: LampDesign) -> None:
        up = self._up(lamp) if lamp.takes_rail else None
        if lamp.takes_rail and up is None:
            return
        counts = {(it.in_series, it.in_parallel) for it in lamp.channels}
        is_one = lamp.kind == "rgb" and counts == {(1, 1)}
        for channel in lamp.channels:
            found = self._pin(lamp, channel.id)
            if found is None:
                continue
            signal, net = found
            low = self._switched(lamp, channel.switch, net, channel.signal_id, signal) if channel.switch is not None else None
            # Of a lamp on a plain pin the current comes from it, or goes into it; of a switched one it goes into the switch.
            is_from_pin = low is None and not channel.is_inverted
            driven = low or net
            far = self._ground(lamp) if is_from_pin else str(up)
            self._channel(lamp, channel, driven, far, is_from_pin=is_from_pin, is_one=is_one)

    def _channel(
        self, lamp: LampDesign, channel: ChannelDesign, driven: str, far: str, *, is_from_pin: bool, is_one: bool
    ) -> None:
        """Put the strings of a channel between its driven net and the far one, each with a resistor, or all with one."""
        signal = self.design.signals[channel.signal_id]
        more = f"{channel.tolerance.text}, {channel.rating.text}" if channel.rating.value is not None else channel.tolerance.text
        shared = channel.sharing == "one" and channel.in_parallel > 1
        alike = channel.signal_id if channel.in_parallel > 1 else ""
        for at in range(1, channel.in_parallel + 1):
            end = f"_{at}" if channel.in_parallel > 1 else ""
            led = lamp.id if is_one else f"{lamp.id}.{channel.id}.led{end}"
            anode, cathode = self._led(lamp, channel, led, end, alike, is_one=is_one, is_from_pin=is_from_pin)
            mine, common = (anode, cathode) if is_from_pin else (cathode, anode)
            behind = self.of.net_at(signal.line, "led" if shared else f"led{end}")
            resistor = f"{channel.signal_id}.resistor" + ("" if shared else end)
            if channel.resistor.value is None:
                self.ties.tie(driven, mine)
            else:
                if not shared or at == 1:
                    self.of.resistor(
                        resistor, channel.resistor, driven, behind, "sets the current", more=more, alike="" if shared else alike
                    )
                self.ties.tie(behind, mine)
            self.ties.tie(far, common)

    def _led(
        self, lamp: LampDesign, channel: ChannelDesign, led: str, end: str, alike: str, *, is_one: bool, is_from_pin: bool
    ) -> tuple[Tap, Tap]:
        """Put in an LED, or a string of them, and return its anode and its cathode."""
        curve = channel.branch.curve if channel.branch is not None else None
        if is_one:
            self.ties.add(Piece(led, "lamp", lamp.label, ("red", "common", "green", "blue"), lamp.stage, f"LED of three colours, common {lamp.common.label if lamp.common is not None else 'leg'}"))  # fmt: skip
            own, common = Tap(led, channel.id), Tap(led, "common")
            return (own, common) if is_from_pin else (common, own)
        label = lamp.label + (f", {channel.id}" if channel.id != "main" else "") + (f" {end[1:]}" if end else "")
        buy = f"LED, {channel.led.label.lower()}"
        self.ties.add(Piece(led, "lamp", label, ("anode", "cathode"), lamp.stage, buy, curve=curve, in_series=channel.in_series, alike=alike))  # fmt: skip
        return Tap(led, "anode"), Tap(led, "cathode")

    def _switched(self, lamp: LampDesign, switch: SwitchDesign, net: str, at: str, signal: SignalDesign) -> str:
        """Put a transistor between a pin and ground, and return the net it switches."""
        ground, is_npn = self._ground(lamp), switch.part.kind == "npn"
        pins = ("B", "C", "E") if is_npn else ("G", "D", "S")
        self.ties.add(Piece(f"{at}.switch", "transistor", "NPN" if is_npn else "MOSFET", pins, lamp.stage, switch.part.label, transistor=switch.part))  # fmt: skip
        gate, low = self.of.net_at(signal.line, "gate"), self.of.net_at(signal.line, "low")
        self.of.resistor(
            f"{at}.{'base' if is_npn else 'gate'}", switch.series, net, gate, "lets the pin give no more than it should"
        )
        self.ties.tie(gate, Tap(f"{at}.switch", pins[0]))
        self.ties.tie(low, Tap(f"{at}.switch", pins[1]))
        self.ties.tie(ground, Tap(f"{at}.switch", pins[2]))
        if switch.pull_down is not None and switch.has_pull_down:
            self.of.resistor(f"{at}.pull_down", switch.pull_down, gate, ground, "holds it off while the board starts")
        return low

    # What sets its own current

    def _load(self, lamp: LampDesign) -> None:
        found, load = self._pin(lamp, "main"), lamp.load
        if found is None or load is None:
            return
        signal, net = found
        at, ground = signal.line.id, self._ground(lamp)
        up = self._up(lamp) if lamp.takes_rail or load.input is not None or lamp.kind == "motor" else None
        low = self._switched(lamp, lamp.switch, net, at, signal) if lamp.switch is not None else None
        if load.input is not None or lamp.kind == "motor":
            piece = self.of.add(lamp.id, "load", lamp.label, ("VCC", "IN", GND), lamp.stage, load.label)
            self.ties.tie(low or net, Tap(piece, "IN"))
            self.ties.tie(ground, Tap(piece, GND))
            if up is not None:
                self.ties.tie(up, Tap(piece, "VCC"))
            return
        both = bool(getattr(self.design.plan.lamps[lamp.id], "is_fed_at_both_ends", None))
        pins = ("+", "−", "+ far end", "− far end") if both else ("+", "−")
        piece = self.of.add(lamp.id, "load", lamp.label, pins, lamp.stage, load.label)
        plus = net if low is None else up
        if plus is None:
            return
        minus = low or ground
        self.ties.tie(plus, *(Tap(piece, it) for it in pins if it[0] == "+"))
        self.ties.tie(minus, *(Tap(piece, it) for it in pins if it[0] == "−"))
        if load.is_coil and load.has_flyback:
            self.of.between(
                f"{at}.flyback",
                "diode",
                "diode",
                minus,
                plus,
                lamp.stage,
                "Rectifier diode, 1 A",
                "takes what the coil throws back",
            )
        if load.across is not None:
            self.of.resistor(f"{at}.across", load.across, plus, minus, "lets the disc let go of its charge")
        self._capacitor(lamp, plus, ground)

    def _capacitor(self, lamp: LampDesign, plus: str, ground: str) -> None:
        if lamp.kind not in (*PIXEL_KINDS, "strip"):
            return
        own, usual = getattr(self.design.plan.lamps[lamp.id], "capacitor_f", None), self.design.catalog.proposals["capacitor"]
        made = usual.value if own is None else own
        if made:
            self.of.capacitor(f"{lamp.id}.capacitor", made, plus, ground, lamp.stage, ("lamps", lamp.id, "capacitor_f"))

    # What is told its light in bits

    def _told(self, lamp: LampDesign) -> None:
        up, ground, load = self._up(lamp), self._ground(lamp), lamp.load
        signals = {lead: self.design.signals[f"{lamp.id}.{lead}"] for lead in LEADS_OF[lamp.kind]}
        behind = any(it.level is not None and it.level.school.id == "diode-fed" for it in signals.values())
        layout = getattr(self.design.plan.lamps[lamp.id], "layout", None)
        places = [
            it for it in (layout.fed_at if layout is not None else ()) if 0 < it <= (load.pixels if load is not None else 0)
        ]
        more = tuple(f"{PLUS} at {it + 1}" for it in places), tuple(f"{GND} at {it + 1}" for it in places)
        pins = (*LEADS_OF[lamp.kind].values(), *((f"{PLUS} first",) if behind else ()), PLUS, *more[0], GND, *more[1])
        what = (
            f"{load.pixels} × {load.label}"
            if load is not None and load.pixels
            else load.label
            if load is not None
            else lamp.label
        )
        count = getattr(self.design.plan.lamps[lamp.id], "count", None)
        piece = self.of.add(lamp.id, "load", lamp.label, pins, lamp.stage, f"{count} × {what}" if count and count > 1 else what)
        for lead, signal in signals.items():
            tap = self.of.host_tap(signal, lamp.host)
            if tap is None or (signal.level is not None and signal.level.is_omitted):
                continue
            into = Tap(piece, LEADS_OF[lamp.kind][lead])
            if signal.level is None:
                self.ties.tie(self.of.net_at(signal.line), tap, into)
            else:
                self.lines.shifted(signal, signal.level, tap, into)
        self.ties.tie(ground, Tap(piece, GND), *(Tap(piece, it) for it in more[1]))
        if up is None:
            return
        self.ties.tie(up, Tap(piece, PLUS), *(Tap(piece, it) for it in more[0]))
        if behind:
            first = self.of.net_at(signals["data"].line, "fed")
            self.of.between(
                f"{lamp.id}.diode",
                "diode",
                "diode",
                up,
                first,
                lamp.stage,
                "Rectifier diode, 1 A",
                "lowers the first pixel's supply",
            )
            self.ties.tie(first, Tap(piece, f"{PLUS} first"))
        self._capacitor(lamp, up, ground)
