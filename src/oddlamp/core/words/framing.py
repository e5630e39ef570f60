"""How bytes become words: a parser for single bytes and for words with a terminator."""

from typing import Final, NamedTuple

BITS_PER_BYTE: Final = 10  # 8N1: start bit, eight data bits, stop bit
BUFFER_MOST: Final = 64


class Heard(NamedTuple):
    """What a parser made of the bytes so far: a word's id, or None where they are no word."""

    word: str | None
    taken: bytes


class Parser:
    """Reads a byte at a time, as the firmware will. One for each talk and listener.

    Args:
        words: word id by the exact bytes that stand for it, the first of two alike.
        terminator: what ends a word; empty where every byte is a word.
    """

    def __init__(self, words: dict[bytes, str], terminator: bytes) -> None:
        self._words = words
        self._terminator = terminator
        self._pending = bytearray()

    def feed(self, byte: int) -> Heard | None:
        """Take one byte; return what was heard once a word is complete, else None."""
        if not self._terminator:
            taken = bytes((byte,))
            return Heard(self._words.get(taken), taken)
        self._pending.append(byte)
        if self._pending.endswith(self._terminator):
            taken = bytes(self._pending[: -len(self._terminator)])
            self._pending.clear()
            return Heard(self._words.get(taken), taken)
        if len(self._pending) > BUFFER_MOST:
            taken = bytes(self._pending)
            self._pending.clear()
            return Heard(None, taken)
        return None


def byte_time_s(baud_rate_bd: float) -> float:
    """Return the time one byte takes on the wire at 8N1, s: 9600 Bd gives 1.042 ms. Source: serial frame of ten bits."""
    return BITS_PER_BYTE / baud_rate_bd
