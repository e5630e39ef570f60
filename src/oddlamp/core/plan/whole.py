"""A whole project as a file keeps it: its plans, every step of its history, its takes, its log. The places of revisions are counted from 0."""

from typing import Annotated, Any, Final, Literal

from pydantic import Field, model_validator

from oddlamp.core.base import Model
from oddlamp.core.plan.document import Document, load_plan
from oddlamp.core.plan.entries import ENTRIES_MOST, PHOTOS_EACH, PHOTOS_MOST, Entry, PhotoText
from oddlamp.core.plan.model import Plan

FORMAT: Final = "oddlamp-project"
VERSION: Final = 2  # 1 had no log
REVISIONS_MOST: Final = 50_000
At = Annotated[int, Field(ge=0, lt=REVISIONS_MOST)]
Uid = Annotated[str, Field(pattern=r"^[0-9a-f]{12,32}$")]
Moment = Annotated[str, Field(pattern=r"^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(\.\d+)?Z$", max_length=32)]


class RevisionKept(Model):
    """One state of the plan; ``parent`` is the place of the one it was made from, counted from 0."""

    parent: At | None
    number: Annotated[int, Field(ge=0)]
    made_at: Moment
    summary: Annotated[str, Field(max_length=200)]
    deed: Literal["built", "measured"] | None = Field(
        default=None, description="A wire in or out, or a reading; None of any other change"
    )
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


class PhotoKept(Model):
    """A photo of an entry: a JPEG of the archive, by its name in it and its check sum. ``alt`` tells it to who can't see it."""

    file: Annotated[str, Field(pattern=r"^photos/\d{4}\.jpg$")]
    sha256: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
    made_at: Moment
    thrown_at: Moment | None
    alt: PhotoText


class EntryKept(Model):
    """An entry of the log, what was written in it before its last change, and whether it was thrown away."""

    uid: Uid
    revision: At
    made_at: Moment
    version: Annotated[int, Field(ge=0, le=10**6)]
    thrown_at: Moment | None
    said: Entry
    was: Entry | None
    uses: Annotated[tuple[Annotated[str, Field(max_length=120)], ...], Field(max_length=1000)] = Field(
        description="The parts and schools it is about"
    )
    photos: Annotated[tuple[PhotoKept, ...], Field(max_length=10 * PHOTOS_EACH)]


class ProjectKept(Model):
    """A project as a file keeps it. ``original`` is the file of an older version that it was read from."""

    format: Literal["oddlamp-project"] = FORMAT
    schema_version: Literal[1, 2] = VERSION
    created_at: Moment
    original: Document | None
    head: At
    revisions: Annotated[tuple[RevisionKept, ...], Field(min_length=1, max_length=REVISIONS_MOST)]
    moves: tuple[MoveKept, ...]
    takes: tuple[TakeKept, ...]
    taken: tuple[TakenKept, ...]
    entries: Annotated[tuple[EntryKept, ...], Field(max_length=ENTRIES_MOST)] = ()
    let_go: Annotated[tuple[Uid, ...], Field(max_length=ENTRIES_MOST)] = Field(
        default=(), description="The notes for next time, of any project, that it has let go"
    )

    @property
    def head_plan(self) -> Plan:
        """The plan it shows."""
        return load_plan(self.revisions[self.head].plan)

    @model_validator(mode="after")
    def _is_whole(self) -> "ProjectKept":
        count = len(self.revisions)
        places = [self.head, *(it.revision for it in self.takes), *(it.revision for it in self.taken)]
        places += [it.revision for it in self.entries]
        places += [it for move in self.moves for it in (move.from_at, move.to_at) if it is not None]
        if max(places) >= count:
            raise ValueError(f"revisions\n{max(places)}\na place under {count}, as many as there are revisions")
        late = next((at for at, it in enumerate(self.revisions) if it.parent is not None and it.parent >= at), None)
        if late is not None:
            raise ValueError(f"revisions.{late}.parent\n{self.revisions[late].parent}\na revision before it")
        uids = [it.uid for it in self.entries]
        twice = next((it for at, it in enumerate(uids) if it in uids[:at]), None) if len(set(uids)) < len(uids) else None
        if twice is not None:
            raise ValueError(f"entries\n{twice}\neach entry once")
        named = [it.file for it in self.photos]
        if named != [photo_name(at) for at in range(len(named))] or len(named) > PHOTOS_MOST:
            raise ValueError(
                f"entries\n{len(named)} photos\nat most {PHOTOS_MOST}, called photos/0001.jpg and so on in their order"
            )
        return self

    @property
    def photos(self) -> tuple[PhotoKept, ...]:
        """All its photos, in the order in which their files are counted."""
        return tuple(photo for entry in self.entries for photo in entry.photos)


def photo_name(at: int) -> str:
    """Return what the file of a photo is called in an archive, by its place from 0."""
    return f"photos/{at + 1:04}.jpg"
