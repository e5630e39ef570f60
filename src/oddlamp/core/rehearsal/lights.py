"""The lamps of a run: their states, what their pins do, and the light that comes of it."""

import math
from collections.abc import Callable
from functools import partial
from typing import Final, NamedTuple

from oddlamp.core.behaviour.arithmetic import LADDER_TOP, duty_of
from oddlamp.core.behaviour.machine import DARK, LampState
from oddlamp.core.design.design import Design
from oddlamp.core.design.values import NOT_YET
from oddlamp.core.parts.models import BoardPart
from oddlamp.core.rehearsal.course import Course, event_of
from oddlamp.core.rehearsal.outlets import Effect, effect_of, lost_or_doubted, outlets_of
from oddlamp.core.rehearsal.trace import LampPoint, PinPoint, Shown

_point: Final[Callable[[tuple[float, float, float]], LampPoint]] = partial(tuple.__new__, LampPoint)


class Top(NamedTuple):
    """What a pin shows at most, and how often a second it turns where it is dimmed."""

    most: int
    frequency_hz: float | None


class Lights:
    """What every lamp is told, and the course of current and light in every line that has numbers."""

    def __init__(self, design: Design, course: Course) -> None:
        self.design, self.course = design, course
        self.states: dict[str, LampState] = {}
        self.outlets = {lamp.id: outlets_of(design, lamp) for lamp in design.lamps.values()}
        self.effects: dict[tuple[str, LampState], list[Effect]] = {}
        dark = LampPoint(0.0, 0.0, 0.0)
        self.points = {it.signal_id: [dark] for mine in self.outlets.values() for it in mine if it.current_a is not None}
        lines = {it.signal_id: it for mine in self.outlets.values() for it in mine}
        self.tops = {name: it for name, it in _tops(design).items() if name in lines}
        self.pins = {
            name: [PinPoint(0.0, it.most if lines[name].is_inverted else 0, it.frequency_hz)] for name, it in self.tops.items()
        }
        self.displays = [it.id for it in design.lamps.values() if it.kind == "matrix"]
        self.shown: dict[str, list[Shown]] = {name: [Shown(0.0, "")] for name in self.displays}
        self.on_pins = {(pin.host, pin.label): pin.line.owner_id for pin in design.pins if pin.line.owner_id in design.lamps}

    def drive(self, t_s: float, host: str, pin: str, level_ratio: float) -> None:
        """Let a module set a pin of its own; nothing shows where nothing hangs on it."""
        lamp_id = self.on_pins.get((host, pin))
        if lamp_id is not None:
            self.set(t_s, lamp_id, LampState(is_on=level_ratio > 0, level=duty_of(level_ratio) or LADDER_TOP))

    def all_dark(self, t_s: float, host: str) -> None:
        """Let everything on a host's pins go dark, as when its power goes."""
        for lamp_id, lamp in self.design.lamps.items():
            if lamp.host == host and self.states.get(lamp_id, DARK).is_on:
                self.set(t_s, lamp_id, DARK)

    def set(self, t_s: float, lamp_id: str, state: LampState) -> None:
        """Set the pins of a lamp, and note current and light of every channel that has numbers."""
        self.states[lamp_id] = state
        if lamp_id in self.shown:
            self._show(t_s, lamp_id, state)
            return
        append, message = self.course.trace.append, self.course.message
        effects = self.effects.get((lamp_id, state))
        if effects is None:
            effects = self.effects[(lamp_id, state)] = [effect_of(outlet, state) for outlet in self.outlets[lamp_id]]
        for outlet, volts, pin_duty, duty, current_a, seen, flow in effects:
            is_lost_before = False
            for stage, says in outlet.bus:
                is_lost_before = outlet.lost_at == stage
                if not is_lost_before:
                    append(event_of((t_s, stage, outlet.signal_id, "", None, None, says, None, None, message, None)))
            top = self.tops.get(outlet.signal_id)
            if top is not None:
                shows = PinPoint(t_s, math.floor(pin_duty * top.most + 0.5), top.frequency_hz)
                if self.pins[outlet.signal_id][-1].shows != shows.shows:
                    self.pins[outlet.signal_id].append(shows)
            if outlet.lost_at != outlet.pin_stage and not is_lost_before:
                at_pin = (t_s, outlet.pin_stage, outlet.signal_id, "", volts, None, outlet.pin, None, pin_duty, message, None)
                append(event_of(at_pin))
            if current_a is None:
                # What never lights is told where it should; putting it out needs no telling.
                if duty:
                    self.course.lose(t_s, outlet.lost_at or outlet.stage, outlet.signal_id, outlet.because)
                continue
            self.points[outlet.signal_id].append(_point((t_s, current_a, seen)))
            may_not = outlet.may_not if duty else None
            append(event_of((t_s, outlet.stage, outlet.signal_id, "", None, None, flow, None, duty, message, may_not)))
        if not effects:
            lamp = self.design.lamps[lamp_id]
            blocked = next((it.because for it in self.design.passages_of(lamp) if it.verdict == "does not"), None)
            self.course.lose(t_s, lamp.stage, lamp_id, blocked or lamp.open_because or NOT_YET)

    def _show(self, t_s: float, lamp_id: str, state: LampState) -> None:
        """Let a display show its text, where all its lines are heard."""
        lamp = self.design.lamps[lamp_id]
        lost = [lost_or_doubted(it) for it in self.design.passages_of(lamp)]
        lost_because = next((because for because, _ in lost if because is not None), None)
        if lost_because is not None:
            self.course.lose(t_s, lamp.stage, lamp_id, lost_because)
            return
        text = state.text if state.is_on else ""
        says = f'shows "{text}"' if text else "dark"
        self.course.note(t_s, lamp.stage, lamp_id, says=says, may_not=next((may_not for _, may_not in lost if may_not), None))
        if self.shown[lamp_id][-1].text != text:
            self.shown[lamp_id].append(Shown(t_s, text))


def _tops(design: Design) -> dict[str, Top]:
    """Return of every line on a pin of a board what that shows at most: 1, or its steps where the lamp is dimmed."""
    found = {}
    for pin in design.pins:
        part, lamp = design.nodes[pin.host].part, design.lamps.get(pin.line.owner_id)
        if isinstance(part, BoardPart) and lamp is not None and pin.label is not None:
            is_dimmed = lamp.id in design.dimmed and "pwm" in pin.needs
            hertz = part.timer_hz.get(part.timer_of(pin.label) or "", part.pwm_frequency_hz.value)
            found[pin.line.id] = Top(part.pwm_steps - 1, hertz) if is_dimmed else Top(1, None)
    return found
