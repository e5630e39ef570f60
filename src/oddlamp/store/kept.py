"""What the store tells of projects."""

from typing import Any, Literal, NamedTuple

from oddlamp.core.plan.entries import Deed
from oddlamp.core.plan.model import Plan

Place = Literal["shelf", "archive", "bin"]


class ProjectName(NamedTuple):
    """A project on the shelf, put away in the archive, or thrown in the bin."""

    id: str
    title: str
    opened_at: str
    place: Place
    revision: int


class Glance(NamedTuple):
    """What the shelf shows of a revision; ``stamp`` names what worked it out, and it is worked out anew where that differs."""

    stamp: str
    sentence: str
    thread: tuple[str, ...]


class Checked(NamedTuple):
    """A plan as it is to be kept, with what the program noted in it, and what the shelf shows of it."""

    plan: Plan
    glance: Glance | None


class Taken(NamedTuple):
    """When the program of a board was last taken away, and the revision it was printed from."""

    revision: int
    taken_at: str


class RevisionName(NamedTuple):
    """One state of a project; ``parent`` is the revision it was made from, None for the first."""

    revision: int
    parent: int | None
    number: int
    made_at: str
    summary: str
    deed: Deed | None = None


class Take(NamedTuple):
    """A rehearsal that is kept, with the revision it was played on."""

    id: int
    name: str
    revision: int
    number: int
    made_at: str
    events: list[dict[str, Any]]


class Kept(NamedTuple):
    """A project as it stands: its head revision, what undo and redo would do, and its plan."""

    id: str
    revision: int
    number: int
    made_at: str
    summary: str
    undo: str | None
    redo: str | None
    plan: Plan
