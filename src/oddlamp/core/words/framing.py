"""How bytes become words: a parser for single bytes and for words with a terminator."""

from typing import Final, NamedTuple

from oddlamp.core.design import WordDesign

BITS_PER_BYTE: Final = 10  # 8N1: start bit, eight data bits, stop bit
BUFFER_MOST: Final = 64


class Heard(NamedTuple):
    """What a parser made of the bytes so far: a word, or None where they are none."""

    word: WordDesign | None
    taken: bytes


class Parser:
    """Reads a byte at a time, as the firmware will. One for each talk and listener.

    Args:
        words: word by the exact bytes that stand for it, the first of two alike.
        terminator: what ends a word; empty where every byte is a word.
    """

    def __init__(self, words: dict[bytes, WordDesign], terminator: bytes) -> None:
        self._words = words
        self._terminator = terminator
        self._pending = bytearray()

    def feed(self, content: bytes) -> list[tuple[int, Heard]]:
        """Take bytes; return each whole word, or what is none, with the count of bytes taken when it was complete."""
        if not self._terminator:
            return [(at, Heard(self._words.get(taken), taken)) for at, taken in enumerate(_one_by_one(content), 1)]
        out: list[tuple[int, Heard]] = []
        pending, terminator = self._pending, self._terminator
        for at, byte in enumerate(content, 1):
            pending.append(byte)
            if byte == terminator[-1] and pending.endswith(terminator):
                taken = bytes(pending[: -len(terminator)])
                out.append((at, Heard(self._words.get(taken), taken)))
                pending.clear()
            elif len(pending) > BUFFER_MOST:
                out.append((at, Heard(None, bytes(pending))))
                pending.clear()
        return out


def _one_by_one(content: bytes) -> list[bytes]:
    return [content[at : at + 1] for at in range(len(content))]


def byte_time_s(baud_rate_bd: float) -> float:
    """Return the time one byte takes on the wire at 8N1, s: 9600 Bd gives 1.042 ms. Source: serial frame of ten bits."""
    return BITS_PER_BYTE / baud_rate_bd
