"""From rules, cues and standing orders to the program of a host."""

from collections.abc import Iterator, Mapping
from functools import lru_cache
from itertools import groupby
from typing import Final

from oddlamp.core.base import Same
from oddlamp.core.behaviour.arithmetic import LADDER_TOP, duty_of
from oddlamp.core.behaviour.program import (
    START,
    Add,
    Colour,
    Event,
    Given,
    LampSpec,
    Level,
    Next,
    Now,
    Open,
    Picture,
    Program,
    Remember,
    Restore,
    Rung,
    Say,
    Score,
    Step,
    Switch,
    Text,
    Told,
)
from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import LampDesign
from oddlamp.core.design.talks import WordDesign
from oddlamp.core.design.values import NOT_YET
from oddlamp.core.english import inner
from oddlamp.core.plan.fields import Saying
from oddlamp.core.plan.lights import why_not
from oddlamp.core.plan.rules import Action, Cue, Rule, When, carried_name, state_name
from oddlamp.core.plan.signals import told_by

DIGITS_A_MODULE: Final = 2  # of 8 columns: three for a digit and one between
DIGITS_MOST: Final = 4


def program_of(design: Design, host: str) -> Program:
    """Write the program of a host: all its rules by what sets them off, in the order of the plan, and what its lamps do at power-on."""
    return _programs(Same(design), host)


def _compiled(design: Design, host: str) -> Program:
    mine = {it.id: it for it in design.lamps.values() if told_by(design.plan, it.host) == host}
    handlers: dict[Event, list[tuple[Step, Told]]] = {}
    for lamp, standing in design.plan.standing.items():
        if standing.power_up == "on" and lamp in mine:
            handlers.setdefault(START, []).append((Switch((lamp,), "on"), Told(lamp, f"on {lamp} at power-up")))
    words = {word.id: word for talk in design.talks.values() if host in (talk.a, talk.b) for word in talk.vocabulary.words}
    for _, rule in design.rules_of(host):
        event = event_of(rule.when)
        if event is not None:
            steps = [(it, told_of(action)) for action in rule.do for it in _steps(design, mine, rule, action, words)]
            handlers.setdefault(event, []).extend(steps)
    return Program(
        host,
        {name: spec_of(design, lamp) for name, lamp in mine.items()},
        {name: tuple(_pictures(design, cue)) for name, cue in design.plan.cues.items()},
        {event: tuple(step for step, _ in steps) for event, steps in handlers.items()},
        {event: tuple(says for _, says in steps) for event, steps in handlers.items()},
    )


def event_of(when: When) -> Event | None:
    """Return what sets a rule off; None for what the program knows nothing of yet: links, and power that comes."""
    if when.heard is not None:
        return ("heard", when.heard)
    if when.input is not None and when.event is not None:
        return ("input", when.input, when.event)
    return START if when.event == "power-up" and when.link is None else None


def told_of(action: Action) -> Told:
    """Say an action in a few words, for the trace."""
    if action.verb == "say" and action.say is not None:
        return Told(action.say.word, f"says {action.say.word}")
    return Told(action.target or "", f"{action.verb} {action.target}")


def why_open(action: Action) -> str | None:
    """Say why an action is kept and not obeyed yet; None where it is obeyed."""
    if action.verb == "cue":
        return f"cues: {NOT_YET}"
    if action.values is not None and action.values.level == "input":
        return f"levels from an input: {NOT_YET}"
    return None


@lru_cache(maxsize=8)
def _programs(of: Same[Design], host: str) -> Program:
    return _compiled(of.it, host)


def spec_of(design: Design, lamp: LampDesign) -> LampSpec:
    """Return what a program must know of a lamp."""
    dimming, plan = lamp.dimming, design.plan.lamps[lamp.id]
    ladder = (LADDER_TOP,) if dimming is None else dimming.by_eye if dimming.even_in.id == "eye" else dimming.by_duty
    cap = getattr(plan, "brightness_cap_ratio", None)
    digits = min(DIGITS_A_MODULE * (plan.count or 1), DIGITS_MOST) if plan.kind == "matrix" else 0
    return LampSpec(ladder, LADDER_TOP if cap is None else duty_of(cap), 10**digits - 1 if digits else 0)


def _pictures(design: Design, cue: Cue) -> Iterator[tuple[Picture, ...]]:
    """Cut a cue into its pictures: what comes at once with the step before it belongs to one."""
    numbers: list[int] = []
    for step in cue.steps:
        numbers.append((numbers[-1] if numbers else 0) + (1 if numbers and step.after_s > 0 else 0))
    for _, group in groupby(zip(numbers, cue.steps, strict=True), key=lambda it: it[0]):
        yield tuple(Picture(design.targets(it.target), None if it.level is None else duty_of(it.level)) for _, it in group)


def _steps(
    design: Design, mine: Mapping[str, LampDesign], rule: Rule, action: Action, words: Mapping[str, WordDesign]
) -> Iterator[Step]:
    because = why_open(action)
    if because is not None:
        yield Open(action.target or "", because)
        return
    if action.verb == "say":
        if action.say is not None:
            yield _said(design, mine, action.say)
        return
    if action.verb == "next":
        yield Next(action.target or "")
        return
    targets = design.targets(action.target)
    for it in targets:
        if it not in mine:
            lamp = design.lamps[it]
            yield Open(
                it, f"the {inner(lamp.label)} hangs on the {inner(design.nodes[lamp.host].label)}, out of this program's reach"
            )
        elif (because := why_not(design.plan.lamps[it], action.verb)) is not None:
            yield Open(it, f"{design.lamps[it].label} cannot: {because}")
    lamps = tuple(it for it in targets if it in mine and why_not(design.plan.lamps[it], action.verb) is None)
    step = _step(action, lamps, words.get(rule.when.heard or "")) if lamps else None
    if step is not None:
        yield step


def _said(design: Design, mine: Mapping[str, LampDesign], say: Saying) -> Step:
    """Say a word; what it tells of lamps as they are now must be this program's own."""
    ranges = {it.id: it.field for it in design.talks[say.talk].vocabulary.word(say.word).parameters}
    fill = dict[str, float | str | Now]()
    for name, given in say.fill.items():
        state = state_name(given)
        if state is None:
            fill[name] = given
        elif state[0] not in mine:
            return Open(state[0], f"how the {inner(design.lamps[state[0]].label)} is stands in no state of this program")
        elif name in ranges:
            fill[name] = Now(*state, ranges[name].least, ranges[name].most)
    return Say(say.talk, say.word, fill)


def _step(action: Action, lamps: tuple[str, ...], word: WordDesign | None) -> Step | None:
    values = action.values
    goes_round = values is not None and values.ends == "round"
    match action.verb:
        case "on" | "off" | "toggle":
            return Switch(lamps, action.verb)
        case "brighter" | "dimmer":
            return Rung(lamps, action.verb == "brighter", goes_round)
        case "remember":
            return Remember(lamps)
        case "restore":
            return Restore(lamps)
        case _ if values is None:
            return None
        case "level" if values.level is not None:
            return Level(lamps, _given(values.level, word))
        case "colour":
            red, green, blue = (None if it is None else _given(it, word) for it in (values.red, values.green, values.blue))
            return Colour(lamps, (red, green, blue))
        case "add" if values.by_ratio is not None:
            return Add(lamps, duty_of(abs(values.by_ratio)) * (1 if values.by_ratio > 0 else -1), goes_round)
        case "text" if values.text is not None:
            name = carried_name(values.text)
            return Text(lamps, "" if name else values.text, name)
        case "score":
            count = values.count
            told = Given(carried=count[1:-1], top=0) if isinstance(count, str) else None if count is None else Given(count)
            return Score(lamps, told, values.by_count or 0, goes_round)
        case _:
            return None


def _given(value: float | str, word: WordDesign | None) -> Given:
    """Take a share as a number of 255 parts, or a value that the word carries, with its range."""
    if not isinstance(value, str):
        return Given(duty_of(value))
    field = next((it.field for it in word.parameters if it.id == value[1:-1]), None) if word is not None else None
    return Given(carried=value[1:-1], least=field.least if field else 0, most=field.most if field else LADDER_TOP)
