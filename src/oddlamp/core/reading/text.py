"""From what any terminal kept to plain lines: its character set, its line ends, its colours, its times, and who said what."""

import codecs
import re
from collections.abc import Iterable, Iterator
from typing import Final, Literal, NamedTuple

LINE_MOST: Final = 500
LINES_MOST: Final = 20_000
ESCAPES: Final = re.compile(r"\x1b(?:\[[0-9;?]{0,20}[ -/]?[@-~]|[@-Z\\-_])")
STAMP: Final = re.compile(
    r" {0,4}(?:[\[(] ?)?(?:(?:\d{4}-\d\d-\d\d[T ])?(?:\d{1,2}:)?\d{1,2}:\d\d(?:[.,]\d{1,6})?Z?|(?<=[\[( ])\d{1,9}[.,]\d{1,6} ?s?(?= ?[\])])) ?[\])]? {0,3}"
)
OUT: Final = re.compile(r"(?:>>+|->|>|TX|Tx|tx|SEND|Sent|sent|OUT|out)\s?[:>|]?\s{0,3}(?=[Aa][Tt])")
IN: Final = re.compile(r"(?:<<+|<-|<|(?:RX|Rx|rx|RECV|Recv|Received|IN|in)\s?[:<|])\s{0,3}")
JOINS: Final = re.compile(r'(AT\+CW(?:JAP|SAP)(?:_CUR|_DEF)?[=:]"(?:[^"\\]|\\.)*",)"((?:[^"\\]|\\.)*)"', re.IGNORECASE)
VEIL: Final = "•••"
Side = Literal["out", "in", ""]


class Line(NamedTuple):
    """One line: its number from 1, its text, and who said it where the log tells."""

    number: int
    text: str
    side: Side = ""


def decoded(chunks: Iterable[bytes]) -> Iterator[str]:
    """Decode a log piece by piece, byte for byte, or as UTF-16 where its beginning shows that."""
    decoder: codecs.IncrementalDecoder | None = None
    for chunk in chunks:
        if decoder is None:
            decoder = codecs.getincrementaldecoder(charset_of(chunk))("replace")
        yield decoder.decode(chunk)


def charset_of(head: bytes) -> str:
    """Tell by its beginning which character set a log is kept in: byte for byte, where nothing tells another."""
    if head[:2] in (codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE):
        return "utf-16"
    few = head[:400]
    for name, odd in (("utf-16-le", few[1::2]), ("utf-16-be", few[::2])):
        if len(few) > 8 and odd.count(0) > 0.4 * len(odd):
            return name
    return "utf-8-sig" if head.startswith(codecs.BOM_UTF8) else "latin-1"


def ending_of(head: bytes) -> str:
    """Tell how the lines of a log end by its beginning: in one way, in several, or not at all."""
    text = "".join(decoded([head]))
    counted = {"CR LF": text.count("\r\n")}
    counted |= {"CR": text.count("\r") - counted["CR LF"], "LF": text.count("\n") - counted["CR LF"]}
    found = [name for name, count in counted.items() if count]
    return " and ".join(found) if found else "nothing"


def lines_of(chunks: Iterable[bytes]) -> Iterator[Line]:
    """Yield the lines of a log, however they end, with all that terminals put round them taken off; empty ones are left out.

    Args:
        chunks: the log in pieces of any size; no more than a line of it is held.
    """
    number, rest = 0, ""
    for text in decoded(chunks):
        whole = rest + text
        *ended, rest = re.split(r"\r\n|\r(?!$)|\n", whole)
        rest = rest[-LINE_MOST:]
        for it in ended:
            line = _line(number + 1, it)
            if line is not None:
                number += 1
                yield line
    line = _line(number + 1, rest)
    if line is not None:
        yield line


def _line(number: int, raw: str) -> Line | None:
    text = ESCAPES.sub("", raw[:LINE_MOST])
    stamped = STAMP.match(text)
    if stamped is not None and stamped.end():
        text = text[stamped.end() :]
    side: Side = ""
    for pattern, of in ((OUT, "out"), (IN, "in")):
        found = pattern.match(text)
        if found is not None and text[found.end() :].strip():
            text, side = text[found.end() :], of  # type: ignore[assignment]
            break
    text = text.strip("\r\n\t \x00")
    return Line(number, text, side) if text else None


def passwords_in(text: str) -> set[str]:
    """Return the passwords of networks that a line carries, as they stand between quotes."""
    return {found[2] for found in JOINS.finditer(text) if found[2]}


def veiled(text: str) -> str:
    """Write a text without any password of a network in it."""
    return JOINS.sub(rf'\1"{VEIL}"', text)
