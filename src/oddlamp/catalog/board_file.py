"""A board as a file of its own, JSON or TOML, in the form of the shipped ones: read with every fault named, and written."""

import json
import re
import tomllib
from typing import Any, Final, Literal

import tomli_w
from pydantic import ValidationError

from oddlamp.catalog.load import PART_FILE_MOST_BYTES
from oddlamp.core.errors import BoardInvalid, FieldProblem, PlanInvalid
from oddlamp.core.parts.models import BoardPart, Catalog
from oddlamp.core.parts.own import as_own_board
from oddlamp.core.parts.own_board import OWN
from oddlamp.core.parts.pins import PINS_MOST
from oddlamp.core.plan.document import field_problems, refuse_deep
from oddlamp.core.plan.model import OwnPart

Form = Literal["json", "toml"]
ID: Final = "own-board"
DOTS_MOST: Final = 60


def write_board(part: BoardPart, form: Form) -> str:
    """Write a board as a file: nothing that is a default, so that what is not known is left out."""
    told = part.model_dump(mode="json", exclude_defaults=True, exclude_none=True)
    return tomli_w.dumps(told) if form == "toml" else json.dumps(told, ensure_ascii=False, indent=1) + "\n"


def read_board(name: str, text: str, catalog: Catalog) -> OwnPart:
    """Read a file of a board as a part of the user's own.

    Args:
        name: of the file, for what is refused.
        text: what is in it; JSON where it begins with a brace, else TOML.
        catalog: the boards it may be like, and the sources that are known.
    Raises:
        BoardInvalid: what is no such file, or does not go together; all faults are listed, each with its place in the file.
    """
    document = _parsed(name, text)
    _refuse(name, [it for it in _sources(document) if it.given.strip("'\"") not in catalog.references])
    try:
        return as_own_board(BoardPart.model_validate(document), catalog)
    except ValidationError as error:
        _refuse(name, field_problems(error, document))
        raise


def _parsed(name: str, text: str) -> dict[str, Any]:
    if len(text.encode(errors="replace")) > PART_FILE_MOST_BYTES:
        _refuse(
            name, [FieldProblem(field="", given=f"{len(text) / 1e6:.1f} MB", allowed="at most 1 MB, far more than a board has")]
        )
    if any(piece.count(".") > DOTS_MOST for piece in re.split(r"[=,{}\[\]\n]", text)):
        # A name of many parts would have the reader of TOML fill the memory with tables in tables.
        _refuse(name, [FieldProblem(field="", given=f"over {DOTS_MOST} dots in a row", allowed="names of a part or two")])
    is_json = text.lstrip("\ufeff \t\r\n").startswith("{")
    try:
        document = json.loads(text.lstrip("\ufeff")) if is_json else tomllib.loads(text)
        refuse_deep(document, name)
    except (ValueError, RecursionError) as error:
        form = "JSON" if is_json else "TOML"
        at = "nested too deep" if isinstance(error, RecursionError) else str(error)[:160]
        _refuse(name, [FieldProblem(field="", given=at, allowed=f"a board as {form}, such as one that Odd Lamp saved")])
    except PlanInvalid as error:
        _refuse(name, error.problems)
    pins: Any = document.get("pins")
    if not isinstance(pins, list) or not pins:
        given = "none at all" if isinstance(pins, list) or pins is None else type(pins).__name__
        _refuse(name, [FieldProblem(field="pins", given=given, allowed="one pin or more, in the order of the board's edges")])
    if len(pins) > PINS_MOST:
        _refuse(name, [FieldProblem(field="pins", given=f"more than {PINS_MOST}", allowed=f"at most {PINS_MOST} pins")])
    return {**document, "id": ID, "pins": [{"source": OWN, **it} if isinstance(it, dict) else it for it in pins]}


def _sources(document: dict[str, Any]) -> list[FieldProblem]:
    """List where the facts are said to be from, each with its place, as the faults they are where the source is unknown."""
    figures = [(f"{name}.source", it) for name, it in document.items() if isinstance(it, dict)]
    pins = [(f"pins.{at}.source", it) for at, it in enumerate(document["pins"]) if isinstance(it, dict)]
    allowed = "own, from-memory, common-practice, estimate, or a source that Odd Lamp lists"
    return [
        FieldProblem(field=field, given=repr(it["source"]), allowed=allowed) for field, it in [*figures, *pins] if "source" in it
    ]


def _refuse(name: str, problems: Any) -> None:
    told = tuple(
        it.model_copy(update={"field": f"{name}, {it.field.removeprefix('figures.')}" if it.field else name}) for it in problems
    )
    if told:
        raise BoardInvalid(field=told[0].field, given=told[0].given, allowed=told[0].allowed, problems=told)
