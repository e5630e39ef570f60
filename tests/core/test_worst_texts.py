"""No text makes reading slow: everything that reads what was typed is given ten thousand characters of its worst."""

import contextlib
import importlib
import pkgutil
import re
import time
from collections.abc import Callable

import pytest

import oddlamp
from oddlamp.core.electrical.tones import note_frequency_hz
from oddlamp.core.errors import DomainError
from oddlamp.core.parts.past import _order
from oddlamp.core.plan.document import load_plan
from oddlamp.core.plan.fields import _read_own
from oddlamp.core.plan.model import _split
from oddlamp.core.plan.quantities import UNIT_WORDS, parse_quantity
from oddlamp.core.plan.text import bytes_of
from tests.builders import CLEAR, lamp

MANY = 10_000
# What makes a backtracking pattern slow: long runs that several of its pieces could take, and an end that fits none.
WORST = {
    name: (head + run * (MANY // len(run)) + tail)
    for name, head, run, tail in (
        ("spaces in a spread", "1 (", " ", "to"),
        ("spaces before to", "1 ", " ", "to!"),
        ("digits", "", "1", "!"),
        ("zeros and commas", "1", ",000", "!"),
        ("points", "1", ".", "!"),
        ("letters", "1", "k", "!"),
        ("to and to", "1", " to ", "("),
        ("brackets", "1", "(", ")"),
        ("backslashes", "", "\\", "x"),
        ("escapes", "", "\\x4", "g"),
        ("slashes", "smd", "/", "!"),
        ("sharps", "A", "#", "4"),
        ("versions", "1", ".1", "!"),
        ("words", "red", " red", "!"),
    )
}
READERS: dict[str, Callable[[str], object]] = {
    **{f"quantity in {unit or 'nothing'}": lambda text, unit=unit: parse_quantity(text, unit) for unit in UNIT_WORDS},  # type: ignore[misc]
    "own figure": lambda text: _read_own(text, "V"),
    "drawer": _split,
    "note": note_frequency_hz,
    "characters sent": bytes_of,
    "version": _order,
    "plan": lambda text: load_plan({**CLEAR, **lamp(resistor_ohm=text), "title": text, "drawer": text, "catalog_version": text}),
}
MOST_S = 2.0  # a cubic pattern needs hours for this


def took_s(read: Callable[[str], object], text: str) -> float:
    begun = time.process_time()
    with contextlib.suppress(ValueError, DomainError):
        read(text)
    return time.process_time() - begun


@pytest.mark.parametrize("reader", READERS)
def test_no_reader_is_slow(reader: str) -> None:
    slow = {name: seconds for name, text in WORST.items() if (seconds := took_s(READERS[reader], text)) > MOST_S}
    assert slow == {}


def patterns() -> dict[str, re.Pattern[str]]:
    """Every compiled pattern of the program, by where it stands."""
    found = {}
    for module in pkgutil.walk_packages(oddlamp.__path__, "oddlamp."):
        if module.name.endswith("__main__") or ".migrations" in module.name:
            continue
        for name, value in vars(importlib.import_module(module.name)).items():
            if isinstance(value, re.Pattern) and isinstance(value.pattern, str):
                found[f"{module.name}.{name}"] = value
    return found


@pytest.mark.parametrize("where", patterns())
def test_no_pattern_is_slow(where: str) -> None:
    pattern = patterns()[where]
    for method in (pattern.fullmatch, pattern.search, lambda text: list(pattern.finditer(text))):
        slow = {name: seconds for name, text in WORST.items() if (seconds := took_s(method, text)) > MOST_S}
        assert slow == {}
