"""One declaration of a message gives its builder, its parser and its explanation: text commands and raw bytes alike.

A template holds literal text and fields in braces, ``AT+NAME={name}``; of raw bytes it is written in hex, ``E8 A2 {frequency}``.
"""

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Annotated, Final, Literal, NamedTuple

from pydantic import Field as Described
from pydantic import model_validator

from oddlamp.core.base import Model
from oddlamp.core.errors import OutOfRange
from oddlamp.core.plan.text import ADDRESS_DIGITS, read_address, short_address
from oddlamp.core.words.signed import Signed, Span, code_of, spans, value_of

FieldKind = Literal[
    "text",
    "digits",
    "digit",
    "number",
    "quoted",
    "choice",
    "byte",
    "two-bytes",
    "two-bytes-little",
    "hex",
    "address",
    "xor",
    "sum",
    "crc-8",
]
FieldValue = str | int
TEMPLATE_MOST: Final = 80
WIDTH: Final = {"byte": 1, "two-bytes": 2, "two-bytes-little": 2, "digit": 1, "xor": 1, "sum": 1, "crc-8": 1}
CHECKS: Final = ("xor", "sum", "crc-8")
CRC_8: Final = 0x07  # x^8 + x^2 + x + 1, from 0 and not turned, as the packet error code of SMBus has it
QUOTED: Final = re.compile(rb'"((?:[^"\\]|\\.)*)"')
RAW: Final = ("byte", "two-bytes", "two-bytes-little")
HEX: Final = frozenset(b"0123456789ABCDEFabcdef")
DIGITS: Final = b"0123456789"
ESCAPED: Final = '",\\'  # what stands behind a backslash between quotes


class Field(Model):
    """One value in a message.

    ``least`` and ``most`` bound the length of text and digits, and the value of numbers and bytes. ``choices`` are what
    stands for each value of a choice, such as ``4`` for 9600. Quoted text has a backslash before quotes, commas and backslashes.
    """

    kind: FieldKind
    least: Annotated[int, Described(ge=-32_768)] = 0
    most: Annotated[int, Described(ge=-32_768)] = 65535
    signed: Signed | None = Described(default=None, description="How a number below 0 is carried")
    bits: Literal[4, 8, 16] = Described(default=8, description="Of two's complement")
    escape: str = Described(default="", max_length=1, description="Stands once more before text that begins with it")
    choices: dict[str, int] = Described(default_factory=dict)
    unit: str = ""
    digits_most: Annotated[int, Described(ge=1, le=9)] = Described(default=9, description="Of a number")
    separator: str = Described(default=",", max_length=1, description="Between the three parts of an address")

    def written(self, name: str, value: FieldValue) -> bytes:
        """Write a value as it is sent; raises OutOfRange where it cannot be."""
        match self.kind:
            case "text" | "digits":
                text = str(value)
                is_sound = text.isascii() and text.isprintable() and (self.kind == "text" or text.isdigit())
                if not is_sound or not self.least <= len(text) <= self.most:
                    what = "digits" if self.kind == "digits" else "plain characters"
                    raise OutOfRange(field=name, given=value, allowed=f"{self._span} {what}")
                return (self.escape * (self.escape != "" and text.startswith(self.escape)) + text).encode("ascii")
            case "quoted":
                text = str(value)
                if not (text.isascii() and text.isprintable()) or not self.least <= len(text) <= self.most:
                    raise OutOfRange(field=name, given=value, allowed=f"{self._span} plain characters")
                return f'"{"".join(chr(92) + it if it in ESCAPED else it for it in text)}"'.encode("ascii")
            case "choice":
                code = next((it for it, meant in self.choices.items() if meant == value), None)
                if code is None:
                    raise OutOfRange(field=name, given=value, allowed="one of " + ", ".join(map(str, self.choices.values())))
                return code.encode("ascii")
            case "address":
                return short_address(str(value), self.separator).encode("ascii")
            case _:
                if not isinstance(value, int) or not self.least <= value <= self.most:
                    raise OutOfRange(field=name, given=value, allowed=f"{self._span} {self.unit}".rstrip())
                number = code_of(value, self.signed, self.least, self.bits)
                if self.kind == "hex":
                    return f"{number:0{self.width}X}".encode("ascii")
                is_text = self.kind in ("number", "digit")
                little = self.kind == "two-bytes-little"
                return (
                    str(number).encode("ascii") if is_text else number.to_bytes(WIDTH[self.kind], "little" if little else "big")
                )

    @property
    def width(self) -> int | None:
        """How many bytes it always takes; None where that differs by value."""
        return len(f"{self.code_most:X}") if self.kind == "hex" else WIDTH.get(self.kind)

    @property
    def spans(self) -> tuple[Span, ...]:
        """The runs of codes that its values come to, each with the sign that stands before it."""
        return spans(self.signed, self.least, self.most, self.bits)

    @property
    def code_most(self) -> int:
        """The highest code that is sent for a value."""
        return max(most for _, _, most in self.spans)

    def read(self, given: bytes) -> FieldValue | None:
        """Read what was sent; None where it cannot be a value of this field."""
        text = given.decode("ascii", "replace")
        match self.kind:
            case "byte" | "two-bytes" | "two-bytes-little":
                value: FieldValue | None = self._meant(
                    int.from_bytes(given, "little" if self.kind == "two-bytes-little" else "big")
                )
            case "hex":
                value = self._meant(int(text, 16)) if re.fullmatch(r"[0-9A-Fa-f]{1,8}", text) else None
            case "choice":
                return self.choices.get(text)
            case "number" | "digit":
                sign = "-?" if self.signed == "minus" else ""
                is_sound = re.fullmatch(f"{sign}[0-9]{{1,9}}", text) and len(text.lstrip("-")) <= self.digits_most
                value = self._meant(int(text)) if is_sound else None
            case "quoted":
                found = QUOTED.fullmatch(given)
                if found is None:
                    return None
                value = re.sub(r"\\(.)", r"\1", found[1].decode("ascii", "replace"))
            case "text" if self.escape and text.startswith(self.escape):
                value = text[1:] if text.startswith(2 * self.escape) else None
            case _:
                value = text
        if value is None:
            return None
        try:
            if self.kind == "address":
                return ":".join(read_address(text, self.separator))
            self.written("", value)
        except OutOfRange:
            return None
        return value

    def _meant(self, code: int) -> int | None:
        """Return the value of a code; None for one that no value has."""
        value = value_of(code, self.signed, self.least, self.bits)
        return value if code_of(value, self.signed, self.least, self.bits) == code else None

    def bytes_it_can_be(self) -> bytes:
        """Return every byte that stands in some value of raw bytes."""
        found = set[int]()
        for _, least, most in self.spans:
            low = range(256) if most - least >= 255 else {code & 255 for code in range(least, most + 1)}
            found |= {*low} if self.kind == "byte" else {*range(least >> 8, (most >> 8) + 1), *low}
        return bytes(sorted(found))

    @property
    def span(self) -> str:
        """Its bounds in words."""
        return f"{self._span} {self.unit}".rstrip()

    @property
    def _span(self) -> str:
        return str(self.most) if self.least == self.most else f"{self.least} to {self.most}"


def check_byte(kind: str, content: bytes) -> int:
    """Return the byte that checks a message: all its bytes xored, or summed, or their CRC-8 (SMBus, version 2.0, section 5.4.1)."""
    if kind == "sum":
        return sum(content) % 256
    found = 0
    for byte in content:
        found ^= byte
        for _ in range(8 if kind == "crc-8" else 0):
            found = (found << 1 ^ (CRC_8 if found & 0x80 else 0)) & 0xFF
    return found


class Piece(NamedTuple):
    """A stretch of a message: its bytes, and the field they are, None for what is always there."""

    content: bytes
    field: str | None


@dataclass(frozen=True, slots=True)
class Shape:
    """The shape of a message: what is always there as bytes, and fields by their names, in order."""

    pieces: tuple[bytes | str, ...]
    fields: Mapping[str, Field]
    is_hex: bool = False

    def build(self, values: Mapping[str, FieldValue]) -> bytes:
        """Write a message; raises OutOfRange where a value cannot be, or is missing."""
        missing = {name for name, it in self.fields.items() if it.kind not in CHECKS} - set(values)
        if missing:
            raise OutOfRange(field=min(missing), given="nothing", allowed="a value")
        out = b""
        for piece in self.pieces:
            field = None if isinstance(piece, bytes) else self.fields[piece]
            if field is None:
                out += piece  # type: ignore[operator]
            elif field.kind in CHECKS:
                out += bytes((check_byte(field.kind, out),))
            else:
                out += field.written(str(piece), values[str(piece)])
        return out

    def parse(self, message: bytes) -> dict[str, FieldValue] | None:
        """Read a message; None where it has another shape, or a value that cannot be."""
        cut = self.cut(message)
        if cut is None:
            return None
        values: dict[str, FieldValue] = {}
        before = 0
        for piece in cut:
            at, before = before, before + len(piece.content)
            if piece.field is not None and self.fields[piece.field].kind in CHECKS:
                if piece.content[0] != check_byte(self.fields[piece.field].kind, message[:at]):
                    return None
                continue
            value = self.fields[piece.field].read(piece.content) if piece.field is not None else ""
            if value is None:
                return None
            if piece.field is not None:
                values[piece.field] = value
        return values

    def has_wrong_check(self, message: bytes) -> bool:
        """Tell whether a message has this shape, and its check byte is not that of all before it."""
        last = self.fields.get(str(self.pieces[-1])) if isinstance(self.pieces[-1], str) else None
        is_checked = last is not None and last.kind in CHECKS and self.cut(message) is not None
        return is_checked and last is not None and message[-1] != check_byte(last.kind, message[:-1])

    def cut(self, message: bytes) -> tuple[Piece, ...] | None:
        """Cut a message into its pieces, whatever their values; None where it has another shape."""
        out: list[Piece] = []
        rest = message
        for at, piece in enumerate(self.pieces):
            if isinstance(piece, bytes):
                if not rest.startswith(piece):
                    return None
                out.append(Piece(piece, None))
                rest = rest[len(piece) :]
                continue
            width = self._width(at, piece, rest)
            if not 0 <= width <= len(rest):
                return None
            out.append(Piece(rest[:width], piece))
            rest = rest[width:]
        return tuple(out) if not rest else None

    def _width(self, at: int, name: str, rest: bytes) -> int:
        """Return how many bytes of the rest a field takes: by its kind, or up to what is always there after it; -1 for none."""
        field = self.fields[name]
        after = self.pieces[at + 1] if at + 1 < len(self.pieces) else None
        width = field.width
        if width is not None:
            return width
        if field.kind == "number":
            sign = 1 if field.signed == "minus" and rest.startswith(b"-") else 0
            return sign + len(rest[sign:]) - len(rest[sign:].lstrip(DIGITS))
        if field.kind == "quoted":
            quoted = QUOTED.match(rest)
            return quoted.end() if quoted is not None else -1
        if not isinstance(after, bytes):
            return len(rest)
        past = 0
        for _ in range(len(ADDRESS_DIGITS) - 1 if field.kind == "address" else 0):  # it has separators of its own
            past = rest.find(field.separator.encode("ascii"), past) + 1
        return rest.find(after, past)

    def always(self) -> Iterator[bytes]:
        """List what may stand in a message besides text of its values: what is always there, and raw bytes that a value can be."""
        for piece in self.pieces:
            if isinstance(piece, bytes):
                yield piece
            elif self.fields[piece].kind in RAW:
                yield self.fields[piece].bytes_it_can_be()
            elif self.fields[piece].kind in CHECKS:
                yield bytes(range(256))

    def fits(self, begun: bytes) -> Literal["no", "part", "whole"]:
        """Tell whether bytes are the beginning of a message, or a whole one, values aside; one with a value of no fixed length never is."""
        at = 0
        for piece in self.pieces:
            field = None if isinstance(piece, bytes) else self.fields[piece]
            width = len(piece) if field is None else field.width
            if width is None:
                return "no"
            mine = begun[at : at + width]
            if field is None and not piece.startswith(mine):  # type: ignore[arg-type]
                return "no"
            if field is not None and field.kind in ("hex", "digit") and not all(byte in HEX for byte in mine):
                return "no"
            if len(mine) < width:
                return "part"
            at += width
        return "whole" if at == len(begun) else "no"

    def explain(self, message: bytes) -> tuple[tuple[str, str], ...] | None:
        """Say of each piece of a message what it is: hex beside what it means; None where it has another shape."""
        cut = self.cut(message)
        if cut is None:
            return None
        return tuple((piece.content.hex(" ").upper(), self._meaning(piece)) for piece in cut)

    def _meaning(self, piece: Piece) -> str:
        if piece.field is None:
            return "always there" if self.is_hex else piece.content.decode("ascii")
        field = self.fields[piece.field]
        if field.kind in CHECKS:
            return f"check: {field.kind}"
        value = field.read(piece.content)
        name = piece.field.replace("_", " ")
        return f"{name}: {'no value of it' if value is None else f'{value} {field.unit}'.rstrip()}"


class Frame(Model):
    """The shape of a message."""

    template: Annotated[str, Described(min_length=1, max_length=TEMPLATE_MOST)]
    fields: dict[str, Field] = Described(default_factory=dict)
    is_hex: bool = Described(default=False, description="Whether the template is raw bytes in hex")

    @model_validator(mode="after")
    def _is_whole(self) -> "Frame":
        named = {piece for piece in self.pieces if isinstance(piece, str)}
        if named != set(self.fields):
            raise ValueError(f"{self.template}: fields {sorted(named ^ set(self.fields))} stand on one side only")
        return self

    @cached_property
    def pieces(self) -> tuple[bytes | str, ...]:
        """What is always there as bytes, and fields by their names, in order."""
        parts = re.split(r"\{(\w{1,20})\}", self.template)
        out: list[bytes | str] = []
        for at, part in enumerate(parts):
            if at % 2:
                out.append(part)
            elif part.strip() if self.is_hex else part:
                out.append(bytes.fromhex(part) if self.is_hex else part.encode("ascii"))
        return tuple(out)

    @cached_property
    def shape(self) -> Shape:
        """The same, as it builds and reads messages."""
        return Shape(self.pieces, self.fields, self.is_hex)

    def build(self, **values: FieldValue) -> bytes:
        """Write a message; raises OutOfRange where a value cannot be, or is missing."""
        return self.shape.build(values)

    def parse(self, message: bytes) -> dict[str, FieldValue] | None:
        """Read a message; None where it has another shape, or a value that cannot be."""
        return self.shape.parse(message)

    def cut(self, message: bytes) -> tuple[Piece, ...] | None:
        """Cut a message into its pieces, whatever their values; None where it has another shape."""
        return self.shape.cut(message)

    def explain(self, message: bytes) -> tuple[tuple[str, str], ...] | None:
        """Say of each piece of a message what it is: hex beside what it means; None where it has another shape."""
        return self.shape.explain(message)
