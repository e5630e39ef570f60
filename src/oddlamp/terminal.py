"""What every command shares: plans and JSON read from files, refusals told, and text that cannot steer a terminal."""

import json
import sys
import unicodedata
from pathlib import Path
from typing import Annotated, Any, Final, NoReturn

import typer

from oddlamp.catalog.load import load_catalog
from oddlamp.core.errors import DomainError
from oddlamp.core.parts.check import check_parts
from oddlamp.core.plan.document import load_plan
from oddlamp.core.plan.model import Plan
from oddlamp.core.plan.upgrades import upgrade

PlanFile = Annotated[Path, typer.Argument(help="A plan file (JSON), or - for standard input")]
Database = Annotated[
    Path | None, typer.Option(help="Where projects are kept", show_default="oddlamp.sqlite3 in your own data folder")
]
FILE_MOST_BYTES: Final = 20_000_000
HIDDEN: Final = ("Cc", "Cf", "Cs", "Zl", "Zp")  # control characters, marks that turn the direction, line separators


def read_plan(path: Path) -> Plan:
    """Return a plan from a file, of an older version brought up to date; ends with 2 where it cannot be read."""
    try:
        plan = load_plan(upgrade(read_json(path))[0])
        check_parts(plan, load_catalog())
    except DomainError as error:
        refuse(error)
    return plan


def read_json(path: Path) -> Any:
    """Return what a JSON file holds; ends with 2 where it cannot be read."""
    try:
        with sys.stdin.buffer if str(path) == "-" else path.open("rb") as file:
            given = file.read(FILE_MOST_BYTES + 1)
        if len(given) > FILE_MOST_BYTES:
            raise ValueError(f"over {FILE_MOST_BYTES / 1e6:g} MB, more than any plan has")
        return json.loads(given)
    except OSError as error:
        tell(f"{path}: {error.strerror}", err=True)
    except (ValueError, RecursionError) as error:
        tell(f"{path}: not JSON: {error}", err=True)
    raise typer.Exit(2)


def refuse(error: DomainError) -> NoReturn:
    """Tell every problem of a refusal, and end with 2."""
    for item in error.problems:
        tell(f"{item.field}: given {item.given}; allowed: {item.allowed}", err=True)
    raise typer.Exit(2)


def tell(text: str, *, err: bool = False) -> None:
    """Write a line to the terminal; what a file brings in can't steer it, so control characters are written out."""
    typer.echo("".join(it if it == "\n" or unicodedata.category(it) not in HIDDEN else repr(it)[1:-1] for it in text), err=err)
