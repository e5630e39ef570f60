"""Regions of the maker's own in a program that was changed by hand: read back, and what else was changed."""

from collections.abc import Iterator, Mapping
from difflib import unified_diff
from typing import Final

from oddlamp.core.plan.programs import BEGINS, ENDS, Region

PLACES: Final = {
    "top": "Beside the tables: values and functions of your own",
    "start": "At the start, after the rules at power-on",
    "pass": "At every pass, once a millisecond",
}
LINES_MOST: Final = 20_000
DIFFERENCES_MOST: Final = 200


def regions_in(text: str) -> Iterator[tuple[str, str]]:
    """Yield the place and the code of each region of a program, as it stands in a file."""
    place, code = "", list[str]()
    for line in text.splitlines()[:LINES_MOST]:
        if line.startswith(BEGINS):
            place, code = line.removeprefix(BEGINS).partition(",")[0].strip(), []
        elif line.strip() == ENDS and place:
            yield place, "\n".join(code)
            place = ""
        elif place:
            code.append(line.rstrip())


def without_regions(text: str) -> list[str]:
    """Return a program line by line with nothing between the lines that begin and end a region."""
    found, is_own = list[str](), False
    for line in text.splitlines()[:LINES_MOST]:
        is_own = is_own and line.strip() != ENDS
        if not is_own:
            found.append(line.rstrip())
        is_own = is_own or line.startswith(BEGINS)
    return found


def changed_lines(before: str, after: str) -> tuple[str, ...]:
    """Return the lines that one program has and another has not, with what each part of them comes after; the regions aside."""
    lines = unified_diff(without_regions(before), without_regions(after), n=1, lineterm="")
    return tuple(it for at, it in enumerate(lines) if at > 1)[:DIFFERENCES_MOST]


def changed_regions(before: Mapping[str, Region], after: Mapping[str, str]) -> dict[str, str]:
    """Return the code of each place where a file has another than the plan."""
    return {
        place: code for place, code in after.items() if place not in before or before[place].code.strip("\n") != code.strip("\n")
    }
