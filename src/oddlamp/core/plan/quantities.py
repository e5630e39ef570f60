"""Quantities as people write them: 220, 4k7, 4,7k, 3V3, 20m, 4.7 kohm, 5 %."""

import re
from typing import Annotated, Final

from pydantic import BeforeValidator, Field

from oddlamp.core.electrical.bands import COLOURS, read_bands, read_smd
from oddlamp.core.electrical.tones import note_frequency_hz
from oddlamp.core.errors import OutOfRange

TEXT_MOST: Final = 60
UNIT_WORDS: Final[dict[str, frozenset[str]]] = {
    "ohm": frozenset({"ohm", "ohms", "Ohm", "Ohms", "R", "Ω"}),
    "V": frozenset({"V", "v", "volt", "volts"}),
    "A": frozenset({"A", "amp", "amps"}),
    "W": frozenset({"W", "watt", "watts"}),
    "F": frozenset({"F"}),
    "s": frozenset({"s", "sec", "seconds"}),
    "m": frozenset({"m", "metre", "metres"}),
    "Hz": frozenset({"Hz", "hz"}),
    "Bd": frozenset({"Bd", "baud", "bd", "bps"}),
    "C": frozenset({"C", "°C"}),
    "Ah": frozenset({"Ah", "ah"}),
    "K/W": frozenset({"K/W", "C/W", "°C/W"}),
    "ratio": frozenset({"%"}),
    "": frozenset(),
}
PREFIXES: Final = {
    "p": 1e-12,
    "n": 1e-9,
    "u": 1e-6,
    "µ": 1e-6,
    "μ": 1e-6,
    "m": 1e-3,
    "c": 1e-2,
    "k": 1e3,
    "K": 1e3,
    "M": 1e6,
    "G": 1e9,
}
TIMES_S: Final = {"min": 60.0, "minutes": 60.0, "h": 3600.0, "hours": 3600.0, "days": 86_400.0}
EXAMPLES: Final = {
    "ohm": "220, 4k7, 4.7 kohm, bands (yellow violet red gold) or a chip's mark (smd 472)",
    "V": "5, 3V3, 3.3 V",
    "A": "20m, 20 mA, 0.02",
    "ratio": "5 %, 0.05",
    "m": "0.4, 40 cm",
    "Hz": "440, 2 kHz, or a note such as A4 for a tone",
}
UNIT_NAMES: Final = {
    "ohm": "ohms",
    "V": "volts",
    "A": "amperes",
    "s": "seconds",
    "m": "metres",
    "ratio": "a ratio or per cent",
    "Bd": "baud",
    "Hz": "hertz",
    "W": "watts",
    "Ah": "ampere-hours",
    "K/W": "degrees a watt",
    "F": "farads",
    "C": "degrees Celsius",
}

_PLAIN = re.compile(r"([+-]?)(\d+(?:[.,]\d*)?|[.,]\d+)(?:[eE]([+-]?\d{1,3}))?\s*([^\d\s.,]*)")
# Bounded as the text is, so that looking for it anywhere stays linear.
_INFIX = re.compile(r"([+-]?)(\d{1,60})([A-Za-zµμΩΩ])(\d+)\s*([^\d\s.,]*)")


def parse_quantity(text: str, unit: str) -> float:
    """Read a quantity written by hand.

    Args:
        text: what was typed, at most 60 characters; for ohm also colour bands, or ``smd`` and a chip resistor's mark.
        unit: the unit wanted, a key of ``UNIT_WORDS``; another unit is refused.
    Returns:
        The number in the unprefixed unit (per cent become a ratio).
    Raises:
        ValueError: not a number, another unit, or a comma that could be read two ways.
    """
    given = text.strip()
    wanted = f"{UNIT_NAMES.get(unit, 'a number')}, for example {EXAMPLES.get(unit, '12')}"
    if len(given) > TEXT_MOST:
        raise ValueError(wanted)
    if unit == "ohm" and (marked := _marked_ohm(given)) is not None:
        return marked
    if infix := _INFIX.fullmatch(given):
        sign, whole, letter, part, tail = infix.groups()
        if (letter in PREFIXES or letter in UNIT_WORDS[unit]) and (not tail or tail in UNIT_WORDS[unit]):
            return float(f"{sign}{whole}.{part}") * (
                1.0 if letter in UNIT_WORDS[unit] and unit != "m" else PREFIXES.get(letter, 1.0)
            )
    plain = _PLAIN.fullmatch(given)
    if plain is None:
        raise ValueError(wanted)
    sign, digits, exponent, tail = plain.groups()
    factor = _factor(tail, unit)
    if factor is None:
        raise ValueError(wanted)
    if re.fullmatch(r"[1-9]\d{0,2},\d{3}", digits) and not exponent:
        raise ValueError(
            f"{UNIT_NAMES.get(unit, 'a number')} without doubt: {digits} can be {digits.replace(',', '')} or {digits.replace(',', '.')}"
        )
    return float(f"{sign}{digits.replace(',', '.')}e{exponent or 0}") * factor


def _marked_ohm(text: str) -> float | None:
    """Read a resistance from its colour bands or its chip mark; None where the text is neither.

    Raises:
        ValueError: it begins like one of them and is none.
    """
    words = re.split(r"[\s,/-]+", text.lower().replace("gray", "grey"))
    try:
        if words[0] == "smd" and len(words) == 2:
            return read_smd(words[1])
        if words[0] in COLOURS and len(words) > 1:
            return read_bands(tuple(words))[0]
    except OutOfRange as error:
        raise ValueError(error.allowed) from None
    return None


def _factor(tail: str, unit: str) -> float | None:
    """Return what to multiply by for the letters after the digits, or None where they do not fit the unit."""
    words = UNIT_WORDS[unit]
    if unit == "ratio":
        return {"%": 0.01, "": 1.0}.get(tail)
    if unit == "s" and tail in TIMES_S:
        return TIMES_S[tail]
    if not tail or tail in words:
        return 1.0
    if tail in PREFIXES and unit != "m":
        return PREFIXES[tail]
    if tail[0] in PREFIXES and tail[1:] in words and (tail[0] != "c" or unit == "m"):
        return PREFIXES[tail[0]]
    return None


def _reader(unit: str) -> BeforeValidator:
    def read(given: object) -> object:
        if isinstance(given, bool):
            raise ValueError(f"{UNIT_NAMES.get(unit, 'a number')}, not true or false")
        return parse_quantity(given, unit) if isinstance(given, str) else given

    return BeforeValidator(read)


def _read_tone(given: object) -> object:
    if isinstance(given, str):
        note = note_frequency_hz(given)
        return parse_quantity(given, "Hz") if note is None else note
    return given


Ohm = Annotated[float, _reader("ohm"), Field(gt=0, le=1e8)]
Watt = Annotated[float, _reader("W"), Field(gt=0, le=1000)]
Volt = Annotated[float, _reader("V"), Field(ge=0, le=1000)]
Ampere = Annotated[float, _reader("A"), Field(gt=0, le=100)]
Second = Annotated[float, _reader("s"), Field(ge=0, le=1e6)]
Metre = Annotated[float, _reader("m"), Field(ge=0, le=10_000)]
Farad = Annotated[float, _reader("F"), Field(gt=0, le=10)]
Celsius = Annotated[float, _reader("C"), Field(ge=-60, le=150)]
Ratio = Annotated[float, _reader("ratio"), Field(ge=0, le=1)]
# A tolerance of 100 % would be a resistor of nothing at its corner; no part has more than 50 %.
Tolerance = Annotated[float, _reader("ratio"), Field(ge=0, le=0.5)]
# Typed in hertz or as a note: A4, C#5, Eb4.
Tone = Annotated[float, BeforeValidator(_read_tone), Field(ge=1, le=100_000)]
Baud = Annotated[float, _reader("Bd"), Field(ge=50, le=4_000_000)]
