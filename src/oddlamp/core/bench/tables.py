"""The lists of the bench as tables to take along: comma-separated, or as Markdown."""

import csv
import io
from collections.abc import Iterable, Sequence
from typing import Final

from oddlamp.core.bench.lists import Bought, Cut
from oddlamp.core.bench.wiring import Group, Wiring, length_told
from oddlamp.core.english import plural

Rows = list[list[str]]
WIRES_HEAD: Final = ["No.", "Order", "From", "Through", "To", "Colour", "AWG", "Length", "In", "What for"]
CUTS_HEAD: Final = ["Pieces", "AWG", "What", "Length", "Bare at each end"]
PARTS_HEAD: Final = ["Pieces", "Part", "There are", "To buy", "One costs", "Together", "On the mock-up", "For good"]
GROUPS: Final[dict[Group, str]] = {"ground": "1 ground", "supply": "2 supply", "signal": "3 signals", "last": "4 last, after the program is on the board"}  # fmt: skip
NOT_TOLD: Final = "not told"
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
    return [
        [
            str(it.count), "" if it.gauge_awg is None else str(it.gauge_awg), it.colour, length_told(it.length_m),
            f"{it.strip_m * 1000:g} mm" if it.strip_m else "at its marks",
        ]
        for it in cuts
    ]  # fmt: skip


def part_rows(parts: Iterable[Bought]) -> Rows:
    """Write the parts list; what the final build takes besides stands at its end."""
    return [
        [
            str(it.count), it.what, NOT_TOLD if it.has is None else str(it.has), str(it.missing), _money(it.price),
            _money(None if it.price is None else it.price * it.missing), it.mock_up, it.final,
        ]
        for it in parts
    ]  # fmt: skip


def cost_told(parts: Iterable[Bought]) -> str:
    """Say what is to be bought and what that costs; how much of it has no price is told."""
    missing = [it for it in parts if it.missing]
    priced = [it for it in missing if it.price is not None]
    if not missing:
        return "All of it is there."
    said = f"{plural(sum(it.missing for it in missing), 'piece')} to buy"
    if not priced:
        return f"{said}; no price is kept."
    total = _money(sum((it.price or 0.0) * it.missing for it in priced))
    open_ = len(missing) - len(priced)
    return f"{said}, {total} together" + (f" and {plural(open_, 'kind')} without a price." if open_ else ".")


def _money(amount: float | None) -> str:
    return "" if amount is None else f"{amount:.2f}"


def as_csv(head: Sequence[str], rows: Rows) -> str:
    """Write a table as RFC 4180 has it; a cell that a table program would work out is kept as text by a quote before it."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(head)
    writer.writerows([f"'{it}" if it.startswith(FORMULA) else it for it in map(_line, row)] for row in rows)
    return out.getvalue()


def as_markdown(title: str, head: Sequence[str], rows: Rows) -> str:
    """Write a table as Markdown; what people type cannot end a cell or become markup."""
    lines = [f"# {as_text(title)}", "", f"| {' | '.join(head)} |", f"|{'---|' * len(head)}"]
    return "\n".join([*lines, *(f"| {' | '.join(map(as_text, row))} |" for row in rows)]) + "\n"


def as_text(text: str) -> str:
    """Write what people typed as one line of Markdown that can't become markup."""
    told = _line(text)
    return "".join(f"\\{it}" if it in "\\`*_{}[]<>()#|!" else it for it in told)


def _line(text: str) -> str:
    """Write a text on one line, without what no reader sees."""
    return "".join(it for it in " ".join(text.split()) if it.isprintable())
