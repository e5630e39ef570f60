"""How bytes become words: a parser for single bytes, for words of fixed length, and for words with a terminator; and what is sent for them."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from types import MappingProxyType
from typing import Final, NamedTuple

from oddlamp.core.design.talks import HandsetDesign, VocabularyDesign, WordDesign
from oddlamp.core.plan.text import ENDINGS
from oddlamp.core.words.frames import FieldValue

BITS_PER_BYTE: Final = 10  # 8N1: start bit, eight data bits, stop bit
BUFFER_MOST: Final = 64
UNKNOWN: Final = b"?"  # what answers bytes that are no word, where they are answered
LINE_ENDS: Final = frozenset(b"\r\n")


class Heard(NamedTuple):
    """What a parser made of the bytes so far: a word with the values it carries, or None where they are none, and why where that is known."""

    word: WordDesign | None
    taken: bytes
    values: Mapping[str, FieldValue] = MappingProxyType({})
    because: str = ""


class Parser:
    """Reads a byte at a time, as the firmware will. One for each talk and listener.

    Args:
        words: word by the exact bytes that stand for it, the first of two alike.
        terminator: what ends a word; empty where nothing does.
        is_whole: whether a word is all that comes at once, as a module takes the commands that come over the air.
        shaped: words that carry values, in their order.
        is_gap: whether a word is all until the line is quiet, which ``end`` tells.
        is_fixed: whether words of several bytes act at their last one, where nothing ends them; else every byte is a word.
    """

    def __init__(
        self,
        words: dict[bytes, WordDesign],
        terminator: bytes,
        *,
        is_whole: bool = False,
        shaped: Sequence[WordDesign] = (),
        is_fixed: bool = False,
        is_gap: bool = False,
    ) -> None:
        self._words, self._shaped = words, [(it, it.shape) for it in shaped if it.shape is not None]
        self._is_whole, self._is_fixed, self.is_gap = is_whole, is_fixed, is_gap
        self._terminator = terminator
        self._ignored = ignored((*words, *(byte for _, shape in self._shaped for byte in shape.always())), terminator)
        self._begun = {content[:at] for content in words for at in range(1, len(content))} if is_fixed else set()
        self.pending = bytearray()

    def feed(self, content: bytes) -> list[tuple[int, Heard]]:
        """Take bytes; return each whole word, or what is none, with the count of bytes taken when it was complete."""
        out: list[tuple[int, Heard]] = []
        if self._is_whole:
            return [(len(content), self._heard(content))] if content else []
        pending, terminator, passed_over = self.pending, self._terminator, self._ignored
        size = len(content) - len(terminator)
        if terminator and not pending and 0 <= content.find(terminator) == size < BUFFER_MOST and passed_over.isdisjoint(content):
            return [(len(content), self._heard(content[:size]))]  # most come whole
        for at, byte in enumerate(content, 1):
            if byte in passed_over:
                continue
            if not terminator and not self._is_fixed and not self.is_gap:
                out.append((at, self._heard(bytes((byte,)))))
                continue
            pending.append(byte)
            if self._is_fixed:
                out += [(at, it) for it in self._settled()]
            elif terminator and byte == terminator[-1] and pending.endswith(terminator):
                out.append((at, self._heard(bytes(pending[: -len(terminator)]))))
                pending.clear()
            elif len(pending) > BUFFER_MOST:
                out.append((at, Heard(None, bytes(pending))))
                pending.clear()
        return out

    def passes_over(self, byte: int) -> bool:
        """Tell whether a byte is passed over in silence, so that nothing is missed without it."""
        return byte in self._ignored

    def ends_with(self, content: bytes) -> bool:
        """Tell whether bytes hold one word at most, which their last byte ends."""
        ending = self._terminator
        return bool(ending) and not self._is_whole and not self.is_gap and content.find(ending) == len(content) - len(ending)

    def end(self) -> Heard | None:
        """Let the line have been quiet: what came before is a word, where a pause ends one."""
        taken = bytes(self.pending)
        if not self.is_gap or not taken:
            return None
        self.pending.clear()
        return self._heard(taken)

    def _heard(self, taken: bytes) -> Heard:
        """Say what a whole message is; a value out of its bounds has it refused whole."""
        word = self._words.get(taken)
        if word is not None:
            return Heard(word, taken)
        because = ""
        for it, shape in self._shaped:
            values = shape.parse(taken)
            if values is not None:
                return Heard(it, taken, values)
            if shape.has_wrong_check(taken):
                because = f"the byte that checks {it.label} is wrong"
            elif not because and shape.cut(taken) is not None:
                because = f"{it.label} takes " + " and ".join(f"{one.label} {one.field.span}" for one in it.parameters)
        return Heard(None, taken, because=because)

    def _settled(self) -> Iterator[Heard]:
        """Take words of fixed length off what waits; what fits none of them is dropped, and its last byte looked at again as a first."""
        pending = self.pending
        while pending:
            taken = bytes(pending)
            if taken in self._words or any(shape.fits(taken) == "whole" for _, shape in self._shaped):
                pending.clear()
                yield self._heard(taken)
            elif taken in self._begun or any(shape.fits(taken) == "part" for _, shape in self._shaped):
                return
            else:
                dropped = taken[:-1] or taken
                del pending[: len(dropped)]
                yield Heard(None, dropped)


def ignored(words: Iterable[bytes], terminator: bytes) -> frozenset[int]:
    """Return which of CR and LF are passed over in silence: those that neither a word nor the ending uses."""
    return LINE_ENDS - set(terminator) - {byte for word in words for byte in word}


def parser_of(vocabulary: VocabularyDesign, direction: str) -> Parser:
    """Make the parser of one direction of a vocabulary."""
    mine = [word for word in vocabulary.words if word.direction == direction]
    words = {word.content: word for word in reversed(mine) if word.shape is None}
    return Parser(
        words,
        vocabulary.terminator,
        is_whole=vocabulary.is_whole,
        shaped=[word for word in mine if word.shape is not None],
        is_fixed=vocabulary.framing.id == "fixed",
        is_gap=vocabulary.gap is not None,
    )


def sent_bytes(word: WordDesign, handset: HandsetDesign, values: Mapping[str, FieldValue] | None = None) -> bytes:
    """Return the bytes a handset sends for a word, without what it adds: a number where it sends numbers."""
    if values is not None and word.shape is not None:
        return word.built(values)
    if handset.sends_as.id == "numbers" and word.text.isdigit() and int(word.text) < 256:
        return bytes((int(word.text),))
    return word.content


def said_by(
    handset: HandsetDesign, vocabulary: VocabularyDesign, word: WordDesign, values: Mapping[str, FieldValue] | None = None
) -> bytes:
    """Return all that leaves a handset for a word: an ending that is no line ending is typed with it, then it adds its own."""
    typed = b"" if vocabulary.terminator in ENDINGS.values() else vocabulary.terminator
    return sent_bytes(word, handset, values) + typed + ENDINGS[handset.appends.id]


def filled(fill: Mapping[str, float | str]) -> dict[str, FieldValue]:
    """Return the settled values for a word that a phone says."""
    return {name: it if isinstance(it, str) else round(it) for name, it in fill.items()}


def byte_time_s(baud_rate_bd: float) -> float:
    """Return the time one byte takes on the wire at 8N1, s: 9600 Bd gives 1.042 ms. Source: serial frame of ten bits."""
    return BITS_PER_BYTE / baud_rate_bd
