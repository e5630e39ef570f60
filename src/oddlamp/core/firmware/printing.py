"""A program printed as one source file that can be read from top to bottom."""

import re
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from functools import lru_cache
from typing import Final, NamedTuple

from oddlamp.core.base import Same
from oddlamp.core.behaviour.program import Program
from oddlamp.core.design.design import Design
from oddlamp.core.errors import NotPrinted
from oddlamp.core.firmware.board import Header
from oddlamp.core.firmware.calls import Row
from oddlamp.core.firmware.facts import Facts
from oddlamp.core.firmware.filling import MARK, template
from oddlamp.core.firmware.missing import why_not_printed
from oddlamp.core.firmware.radio import beside
from oddlamp.core.firmware.room import Room, room_of
from oddlamp.core.plan.programs import BEGINS, ENDS

MISSING_TOLD: Final = 3
OWN: Final = "//@own "
YOURS: Final = "yours"  # stands for the stage of lines that the maker has written
AHEAD_OF_RULES: Final = "//@ahead\n"
AHEAD: Final = "//@ahead2\n"
MAIN: Final = "program.ino.j2"
HEADER: Final = "board.h.j2"
_FUNCTION: Final = re.compile(
    r"(?:^//[^\n]*\n)*^static (?:inline )?[^\n(={;]{1,60}?\b(\w{1,90})\([^;{]*\) \{(?:[^\n]*\}\n|\n.*?^\}\n)", re.M | re.S
)
_CALLED: Final = re.compile(r"\b([a-z_]\w{0,90})\(")
_VARIABLE: Final = re.compile(
    r"^static (?:(?!const\b)[\w ]{1,40}?|const \w{1,40} \*)\b(\w{1,90})(?:\[[^\]\n]*\])?(?: = [^;\n]*)?;[^\n]*\n", re.M
)
_WORD: Final = re.compile(r"\w+")
_BLANK: Final = re.compile(r"\n{3,}")


class Printed(NamedTuple):
    """A program as its files: the program itself, the header with what differs between board packages, and more beside them."""

    program: str
    header: str
    more: Mapping[str, str] = {}
    stages: tuple[str, ...] = ()  # of each line of the program the stage it comes from, empty for none
    radio: Row | None = None  # what was printed of a radio of the board's own
    sizes: Room | None = None  # what it takes of its board, where that has an 8-bit chip


def print_program(design: Design, program: Program) -> Printed:
    """Print the program of a host.

    Raises:
        NotPrinted: something of it cannot be printed.
    """
    missing = list(dict.fromkeys(why_not_printed(design, program)))
    if missing:
        raise NotPrinted(field="program", given=program.host, allowed=without(missing))
    facts, texts = Facts(design, program), Same(design.catalog.program)
    filled = facts.all()
    of_header = {**Header(facts).all(filled), "is_wiring": False}
    header = template(texts, HEADER).render(of_header)
    regions = filled["regions"]
    text = _tidy(template(texts, MAIN).render(filled), [it["code"] for it in regions.values()])
    lines = [line.partition(MARK) for it in text.split("\n") for line in _own(it, regions)]
    whole = "\n".join(it.rstrip() for it, _, _ in lines)
    room = room_of(design, program.host, whole, of_header["has"])
    if room is not None and room.memory.taken > room.memory.there:
        wanted = f"a board with {room.memory.taken} bytes of memory, with the package's own: this one has {room.memory.there}"
        raise NotPrinted(field="program", given=program.host, allowed=wanted)
    more = beside(filled["radio"], filled["page"])
    return Printed(whole, _BLANK.sub("\n\n", header), more, tuple(stage for _, _, stage in lines), filled["radio"], room)


def without(missing: Sequence[str]) -> str:
    """Say what a program must be without, the first of it where that is much."""
    more = [f"{len(missing) - MISSING_TOLD} more like these"] if len(missing) > MISSING_TOLD else []
    return "a program without " + "; ".join([*missing[:MISSING_TOLD], *more])


def _own(line: str, regions: Mapping[str, Row]) -> list[str]:
    """Put what the maker has written in its place, line by line, between the lines that begin and end it."""
    if not line.startswith(OWN):
        return [line]
    it = regions[line.removeprefix(OWN)]
    begins = f"{BEGINS}{it['place']}, {it['longest_ms']} ms at most ----"
    return [f"{own}{MARK}{YOURS}" for own in (begins, *it["code"].split("\n"), ENDS)]


@lru_cache(maxsize=1024)  # most are the same in every program, and none is over a few kB: a few MB in all
def _calls(text: str) -> frozenset[str]:
    """Return the names that a function calls, or may."""
    return frozenset(_CALLED.findall(text))


def _is_called(name: str, text: str) -> bool:
    """Tell whether a text calls a function: asked by its name, which is soon found or not in what is mostly tables."""
    at = text.find(f"{name}(")
    while at > 0 and (text[at - 1].isalnum() or text[at - 1] == "_"):
        at = text.find(f"{name}(", at + 1)
    return at >= 0


def _tidy(text: str, own: Iterable[str]) -> str:
    """Leave out what nothing calls, and declare ahead what is called before it stands there."""
    functions = list(_FUNCTION.finditer(text))
    bodies = {it[1]: it[0] for it in functions}
    # What stands between them, once: looking for functions takes longest of all.
    ends = [0, *(it.end() for it in functions)]
    between = [text[end : it.start()] for end, it in zip(ends, functions, strict=False)] + [text[ends[-1] :]]
    wanted = set[str]()
    outside = "\n".join(["".join(between), *own])
    todo = [name for name in bodies if _is_called(name, outside)]
    while todo:
        name = todo.pop()
        if name in bodies and name not in wanted:
            wanted.add(name)
            todo += _calls(bodies[name])
    kept = [it[0] if it[1] in wanted else "" for it in functions]
    text = "".join(it for pair in zip(between, [*kept, ""], strict=True) for it in pair)
    named = Counter(_WORD.findall("\n".join([text, *own])))
    text = _VARIABLE.sub(lambda it: it[0] if named[it[1]] > 1 else "", text)
    first, later = _ahead(text, own)
    return _BLANK.sub("\n\n", text.replace(AHEAD_OF_RULES, first).replace(AHEAD, later))


def _ahead(text: str, own: Iterable[str]) -> tuple[str, str]:
    """Return the declarations of functions that are called before they stand there: by the rules, and by all that follows."""
    called = dict.fromkeys((name for code in own for name in _CALLED.findall(code)), 0)
    for it in _CALLED.finditer(text):
        called.setdefault(it[1], it.start())
    cut, heads = text.index(AHEAD), (list[str](), list[str]())
    for it in _FUNCTION.finditer(text):
        at = called.get(it[1], len(text))
        if at < it.start() and (it.start() > cut or at < cut):
            heads[at > cut].append(_head(it[0]) + "\n")
    return "".join(heads[0]), "".join(heads[1])


def _head(body: str) -> str:
    """Return the declaration of a function: its first line that is no comment, up to where it begins."""
    line = next(it for it in body.split("\n") if not it.startswith("//"))
    return line.partition(") {")[0] + ");"
