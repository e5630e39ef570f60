"""How bytes become words: a parser for single bytes and for words with a terminator."""

from collections.abc import Iterable
from typing import Final, NamedTuple

from oddlamp.core.design.talks import HandsetDesign, VocabularyDesign, WordDesign
from oddlamp.core.plan.text import ENDINGS

BITS_PER_BYTE: Final = 10  # 8N1: start bit, eight data bits, stop bit
BUFFER_MOST: Final = 64
LINE_ENDS: Final = frozenset(b"\r\n")


class Heard(NamedTuple):
    """What a parser made of the bytes so far: a word, or None where they are none."""

    word: WordDesign | None
    taken: bytes


class Parser:
    """Reads a byte at a time, as the firmware will. One for each talk and listener.

    Args:
        words: word by the exact bytes that stand for it, the first of two alike.
        terminator: what ends a word; empty where every byte is a word.
        is_whole: whether a word is all that comes at once, as a module takes the commands that come over the air.
    """

    def __init__(self, words: dict[bytes, WordDesign], terminator: bytes, *, is_whole: bool = False) -> None:
        self._words = words
        self._is_whole = is_whole
        self._terminator = terminator
        self._ignored = ignored(words, terminator)
        self.pending = bytearray()

    def feed(self, content: bytes) -> list[tuple[int, Heard]]:
        """Take bytes; return each whole word, or what is none, with the count of bytes taken when it was complete."""
        out: list[tuple[int, Heard]] = []
        if self._is_whole:
            return [(len(content), Heard(self._words.get(content), content))] if content else []
        pending, terminator, passed_over = self.pending, self._terminator, self._ignored
        size = len(content) - len(terminator)
        if terminator and not pending and 0 <= content.find(terminator) == size < BUFFER_MOST and passed_over.isdisjoint(content):
            return [(len(content), Heard(self._words.get(content[:size]), content[:size]))]  # most come whole
        for at, byte in enumerate(content, 1):
            if byte in passed_over:
                continue
            if not terminator:
                taken = bytes((byte,))
                out.append((at, Heard(self._words.get(taken), taken)))
                continue
            pending.append(byte)
            if byte == terminator[-1] and pending.endswith(terminator):
                taken = bytes(pending[: -len(terminator)])
                out.append((at, Heard(self._words.get(taken), taken)))
                pending.clear()
            elif len(pending) > BUFFER_MOST:
                out.append((at, Heard(None, bytes(pending))))
                pending.clear()
        return out


def ignored(words: Iterable[bytes], terminator: bytes) -> frozenset[int]:
    """Return which of CR and LF are passed over in silence: those that neither a word nor the ending uses."""
    return LINE_ENDS - set(terminator) - {byte for word in words for byte in word}


def parser_of(vocabulary: VocabularyDesign, direction: str) -> Parser:
    """Make the parser of one direction of a vocabulary."""
    words = {word.content: word for word in reversed(vocabulary.words) if word.direction == direction}
    return Parser(words, vocabulary.terminator, is_whole=vocabulary.is_whole)


def sent_bytes(word: WordDesign, handset: HandsetDesign) -> bytes:
    """Return the bytes a handset sends for a word, without what it adds: a number where it sends numbers."""
    if handset.sends_as.id == "numbers" and word.text.isdigit() and int(word.text) < 256:
        return bytes((int(word.text),))
    return word.content


def said_by(handset: HandsetDesign, vocabulary: VocabularyDesign, word: WordDesign) -> bytes:
    """Return all that leaves a handset for a word: an ending that is no line ending is typed with it, then it adds its own."""
    typed = b"" if vocabulary.terminator in ENDINGS.values() else vocabulary.terminator
    return sent_bytes(word, handset) + typed + ENDINGS[handset.appends.id]


def byte_time_s(baud_rate_bd: float) -> float:
    """Return the time one byte takes on the wire at 8N1, s: 9600 Bd gives 1.042 ms. Source: serial frame of ten bits."""
    return BITS_PER_BYTE / baud_rate_bd
