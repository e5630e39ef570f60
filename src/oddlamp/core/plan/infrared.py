"""Codes of remotes from what a receiver saw: how long its output was low and high, in turn."""

import re
from collections.abc import Sequence
from typing import Final

BITS: Final = 32
HEADER_US: Final = (9000, 4500)
BIT_US: Final = 560  # a mark; a space as long is 0, one of three of them is 1; from memory
ONE_US: Final = 1690
WITHIN: Final = 0.3  # receivers stretch marks and shorten spaces; from memory
NUMBER: Final = re.compile(r"[+-]?\d{2,6}")


def code_of_timings(times_us: Sequence[int]) -> int:
    """Return the 32 bits that a remote sent, the first as the highest.

    Args:
        times_us: marks and spaces in turn, us, from the first mark of the header on; their signs are not looked at.

    Raises:
        ValueError: says where it is no such code.
    """
    times = [abs(it) for it in times_us]
    start = next((at for at in range(len(times) - 1) if _is(times[at], HEADER_US[0]) and _is(times[at + 1], HEADER_US[1])), None)
    if start is None:
        raise ValueError("no header of 9 ms and 4.5 ms in it")
    code = 0
    for at in range(BITS):
        mark, space = start + 2 + 2 * at, start + 3 + 2 * at
        if space >= len(times):
            raise ValueError(f"ends after {at} of {BITS} bits")
        if not _is(times[mark], BIT_US) or not (_is(times[space], BIT_US) or _is(times[space], ONE_US)):
            raise ValueError(f"bit {at + 1} is {times[mark]} and {times[space]} us, neither 0 nor 1")
        code = 2 * code + _is(times[space], ONE_US)
    return code


def timings_of_code(code: int) -> tuple[int, ...]:
    """Return the marks and spaces of a code, us, with the mark that ends it."""
    bits = (code >> (BITS - 1 - at) & 1 for at in range(BITS))
    return (*HEADER_US, *(it for bit in bits for it in (BIT_US, ONE_US if bit else BIT_US)), BIT_US)


def read_timings(text: str) -> int | None:
    """Read a code from a line of timings; None where it is no list of numbers."""
    numbers = NUMBER.findall(text)
    return code_of_timings([int(it) for it in numbers]) if len(numbers) > BITS else None


def _is(time_us: int, wanted_us: int) -> bool:
    return abs(time_us - wanted_us) <= WITHIN * wanted_us
