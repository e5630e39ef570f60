"""From rules, cues and standing orders to the program of a host."""

from collections.abc import Iterator, Mapping
from functools import lru_cache
from typing import Final

from oddlamp.core.base import Same
from oddlamp.core.behaviour.arithmetic import LADDER_TOP, duty_of
from oddlamp.core.behaviour.each import One, keys_of, rules_for_each
from oddlamp.core.behaviour.program import (
    INPUT,
    START,
    Add,
    Blink,
    Chance,
    CodedSpec,
    Colour,
    Due,
    Event,
    Given,
    Level,
    Manner,
    March,
    MoverSpec,
    Next,
    Now,
    Open,
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
from oddlamp.core.behaviour.tables import cue_of, input_spec, movers_of, ms_of, orders_of, spec_of, watches_of
from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import LampDesign
from oddlamp.core.design.talks import WordDesign
from oddlamp.core.english import inner
from oddlamp.core.layouts.can import why_not
from oddlamp.core.plan.fields import Saying
from oddlamp.core.plan.rules import OF_CUES, OF_INPUTS, TURNS, Action, ActionValues, When, carried_name, state_name
from oddlamp.core.plan.signals import span_of, told_by

BLINK_MS: Final = 500
STEP_MS: Final = 100
RULE: Final = 90  # from one lit pixel a triangle of triangles
SHOWN_MOST: Final = 100
PULSE_MS: Final = 1000
SEED: Final = 0x0DD1A391
LINK_EVENTS: Final = {"link-lost": "lost", "link-back": "back"}


def program_of(design: Design, host: str) -> Program:
    """Write the program of a host: all its rules by what sets them off, in the order of the plan, and what its lamps do at power-on."""
    return _programs(Same(design), host)


def _compiled(design: Design, host: str) -> Program:
    mine = {it.id: it for it in design.lamps.values() if told_by(design.plan, it.host) == host}
    handlers: dict[Event, list[Run]] = {}
    words = {word.id: word for talk in design.talks.values() if host in (talk.a, talk.b) for word in talk.vocabulary.words}
    inputs = {key: input_spec(it) for name, it in design.plan.inputs.items() if it.host == host for key in keys_of(name, it)}
    for at, one in enumerate(rules_for_each(design, host)):
        event = event_of(one.rule.when)
        if event is not None:
            event = (event[0], one.input, *event[2:]) if one.input is not None else event
            handlers.setdefault(event, []).append(_run(design, mine, at, one, words))
    return Program(
        host,
        {name: spec_of(design, lamp) for name, lamp in mine.items()},
        {name: cue_of(design, mine, cue) for name, cue in design.plan.cues.items()},
        {event: tuple(runs) for event, runs in handlers.items()},
        inputs,
        {name: orders_of(design, host, name) for name in mine},
        movers_of(design, mine),
        SEED,
        watches_of(design, host),
    )


def _run(design: Design, mine: Mapping[str, LampDesign], at: int, one: One, words: Mapping[str, WordDesign]) -> Run:
    """Write a rule as steps. What an action waits is what its first step waits; what is left out keeps the time of the others."""
    steps, rule = list[Due](), one.rule
    for action in rule.do:
        after_ms = ms_of(action.after_s)
        for step in _steps(design, mine, one, action, words):
            steps.append(Due(after_ms, step, told_of(action)))
            after_ms = 0
    unless = rule.unless
    if unless is not None and (
        (unless.lamp is not None and unless.lamp not in mine) or _is_elsewhere(design, rule.host, unless.input)
    ):
        unless = None  # judged (CMD-REACH)
    return Run(
        at,
        tuple(steps),
        None if unless is None else Unless(unless.lamp, one.called.get(unless.input or ""), unless.state == "on"),
    )


def _is_elsewhere(design: Design, host: str, name: str | None) -> bool:
    return name is not None and design.plan.inputs[name].host != host


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


def _steps(
    design: Design, mine: Mapping[str, LampDesign], one: One, action: Action, words: Mapping[str, WordDesign]
) -> Iterator[Step]:
    rule = one.rule
    if action.verb == "say":
        if action.say is not None:
            yield _said(design, one, mine, action.say)
        return
    if action.target in design.plan.movers:
        movers = movers_of(design, mine)
        if action.verb in TURNS and action.target in movers:
            yield _turn(design, movers[action.target], action, words.get(rule.when.heard or ""))
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
    step = _step(design, one, action, lamps, words.get(rule.when.heard or "")) if lamps else None
    if step is not None:
        yield step


def _turn(design: Design, spec: MoverSpec | CodedSpec, action: Action, word: WordDesign | None) -> Turn:
    """Write down how a mover is told; what is turned goes from the fastest back to the fastest ahead."""
    values, name = action.values or ActionValues(), action.target or ""
    if values.speed is None or isinstance(values.speed, int):
        return Turn(name, action.verb, Given(values.speed or 0), 1 if values.by_count is None else values.by_count)
    if values.speed == INPUT:
        most = spec.most if isinstance(spec, CodedSpec) else min(len(spec_of(design, design.lamps[it]).ladder) for it in spec[:2])
        return Turn(name, action.verb, Given(carried=INPUT, most=LADDER_TOP, top=2 * most), less=most)
    return Turn(name, action.verb, Given(carried=str(values.speed)[1:-1], top=0))


def _said(design: Design, one: One, mine: Mapping[str, LampDesign], say: Saying) -> Step:
    """Say a word; what it tells of lamps as they are now must be this program's own."""
    ranges = {it.id: it.field for it in design.talks[say.talk].vocabulary.word(say.word).parameters}
    fill = dict[str, float | str | Now]()
    for name, given in say.fill.items():
        state = state_name(given)
        if state is None:
            fill[name] = given
        elif state[1] == OF_INPUTS:
            if design.plan.inputs[state[0]].host != one.rule.host:
                label = design.plan.inputs[state[0]].label or state[0]
                return Open(state[0], f"the {inner(label)} is read by another program than this")
            if name in ranges:
                fill[name] = Now(one.called[state[0]], state[1], ranges[name].least, ranges[name].most)
        elif state[0] not in mine:
            return Open(state[0], f"how the {inner(design.lamps[state[0]].label)} is stands in no state of this program")
        elif name in ranges:
            fill[name] = Now(*state, ranges[name].least, ranges[name].most)
    return Say(say.talk, say.word, fill)


def _step(design: Design, one: One, action: Action, lamps: tuple[str, ...], word: WordDesign | None) -> Step | None:
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
            first = values.first if isinstance(values.first, int) else None
            last = first if values.last is None else values.last
            return Colour(lamps, (red, green, blue), over_ms, first, last or 0)
        case "add" if values.by_ratio is not None:
            return Add(lamps, duty_of(abs(values.by_ratio)) * (1 if values.by_ratio > 0 else -1), goes_round, over_ms)
        case "text" if values.text is not None:
            name = carried_name(values.text)
            scroll_ms = None if values.scroll_s is None else ms_of(values.scroll_s)
            return Text(lamps, "" if name else values.text, name, Manner(scroll_ms, values.is_inverted, values.is_reversed))
        case "show":
            return _show(design, one, lamps, values)
        case "tone" if values.tone_hz is not None:
            return Tone(lamps, round(values.tone_hz), ms_of(values.for_s))
        case "pattern" if values.pattern is not None:
            rule = (RULE if values.rule is None else values.rule) if values.pattern == "neighbours" else 0
            return March(lamps, values.pattern, ms_of(values.step_s) or STEP_MS, rule)
        case "send" if values.code is not None:
            return Send(lamps, values.code)
        case "score" if action.values is not None:
            count = values.count
            told = Given(carried=count[1:-1], top=0) if isinstance(count, str) else None if count is None else Given(count)
            return Score(
                lamps, told, values.by_count or 0, goes_round and told is None
            )  # only a count goes round, no told number
        case _:
            return None


def _show(design: Design, one: One, lamps: tuple[str, ...], values: ActionValues) -> Step:
    """Show the value of an input of this host in its range, its own or 0 to 100 where none is told; else the time of day."""
    if values.input is None:
        return Show(lamps, None)
    if design.plan.inputs[values.input].host != one.rule.host:
        label = design.plan.inputs[values.input].label or values.input
        return Open(values.input, f"the {inner(label)} is read by another program than this")
    span = span_of(design.plan.inputs[values.input])
    from_, to = (0, SHOWN_MOST) if span is None else (span.least, span.most)
    least = from_ if values.shows_least is None else values.shows_least
    most = to if values.shows_most is None else values.shows_most
    return Show(lamps, Now(one.called[values.input], OF_INPUTS, least, max(least, most)))


def _given(value: float | str, word: WordDesign | None) -> Given:
    """Take a share as a number of 255 parts, or a value that the word carries, with its range."""
    if not isinstance(value, str):
        return Given(duty_of(value))
    if value == INPUT:
        return Given(carried=INPUT, most=LADDER_TOP)
    field = next((it.field for it in word.parameters if it.id == value[1:-1]), None) if word is not None else None
    return Given(carried=value[1:-1], least=field.least if field else 0, most=field.most if field else LADDER_TOP)
