"""A table of words, pasted: names, what is sent, what they do; taken in as one edit, or refused by row."""

import csv
import re
from collections.abc import Sequence
from typing import Final

from pydantic import ValidationError

from oddlamp.core.base import first_free
from oddlamp.core.checks.findings import Move
from oddlamp.core.design.design import Design
from oddlamp.core.english import plural
from oddlamp.core.errors import OutOfRange
from oddlamp.core.plan.document import Document, at_path, join_patches
from oddlamp.core.plan.edits import framed_as
from oddlamp.core.plan.text import fields_of
from oddlamp.core.plan.words import Word
from oddlamp.sheets.deeds import deeds_of

ROWS_MOST: Final = 500
HEADS: Final = {"name", "word", "sent", "send", "label", "bytes"}
ID_MOST: Final = 38


def pasted_words(design: Design, vocabulary_id: str, text: str) -> Move:
    """Read a table of words: name, what is sent, what it does, parted by tabs, semicolons or commas; the last two may be missing.

    A name that is there already has what it sends changed. What a word does is one of what its list offers, as it stands there.

    Raises:
        OutOfRange: no such vocabulary, no word in the table, too many, or a row that cannot be a word; the row is named.
    """
    vocabulary = design.vocabularies.get(vocabulary_id)
    if vocabulary is None or vocabulary.is_whole:
        raise OutOfRange(field="vocabulary", given=vocabulary_id, allowed="a vocabulary of a program")
    rows = _rows(text)
    known = {word.label.casefold(): word.id for word in vocabulary.words}
    host = next((talk.b for talk in design.vocabulary_talks(vocabulary_id)), None)
    taken, patches, is_long = set(known.values()), list[Document](), False
    for number, row in rows:
        name, sent, does = (*row, "", "", "")[:3]
        word_id = known.get(name.casefold())
        if word_id is None:
            word_id = first_free(_id_of(name), taken.__contains__)
            taken.add(word_id)
            known[name.casefold()] = word_id
        told = {"label": name} | ({"sent": sent} if sent else {})
        try:
            read = Word.model_validate(told)
        except ValidationError as error:
            why = error.errors(include_url=False)[0]["msg"].splitlines()[-1].removeprefix("Value error, ")
            raise OutOfRange(field=f"row {number}", given=f"{name} {sent}".strip(), allowed=why) from None
        is_long = is_long or len(read.sent or "") > 1
        patches.append(at_path(("vocabularies", vocabulary_id, "words", word_id), told))
        if does and host is not None:
            patches.append(_rule(design, host, word_id, does, number, sent))
    if is_long and not vocabulary.terminator and vocabulary.framing.id == "single-byte":
        patches.append(framed_as(vocabulary_id, "terminated", "lf"))
        handsets = [it.a for it in design.vocabulary_talks(vocabulary_id) if it.a in design.handsets]
        patches += [at_path(("nodes", it, "appends"), None) for it in handsets if design.handsets[it].appends.id == "none"]
    return Move(label=f"Take in {plural(len(rows), 'word')}", patch=join_patches(patches))


def _rows(text: str) -> list[tuple[int, list[str]]]:
    lines = text.splitlines()
    mark = next((it for it in "\t;," if any(it in line for line in lines)), "\t")
    try:
        read = [[cell.strip() for cell in row] for row in csv.reader(lines, delimiter=mark)]
    except csv.Error as error:
        raise OutOfRange(field="table", given=text[:40], allowed=f"rows of cells: {error}") from None
    rows = [(number, row) for number, row in enumerate(read, 1) if row and row[0]]
    if rows and {cell.casefold() for cell in rows[0][1]} & HEADS and len(rows) > 1:
        rows = rows[1:]
    if not rows:
        raise OutOfRange(field="table", given="no word", allowed="a word a line: its name, what is sent, what it does")
    if len(rows) > ROWS_MOST:
        raise OutOfRange(field="table", given=f"{len(rows)} words", allowed=f"at most {ROWS_MOST}")
    return rows


def _id_of(name: str) -> str:
    plain = re.sub(r"[^a-z0-9]+", "_", name.casefold().encode("ascii", "ignore").decode()).strip("_")[:ID_MOST]
    return plain if plain[:1].isalpha() else f"w_{plain}".strip("_")


def _rule(design: Design, host: str, word_id: str, does: str, number: int, sent: str) -> Document:
    offered = deeds_of(design, host, dict.fromkeys(fields_of(sent), "decimal"))
    do = next((do for label, do in offered if label.casefold() == does.casefold()), None)
    if do is None:
        few: Sequence[str] = [label for label, _ in offered[:6]]
        raise OutOfRange(
            field=f"row {number}", given=does, allowed=f"what a word may do here, such as {', '.join(few) or 'nothing yet'}"
        )
    rule = next((name for name, it in design.rules_of(host) if it.when.heard == word_id), None)
    rule = rule or first_free(f"when_{word_id}"[:ID_MOST], design.plan.rules.__contains__)
    return at_path(("rules", rule), {"host": host, "when": {"heard": word_id}, "do": do})
