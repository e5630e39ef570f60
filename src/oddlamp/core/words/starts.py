"""Which words could meet at all: those whose fixed beginnings agree as far as both go. It keeps thousands of words from being tried in pairs."""

from collections.abc import Sequence


def could_meet(starts: Sequence[bytes]) -> list[list[int]]:
    """Return for each word, told by its fixed beginning, the places of those before it of which one begins the other; in order.

    No message of two words that are not named begins with one of the other: they differ in a byte that is always there.
    """
    whole: dict[bytes, list[int]] = {}  # by a beginning: the words that have just that
    within: dict[bytes, list[int]] = {}  # by a beginning: the words whose own goes on from there, or is that
    found = list[list[int]]()
    for at, start in enumerate(starts):
        shorter = [it for size in range(len(start)) for it in whole.get(start[:size], ())]
        found.append(sorted([*shorter, *within.get(start, ())]))
        whole.setdefault(start, []).append(at)
        for size in range(len(start) + 1):
            within.setdefault(start[:size], []).append(at)
    return found
