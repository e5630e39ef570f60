"""Which words could meet at all: those whose fixed beginnings agree as far as both go. It keeps thousands of words from being tried in pairs."""

from collections.abc import Sequence

from oddlamp.core.design.talks import WordDesign


def fixed_start(word: WordDesign) -> bytes:
    """Return the bytes that every message of a word begins with: all of it, where it carries nothing."""
    if word.shape is None:
        return word.content
    first = word.shape.pieces[0] if word.shape.pieces else b""
    return first if isinstance(first, bytes) else b""


def could_meet(words: Sequence[WordDesign]) -> list[list[int]]:
    """Return for each word the places of those before it of which one's fixed beginning begins the other's; in order.

    No message of two words that are not named begins with one of the other: they differ in a byte that is always there.
    """
    whole: dict[bytes, list[int]] = {}  # by a beginning: the words that have just that
    within: dict[bytes, list[int]] = {}  # by a beginning: the words whose own goes on from there, or is that
    found = list[list[int]]()
    for at, word in enumerate(words):
        start = fixed_start(word)
        shorter = [it for size in range(len(start)) for it in whole.get(start[:size], ())]
        found.append(sorted([*shorter, *within.get(start, ())]))
        whole.setdefault(start, []).append(at)
        for size in range(len(start) + 1):
            within.setdefault(start[:size], []).append(at)
    return found
