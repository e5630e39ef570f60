"""What of a program cannot be printed yet: it is refused with that, and nothing is printed."""

from collections.abc import Iterator
from typing import Final

from oddlamp.core.behaviour.program import (
    Add,
    Blink,
    Colour,
    Level,
    Next,
    Open,
    Play,
    Program,
    Pulse,
    Remember,
    Restore,
    Rung,
    Say,
    Stop,
    Switch,
)
from oddlamp.core.design.design import Design
from oddlamp.core.design.talks import VocabularyDesign
from oddlamp.core.plan.lights import CHANNEL_KINDS, SWITCHED_KINDS

LAMPS_MOST: Final = 32  # a bit each tells which lamps a step that waits has lost


def why_not_printed(design: Design, program: Program) -> Iterator[str]:
    """Yield what of a program cannot be printed yet."""
    if len(program.lamps) > LAMPS_MOST:
        yield f"more than {LAMPS_MOST} lamps"
    for name in program.lamps:
        lamp = design.lamps[name]
        if lamp.kind not in (*CHANNEL_KINDS, *SWITCHED_KINDS, "strip", "motor") or lamp.sends_codes:
            yield f"{lamp.label}: pixels, displays and codes"
        if any(it.pin is None or it.pin.label is None for it in design.lamp_signals(lamp)):
            yield f"{lamp.label}: a pin for each of its lines"
    for name, it in program.inputs.items():
        if it.kind == "turned":
            yield f"{name}: what is turned"
    if program.movers or program.watches or program.keeps:
        yield "movers, keep-alive words, and what is kept over a power cut"
    for (kind, *_), runs in program.handlers.items():
        if kind not in ("heard", "input", "every", "start"):
            yield "rules at a time of day, and for links"
        for run in runs:
            for due in run.steps:
                if not isinstance(
                    due.step,
                    Switch | Level | Colour | Add | Rung | Blink | Pulse | Play | Next | Stop | Remember | Restore | Say | Open,
                ):
                    yield f"steps such as {due.told.says}"
                if isinstance(due.step, Say) and due.step.fill:
                    yield "words with values"
                given = due.step.level if isinstance(due.step, Level | Pulse) else None
                shares = due.step.shares if isinstance(due.step, Colour) else ()
                if any(one is not None and one.carried is not None for one in (given, *shares)):
                    yield "values that a word carries"
    if any(it.kind == "air" and program.host in (it.a, it.b) for it in design.plan.links.values()):
        yield "the board's own radio"
    talks = [talk for talk in design.talks.values() if program.host in (talk.a, talk.b)]
    if len(talks) > 1:
        yield "more than one talk"
    for vocabulary in heard_by(design, program.host):
        if vocabulary.framing.id not in ("single-byte", "terminated") or any(it.shape is not None for it in vocabulary.words):
            yield "words of fixed length, words that a pause ends, and words with values"
        if vocabulary.answers_unknown:
            yield "answers to what is no word"


def heard_by(design: Design, host: str) -> list[VocabularyDesign]:
    return [talk.vocabulary for talk in design.talks.values() if talk.b == host]
