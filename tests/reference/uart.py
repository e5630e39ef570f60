"""A serial receiver by another road: the line as one long string of ticks, walked one tick at a time. Imports nothing of the program."""

from fractions import Fraction
from math import gcd, lcm


def ticks_of(data: bytes, bit: int, parity: str = "none") -> list[int]:
    """The line as levels, one a tick, from the first start bit on; a bit lasts ``bit`` ticks."""
    line: list[int] = []
    for byte in data:
        ones = f"{byte:08b}".count("1")
        frame = "0" + f"{byte:08b}"[::-1]
        if parity == "even":
            frame += str(ones % 2)
        if parity == "odd":
            frame += str((ones + 1) % 2)
        frame += "1"
        for level in frame:
            line += [int(level)] * bit
    return line


def common_ticks(sent_bit_s: Fraction, heard_bit_s: Fraction) -> tuple[int, int]:
    """How many ticks a bit of each end lasts: the shortest tick in which both bits, and half of the second, are whole."""
    half = heard_bit_s / 2
    scale = lcm(sent_bit_s.denominator, half.denominator)
    sent, heard = int(sent_bit_s * scale), int(half * scale)
    shared = gcd(sent, heard)
    return sent // shared, 2 * heard // shared


def listen(line: list[int], bit: int, parity: str = "none") -> list[tuple[int, bool, bool]]:
    """Walk the line: (byte, stop bit was there, parity was right) for each frame."""
    line = [*line, *[1] * (bit * 14)]
    found: list[tuple[int, bool, bool]] = []
    checks, at = int(parity != "none"), 0
    while True:
        try:
            at = line.index(0, at)
        except ValueError:
            return found
        if line[at + bit // 2]:
            at += bit // 2
            continue
        got = [line[at + bit // 2 + bit * place] for place in range(1, 10 + checks)]
        byte = sum(level * 2**place for place, level in enumerate(got[:8]))
        even = not checks or sum(got[:9]) % 2 == int(parity == "odd")
        found.append((byte, got[-1] == 1, even))
        at += bit // 2 + bit * (9 + checks)
        if not got[-1]:
            at = line.index(1, at)
