"""Values below nothing in codes that know none: two's complement in 4, 8 or 16 bits, or counted up from the least."""

from typing import Literal

Signed = Literal["minus", "twos-complement", "offset"]
Span = tuple[str, int, int]


def code_of(value: int, signed: Signed | None, least: int, bits: int) -> int:
    """Return the code that is sent for a value: -5 in 4 bits of two's complement is 11, and counted from -7 it is 2."""
    if signed == "twos-complement":
        return value % (1 << bits)
    return value - least if signed == "offset" else value


def value_of(code: int, signed: Signed | None, least: int, bits: int) -> int:
    """Return the value of a code."""
    if signed == "twos-complement":
        return code - (1 << bits) if code >= 1 << (bits - 1) else code
    return code + least if signed == "offset" else code


def opposite(code: int, bits: int) -> int | None:
    """Return the code of the opposite value, (2^n - v) mod 2^n; None for the one that has none: in 4 bits the opposite of 5 is 11, and 8 has none."""
    return None if code == 1 << (bits - 1) else -code % (1 << bits)


def spans(signed: Signed | None, least: int, most: int, bits: int) -> tuple[Span, ...]:
    """List the runs of codes that values between two come to, each with the sign that stands before it."""
    if signed == "offset":
        return (("", 0, most - least),)
    if least >= 0:
        return (("", least, most),)
    if signed == "twos-complement":
        above = (("", 0, most),) if most >= 0 else ()
        return (*above, ("", least + (1 << bits), min(most, -1) + (1 << bits)))
    above = (("", 0, most),) if most >= 0 else ()
    return (*above, ("-", max(1, -most), -least))
