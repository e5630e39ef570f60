"""What of a program cannot be printed: it is refused with that, and nothing is printed."""

from collections.abc import Iterator
from typing import Final

from oddlamp.core.behaviour.program import Program
from oddlamp.core.design.design import Design
from oddlamp.core.firmware.calls import carried_by
from oddlamp.core.firmware.commands import is_told_by_commands
from oddlamp.core.firmware.hearing import codes_heard, heard_on, is_known, words_of
from oddlamp.core.firmware.pins import all_lines_have_pins
from oddlamp.core.firmware.radio import why_no_radio
from oddlamp.core.modules.known import links_known
from oddlamp.core.parts.models import BoardPart

LAMPS_MOST: Final = 200
RULES_MOST: Final = 250


def why_not_printed(design: Design, program: Program) -> Iterator[str]:
    """Yield what of a program cannot be printed."""
    host = design.nodes[program.host]
    if not isinstance(host.part, BoardPart):
        yield "a board that is not settled"
        return
    if len(program.lamps) > LAMPS_MOST:
        yield f"more than {LAMPS_MOST} lamps on one board"
    if sum(map(len, program.handlers.values())) > RULES_MOST:
        yield f"more than {RULES_MOST} rules on one board"
    yield from all_lines_have_pins(design, program)
    for name, spec in program.lamps.items():
        pixel = design.lamps[name].load
        if spec.is_chain and pixel is not None and pixel.pixel is not None and pixel.pixel.bytes_each != len("RGB"):
            yield f"{design.lamps[name].label}: pixels of four colours"
    yield from why_no_radio(design, program.host)
    for link, them in heard_on(design, program.host).items():
        told = design.plan.links[link].label or link
        if len({(it.talk.vocabulary.id, it.direction) for it in them}) > 1:
            yield f"{told}: two vocabularies on one wire"
        if not all(is_known(it.talk.vocabulary) for it in them):
            yield f"{told}: a module's own commands"
    words = words_of(design, program.host)
    for word in words.values():
        if sum(it.written == "text" for it in word.parameters) > 1:
            yield f"{word.label}: two texts in one word"
    is_asked = any(it.link_lost != "keep" for it in program.orders.values()) or any(it[0] == "link" for it in program.handlers)
    for known in links_known(design):
        told_by_commands = known.module is not None and is_told_by_commands(design, known.module)
        if known.board == program.host and known.by == "message" and is_asked and not told_by_commands:
            yield "what a module itself says of its link: wire its state pin"
    for it in codes_heard(design, program, program.handlers, carried_by(design, program, words)):
        if not it["is_whole"]:
            yield f"{it['told']}: a key that leaves a value of its word open"
