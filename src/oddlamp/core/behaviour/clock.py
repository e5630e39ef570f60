"""Whole milliseconds in 32 bits without a sign, as chips count them, and numbers by chance."""

from typing import Final

WORD: Final = 0xFFFF_FFFF
HALF: Final = 0x8000_0000
DAY_MS: Final = 86_400_000


def since(then_ms: int, now_ms: int) -> int:
    """Return how long something is ago; only for what is known to have been within 2^32 ms."""
    assert 0 <= then_ms <= WORD, then_ms
    assert 0 <= now_ms <= WORD, now_ms
    return (now_ms - then_ms) & WORD


def later(now_ms: int, delay_ms: int) -> int:
    """Return the time after a delay of less than 2^31 ms."""
    assert 0 <= delay_ms < HALF, delay_ms
    return (now_ms + delay_ms) & WORD


def is_due(due_ms: int, now_ms: int) -> bool:
    """Tell whether a time has come, for what is due less than 2^31 ms from now."""
    return since(due_ms, now_ms) < HALF


def until(due_ms: int, now_ms: int) -> int:
    """Return how long it is until a time; 0 where it has come."""
    return 0 if is_due(due_ms, now_ms) else since(now_ms, due_ms)


def xorshift(seed: int) -> int:
    """Return the next number of a row by chance, 1 to 2^32 - 1. Source: Marsaglia, Xorshift RNGs, 2003: shifts 13, 17, 5."""
    seed ^= (seed << 13) & WORD
    seed ^= seed >> 17
    return seed ^ ((seed << 5) & WORD)


def scattered(number: int) -> int:
    """Return a number of 24 bits that looks drawn by chance and is always the same for the same one: neighbours lie far apart.

    Source: Knuth, The Art of Computer Programming 3, 6.4: multiplied by the golden ratio's share of 2^32.
    """
    return xorshift((number * 2654435761) & WORD) >> 8
