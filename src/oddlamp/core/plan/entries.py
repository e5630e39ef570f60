"""Entries of the log: what was built, measured, changed, went wrong, was mended or thought of, and what to do otherwise next time."""

import re
import unicodedata
from collections.abc import Iterable, Mapping
from typing import Annotated, Any, Final, Literal, NamedTuple

from pydantic import AfterValidator, BeforeValidator, Field, StringConstraints

from oddlamp.core.base import Model
from oddlamp.core.plan.bench import read_amount

Kind = Literal["built", "measured", "changed", "fault", "fixed", "idea", "next_time"]
KINDS: Final[dict[Kind, str]] = {
    "built": "built",
    "measured": "measured",
    "changed": "changed",
    "fault": "fault",
    "fixed": "fixed",
    "idea": "idea",
    "next_time": "next time",
}
Deed = Literal["built", "measured", "changed"]
MINUTES_MOST: Final = 100_000
COST_MOST: Final = 1_000_000
ENTRIES_MOST: Final = 20_000
PHOTOS_MOST: Final = 500  # of a project
PHOTOS_EACH: Final = 12  # of an entry
WORDS_MOST: Final = 12
MARKS: Final = re.compile("[\u0300-\u036f]+")  # what Unicode sets over a letter once it is taken apart
_HOURS: Final = re.compile(r"(\d{1,4})(?:[.,](\d{1,3}))? ?(?:h|hours?|hrs?)(?: ?(\d{1,2}) ?(?:m|min|minutes?)?)?", re.ASCII)
_CLOCK: Final = re.compile(r"(\d{1,4}):([0-5]\d)", re.ASCII)
_MINUTES: Final = re.compile(r"(\d{1,6}) ?(?:m|min|minutes?)?", re.ASCII)


def read_minutes(given: object) -> object:
    """Read a time as people write it, in whole minutes: ``80``, ``80 min``, ``1:20``, ``1 h 20``, ``1.5 h``; empty is none told."""
    if not isinstance(given, str):
        return given
    text = given.strip().lower()
    if not text:
        return None
    if found := _CLOCK.fullmatch(text):
        return int(found[1]) * 60 + int(found[2])
    if found := _MINUTES.fullmatch(text):
        return int(found[1])
    if (found := _HOURS.fullmatch(text)) and not (found[2] and found[3]):
        return round(float(f"{found[1]}.{found[2] or 0}") * 60) + int(found[3] or 0)
    raise ValueError("a time such as 80, 1:20, 1 h 20 or 1.5 h")


def read_cost(given: object) -> object:
    """Read what something cost as people write it, ``3,20`` or ``3.20``; empty is none told."""
    return None if isinstance(given, str) and not given.strip() else read_amount(given)


Minutes = Annotated[Annotated[int, Field(ge=0, le=MINUTES_MOST)] | None, BeforeValidator(read_minutes)]
Cost = Annotated[
    Annotated[float, Field(ge=0, le=COST_MOST), AfterValidator(lambda it: round(it, 2))] | None, BeforeValidator(read_cost)
]
EntryText = Annotated[str, StringConstraints(min_length=1, max_length=4000, strip_whitespace=True)]
PhotoText = Annotated[str, StringConstraints(max_length=300, strip_whitespace=True)]


class Entry(Model):
    """What is written in the log at once. ``cost`` is in the money of who buys; ``stage_label`` what its stage was called then."""

    kind: Kind
    text: EntryText
    stage: Annotated[str, Field(max_length=120)] | None = None
    stage_label: Annotated[str, Field(max_length=120)] = ""
    minutes: Minutes = Field(default=None, description="How long it took, in whole minutes")
    cost: Cost = Field(default=None, description="What it cost, in the money of who buys")


class Photo(NamedTuple):
    """A photo of an entry, without its picture; ``alt`` tells it to who can't see it."""

    id: int
    made_at: str
    is_thrown: bool
    alt: str
    width_px: int
    height_px: int
    size_bytes: int


class Logged(NamedTuple):
    """Something the log tells: an entry, a change of the plan, or a take that was kept; ``number`` is the change it stands at.

    Of entries alone: ``version`` counts their changes, ``has_before`` says whether what was written before is kept.
    """

    what: Literal["entry", "change", "take"]
    id: str
    made_at: str
    kind: Kind | Literal["rehearsed"]
    text: str
    number: int
    stage: str | None = None
    stage_label: str = ""
    minutes: int | None = None
    cost: float | None = None
    version: int = 0
    is_thrown: bool = False
    has_before: bool = False
    photos: tuple[Photo, ...] = ()


class EntrySum(NamedTuple):
    """Entries of one kind at one stage together; ``timed`` and ``costed`` are how many tell a time and a cost, which is in hundredths."""

    kind: Kind
    is_thrown: bool
    stage_label: str
    entries: int
    minutes: int
    hundredths: int
    timed: int
    costed: int


class NextTime(NamedTuple):
    """A note for next time in the log of another project, and the parts and schools it is about."""

    uid: str
    made_at: str
    project: str
    title: str
    text: str
    stage_label: str
    uses: tuple[str, ...]


def folded(text: str) -> str:
    """Return a text as it is searched: small letters, without the marks on them."""
    if text.isascii():
        return text.lower()
    return MARKS.sub("", unicodedata.normalize("NFKD", text.casefold()))


def words_of(find: str) -> list[str]:
    """Return the words that are looked for in what was typed, as they are searched."""
    return folded(find).split()[:WORDS_MOST]


def sought(kind: Kind, text: str, stage_label: str, alts: Iterable[str]) -> str:
    """Return what an entry is found by: what it says, its kind, its stage, and what its photos show."""
    return folded("\n".join((text, KINDS[kind], stage_label, *alts)))


def deed_of(patch: Mapping[str, Any]) -> Deed:
    """Tell what kind of deed an edit was: a wire that went in, something that was measured, or a change of the plan."""
    bench = patch.get("bench")
    if isinstance(bench, Mapping):
        if "wired" in bench:
            return "built"
        if "checked" in bench:
            return "measured"
    return "measured" if set(patch) == {"measured"} else "changed"
