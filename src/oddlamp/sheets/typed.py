"""A line typed in the phone's terminal, to see what becomes of it: its bytes on the wire, and what the listener makes of them."""

from oddlamp.core.base import Model, si
from oddlamp.core.behaviour.framing import Heard, byte_time_s, parser_of
from oddlamp.core.design.design import Design
from oddlamp.core.errors import OutOfRange
from oddlamp.core.plan.text import ENDINGS, bytes_of, shown
from oddlamp.sheets.bytes import Role, byte_row, marked, wire_speed
from oddlamp.sheets.charts import ticks
from oddlamp.sheets.models import BytesPicture

TYPED_MOST = 64


class TypedLine(Model):
    """A typed line with what the phone adds: what it means, and its bytes on the wire."""

    sentence: str
    is_heard: bool
    picture: BytesPicture


def typed_line(design: Design, vocabulary_id: str, text: str) -> TypedLine:
    """Say what a program hears where a line is typed and sent.

    Raises:
        OutOfRange: no vocabulary of a phone's talk, or a line that cannot be typed.
    """
    talk = next((it for it in design.vocabulary_talks(vocabulary_id) if it.a in design.handsets), None)
    if talk is None or talk.vocabulary.open_because is not None:
        raise OutOfRange(field="vocabulary", given=vocabulary_id, allowed="a vocabulary that a phone talks with")
    try:
        body = bytes_of(text)
    except ValueError as error:
        raise OutOfRange(field="text", given=text, allowed=str(error)) from None
    if not body or len(body) > TYPED_MOST:
        raise OutOfRange(field="text", given=text, allowed=f"1 to {TYPED_MOST} characters")
    handset, vocabulary = design.handsets[talk.a], talk.vocabulary
    added = ENDINGS[handset.appends.id]
    parser = parser_of(vocabulary, "out")
    heard = [it for _, it in parser.feed(body + added)]
    if vocabulary.gap is not None and (rest := parser.end()) is not None:
        heard.append(rest)
    told = [_told(it) for it in heard]
    if parser.pending:
        waits = " ".join(map(shown, vocabulary.terminator)) or "the rest of it"
        told.append(f"{' '.join(map(shown, parser.pending))} waits: {waits} does not come")
    is_heard = bool(heard) and not parser.pending and all(it.word is not None for it in heard)
    byte_s = byte_time_s(wire_speed(design, talk) or 9600)
    row = byte_row(text, [*_body(heard, body), *((byte, _role(byte, vocabulary.terminator)) for byte in added)], byte_s)
    said = f"{text}: {' '.join(f'{it.shown} {it.hex} {it.decimal}' for it in row.bytes)}, {row.takes}"
    most_s = len(row.bytes) * byte_s
    picture = BytesPicture(text=said, axis_most_s=most_s, ticks=ticks(most_s, lambda s: si(s, "s")), rows=(row,))
    return TypedLine(sentence="; ".join(told) or "nothing is heard", is_heard=is_heard, picture=picture)


def _body(heard: list[Heard], body: bytes) -> list[tuple[int, Role]]:
    """Mark what was typed: values and what always stands there, where it is one word."""
    word = heard[0].word if len(heard) == 1 else None
    told = marked(word, body[: len(heard[0].taken)]) if word is not None else []
    return [*told, *((byte, "word") for byte in body[len(told) :])]


def _role(byte: int, terminator: bytes) -> Role:
    return "ending" if byte in terminator else "unwanted"


def _told(heard: Heard) -> str:
    names = " ".join(map(shown, heard.taken)) or "nothing before the ending"
    if heard.word is None:
        return f"{names}: no word here{f', {heard.because}' if heard.because else ''}"
    carried = ", ".join(f"{it.label} {heard.values[it.id]}" for it in heard.word.parameters)
    return f"{heard.word.label}: {carried}" if carried else heard.word.label
