"""Words as they stand on the wire: every byte with its ten bits, marked by what it is for."""

from collections.abc import Sequence
from typing import Literal

from oddlamp.core.base import si
from oddlamp.core.design.design import Design
from oddlamp.core.design.talks import TalkDesign, WordDesign
from oddlamp.core.plan.text import shown
from oddlamp.sheets.models import ByteRow, TimedByte

Role = Literal["word", "value", "ending", "unwanted"]
Marked = Sequence[tuple[int, Role]]


def byte_row(label: str, marked: Marked, byte_s: float) -> ByteRow:
    """Lay bytes out on the wire one after the other."""
    timed = tuple(
        TimedByte(
            shown=shown(byte),
            hex=f"0x{byte:02X}",
            decimal=byte,
            bits="0" + f"{byte:08b}"[::-1] + "1",
            starts_s=at * byte_s,
            ends_s=(at + 1) * byte_s,
            role=role,
        )
        for at, (byte, role) in enumerate(marked)
    )
    return ByteRow(word=label, bytes=timed, takes=si(len(timed) * byte_s, "s"))


def marked(word: WordDesign, body: bytes) -> list[tuple[int, Role]]:
    """Tell of each byte of a word whether it always stands there or is a value."""
    cut = word.shape.cut(body) if word.shape is not None else None
    if cut is None:
        return [(byte, "word") for byte in body]
    return [(byte, "word" if piece.field is None else "value") for piece in cut for byte in piece.content]


def wire_speed(design: Design, talk: TalkDesign) -> float | None:
    """Return the speed of the first wire on a talk's way, Bd; None where there is none."""
    return next((design.wires[hop.link_id].baud.known for hop in talk.hops if hop.link_id in design.wires), None)
