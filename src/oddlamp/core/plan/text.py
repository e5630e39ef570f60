"""Bytes as people type them: characters of ISO/IEC 646 with \\r, \\n, \\t, \\\\ and \\x41 escapes."""

import re
from typing import Annotated, Final

from pydantic import AfterValidator, BeforeValidator, StringConstraints

from oddlamp.core.errors import OutOfRange

ENDINGS: Final[dict[str, bytes]] = {"none": b"", "cr": b"\r", "lf": b"\n", "cr-lf": b"\r\n"}
ADDRESS_DIGITS: Final = (4, 2, 6)  # NAP, UAP and LAP of a classic radio's address
ADDRESS_MOST: Final = 40
SENT_MOST: Final = 64
_ESCAPE = re.compile(r"\\(x[0-9a-fA-F]{2}|[rnt\\]|.?)", re.DOTALL)
FIELD: Final = re.compile(r"\{([a-z][a-z0-9_]{0,39})\}")
STATE: Final = re.compile(r"\{([a-z][a-z0-9_]{0,39})\.(on|level|red|green|blue|text|score|value)\}")
_NAMED: Final = {"r": 13, "n": 10, "t": 9, "\\": 92}


def bytes_of(text: str) -> bytes:
    """Turn typed characters into the bytes that are sent.

    Raises:
        ValueError: a character outside ISO/IEC 646, or an escape that is not one.
    """
    out, at = bytearray(), 0
    for match in _ESCAPE.finditer(text):
        out += _plain(text[at : match.start()])
        name = match.group(1)
        if name.startswith("x"):
            out.append(int(name[1:], 16))
        elif name in _NAMED:
            out.append(_NAMED[name])
        else:
            raise ValueError(r"one of \r \n \t \\ or \x41 after a backslash")
        at = match.end()
    return bytes(out + _plain(text[at:]))


def parts_of(text: str) -> list[bytes | str]:
    """Take typed characters apart: what is always sent as bytes, and the names of values that stand in braces, in order.

    Raises:
        ValueError: a character outside ISO/IEC 646, or an escape that is not one.
    """
    parts = [bytes_of(it) if at % 2 == 0 else it for at, it in enumerate(FIELD.split(text))]
    return [it for it in parts if it]


def fields_of(text: str) -> list[str]:
    """Return the names of the values that stand in braces, in order; a brace that is sent is written ``\\x7B``."""
    return FIELD.findall(text)


def _plain(text: str) -> bytes:
    try:
        return text.encode("ascii")
    except UnicodeEncodeError:
        raise ValueError(r"characters of plain ASCII; write any other byte as \x41") from None


def shown(byte: int) -> str:
    """Name one byte for reading: its character, or its control name."""
    names = {13: "CR", 10: "LF", 9: "TAB", 0: "NUL", 32: "space", 127: "DEL"}
    return names.get(byte) or (chr(byte) if 32 < byte < 127 else f"0x{byte:02X}")


def typed(content: bytes) -> str:
    """Write bytes as they are typed: characters as they are, any other byte as ``\\x41``."""
    return "".join(chr(it) if 32 <= it < 127 and it != 92 else f"\\x{it:02X}" for it in content)


def _hexed(given: object) -> object:
    """Read bytes typed as ``0x41 0x0A`` as what they stand for: a character where it is one, else an escape."""
    if not isinstance(given, str) or not re.fullmatch(r"0[xX][0-9a-fA-F]{2}(?:[ ,]+0[xX][0-9a-fA-F]{2}){0,15}", given.strip()):
        return given
    found = [int(it, 16) for it in re.findall(r"0[xX]([0-9a-fA-F]{2})", given)]
    return "".join(chr(it) if 32 < it < 127 and chr(it) not in "\\{}" else f"\\x{it:02X}" for it in found)


def _sendable(text: str) -> str:
    bytes_of(text)
    return text


def _terminator(text: str) -> str:
    if text in ENDINGS and text != "none":
        return text
    if len(bytes_of(text)) != 1:
        raise ValueError("cr, lf, cr-lf, or any one character")
    return text


def terminator_bytes(text: str) -> bytes:
    """Return the bytes that end a word, for the name or character the plan keeps."""
    return ENDINGS.get(text) or bytes_of(text)


def read_address(text: str, separator: str = ":,.-") -> tuple[str, str, str]:
    """Read a radio's address in any notation, dropped zeros and all: NAP, UAP and LAP, upper case, in full.

    Raises:
        OutOfRange: not three parts of hex digits, nor twelve digits in a row.
    """
    parts = re.split(f"[{re.escape(separator)}]", text.strip())
    if len(parts) == 1 and len(text.strip()) == sum(ADDRESS_DIGITS):
        whole = text.strip()
        parts = [whole[:4], whole[4:6], whole[6:]]
    if len(parts) == 6:
        parts = ["".join(it.zfill(2) for it in parts[:2]), parts[2], "".join(it.zfill(2) for it in parts[3:])]
    is_sound = len(parts) == 3 and all(re.fullmatch(r"[0-9A-Fa-f]+", it) for it in parts)
    if not is_sound or any(len(it) > most for it, most in zip(parts, ADDRESS_DIGITS, strict=True)):
        raise OutOfRange(field="address", given=text, allowed="three parts of hex digits, such as 1a2b:3c:4d5e6f")
    nap, uap, lap = (it.upper().zfill(most) for it, most in zip(parts, ADDRESS_DIGITS, strict=True))
    return nap, uap, lap


def short_address(text: str, separator: str = ":") -> str:
    """Write an address the way modules do: in three parts, zeros in front dropped, small letters; raises OutOfRange."""
    return separator.join(part.lstrip("0").lower() or "0" for part in read_address(text))


def _address(given: object) -> object:
    if not isinstance(given, str):
        return given
    try:
        return ":".join(read_address(given[:ADDRESS_MOST]))
    except OutOfRange as error:
        raise ValueError(error.allowed) from None


RadioAddress = Annotated[str, BeforeValidator(_address), StringConstraints(max_length=ADDRESS_MOST)]
SentText = Annotated[
    str, BeforeValidator(_hexed), StringConstraints(min_length=1, max_length=SENT_MOST), AfterValidator(_sendable)
]
TerminatorText = Annotated[str, StringConstraints(min_length=1, max_length=8), AfterValidator(_terminator)]
