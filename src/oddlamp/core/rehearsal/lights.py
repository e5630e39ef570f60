"""The lamps of a run: what they are told, what their pins do, and the light that comes of it."""

import math
from collections.abc import Callable, Iterable
from functools import partial
from typing import Final, NamedTuple

from oddlamp.core.base import si
from oddlamp.core.behaviour.arithmetic import LADDER_TOP, duty_of, seen_light
from oddlamp.core.behaviour.lamps import Light
from oddlamp.core.behaviour.tables import spec_of
from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import LampDesign
from oddlamp.core.design.values import NOT_YET
from oddlamp.core.english import plural
from oddlamp.core.layouts.signs import Manner
from oddlamp.core.parts.models import BoardPart
from oddlamp.core.plan.lights import PIXEL_KINDS
from oddlamp.core.rehearsal.course import Course, event_of
from oddlamp.core.rehearsal.outlets import Effect, effect_of, lost_or_doubted, outlets_of
from oddlamp.core.rehearsal.trace import LampPoint, PinPoint, PixelPoint, Shown

_point: Final[Callable[[tuple[float, float, float]], LampPoint]] = partial(tuple.__new__, LampPoint)


class How(NamedTuple):
    """How a text stands on what shows signs, since when, s, and of a chain the text itself."""

    manner: Manner = Manner()
    told_s: float = 0.0
    text: str = ""


PLAIN: Final = How()


class Top(NamedTuple):
    """What a pin shows at most, and how often a second it turns where it is dimmed."""

    most: int
    frequency_hz: float | None


class Lights:
    """What every lamp is told, and the course of current and light in every line that has numbers."""

    def __init__(self, design: Design, course: Course) -> None:
        self.design, self.course = design, course
        self.outlets = {lamp.id: outlets_of(design, lamp) for lamp in design.lamps.values()}
        self.effects: dict[tuple[str, Light], list[Effect]] = {}
        self.specs = {lamp.id: spec_of(design, lamp) for lamp in design.lamps.values()}
        dark = LampPoint(0.0, 0.0, 0.0)
        self.points = {it.signal_id: [dark] for mine in self.outlets.values() for it in mine if it.current_a is not None}
        lines = {it.signal_id: it for mine in self.outlets.values() for it in mine}
        self.tops = {name: it for name, it in _tops(design).items() if name in lines}
        self.pins = {
            name: [PinPoint(0.0, it.most if lines[name].is_inverted else 0, it.frequency_hz)] for name, it in self.tops.items()
        }
        self.chains = {it.id: _chain_of(design, it) for it in design.lamps.values() if it.kind in PIXEL_KINDS}
        self.pixels = {name: [PixelPoint(0.0, "00" * self.specs[name].lights)] for name in self.chains}
        self.points |= {f"{name}.data": [dark] for name, it in self.chains.items() if it.lost_because is None}
        in_signs = [it.id for it in design.lamps.values() if it.kind == "matrix" or it.sends_codes]
        self.shown: dict[str, list[Shown]] = {name: [Shown(0.0, "")] for name in in_signs}
        self.buzzers = {it.id: f"{it.id}.main" for it in design.lamps.values() if it.kind == "buzzer"}
        self.on_pins = {(pin.host, pin.label): pin.line.owner_id for pin in design.pins if pin.line.owner_id in design.lamps}

    def drive(self, t_s: float, host: str, pin: str, level_ratio: float) -> None:
        """Let a module set a pin of its own; nothing shows where nothing hangs on it."""
        lamp_id = self.on_pins.get((host, pin))
        if lamp_id is not None:
            self.set(t_s, lamp_id, (duty_of(level_ratio),) * self.specs[lamp_id].lights)

    def all_dark(self, t_s: float, host: str) -> None:
        """Let everything on a host's pins go dark, as when its power goes; what is dark already is not told."""
        for lamp_id, lamp in self.design.lamps.items():
            is_lit = any(self.points[it.signal_id][-1].current_a for it in self.outlets[lamp_id] if it.signal_id in self.points)
            if lamp.host == host and is_lit:
                self.set(t_s, lamp_id, (0,) * self.specs[lamp_id].lights)

    def set(
        self, t_s: float, lamp_id: str, light: Light, text: str = "", goal: tuple[Light, int] | None = None, how: How = PLAIN
    ) -> None:
        """Let a lamp be told a light, or a text, and tell of it; where it fades, what it goes to and how long that takes, ms."""
        if lamp_id in self.shown:
            self._show_text(t_s, lamp_id, text, how)
        elif lamp_id in self.chains:
            self._show_chain(t_s, lamp_id, light, how.text, is_told=True)
        else:
            self._tell(t_s, lamp_id, light, goal)
            self._sound(t_s, lamp_id, text)

    def _sound(self, t_s: float, lamp_id: str, pitch: str) -> None:
        """Let a buzzer have a pitch, or its own again."""
        name = self.buzzers.get(lamp_id)
        if name not in self.tops:
            return
        hertz = float(pitch.removesuffix(" Hz")) if pitch else self.tops[name].frequency_hz
        before = self.pins[name][-1]
        if before.frequency_hz != hertz and (pitch or before.shows):
            self.pins[name].append(PinPoint(t_s, before.shows, hertz))

    def move(self, t_s: float, lamp_id: str, light: Light, text: str = "", how: How = PLAIN) -> None:
        """Let a lamp go on by itself: only its course is noted."""
        if lamp_id in self.shown:
            if self._lost_text(lamp_id) is None:
                self._note_text(t_s, lamp_id, text, how)
        elif lamp_id in self.chains:
            self._show_chain(t_s, lamp_id, light, is_told=False)
        else:
            self._note(t_s, self._effects(lamp_id, light))
            self._sound(t_s, lamp_id, text)

    def _effects(self, lamp_id: str, light: Light) -> list[Effect]:
        effects = self.effects.get((lamp_id, light))
        if effects is None:
            effects = self.effects[(lamp_id, light)] = [effect_of(outlet, light) for outlet in self.outlets[lamp_id]]
        return effects

    def _note(self, t_s: float, effects: Iterable[Effect]) -> None:
        """Note what pins show and what flows, where that is something new."""
        for outlet, _, pin_duty, _, current_a, seen, _ in effects:
            top, name = self.tops.get(outlet.signal_id), outlet.signal_id
            if top is not None:
                shows = math.floor(pin_duty * top.most + 0.5)
                if self.pins[name][-1].shows != shows:
                    self.pins[name].append(PinPoint(t_s, shows, top.frequency_hz))
            if current_a is not None:
                self.points[name].append(_point((t_s, current_a, seen)))

    def _tell(self, t_s: float, lamp_id: str, light: Light, goal: tuple[Light, int] | None) -> None:
        append, message = self.course.trace.append, self.course.message
        effects = self._effects(lamp_id, light)
        self._note(t_s, effects)
        aims = effects if goal is None else self._effects(lamp_id, goal[0])
        over = "" if goal is None else f" over {si(goal[1] / 1000, 's')}"
        for (outlet, volts, pin_duty, duty, current_a, _, _), aim in zip(effects, aims, strict=True):
            is_lost_before = False
            for stage, says in outlet.bus:
                is_lost_before = outlet.lost_at == stage
                if not is_lost_before:
                    append(event_of((t_s, stage, outlet.signal_id, "", None, None, says, None, None, message, None)))
            if outlet.lost_at != outlet.pin_stage and not is_lost_before:
                at_pin = (t_s, outlet.pin_stage, outlet.signal_id, "", volts, None, outlet.pin, None, pin_duty, message, None)
                append(event_of(at_pin))
            if current_a is None:
                # What never lights is told where it should; putting it out needs no telling.
                if aim.duty:
                    self.course.lose(t_s, outlet.lost_at or outlet.stage, outlet.signal_id, outlet.because)
                continue
            may_not = outlet.may_not if aim.duty else None
            flow = f"{aim.flow}{over}"
            append(event_of((t_s, outlet.stage, outlet.signal_id, "", None, None, flow, None, duty, message, may_not)))
        if not effects:
            lamp = self.design.lamps[lamp_id]
            blocked = next((it.because for it in self.design.passages_of(lamp) if it.verdict == "does not"), None)
            self.course.lose(t_s, lamp.stage, lamp_id, blocked or lamp.open_because or NOT_YET)

    def _show_chain(self, t_s: float, lamp_id: str, light: Light, text: str = "", *, is_told: bool) -> None:
        """Write a chain: its pixels, in the order of the wire, and what they draw together."""
        chain = self.chains[lamp_id]
        capped = tuple(map(self.specs[lamp_id].shown, light))
        wanted = bytes(capped).hex()
        if chain.lost_because is not None:
            if is_told:
                self.course.lose(t_s, chain.stage, lamp_id, chain.lost_because)
            return
        if self.pixels[lamp_id][-1].shows != wanted:
            self.pixels[lamp_id].append(PixelPoint(t_s, wanted))
            share = sum(capped) / (LADDER_TOP * len(capped))
            self.points[f"{lamp_id}.data"].append(_point((t_s, share * chain.white_a, seen_light(share))))
        if is_told:
            lit = sum(any(capped[at : at + 3]) for at in range(0, len(capped), 3))
            says = f'shows "{text}"' if text else f"{plural(lit, 'pixel')} lit" if lit else "dark"
            self.course.note(t_s, chain.pin_stage, lamp_id, says=f"{plural(len(capped) // 3, 'pixel')} written")
            self.course.note(t_s, chain.stage, lamp_id, says=says, may_not=chain.may_not if lit else None)

    def _lost_text(self, lamp_id: str) -> str | None:
        lost = [lost_or_doubted(it) for it in self.design.passages_of(self.design.lamps[lamp_id])]
        return next((because for because, _ in lost if because is not None), None)

    def _show_text(self, t_s: float, lamp_id: str, text: str, how: How) -> None:
        """Let a display show its text, where all its lines are heard."""
        lamp, lost_because = self.design.lamps[lamp_id], self._lost_text(lamp_id)
        if lost_because is not None:
            self.course.lose(t_s, lamp.stage, lamp_id, lost_because)
            return
        doubts = [lost_or_doubted(it)[1] for it in self.design.passages_of(lamp)]
        says = f"sends {text}" if text and lamp.sends_codes else f'shows "{text}"' if text else "dark"
        self.course.note(t_s, lamp.stage, lamp_id, says=says, may_not=next((it for it in doubts if it), None))
        self._note_text(t_s, lamp_id, text, how)

    def _note_text(self, t_s: float, lamp_id: str, text: str, how: How) -> None:
        before = self.shown[lamp_id][-1]
        shown = (
            Shown(t_s, text, how.manner, how.told_s) if text and not self.design.lamps[lamp_id].sends_codes else Shown(t_s, text)
        )
        if shown._replace(t_s=before.t_s) != before:
            self.shown[lamp_id].append(shown)


class Chain(NamedTuple):
    """What a run needs to know of a chain of pixels: where it is told, what it draws in full white, A, and what keeps it dark."""

    stage: str
    pin_stage: str
    white_a: float
    lost_because: str | None
    may_not: str | None


def _chain_of(design: Design, lamp: LampDesign) -> Chain:
    heard = [lost_or_doubted(it) for it in design.passages_of(lamp)]
    lost_because = next((because for because, _ in heard if because is not None), None)
    may_not = next((it for _, it in heard if it is not None), None)
    white_a = lamp.load.current.value if lamp.load is not None else None
    if white_a is None and lost_because is None:
        lost_because = lamp.open_because or (lamp.load.current.because if lamp.load is not None else None) or NOT_YET
    return Chain(lamp.stage, f"pins.{lamp.host}", white_a or 0.0, lost_because, may_not)


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
