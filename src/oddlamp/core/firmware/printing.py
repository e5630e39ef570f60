"""A program printed as one source file that can be read from top to bottom."""

import re
from collections.abc import Mapping
from functools import lru_cache
from typing import Final, NamedTuple

from jinja2 import DictLoader, Environment, StrictUndefined, Template

from oddlamp.core.base import Same
from oddlamp.core.behaviour.program import Program
from oddlamp.core.design.design import Design
from oddlamp.core.errors import DomainError
from oddlamp.core.firmware.board import Header
from oddlamp.core.firmware.facts import Facts
from oddlamp.core.firmware.missing import why_not_printed

MAIN: Final = "program.ino.j2"
MARK: Final = "\x01"  # stands before the stage of a line; no label has it
HEADER: Final = "board.h.j2"
_FUNCTION: Final = re.compile(
    r"(?:^//[^\n]*\n)*^static (?:inline )?[^\n(={;]{1,60}?\b(\w{1,90})\([^;{]*\) \{(?:[^\n]*\}\n|\n.*?^\}\n)", re.M | re.S
)
_CALLED: Final = re.compile(r"\b([a-z_]\w{0,90})\(")
_BLANK: Final = re.compile(r"\n{3,}")


class NotPrinted(DomainError):
    """A program with something in it that cannot be printed; ``allowed`` says what, and nothing is printed."""

    code = "not-printed"


class Printed(NamedTuple):
    """A program as its files: the program itself, and the header with what differs between board packages."""

    program: str
    header: str
    stages: tuple[str, ...] = ()  # of each line of the program the stage it comes from, empty for none


def print_program(design: Design, program: Program) -> Printed:
    """Print the program of a host.

    Raises:
        NotPrinted: something of it cannot be printed.
    """
    missing = dict.fromkeys(why_not_printed(design, program))
    if missing:
        raise NotPrinted(field="program", given=program.host, allowed="a program without " + "; ".join(missing))
    facts, texts = Facts(design, program), Same(design.catalog.program)
    filled = facts.all()
    header = _template(texts, HEADER).render(Header(facts).all(filled))
    lines = [line.partition(MARK) for line in _tidy(_template(texts, MAIN).render(filled)).split("\n")]
    program = "\n".join(text.rstrip() for text, _, _ in lines)
    return Printed(program, _BLANK.sub("\n\n", header), tuple(stage for _, _, stage in lines))


@lru_cache(maxsize=8)
def _template(texts: Same[Mapping[str, str]], name: str) -> Template:
    # What is printed is source text of another language, and no page: names and comments are made safe where they are made.
    environment = Environment(
        loader=DictLoader(texts.it), undefined=StrictUndefined, autoescape=False, trim_blocks=True, lstrip_blocks=True, keep_trailing_newline=True
    )  # fmt: skip
    environment.filters["at"] = lambda stage: f"{MARK}{stage}"
    return environment.get_template(name)


def _tidy(text: str) -> str:
    """Leave out what nothing calls, and declare ahead what is called before it stands there."""
    functions = list(_FUNCTION.finditer(text))
    bodies = {it[1]: it[0] for it in functions}
    rest = _FUNCTION.sub("", text)
    wanted, todo = set[str](), [rest]
    while todo:
        for name in set(_CALLED.findall(todo.pop())) & bodies.keys():
            if name not in wanted:
                wanted.add(name)
                todo.append(bodies[name])
    text = _FUNCTION.sub(lambda it: it[0] if it[1] in wanted else "", text)
    return _BLANK.sub("\n\n", text.replace("//@ahead\n", _ahead(text)))


def _ahead(text: str) -> str:
    """Return the declarations of those functions that are called before they stand there."""
    functions = list(_FUNCTION.finditer(text))
    called: dict[str, int] = {}
    for it in _CALLED.finditer(text):
        called.setdefault(it[1], it.start())
    early = [it for it in functions if called.get(it[1], len(text)) < it.start()]
    return "".join(_head(it[0]) + "\n" for it in early)


def _head(body: str) -> str:
    """Return the declaration of a function: its first line that is no comment, up to where it begins."""
    line = next(it for it in body.split("\n") if not it.startswith("//"))
    return line.partition(") {")[0] + ");"
