"""The values of a sentence: each is printed and read by the same rule."""

import re
from collections.abc import Iterator
from typing import Any, Final

TURNED: Final = "as it is turned"
CARRIED: Final = re.compile(r"\{[a-z][a-z0-9_]{0,39}\}")
STATED: Final = re.compile(r"\{[a-z][a-z0-9_]{0,39}(\.[a-z]+)?\}")
NUMBER: Final = r"-?(?:\d{1,12}(?:[.,]\d{1,12})?|[.,]\d{1,12})"
TIME: Final = re.compile(rf"({NUMBER}) ?(ms|min|s|h|d)\b")
SHARE: Final = re.compile(rf"({NUMBER}) ?%")
HERTZ: Final = re.compile(rf"({NUMBER}) ?(kHz|Hz)\b", re.IGNORECASE)
WHOLE: Final = re.compile(r"-?\d{1,6}\b")
FIGURE: Final = re.compile(NUMBER)
HEX: Final = re.compile(r"(?:0x)?([0-9a-f]{1,8})\b", re.IGNORECASE)
CLOCK: Final = re.compile(r"\d{1,2}:\d\d\b")
QUOTED: Final = re.compile(r'"((?:[^"\\]|\\.)*)"')
UNITS_S: Final = {"ms": 0.001, "s": 1.0, "min": 60.0, "h": 3600.0, "d": 86_400.0}
EXAMPLES: Final = {
    "time": "500 ms", "share": "50 %", "given": "50 %", "told": "as it is turned", "hertz": "440 Hz", "whole": "3", "hex": "20DF10EF", "clock": "19:30",
    "quoted": '"text"', "count": "3", "fill": "5",
}  # fmt: skip
Found = Iterator[tuple[Any, int]]


def number(value: float) -> str:
    """Write a number with no more digits than it has."""
    return f"{value:.10g}"


def printed(kind: str, value: Any) -> str | None:
    """Write a value as a sentence has it; None where it cannot be written so."""
    match kind:
        case "time":
            return f"{number(value * 1000)} ms" if 0 < value < 1 else f"{number(value)} s"
        case "given":
            return printed("told" if isinstance(value, str) else "share", value)
        case "told":
            return None if not isinstance(value, str) else TURNED if value == "input" else f"as {value}"
        case "share":
            return None if isinstance(value, str) else f"{number(100 * value)} %"
        case "whole":
            return str(value) if isinstance(value, int) else None
        case "hertz":
            return f"{number(value)} Hz"
        case "hex":
            return f"{value:X}"
        case "quoted":
            return str(value) if CARRIED.fullmatch(value) else '"' + value.replace("\\", "\\\\").replace('"', '\\"') + '"'
        case "fill" if isinstance(value, str) and not STATED.fullmatch(value):
            return '"' + value.replace("\\", "\\\\").replace('"', '\\"') + '"'
        case "fill" | "count" if isinstance(value, int | float):
            return number(value)
        case _:
            return str(value)


def read(kind: str, text: str, place: int) -> Found:
    """Yield a value that stands at a place of a text, and where it ends."""
    match kind:
        case "time":
            if found := TIME.match(text, place):
                yield _float(found[1]) * UNITS_S[found[2]] if found[2] != "ms" else _float(found[1]) / 1000, found.end()
        case "given":
            yield from read("share", text, place)
            yield from read("told", text, place)
        case "share":
            if found := SHARE.match(text, place):
                yield _float(found[1]) / 100, found.end()
        case "told":
            if text.startswith(TURNED, place):
                yield "input", place + len(TURNED)
            elif text.startswith("as ", place) and (found := CARRIED.match(text, place + 3)):
                yield found[0], found.end()
        case "hertz":
            if found := HERTZ.match(text, place):
                yield _float(found[1]) * (1000 if found[2].casefold() == "khz" else 1), found.end()
        case "whole" | "count":
            if found := WHOLE.match(text, place):
                yield int(found[0]), found.end()
            if kind == "count" and (found := CARRIED.match(text, place)):
                yield found[0], found.end()
        case "hex":
            if found := HEX.match(text, place):
                yield int(found[1], 16), found.end()
        case "clock":
            if found := CLOCK.match(text, place):
                yield found[0].zfill(5), found.end()
        case "quoted":
            yield from _quoted(text, place)
            if found := CARRIED.match(text, place):
                yield found[0], found.end()
        case "fill":
            yield from _quoted(text, place)
            if found := STATED.match(text, place):
                yield found[0], found.end()
            elif found := FIGURE.match(text, place):
                yield _float(found[0]), found.end()


def _quoted(text: str, place: int) -> Found:
    if found := QUOTED.match(text, place):
        yield re.sub(r"\\(.)", r"\1", found[1]), found.end()


def _float(text: str) -> float:
    return float(text.replace(",", "."))
