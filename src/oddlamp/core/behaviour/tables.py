"""What a program must know of lamps, inputs, cues, movers and standing orders, as tables."""

import math
from collections.abc import Mapping
from typing import Final

from oddlamp.core.behaviour.arithmetic import LADDER_TOP, duty_of, level_for_eye, times
from oddlamp.core.behaviour.each import keys_of
from oddlamp.core.behaviour.inputs import TURNED_MOST
from oddlamp.core.behaviour.lamps import WHITE
from oddlamp.core.behaviour.program import CodedSpec, CueCode, Frame, InputSpec, LampSpec, MoverSpec, Orders, Picture, Watch
from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import LampDesign
from oddlamp.core.layouts.can import face_of
from oddlamp.core.layouts.signs import digits_of
from oddlamp.core.layouts.stand import stand_of
from oddlamp.core.plan.lights import DIMMED_KINDS, DISPLAY_KINDS, PIXEL_KINDS, Lamp
from oddlamp.core.plan.model import Input, InputSettings
from oddlamp.core.plan.rules import SPEED_BITS, Cue, CueStep, MoverCodes
from oddlamp.core.plan.signals import SPANS
from oddlamp.core.words.signed import code_of

DIGITS_MOST: Final = 4
LOOP_LEAST_MS: Final = 20
SETTLE_S: Final = 0.02  # common practice: contacts bounce for a few ms
PLAY: Final = 0.005
SPEEDS_MOST: Final = 127
PAUSE_S: Final = 0.5  # common practice: a small motor has come to rest by then


def ms_of(time_s: float | None) -> int:
    """Return a time in whole milliseconds, rounded half up."""
    return math.floor((time_s or 0.0) * 1000 + 0.5)


def spec_of(design: Design, lamp: LampDesign) -> LampSpec:
    """Return what a program must know of a lamp."""
    dimming, plan = lamp.dimming, design.plan.lamps[lamp.id]
    ladder = (LADDER_TOP,) if dimming is None else dimming.by_eye if dimming.even_in.id == "eye" else dimming.by_duty
    is_eyed = dimming is not None and dimming.half_is.id == "eye" and design.nodes[lamp.host].node.kind != "module"
    if is_eyed:
        ladder = tuple(level_for_eye(it) for it in ladder)
    cap = getattr(plan, "brightness_cap_ratio", None)
    face = face_of(plan)
    digits = 0 if face is None else min(digits_of(face), DIGITS_MOST)
    is_chain = plan.kind in PIXEL_KINDS
    lights = 0 if plan.kind in DISPLAY_KINDS else 3 * pixels_of(plan) if is_chain else 3 if plan.kind == "rgb" else 1
    fades = is_chain or plan.kind in DIMMED_KINDS
    stand = stand_of(getattr(plan, "layout", None)) if is_chain else None
    full = LADDER_TOP if cap is None else duty_of(cap)
    return LampSpec(ladder, full, 10**digits - 1 if digits else 0, lights, fades, is_chain, is_eyed, stand)


def pixels_of(plan: Lamp) -> int:
    """Return how many pixels a chain has; one where its layout tells none."""
    layout = getattr(plan, "layout", None)
    return layout.count if layout is not None else 1


def input_spec(it: Input) -> InputSpec:
    """Return how an input counts: what is settled of it, else as makers usually have it."""
    settings = it.settings or InputSettings()
    settle_ms = ms_of(SETTLE_S if settings.settle_s is None else settings.settle_s)
    play = _of_turned(PLAY if settings.play_ratio is None else settings.play_ratio)
    if it.kind == "knob":
        return InputSpec("turned", settle_ms, play)
    if it.kind == "sensor" and it.reads in ("value", *SPANS):
        on, off = settings.on_above_ratio, settings.off_below_ratio
        if on is None and off is None:
            return InputSpec("turned", settle_ms, play)
        upper, lower = (off if on is None else on) or 0.0, (on if off is None else off) or 0.0
        return InputSpec("turned", settle_ms, play, _of_turned(upper), _of_turned(lower))
    return InputSpec("button" if it.kind == "button" else "contact", settle_ms, play)


def _of_turned(ratio: float) -> int:
    return math.floor(TURNED_MOST * ratio + 0.5)


def keeps_over_cut(design: Design, host: str) -> bool:
    """Tell whether a host has memory that outlasts a power cut; one of which nothing is known is taken to have it."""
    return getattr(design.nodes[host].part, "keeps_memory", True)


def orders_of(design: Design, host: str, lamp_id: str) -> Orders:
    told = design.plan.standing.get(lamp_id)
    if told is None:
        return Orders()
    power_up, power_cut = told.power_up or "off", told.power_cut or told.power_up or "off"
    if not keeps_over_cut(design, host):  # judged (KEPT-NONE): every start is as a first one
        power_up = power_cut = "off" if power_up == "last" else power_up
    known = {name: it for name, it in design.plan.inputs.items() if name in told.thresholds}
    thresholds = {key: _of_turned(told.thresholds[name]) for name, it in known.items() for key in keys_of(name, it)}
    return Orders(power_up, power_cut, told.link_lost or "keep", told.winner or "last-moved", thresholds)


def movers_of(design: Design, mine: Mapping[str, LampDesign]) -> dict[str, MoverSpec | CodedSpec]:
    """Write down the movers of a host: those whose lamps all hang on it, each lamp of two in one mover at most."""
    found, taken = dict[str, MoverSpec | CodedSpec](), set[str]()
    for name, it in design.plan.movers.items():
        pause_ms = ms_of(PAUSE_S if it.pause_s is None else it.pause_s)
        if it.sender is not None and it.sender in mine:
            found[name] = CodedSpec(it.sender, speed_codes(it.codes or MoverCodes()), pause_ms)
        elif (
            it.ahead is not None and it.back is not None and {it.ahead, it.back} <= set(mine) and not taken & {it.ahead, it.back}
        ):
            found[name] = MoverSpec(it.ahead, it.back, pause_ms)
            taken |= {it.ahead, it.back}
    return found


def watches_of(design: Design, host: str) -> dict[str, Watch]:
    """Write down, of each radio link that a keep-alive word is agreed for, what a host must hear over it and how often."""
    found = dict[str, Watch]()
    for talk in design.talks.values():
        alive, air = (
            design.plan.talks[talk.id].keep_alive,
            next((it.link_id for it in reversed(talk.hops) if it.kind == "air"), None),
        )
        if alive is not None and air is not None and talk.b == host:
            words = frozenset(it.id for it in talk.vocabulary.words if it.direction == "out")
            found.setdefault(air, Watch(words, ms_of(alive.silent_s)))
    return found


def speed_codes(codes: MoverCodes) -> tuple[int, ...]:
    """Return the code of each speed, from the fastest back to the fastest ahead: -5 in 4 bits of two's complement is 11."""
    bits = codes.bits or SPEED_BITS
    most, signed = codes.speeds or (1 << (bits - 1)) - 1, codes.signed or "twos-complement"
    most = min(most, SPEEDS_MOST)
    return tuple((codes.first_code or 0) + code_of(it, signed, -most, bits) for it in range(-most, most + 1))


def cue_of(design: Design, mine: Mapping[str, LampDesign], cue: Cue) -> CueCode:
    """Cut a cue into its pictures: what comes at once with the step before it belongs to one. Too short a loop runs once."""
    frames = list[Frame]()
    for at, step in enumerate(cue.steps):
        after_ms, picture = ms_of(step.after_s), _picture(design, mine, step)
        if at and not after_ms:
            frames[-1] = Frame(frames[-1].after_ms, (*frames[-1].pictures, picture))
        else:
            frames.append(Frame(after_ms, (picture,)))
    return CueCode(tuple(frames), bool(cue.loop) and sum(it.after_ms for it in frames) >= LOOP_LEAST_MS)


def _picture(design: Design, mine: Mapping[str, LampDesign], step: CueStep) -> Picture:
    lamps = tuple(it for it in design.targets(step.target) if it in mine)
    level = None if step.level is None else duty_of(step.level)
    red, green, blue = (None if it is None else duty_of(it) for it in (step.red, step.green, step.blue))
    over_ms, shares = ms_of(step.fade_s), None if red is green is blue is None else (red, green, blue)
    if step.first is not None:
        if level is not None:  # pixels have no brightness of their own: so much of their colour, or of white
            red, green, blue = (None if it is None else times(level, it) for it in shares or WHITE)
            shares, level = (red, green, blue), None
        chains = tuple(it for it in lamps if design.plan.lamps[it].kind in PIXEL_KINDS)
        return Picture(chains, level, shares, over_ms, step.first, step.first if step.last is None else step.last)
    return Picture(lamps, level, shares, over_ms)
