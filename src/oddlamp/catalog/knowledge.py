"""Reads what is known of faults from its data file."""

import tomllib
from functools import cache
from pathlib import Path
from typing import Final

from oddlamp.catalog.load import DATA
from oddlamp.core.errors import KnowledgeInvalid
from oddlamp.core.finding.knowledge import Knowledge, read_knowledge

KNOWLEDGE: Final = DATA / "finding.toml"
MOST_BYTES: Final = 1_000_000


@cache
def load_knowledge(path: Path = KNOWLEDGE) -> Knowledge:
    """Read the file, once.

    Raises:
        KnowledgeInvalid: what is wrong with it, with file and line.
    """
    text = path.read_text(encoding="utf-8")[:MOST_BYTES]
    try:
        document = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise KnowledgeInvalid(field=path.name, given=str(error), allowed="TOML, as its head says") from None
    return read_knowledge(path.name, text, document)
