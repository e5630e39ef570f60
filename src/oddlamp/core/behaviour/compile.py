"""From rules, cues and standing orders to the program of a host."""

import math
from collections.abc import Iterator, Mapping
from functools import lru_cache
from typing import Final

from oddlamp.core.base import Same
from oddlamp.core.behaviour.arithmetic import LADDER_TOP, duty_of, level_for_eye, times
from oddlamp.core.behaviour.inputs import TURNED_MOST
from oddlamp.core.behaviour.lamps import WHITE
from oddlamp.core.behaviour.program import (
    INPUT,
    START,
    Add,
    Blink,
    Chance,
    Colour,
    CueCode,
    Due,
    Event,
    Frame,
    Given,
    InputSpec,
    LampSpec,
    Level,
    Manner,
    March,
    MoverSpec,
    Next,
    Now,
    Open,
    Orders,
    Picture,
    Play,
    Program,
    Pulse,
    Remember,
    Restore,
    Run,
    Rung,
    Say,
    Score,
    Send,
    Show,
    Step,
    Stop,
    Switch,
    Text,
    Told,
    Tone,
    Turn,
    Unless,
)
from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import LampDesign
from oddlamp.core.design.talks import WordDesign
from oddlamp.core.english import inner
from oddlamp.core.plan.fields import Saying
from oddlamp.core.plan.lights import DIMMED_KINDS, DISPLAY_KINDS, PIXEL_KINDS, Lamp, why_not
from oddlamp.core.plan.model import Input, InputSettings
from oddlamp.core.plan.rules import (
    OF_CUES,
    OF_INPUTS,
    TURNS,
    Action,
    ActionValues,
    Cue,
    CueStep,
    Rule,
    When,
    carried_name,
    state_name,
)
from oddlamp.core.plan.signals import told_by

DIGITS_A_MODULE: Final = 2  # of 8 columns: three for a digit and one between
DIGITS_MOST: Final = 4
LOOP_LEAST_MS: Final = 20
BLINK_MS: Final = 500
STEP_MS: Final = 100
SHOWN_MOST: Final = 100
PULSE_MS: Final = 1000
SETTLE_S: Final = 0.02  # common practice: contacts bounce for a few ms
PLAY: Final = 0.005
PAUSE_S: Final = 0.5  # common practice: a small motor has come to rest by then
SEED: Final = 0x0DD1A391
LINK_EVENTS: Final = {"link-lost": "lost", "link-back": "back"}


def program_of(design: Design, host: str) -> Program:
    """Write the program of a host: all its rules by what sets them off, in the order of the plan, and what its lamps do at power-on."""
    return _programs(Same(design), host)


def _compiled(design: Design, host: str) -> Program:
    mine = {it.id: it for it in design.lamps.values() if told_by(design.plan, it.host) == host}
    handlers: dict[Event, list[Run]] = {}
    words = {word.id: word for talk in design.talks.values() if host in (talk.a, talk.b) for word in talk.vocabulary.words}
    inputs = {name: input_spec(it) for name, it in design.plan.inputs.items() if it.host == host}
    for at, (_, rule) in enumerate(design.rules_of(host)):
        event = event_of(rule.when)
        if event is not None:
            handlers.setdefault(event, []).append(_run(design, mine, at, rule, words))
    return Program(
        host,
        {name: spec_of(design, lamp) for name, lamp in mine.items()},
        {name: _cue(design, mine, cue) for name, cue in design.plan.cues.items()},
        {event: tuple(runs) for event, runs in handlers.items()},
        inputs,
        {name: _orders(design, host, name) for name in mine},
        _movers(design, mine),
        SEED,
    )


def _movers(design: Design, mine: Mapping[str, LampDesign]) -> dict[str, MoverSpec]:
    """Write down the movers of a host: those whose lamps both hang on it, each lamp in one mover at most."""
    found, taken = dict[str, MoverSpec](), set[str]()
    for name, it in design.plan.movers.items():
        if {it.ahead, it.back} <= set(mine) and it.ahead != it.back and not taken & {it.ahead, it.back}:
            found[name] = MoverSpec(it.ahead, it.back, ms_of(PAUSE_S if it.pause_s is None else it.pause_s))
            taken |= {it.ahead, it.back}
    return found


def _run(design: Design, mine: Mapping[str, LampDesign], at: int, rule: Rule, words: Mapping[str, WordDesign]) -> Run:
    """Write a rule as steps. What an action waits is what its first step waits; what is left out keeps the time of the others."""
    steps = list[Due]()
    for action in rule.do:
        after_ms = ms_of(action.after_s)
        for step in _steps(design, mine, rule, action, words):
            steps.append(Due(after_ms, step, told_of(action)))
            after_ms = 0
    unless = rule.unless
    if unless is not None and (
        (unless.lamp is not None and unless.lamp not in mine) or _is_elsewhere(design, rule.host, unless.input)
    ):
        unless = None  # judged (CMD-REACH)
    return Run(at, tuple(steps), None if unless is None else Unless(unless.lamp, unless.input, unless.state == "on"))


def _is_elsewhere(design: Design, host: str, name: str | None) -> bool:
    return name is not None and design.plan.inputs[name].host != host


def ms_of(time_s: float | None) -> int:
    """Return a time in whole milliseconds, rounded half up."""
    return math.floor((time_s or 0.0) * 1000 + 0.5)


def input_spec(it: Input) -> InputSpec:
    """Return how an input counts: what is settled of it, else as makers usually have it."""
    settings = it.settings or InputSettings()
    settle_ms = ms_of(SETTLE_S if settings.settle_s is None else settings.settle_s)
    play = _of_turned(PLAY if settings.play_ratio is None else settings.play_ratio)
    if it.kind == "knob":
        return InputSpec("turned", settle_ms, play)
    if it.kind == "sensor" and settings.reads == "value":
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


def _orders(design: Design, host: str, lamp_id: str) -> Orders:
    told = design.plan.standing.get(lamp_id)
    if told is None:
        return Orders()
    power_up, power_cut = told.power_up or "off", told.power_cut or told.power_up or "off"
    if not keeps_over_cut(design, host):  # judged (KEPT-NONE): every start is as a first one
        power_up = power_cut = "off" if power_up == "last" else power_up
    thresholds = {name: _of_turned(ratio) for name, ratio in told.thresholds.items() if name in design.plan.inputs}
    return Orders(power_up, power_cut, told.link_lost or "keep", told.winner or "last-moved", thresholds)


def event_of(when: When) -> Event | None:
    """Return what sets a rule off; None where nothing is said of it."""
    if when.heard is not None:
        return ("heard", when.heard)
    if when.input is not None and when.event is not None:
        return ("input", when.input, when.event)
    if when.at is not None:
        return ("at", when.at)
    if when.every_s is not None:
        return ("every", str(ms_of(when.every_s)))
    if when.link is not None and when.event in LINK_EVENTS:
        return ("link", when.link, LINK_EVENTS[when.event])
    return START if when.event == "power-up" and when.link is None else None


def told_of(action: Action) -> Told:
    """Say an action in a few words, for the trace."""
    if action.verb == "say" and action.say is not None:
        return Told(action.say.word, f"says {action.say.word}")
    return Told(action.target or "", f"{action.verb} {action.target}")


@lru_cache(maxsize=8)
def _programs(of: Same[Design], host: str) -> Program:
    return _compiled(of.it, host)


def spec_of(design: Design, lamp: LampDesign) -> LampSpec:
    """Return what a program must know of a lamp."""
    dimming, plan = lamp.dimming, design.plan.lamps[lamp.id]
    ladder = (LADDER_TOP,) if dimming is None else dimming.by_eye if dimming.even_in.id == "eye" else dimming.by_duty
    is_eyed = dimming is not None and dimming.half_is.id == "eye" and design.nodes[lamp.host].node.kind != "module"
    if is_eyed:
        ladder = tuple(level_for_eye(it) for it in ladder)
    cap = getattr(plan, "brightness_cap_ratio", None)
    digits = min(DIGITS_A_MODULE * (plan.count or 1), DIGITS_MOST) if plan.kind == "matrix" else 0
    is_chain = plan.kind in PIXEL_KINDS
    lights = 0 if plan.kind in DISPLAY_KINDS else 3 * pixels_of(plan) if is_chain else 3 if plan.kind == "rgb" else 1
    fades = is_chain or plan.kind in DIMMED_KINDS
    return LampSpec(
        ladder, LADDER_TOP if cap is None else duty_of(cap), 10**digits - 1 if digits else 0, lights, fades, is_chain, is_eyed
    )


def pixels_of(plan: Lamp) -> int:
    """Return how many pixels a chain has; one where its layout tells none."""
    layout = getattr(plan, "layout", None)
    return sum(run.count for run in layout.runs) if layout is not None and layout.runs else 1


def _cue(design: Design, mine: Mapping[str, LampDesign], cue: Cue) -> CueCode:
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


def _steps(
    design: Design, mine: Mapping[str, LampDesign], rule: Rule, action: Action, words: Mapping[str, WordDesign]
) -> Iterator[Step]:
    if action.verb == "say":
        if action.say is not None:
            yield _said(design, rule.host, mine, action.say)
        return
    if action.target in design.plan.movers:
        if action.verb in TURNS and action.target in _movers(design, mine):
            yield Turn(action.target, action.verb)
        return
    if action.verb in OF_CUES:
        yield Stop(action.target) if action.verb == "stop" else (Play if action.verb == "cue" else Next)(action.target or "")
        return
    targets = design.targets(action.target)
    for it in targets:
        if it not in mine:
            lamp = design.lamps[it]
            yield Open(
                it, f"the {inner(lamp.label)} hangs on the {inner(design.nodes[lamp.host].label)}, out of this program's reach"
            )
        elif (because := why_not(design.plan.lamps[it], action.verb, of_pixels=action.of_pixels)) is not None:
            yield Open(it, f"{design.lamps[it].label} cannot: {because}")
    lamps = tuple(
        it for it in targets if it in mine and why_not(design.plan.lamps[it], action.verb, of_pixels=action.of_pixels) is None
    )
    step = _step(design, rule.host, action, lamps, words.get(rule.when.heard or "")) if lamps else None
    if step is not None:
        yield step


def _said(design: Design, host: str, mine: Mapping[str, LampDesign], say: Saying) -> Step:
    """Say a word; what it tells of lamps as they are now must be this program's own."""
    ranges = {it.id: it.field for it in design.talks[say.talk].vocabulary.word(say.word).parameters}
    fill = dict[str, float | str | Now]()
    for name, given in say.fill.items():
        state = state_name(given)
        if state is None:
            fill[name] = given
        elif state[1] == OF_INPUTS:
            if design.plan.inputs[state[0]].host != host:
                label = design.plan.inputs[state[0]].label or state[0]
                return Open(state[0], f"the {inner(label)} is read by another program than this")
            if name in ranges:
                fill[name] = Now(*state, ranges[name].least, ranges[name].most)
        elif state[0] not in mine:
            return Open(state[0], f"how the {inner(design.lamps[state[0]].label)} is stands in no state of this program")
        elif name in ranges:
            fill[name] = Now(*state, ranges[name].least, ranges[name].most)
    return Say(say.talk, say.word, fill)


def _step(design: Design, host: str, action: Action, lamps: tuple[str, ...], word: WordDesign | None) -> Step | None:
    values = action.values or ActionValues()
    goes_round, over_ms = values.ends == "round", ms_of(values.over_s)
    match action.verb:
        case "on" | "off" | "toggle" | "hold":
            return Switch(lamps, action.verb, over_ms)
        case "brighter" | "dimmer":
            return Rung(lamps, action.verb == "brighter", goes_round, over_ms)
        case "remember":
            return Remember(lamps)
        case "restore":
            return Restore(lamps, over_ms)
        case "blink":
            on_ms = ms_of(values.on_s) or BLINK_MS
            return Blink(lamps, on_ms, ms_of(values.off_s) or on_ms, values.times or 0)
        case "pulse":
            return Pulse(lamps, ms_of(values.for_s) or PULSE_MS, None if values.level is None else _given(values.level, word))
        case "random":
            least, most = duty_of(values.least or 0.0), duty_of(1.0 if values.most is None else values.most)
            return Chance(lamps, least, max(least, most), over_ms)
        case "level" if values.level is not None:
            return Level(lamps, _given(values.level, word), over_ms)
        case "colour" if values.first is not None or any(it is not None for it in (values.red, values.green, values.blue)):
            red, green, blue = (None if it is None else _given(it, word) for it in (values.red, values.green, values.blue))
            last = values.first if values.last is None else values.last
            return Colour(lamps, (red, green, blue), over_ms, values.first, last or 0)
        case "add" if values.by_ratio is not None:
            return Add(lamps, duty_of(abs(values.by_ratio)) * (1 if values.by_ratio > 0 else -1), goes_round, over_ms)
        case "text" if values.text is not None:
            name = carried_name(values.text)
            scroll_ms = None if values.scroll_s is None else ms_of(values.scroll_s)
            return Text(lamps, "" if name else values.text, name, Manner(scroll_ms, values.is_inverted, values.is_reversed))
        case "show":
            return _show(design, host, lamps, values)
        case "tone" if values.tone_hz is not None:
            return Tone(lamps, round(values.tone_hz), ms_of(values.for_s))
        case "pattern" if values.pattern is not None:
            return March(lamps, values.pattern, ms_of(values.step_s) or STEP_MS)
        case "send" if values.code is not None:
            return Send(lamps, values.code)
        case "score" if action.values is not None:
            count = values.count
            told = Given(carried=count[1:-1], top=0) if isinstance(count, str) else None if count is None else Given(count)
            return Score(lamps, told, values.by_count or 0, goes_round)
        case _:
            return None


def _show(design: Design, host: str, lamps: tuple[str, ...], values: ActionValues) -> Step:
    """Show the value of an input of this host in its range, 0 to 100 where none is told; else the time of day."""
    if values.input is None:
        return Show(lamps, None)
    if design.plan.inputs[values.input].host != host:
        label = design.plan.inputs[values.input].label or values.input
        return Open(values.input, f"the {inner(label)} is read by another program than this")
    least, most = values.shows_least or 0, SHOWN_MOST if values.shows_most is None else values.shows_most
    return Show(lamps, Now(values.input, OF_INPUTS, least, max(least, most)))


def _given(value: float | str, word: WordDesign | None) -> Given:
    """Take a share as a number of 255 parts, or a value that the word carries, with its range."""
    if not isinstance(value, str):
        return Given(duty_of(value))
    if value == INPUT:
        return Given(carried=INPUT, most=LADDER_TOP)
    field = next((it.field for it in word.parameters if it.id == value[1:-1]), None) if word is not None else None
    return Given(carried=value[1:-1], least=field.least if field else 0, most=field.most if field else LADDER_TOP)
