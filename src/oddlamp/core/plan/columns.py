"""A board's pin table typed a whole column at once: which pins stand along an edge, which can dim, which have a timer.

One column is a run of labels (``0-13 A0-A5``), or runs under names (``high: 0 2; low: 12 15``). Where a name has parts
that are always told together, a slash stands between them (``0: 0/1`` is port 0, hears on 0, speaks on 1).
"""

import re
from collections.abc import Iterator, Mapping, Sequence
from typing import Final, NamedTuple

from oddlamp.core.base import si
from oddlamp.core.english import and_list
from oddlamp.core.plan.quantities import parse_quantity

Run = tuple[str, ...]
TEXT_MOST: Final = 2000
PINS_MOST: Final = 200
LABEL: Final = re.compile(r"[A-Za-z0-9][A-Za-z0-9_+.-]{0,11}")
# The longest label has twelve signs, so neither part can be longer, and looking stays linear.
_SPAN: Final = re.compile(r"([A-Za-z_+.]{0,12})(\d{1,4})-([A-Za-z_+.]{0,12})(\d{1,4})")
_NUMBERED: Final = re.compile(r"([A-Za-z0-9_+.-]{0,11}?)(0|[1-9]\d{0,3})")
SHORTEST_SPAN: Final = 3
AS_PRINTED: Final = "as printed"


class Names(NamedTuple):
    """What stands before the colons of a column.

    ``told`` is an example, ``pattern`` what a name is as it is kept, ``words`` those typed otherwise than they are kept;
    ``parts`` are roles of one name, told in one go with slashes between; ``is_counted`` where names left out are 0, 1, 2.
    """

    told: str
    pattern: str
    words: Mapping[str, str] = {}
    parts: tuple[str, ...] = ()
    is_counted: bool = False


def is_span(label: str) -> bool:
    """Tell whether a label would read as a run of pins, such as ``D0-D3``."""
    return _span(label) is not None


def read_run(text: str, everything: Sequence[str] = ()) -> Run:
    """Read labels with blanks or commas between; ``0-13`` is a run, ``all`` is everything, ``all but 4 5`` the rest.

    Raises:
        ValueError: what cannot be a label, a run that counts too far, too many.
    """
    if len(text) > TEXT_MOST:
        raise ValueError(f"at most {TEXT_MOST} characters")
    tokens = re.split(r"[\s,]+", text.strip(" \t\r\n,"))
    if tokens == [""]:
        return ()
    if tokens[0].lower() == "all":
        if len(tokens) > 1 and tokens[1].lower() != "but":
            raise ValueError("all, or all but 4 5")
        but = {label for token in tokens[2:] for label in _expanded(token)}
        return tuple(label for label in everything if label not in but)
    labels = [label for token in tokens for label in _expanded(token)]
    if len(labels) > PINS_MOST:
        raise ValueError(f"at most {PINS_MOST} pins; these are {len(labels)}")
    return tuple(labels)


def _span(token: str) -> tuple[str, int, int] | None:
    found = _SPAN.fullmatch(token)
    if found is None or found[3] not in ("", found[1]):
        return None
    return found[1], int(found[2]), int(found[4])


def _expanded(token: str) -> Iterator[str]:
    span = _span(token)
    if span is not None:
        stem, first, last = span
        if abs(last - first) >= PINS_MOST:
            raise ValueError(f"at most {PINS_MOST} pins; {token} would be {abs(last - first) + 1}")
        yield from (f"{stem}{number}" for number in range(first, last + 1) or range(first, last - 1, -1))
        return
    if not LABEL.fullmatch(token):
        raise ValueError(
            f"pins as they are printed, such as 0-13 A0-A5: at most 12 letters, digits and _ + . -; not {token[:20]!r}"
        )
    yield token


def write_run(labels: Sequence[str], everything: Sequence[str] = ()) -> str:
    """Write labels as they are typed: three or more that count up or down by one become a run, everything ``all``."""
    if len(labels) >= SHORTEST_SPAN and set(labels) == set(everything):
        return "all"
    out: list[str] = []
    at = 0
    while at < len(labels):
        end = _run_end(labels, at)
        out += [f"{labels[at]}-{labels[end]}"] if end - at + 1 >= SHORTEST_SPAN else labels[at : end + 1]
        at = end + 1
    return " ".join(out)


def _run_end(labels: Sequence[str], at: int) -> int:
    """Return where a run that counts by one ends, ``at`` itself where there is none."""
    steps = [_numbered(label) for label in labels[at:]]
    first = steps[0]
    if first is None or len(steps) < 2 or steps[1] is None or steps[1][0] != first[0] or abs(steps[1][1] - first[1]) != 1:
        return at
    by = steps[1][1] - first[1]
    end = at
    while end + 1 < len(labels) and steps[end + 1 - at] == (first[0], first[1] + by * (end + 1 - at)):
        end += 1
    return end


def _numbered(label: str) -> tuple[str, int] | None:
    found = _NUMBERED.fullmatch(label)
    return (found[1], int(found[2])) if found and not re.search(r"[0-9-]", found[1]) else None


def read_grouped(text: str, names: Names, everything: Sequence[str]) -> dict[str, Run]:
    """Read runs under names: ``high: 0 2; low: 12``, with slashes between the parts of one name.

    Returns:
        The name as it is kept, with ``.part`` where names have parts, to its run.
    Raises:
        ValueError: a name that is none, no name where one is wanted, too many slashes, what is no label.
    """
    if len(text) > TEXT_MOST:
        raise ValueError(f"at most {TEXT_MOST} characters")
    found: dict[str, Run] = {}
    pieces = re.split(r"[;\n]" if ":" in text or not names.is_counted else r"[;,\n]", text)
    for count, piece in enumerate(it.strip() for it in pieces if it.strip()):
        name, colon, rest = piece.rpartition(":")
        stem, part = _kept_name(name.strip() if colon or not names.is_counted else str(count), names)
        runs = rest.split("/")
        if len(runs) > max(1, len(names.parts)) or (part and len(runs) > 1):
            raise ValueError(f"pins with a slash between, such as {names.told}")
        for role, run in zip([part] if part or not names.parts else names.parts, runs, strict=False):
            key = ".".join(filter(None, (stem, role)))
            if not re.fullmatch(names.pattern, key):
                raise ValueError(f"pins under a name, such as {names.told}" + (f"; not {name[:20]!r}" if name else ""))
            if labels := read_run(run, everything):
                found[key] = (*found.get(key, ()), *labels)
    return found


def _kept_name(name: str, names: Names) -> tuple[str, str]:
    """Return a name as it is kept, and the part it names by itself: ``2.A`` is timer 2, output A."""
    stem, _, part = ("", "", name) if name in names.parts else name.partition(".") if names.parts else (name, "", "")
    word, _, amount = stem.partition(" ")
    kept = next((it for said, it in names.words.items() if said.lower() == word.lower()), word)
    return (f"{kept} {parse_quantity(amount, 'ohm'):.12g}" if amount else kept), part


def write_grouped(groups: Mapping[str, Sequence[str]], names: Names, everything: Sequence[str] = ()) -> str:
    """Write runs under names, as they are typed."""
    said = {kept: word for word, kept in names.words.items()}
    rows: dict[str, dict[str, Sequence[str]]] = {}
    for key, labels in groups.items():
        stem, _, part = ("", "", key) if key in names.parts else key.partition(".") if names.parts else (key, "", "")
        rows.setdefault(stem, {})[part] = labels
    out = []
    for stem, parts in rows.items():
        word, blank, amount = stem.partition(" ")
        name = said.get(word, word) + (f" {si(float(amount), 'ohm')}" if blank else "")
        told = [parts.get(part, ()) for part in names.parts[: len(parts)]]
        if all(told) and told:
            out.append(": ".join(filter(None, (name, "/".join(write_run(run, everything) for run in told)))))
        else:
            out += [f"{'.'.join(filter(None, (name, part)))}: {write_run(run, everything)}" for part, run in parts.items()]
    return "; ".join(out)


def read_numbers(text: str, everything: Sequence[str]) -> dict[str, int]:
    """Read the chip's own numbers: ``D0=16 D1=5``, ``GP0-GP22=0-22``, only numbers in the order of the pins, or ``as printed``.

    Raises:
        ValueError: what is no number, more numbers than pins, runs of unlike length.
    """
    if text.strip().lower() == AS_PRINTED:
        read = {label: _numbered(label) for label in everything}
        return {label: it[1] for label, it in read.items() if it is not None and it[1] <= 999}
    if "=" not in text:
        numbers = _whole(read_run(text, everything))
        if len(numbers) > len(everything):
            raise ValueError(f"at most {len(everything)} numbers, one a pin in their order")
        return dict(zip(everything, numbers, strict=False))
    found: dict[str, int] = {}
    for piece in re.split(r"[\s,;]+", re.sub(r"\s*=\s*", "=", text.strip())):
        pins, _, given = piece.partition("=")
        labels, numbers = read_run(pins, everything), _whole(read_run(given))
        if len(labels) != len(numbers):
            raise ValueError(f"as many numbers as pins, such as D0=16 or GP0-GP3=0-3; not {piece[:30]!r}")
        found |= dict(zip(labels, numbers, strict=True))
    return found


def _whole(run: Run) -> list[int]:
    if not all(it.isdigit() and len(it) <= 3 for it in run):
        raise ValueError("numbers of at most three digits, such as D0=16 D1=5, or only 16 5 4 in the order of the pins")
    return [int(it) for it in run]


def write_numbers(numbers: Mapping[str, int], everything: Sequence[str]) -> str:
    """Write the chip's own numbers, with runs where labels and numbers count together."""
    if numbers and numbers == read_numbers(AS_PRINTED, everything):
        return AS_PRINTED
    labels = list(numbers)
    out: list[str] = []
    at = 0
    while at < len(labels):
        end = min(_run_end(labels, at), at + _run_end([str(numbers[it]) for it in labels[at:]], 0))
        is_run = end - at + 1 >= SHORTEST_SPAN and (numbers[labels[end]] > numbers[labels[at]]) == _counts_up(
            labels[at : end + 1]
        )
        if is_run:
            out.append(f"{labels[at]}-{labels[end]}={numbers[labels[at]]}-{numbers[labels[end]]}")
        else:
            end = at
            out.append(f"{labels[at]}={numbers[labels[at]]}")
        at = end + 1
    return " ".join(out)


def _counts_up(labels: Sequence[str]) -> bool:
    first, last = _numbered(labels[0]), _numbered(labels[-1])
    return first is not None and last is not None and last[1] > first[1]


def read_rates(given: object) -> object:
    """Read frequencies by timer, ``0: 977 Hz; 3: 2k``; what is no text is left as it is.

    Raises:
        ValueError: no name, or what is no frequency.
    """
    if not isinstance(given, str):
        return given
    rates: dict[str, float] = {}
    for piece in re.split(r"[;,\n]", given[:TEXT_MOST]):
        name, colon, rate = piece.partition(":")
        if not colon and piece.strip():
            raise ValueError("a frequency after each timer, such as 0: 977 Hz; 3: 2 kHz")
        if colon:
            rates[name.strip()] = parse_quantity(rate, "Hz")
    return rates


def write_rates(rates: Mapping[str, float]) -> str:
    """Write frequencies by timer, as they are typed."""
    return "; ".join(f"{name}: {si(rate, 'Hz', digits=6)}" for name, rate in rates.items())


def read_words(given: object) -> object:
    """Read words with blanks or commas between; what is no text is left as it is."""
    return [it for it in re.split(r"[\s,;]+", given[:TEXT_MOST].lower()) if it] if isinstance(given, str) else given


def strangers(labels: Sequence[str], everything: Sequence[str]) -> str:
    """Name the labels of a column that no edge of the board has, in words; empty where there is none."""
    there = set(everything)
    return and_list([it for it in dict.fromkeys(labels) if it not in there])
