"""The lists of the bench as tables to take along: comma-separated, or as Markdown."""

import csv
import io
from collections.abc import Iterable, Sequence
from typing import Final

from oddlamp.core.bench.lists import Bought, Cut
from oddlamp.core.bench.wiring import Group, Wiring, length_told

Rows = list[list[str]]
WIRES_HEAD: Final = ["No.", "Order", "From", "Through", "To", "Colour", "AWG", "Length", "In", "What for"]
CUTS_HEAD: Final = ["Pieces", "AWG", "Colour", "Length", "Bare at each end"]
PARTS_HEAD: Final = ["Pieces", "Part", "In the drawer", "How to fix it"]
GROUPS: Final[dict[Group, str]] = {"ground": "1 ground", "supply": "2 supply", "signal": "3 signals", "last": "4 last, after the program is on the board"}  # fmt: skip
HAS: Final = {True: "yes", False: "no", None: "not told"}
# A table program takes a cell that begins so for a formula: what people type is kept from being one.
FORMULA: Final = ("=", "+", "@", "\t", "\r")


def wire_rows(of: Wiring) -> Rows:
    """Write the wiring list, a row a wire."""
    return [
        [
            str(number), GROUPS[it.group], of.name(it.start), of.part(it.through) if it.through is not None else "",
            of.name(it.end), it.runs.colour, "" if it.is_bare else str(it.runs.gauge_awg),
            "" if it.is_bare else length_told(it.runs.length_m), "yes" if it.is_made else "moved" if it.was else "", it.why,
        ]
        for number, it in enumerate(of.wires, 1)
    ]  # fmt: skip


def cut_rows(cuts: Iterable[Cut]) -> Rows:
    """Write the cut list."""
    return [[str(it.count), str(it.gauge_awg), it.colour, length_told(it.length_m), f"{it.strip_m * 1000:g} mm"] for it in cuts]


def part_rows(parts: Iterable[Bought]) -> Rows:
    """Write the parts list."""
    return [[str(it.count), it.what, HAS[it.has], it.advice] for it in parts]


def as_csv(head: Sequence[str], rows: Rows) -> str:
    """Write a table as RFC 4180 has it; a cell that a table program would work out is kept as text by a quote before it."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(head)
    writer.writerows([f"'{it}" if it.startswith(FORMULA) else it for it in map(_line, row)] for row in rows)
    return out.getvalue()


def as_markdown(title: str, head: Sequence[str], rows: Rows) -> str:
    """Write a table as Markdown; what people type cannot end a cell or become markup."""
    lines = [f"# {_cell(title)}", "", f"| {' | '.join(head)} |", f"|{'---|' * len(head)}"]
    return "\n".join([*lines, *(f"| {' | '.join(map(_cell, row))} |" for row in rows)]) + "\n"


def _cell(text: str) -> str:
    told = _line(text)
    return "".join(f"\\{it}" if it in "\\`*_{}[]<>()#|!" else it for it in told)


def _line(text: str) -> str:
    """Write a text on one line, without what no reader sees."""
    return "".join(it for it in " ".join(text.split()) if it.isprintable())
