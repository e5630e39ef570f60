"""The circuit of a simulated build with a fault in it: what a meter shows, what arrives at the end of a line, and how the lamp looks."""

from dataclasses import dataclass, replace
from functools import cached_property
from typing import Final, Literal

from oddlamp.core.bench.circuit import Net, Tap
from oddlamp.core.bench.devices import FED_RATIO, HEALTHY, Fault, State
from oddlamp.core.design.design import Design
from oddlamp.core.finding.broken import WHOLE, Broken
from oddlamp.core.finding.states import States, states_of
from oddlamp.core.finding.way import Way
from oddlamp.core.resolve.strips import thinner

Look = Literal["right", "dark", "dim", "bright", "on", "flickers", "resets", "colour", "first", "end", "late", "wanders"]
# What is seen of the current that should flow: the eye tells less than half apart from right, and little more. Common practice, no source.
DARK_RATIO: Final = 0.03
DIM_RATIO: Final = 0.6
BRIGHT_RATIO: Final = 1.4


class Unlike(Exception):
    """The plan as it stands cannot be simulated along this way; the message says which part, and why."""


@dataclass(frozen=True)
class Wired:
    """The circuit of one simulated build along one way, and what it does to the lamp."""

    way: Way
    broken: Broken = WHOLE

    @property
    def design(self) -> Design:
        """The plan worked out."""
        return self.way.design

    @cached_property
    def states(self) -> States:
        """What is so outside the circuit."""
        return states_of(self.broken.marks)

    @cached_property
    def fault(self) -> Fault:
        """What is wrong with the circuit at this moment: nothing where it comes and goes; a weak supply as it stands idle."""
        fault = HEALTHY if self.broken.is_loose and not self.broken.parts else self.broken.fault
        rail = self.way.rail
        if self.broken.source_ohm and rail is not None:
            return replace(fault, rails={**fault.rails, f"rail.{rail.id}": self.rail_v(is_lit=False)})
        return fault

    # The circuit

    def volts(self, red: Tap, black: Tap, state: State | None = None) -> float | None:
        """Return what a voltmeter shows between two pins, V."""
        is_lit = state is not None and bool(state.lit)
        return self.way.finder.model.volts(red, black, state or State(), self.fault_while(is_lit=is_lit))

    def fault_while(self, *, is_lit: bool) -> Fault:
        """Return what is wrong with the circuit while the lamp is lit or not: a weak supply sags under it."""
        rail = self.way.rail
        if not self.broken.source_ohm or not is_lit or rail is None:
            return self.fault
        return replace(self.fault, rails={**self.fault.rails, f"rail.{rail.id}": self.rail_v(is_lit=True)})

    def ohms(self, red: Tap, black: Tap, state: State | None = None) -> float | None:
        """Return what an ohmmeter shows between two pins, power off."""
        if not self.states.rest.is_apart and self._is_from_plus_to_ground(red, black):
            return 0.3
        return self.way.finder.model.ohms(red, black, state or State(), self.fault)

    def _is_from_plus_to_ground(self, red: Tap, black: Tap) -> bool:
        kinds = {net.kind for tap in (red, black) if (net := self.net_at(tap)) is not None}
        return kinds == {"supply", "ground"}

    def net_at(self, tap: Tap) -> Net | None:
        """Return the net of a pin, or of its strip."""
        found = self.way.circuit.net_of.get(tap)
        return found or next((it for it in self.way.circuit.nets if it.id == tap.piece), None)

    def rail_v(self, *, is_lit: bool) -> float:
        """Return the volts of the host's rail, with the lamp lit or not, as its source resists, V."""
        rail = self.way.rail
        if rail is None or rail.voltage.value is None:
            return 0.0
        budget = self.design.budgets.get(rail.id)
        own = budget.own if budget is not None else ()
        drawn_a = sum(it.average_a for it in own if not it.lamp_id)
        drawn_a += sum(it.lit_a for it in own if is_lit and it.lamp_id == self.way.lamp.id)
        right_v = budget.loaded.value if is_lit and budget is not None and budget.loaded.value is not None else rail.voltage.value
        at_v = self.broken.fault.rails.get(f"rail.{rail.id}", right_v)
        return at_v - drawn_a * self.broken.source_ohm

    def is_fed(self, node_id: str) -> bool:
        """Tell whether a board or a module has its supply."""
        return self.way.finder.model.devices.is_fed(node_id, self.fault)

    def arrives(self, line: str) -> bool:
        """Tell whether what is sent on a line is heard at its end: by the volts of a high and a low there."""
        level = self.design.level(line)
        if level is None or level.is_omitted:
            return False
        far = self._heard_at(line)
        ground = Tap(f"ground.{level.receiver.end or 'here'}", "")
        if far is None:
            return False
        high, low = (self.volts(far, ground, State(held_low=it)) for it in ("", line))
        hears_high, hears_low = level.high.value, level.low.value
        if high is None or low is None or hears_high is None or hears_low is None:
            return False
        return high >= hears_high and low <= hears_low

    def _heard_at(self, line: str) -> Tap | None:
        owner = self.design.signals[line].line
        for end in ("behind", "far", ""):
            net = next((it for it in self.way.circuit.nets if it.id == (f"{line}:{end}" if end else line)), None)
            for tap in net.taps if net is not None else ():
                if tap.piece == owner.receiver or (owner.kind == "data" and tap.piece == owner.owner_id):
                    return tap
        return None

    def lamp_look(self, *, is_on: bool) -> Look:
        """Return how the lamp looks while its pin lights it or not, by what flows through it."""
        lamp, line, model = self.way.lamp, self.way.line, self.way.finder.model
        if self.way.is_pixels:
            return self.pixel_look() if is_on else "dark"
        right_a = model.light_a(line, HEALTHY, is_lit=True)
        flows_a = model.light_a(line, self.fault, is_lit=is_on)
        if not right_a or flows_a is None:
            raise Unlike(f"the circuit of {lamp.label} is none that can be solved")
        share = flows_a / right_a
        if share < DARK_RATIO:
            return "dark"
        if share < DIM_RATIO:
            return "dim"
        look: Look = "bright" if share > BRIGHT_RATIO else "right"
        return "colour" if is_on and self._is_other_colour() else look

    def _is_other_colour(self) -> bool:
        """Tell whether the lamp's own colour hangs on the line of another one."""
        at = self.fault.moved.get(Tap(self.way.lamp.id, self.way.channel), self.way.line)
        return at.partition(":")[0] != self.way.line

    def pixel_look(self, first: int = 0) -> Look:
        """A chain is lit where it is fed and what it is told arrives at the pixel where it comes in, the first of it."""
        lamp = self.way.lamp
        taps = [Tap(lamp.id, it) for it in self.way.circuit.pieces[lamp.id].pins]
        fed = [tap for tap in taps if (net := self.way.circuit.net_of.get(tap)) is not None and net.kind != "signal"]
        if any(tap in self.fault.lost for tap in fed) or not self.states.chain.is_forward:
            return "dark"
        if not self.arrives(self.way.line) or self.rail_v(is_lit=False) < FED_RATIO * (self._nominal_v or 5.0):
            return "dark"
        if not self.states.chain.passes_on and first == 0:
            return "first"
        if not self.states.chain.is_in_order:
            return "colour"
        strip, times = self.design.strips.get(self.way.lamp.id), self.fault.factor.get(self.way.lamp.id, 1.0)
        return "end" if strip is not None and times > 1 and min(thinner(strip, times)) < strip.least_v else "right"

    @property
    def _nominal_v(self) -> float | None:
        return self.way.rail.voltage.value if self.way.rail is not None else None

    def strip_lost_v(self) -> float | None:
        """Return what is lost along the strip with all of it lit, V; None where the lamp is none."""
        strip = self.design.strips.get(self.way.lamp.id)
        if strip is None or strip.lost.value is None:
            return None
        volts = thinner(strip, self.fault.factor.get(strip.lamp_id, 1.0))
        return max(volts) - min(volts)
