"""A whole project as a file keeps it: its plans, every step of its history, its takes. The places of revisions are counted from 0."""

from typing import Annotated, Any, Final, Literal

from pydantic import Field, model_validator

from oddlamp.core.base import Model
from oddlamp.core.plan.document import Document, load_plan
from oddlamp.core.plan.model import Plan

FORMAT: Final = "oddlamp-project"
VERSION: Final = 1
REVISIONS_MOST: Final = 50_000
At = Annotated[int, Field(ge=0, lt=REVISIONS_MOST)]
Moment = Annotated[str, Field(pattern=r"^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(\.\d+)?Z$", max_length=32)]


class RevisionKept(Model):
    """One state of the plan; ``parent`` is the place of the one it was made from, counted from 0."""

    parent: At | None
    number: Annotated[int, Field(ge=0)]
    made_at: Moment
    summary: Annotated[str, Field(max_length=200)]
    plan: Document


class MoveKept(Model):
    """A step of the head from one revision to another; the first one comes from none."""

    kind: Annotated[str, Field(max_length=8)]
    from_at: At | None
    to_at: At
    made_at: Moment


class TakeKept(Model):
    """A rehearsal that was kept, and whether it was thrown away since."""

    revision: At
    name: Annotated[str, Field(max_length=80)]
    made_at: Moment
    thrown_at: Moment | None
    events: list[dict[str, Any]]


class TakenKept(Model):
    """The last time that the program of a board was taken away."""

    host: Annotated[str, Field(max_length=40)]
    revision: At
    taken_at: Moment


class ProjectKept(Model):
    """A project as a file keeps it. ``original`` is the file of an older version that it was read from."""

    format: Literal["oddlamp-project"] = FORMAT
    schema_version: Literal[1] = VERSION
    created_at: Moment
    original: Document | None
    head: At
    revisions: Annotated[tuple[RevisionKept, ...], Field(min_length=1, max_length=REVISIONS_MOST)]
    moves: tuple[MoveKept, ...]
    takes: tuple[TakeKept, ...]
    taken: tuple[TakenKept, ...]

    @property
    def head_plan(self) -> Plan:
        """The plan it shows."""
        return load_plan(self.revisions[self.head].plan)

    @model_validator(mode="after")
    def _is_whole(self) -> "ProjectKept":
        count = len(self.revisions)
        places = [self.head, *(it.revision for it in self.takes), *(it.revision for it in self.taken)]
        places += [it for move in self.moves for it in (move.from_at, move.to_at) if it is not None]
        if max(places) >= count:
            raise ValueError(f"revisions\n{max(places)}\na place under {count}, as many as there are revisions")
        late = next((at for at, it in enumerate(self.revisions) if it.parent is not None and it.parent >= at), None)
        if late is not None:
            raise ValueError(f"revisions.{late}.parent\n{self.revisions[late].parent}\na revision before it")
        return self
