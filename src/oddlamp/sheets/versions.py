"""Two versions of a project side by side: what was decided otherwise, numbers, verdicts, pins, wires, and the printed program."""

from collections.abc import Iterator

from pydantic import Field

from oddlamp.core.base import Model
from oddlamp.core.bench.netlist import netlist
from oddlamp.core.bench.wiring import wiring
from oddlamp.core.design.design import Design
from oddlamp.core.english import and_list, plural
from oddlamp.core.errors import NotPrinted
from oddlamp.core.firmware.regions import changed_lines
from oddlamp.core.plan.model import Plan
from oddlamp.sheets.compare import Comparison, compare
from oddlamp.sheets.program import hosts_of, printed_of
from oddlamp.sheets.review import Review


class MovedRow(Model):
    """A pin or a wire that differs; empty where a side does not have it."""

    id: str
    label: str
    before: str
    after: str


class ProgramMoved(Model):
    """What differs in the printed program of a board, line by line as a difference is written; ``told`` where a side has none."""

    host: str
    label: str
    told: str
    lines: tuple[str, ...] = Field(description="The first two hundred of them")


class VersionsCompared(Comparison):
    """All that differs from one version to another."""

    pins: tuple[MovedRow, ...]
    wires: tuple[MovedRow, ...]
    programs: tuple[ProgramMoved, ...]
    beside: str = Field(description="What of pins, wires and programs differs, in a sentence")


def compare_versions(before: tuple[Plan, Design, Review], after: tuple[Plan, Design, Review]) -> VersionsCompared:
    """Compare two versions of a project with all that is made of them."""
    both = compare((before[0], before[2]), (after[0], after[2]))
    pins = _moved(_pins(before[1]), _pins(after[1]))
    wires = _moved(_wires(before[1]), _wires(after[1]))
    programs = tuple(_programs(before[1], after[1]))
    told = [f"{plural(len(pins), 'pin')}"] if pins else []
    told += [f"{plural(len(wires), 'wire')}"] if wires else []
    told += [f"the program of {it.label}" for it in programs]
    return VersionsCompared(
        **{name: getattr(both, name) for name in Comparison.model_fields}, pins=pins, wires=wires, programs=programs,
        beside=f"Otherwise at the bench: {and_list(told)}." if told else "Pins, wires and program are the same.",
    )  # fmt: skip


Rows = dict[str, tuple[str, str]]


def _pins(design: Design) -> Rows:
    """Return the pin of every line on every board, with what the line is called."""
    named = {it.id: it.label for it in design.nodes.values()}
    return {
        f"{pin.host} {pin.key}": (f"{named.get(pin.host, pin.host)}, {pin.line.name}", pin.label or "none yet")
        for pin in design.pins
    }


def _wires(design: Design) -> Rows:
    """Return every wire, with what it is called and what it joins."""
    made = wiring(design, netlist(design))
    return {
        it.id: (
            it.why,
            ", ".join([made.name(it.start), *([made.part(it.through)] if it.through is not None else []), made.name(it.end)]),
        )
        for it in made.wires
    }


def _moved(before: Rows, after: Rows) -> tuple[MovedRow, ...]:
    found = []
    for key in dict.fromkeys([*after, *before]):
        here, there = before.get(key), after.get(key)
        was, now = here[1] if here else "", there[1] if there else ""
        if was != now:
            found.append(MovedRow(id=key, label=(there or here or ("", ""))[0], before=was, after=now))
    return tuple(found)


def _programs(before: Design, after: Design) -> Iterator[ProgramMoved]:
    """Yield what differs in the programs of the boards that either side has."""
    labels = {it.id: it.label for design in (before, after) for it in hosts_of(design)}
    for host, label in labels.items():
        was, now = _printed(before, host), _printed(after, host)
        if was == now:
            continue
        lines = changed_lines(was, now)
        told = "Only the earlier one can be printed." if not now else "Only the later one can be printed." if not was else ""
        told = told or ("" if lines else "Only what you wrote yourself differs.")
        yield ProgramMoved(host=host, label=label, told=told, lines=lines)


def _printed(design: Design, host: str) -> str:
    """Return the printed program of a board with its header; empty where there is none."""
    if host not in design.nodes or design.nodes[host].node.kind != "board":
        return ""
    try:
        printed = printed_of(design, host)
        return f"{printed.program}\n{printed.header}"
    except NotPrinted:
        return ""
