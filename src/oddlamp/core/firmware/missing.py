"""What of a program cannot be printed yet: it is refused with that, and nothing is printed."""

from collections.abc import Iterator
from typing import Final

from oddlamp.core.behaviour.program import (
    Add,
    Blink,
    Colour,
    Event,
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
from oddlamp.core.words.frames import Field

PLAIN: Final = ("hex", "byte", "two-bytes", "two-bytes-little")
MOST: Final = 65_535
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
    for event, runs in program.handlers.items():
        if event[0] not in ("heard", "input", "every", "start"):
            yield "rules at a time of day, and for links"
        for run in runs:
            for due in run.steps:
                if not isinstance(
                    due.step,
                    Switch | Level | Colour | Add | Rung | Blink | Pulse | Play | Next | Stop | Remember | Restore | Say | Open,
                ):
                    yield f"steps such as {due.told.says}"
                if isinstance(due.step, Say) and not all(isinstance(it, float | int) for it in due.step.fill.values()):
                    yield "answers that tell values"
                given = due.step.level if isinstance(due.step, Level | Pulse) else None
                shares = due.step.shares if isinstance(due.step, Colour) else ()
                carried = {one.carried for one in (given, *shares) if one is not None and one.carried is not None}
                if not carried <= _numbers(design, program.host, event):
                    yield "values that no word carries as a number"
    if any(it.kind == "air" and program.host in (it.a, it.b) for it in design.plan.links.values()):
        yield "the board's own radio"
    talks = [talk for talk in design.talks.values() if program.host in (talk.a, talk.b)]
    if len(talks) > 1:
        yield "more than one talk"
    for vocabulary in heard_by(design, program.host):
        if vocabulary.framing.id not in ("single-byte", "terminated"):
            yield "words of fixed length, and words that a pause ends"
        if any(not _is_plain(it.field) for word in vocabulary.words if word.direction == "out" for it in word.parameters):
            yield "words with texts, checks, or values below nothing"
        if vocabulary.answers_unknown:
            yield "answers to what is no word"


def _is_plain(field: Field) -> bool:
    return field.kind in ("number", *PLAIN) and field.signed is None and 0 <= field.least <= field.most <= MOST


def _numbers(design: Design, host: str, event: Event) -> set[str]:
    """Return the numbers that a word of a host carries."""
    words = (word for it in heard_by(design, host) for word in it.words if event == ("heard", word.id))
    return {it.id for word in words for it in word.parameters if _is_plain(it.field)}


def heard_by(design: Design, host: str) -> list[VocabularyDesign]:
    return [talk.vocabulary for talk in design.talks.values() if talk.b == host]
