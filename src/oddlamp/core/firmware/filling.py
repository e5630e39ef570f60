"""The texts of a printed program, to be filled: source text of other languages, kept as data."""

from collections.abc import Mapping
from functools import lru_cache
from typing import Final

from jinja2 import DictLoader, Environment, StrictUndefined, Template

from oddlamp.core.base import Same

MARK: Final = "\x01"  # stands before the stage of a line; no label has it


@lru_cache(maxsize=16)
def template(texts: Same[Mapping[str, str]], name: str) -> Template:
    """Return one of the texts to be filled."""
    # What is printed is source text of another language, and no page: names and comments are made safe where they are made.
    environment = Environment(
        loader=DictLoader(texts.it), undefined=StrictUndefined, autoescape=False, trim_blocks=True, lstrip_blocks=True, keep_trailing_newline=True
    )  # fmt: skip
    environment.filters["at"] = lambda stage: f"{MARK}{stage}"
    return environment.get_template(name)
