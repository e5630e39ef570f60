"""Projects on disk: a tree of revisions with a moving head, written in one transaction per change."""

import sqlite3
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from datetime import UTC, datetime
from operator import attrgetter
from pathlib import Path
from threading import Lock
from typing import Any
from uuid import uuid4

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from oddlamp.core.errors import NothingToUndo, NotKept, StaleRevision, UnknownProject, UnknownRevision
from oddlamp.core.plan.changes import NOTED, differences
from oddlamp.core.plan.document import Document, dump_plan, edit_document, load_plan, refuse_large
from oddlamp.core.plan.entries import Deed, Logged, deed_of, folded
from oddlamp.core.plan.model import Plan
from oddlamp.store import statements
from oddlamp.store.archive import Archive, Unpacked, archived, take_in
from oddlamp.store.database import close_database
from oddlamp.store.kept import Checked, Glance, Kept, Place, ProjectName, RevisionName, Take, Taken
from oddlamp.store.logbook import Logbook
from oddlamp.store.models import ProjectRow, RevisionRow, TakenRow
from oddlamp.store.stored import crc, damaged, is_same, on_top, stored, told
from oddlamp.store.takes import keep_take, list_takes, take_row
from oddlamp.store.watch import Watch

Clock = Callable[[], datetime]
Check = Callable[[Plan], Checked | None]


class ProjectStore:
    """Keeps projects. Every method is one transaction; it returns only once the data is on disk.

    Any method raises NotKept where the disk refuses, and UnknownProject for an id that is not there.
    """

    def __init__(self, engine: Engine, clock: Clock = lambda: datetime.now(UTC)) -> None:
        self._engine, self._readers, self._clock = engine, engine.execution_options(reads=True), clock
        self._turn = Lock()  # writes of this program wait for each other here, not at the file
        self._watch = Watch(engine)
        self.log = Logbook(self._reading, self._writing, self._project, self._now)

    @property
    def path(self) -> Path | None:
        """The file everything is kept in; None where it is only in memory."""
        return self._watch.path

    @property
    def notice(self) -> str | None:
        """What became of the file, where it was taken away; None while all is as it was."""
        return self._watch.notice

    def close(self) -> None:
        """Bring everything into the one file."""
        self._watch.end()
        close_database(self._engine)

    def _stay(self) -> None:
        """Go on in a new file beside where ours was taken away."""
        if self._watch.is_gone():
            self._engine = self._watch.rescue()
            self._readers = self._engine.execution_options(reads=True)

    def _now(self) -> str:
        return self._clock().isoformat(timespec="milliseconds").replace("+00:00", "Z")

    @contextmanager
    def _reading(self) -> Iterator[Session]:
        """See everything as it stands now; takes no lock and waits for nobody."""
        if self._watch.is_gone():
            with self._turn:
                self._stay()
        with self._seeing() as session:
            yield session

    @contextmanager
    def _seeing(self) -> Iterator[Session]:
        with told(), Session(self._readers) as session, session.begin():
            yield session

    @contextmanager
    def _writing(self) -> Iterator[Session]:
        with self._turn:
            self._stay()
            with told(), Session(self._engine) as session, session.begin():
                yield session
            self._stay()  # what was just kept in a file without a name goes along too

    def names(self) -> list[ProjectName]:
        """Return all projects, the last opened first."""
        with self._reading() as session:
            return [_named(row) for row in session.execute(statements.NAMES)]

    def glances(self, stamp: str) -> dict[int, Glance]:
        """Return what the shelf shows of the heads, by revision: of those this stamp worked out, whose plan stands as it stood."""
        with self._reading() as session:
            rows = session.execute(statements.GLANCES_OF_HEADS, {"stamp": stamp}).all()
        return {row[0]: Glance(stamp, row[1], tuple(row[2])) for row in rows if row[3] == crc(row[4])}

    def keep_glances(self, glances: Mapping[int, Glance]) -> None:
        """Keep what the shelf shows of revisions."""
        with self._writing() as session:
            for revision, glance in glances.items():
                session.execute(statements.DROP_GLANCE, {"revision": revision})
                self._glance(session, revision, glance)

    def _glance(self, session: Session, revision: int, glance: Glance) -> None:
        text = session.scalar(statements.PLAN_TEXT, {"revision": revision})
        session.execute(statements.ADD_GLANCE, {"revision_id": revision, "crc": crc(text), **glance._asdict()})

    def create(self, plan: Plan, *, summary: str, original: Document | None = None, glance: Glance | None = None) -> Kept:
        """Start a project with a plan as its first revision; ``original`` is the older file it was upgraded from."""
        document = dump_plan(plan)
        refuse_large(document)
        with self._writing() as session:
            now = self._now()
            project = ProjectRow(id=uuid4().hex[:12], title=plan.title, created_at=now, opened_at=now, original=original)
            session.add(project)
            session.flush()
            self._grow(session, project.id, None, 0, document, summary, glance)
            session.expire(project)
            return self._kept(session, project)

    def copy_to(self, target: Path) -> None:
        """Write everything into a new file that stands alone; raises NotKept where there is no room for it."""
        with self._turn:
            self._stay()
        try:
            self._watch.copy_to(target)
        except (OSError, sqlite3.DatabaseError) as error:
            said = f"No copy could be written ({error}). What is kept is as it was: make room on the disk, then try again."
            raise NotKept(field="copy", given=str(error), allowed="a disk with room for a copy", said=said) from error

    def opened(self, project_id: str) -> None:
        """Note that a project was opened."""
        with self._writing() as session:
            self._project(session, project_id).opened_at = self._now()

    def read(self, project_id: str) -> Kept:
        """Return a project."""
        with self._reading() as session:
            return self._kept(session, self._project(session, project_id))

    def head(self, project_id: str) -> int:
        """Return which revision a project shows."""
        with self._reading() as session:
            return self._project(session, project_id).head_id or 0

    def parent(self, project_id: str, revision: int) -> int | None:
        """Return the revision that one was made from; None for the first. Raises UnknownRevision."""
        with self._reading() as session:
            return self._revision(session, self._project(session, project_id), revision).parent_id

    def title(self, project_id: str) -> str:
        """Return what a project is called."""
        with self._reading() as session:
            return self._project(session, project_id).title

    def raw(self, project_id: str) -> bytes:
        """Return a project's plan byte by byte as it stands in the file, whether or not it can be read."""
        with self._reading() as session:
            project = self._project(session, project_id)
            return bytes(session.scalar(statements.PLAN_TEXT, {"revision": project.head_id}) or b"")

    def archived(self, project_id: str) -> Archive:
        """Return all that is kept of a project, to be taken elsewhere; raises PlanInvalid where a plan of it can't be read."""
        with self._reading() as session:
            kept, photos = archived(session, self._project(session, project_id))
        # Photos are added and never changed, so that each can be read when its turn comes.
        return Archive(kept, tuple(size for _, size in photos), lambda at: self.log.picture(project_id, photos[at][0]))

    def take_in(self, found: Unpacked) -> Kept:
        """Add a project from elsewhere beside those there are, whole."""
        with self._writing() as session:
            return self._kept(session, take_in(session, found, project_id=uuid4().hex[:12], now=self._now()))

    def original(self, project_id: str) -> Document | None:
        """Return the file of an older version that a project was read from, as it was; None where there was none."""
        with self._reading() as session:
            return self._project(session, project_id).original

    def move(self, project_id: str, place: Place) -> ProjectName:
        """Put a project on the shelf, in the archive, or in the bin; it keeps all its revisions there."""
        with self._writing() as session:
            project = self._project(session, project_id)
            now = self._now()
            project.archived_at = now if place == "archive" else None
            project.deleted_at = now if place == "bin" else None
            return _named(project)

    def edit(self, project_id: str, patch: Document, *, base_revision: int, summary: str, check: Check) -> Kept:
        """Apply a merge patch as a new revision on the head.

        Where the patch was made on an older revision and touches other places than what was kept since,
        it is applied on top.
        Args:
            project_id: which project.
            patch: RFC 7396 merge patch; text quantities are parsed.
            base_revision: the revision the edit was made on.
            summary: what changed, in plain words.
            check: called with the new plan before it is kept; it may refuse, and tells what is kept of it and on the shelf.
        Raises:
            UnknownRevision: the project has no such revision.
            StaleRevision: both sides want something else of the same place; it tells what.
            PlanInvalid: the result cannot be read.
        """
        seen, plan, document, glance = self._prepared(project_id, patch, base_revision, check)
        with self._writing() as session:
            head = session.execute(statements.HEAD, {"project": project_id}).one()
            if head.head_id != seen:  # another edit came between; this one is made anew with the file held
                seen, plan, document, glance = self._prepared(project_id, patch, base_revision, check, is_held=True)
            if document is None:
                return self._kept(session, self._project(session, project_id))
            made = self._grow(session, project_id, head.head_id, head.number + 1, document, summary[:200], glance, deed_of(patch))
            return Kept(project_id, *made, summary[:200], undo=summary[:200], redo=None, plan=plan)

    def _prepared(
        self, project_id: str, patch: Document, base_revision: int, check: Check, *, is_held: bool = False
    ) -> tuple[int | None, Plan, Document | None, Glance | None]:
        """Return the head an edit was made for, its plan, and what is to be kept of it; None where it changes nothing."""
        with self._seeing() if is_held else self._reading() as session:
            try:
                rows = session.execute(statements.HEAD_AND_BASE, {"project": project_id, "base": base_revision}).all()
            except ValueError as error:
                raise damaged(error) from error
            if base_revision not in {row.id for row in rows}:
                self._revision(session, self._project(session, project_id), base_revision)  # says which of them is missing
        head_id, plans = rows[0].head_id, {row.id: row.plan for row in rows}
        plan = edit_document(plans[base_revision], patch)
        if base_revision != head_id:
            plan = on_top(base_revision, plans[base_revision], head_id, plans[head_id], plan, patch)
        plan, glance = check(plan) or (plan, None)  # before any lock is taken: it may take long
        document = dump_plan(plan)
        refuse_large(document)
        before = plans[head_id]
        is_new = differences(before, document) or (not NOTED.isdisjoint(patch) and before != document)
        return head_id, plan, document if is_new else None, glance

    def restore(self, project_id: str, revision: int, *, base_revision: int) -> Kept:
        """Bring the plan of any revision back as a new one on the head; undo takes that back.

        Raises:
            UnknownRevision: the project has no such revision.
            StaleRevision: the head has moved on.
        """
        with self._writing() as session:
            project = self._project(session, project_id)
            head = self._unmoved(session, project, base_revision)
            wanted = self._revision(session, project, revision)
            if not is_same(wanted, head):
                summary = f"Back to change {wanted.number}: {wanted.summary}"[:200]
                self._grow(session, project_id, head.id, head.number + 1, dump_plan(load_plan(stored(wanted))), summary)
                session.expire(project)
            return self._kept(session, project)

    def undo(self, project_id: str, *, base_revision: int) -> Kept:
        """Go back to the parent of the head.

        Raises:
            StaleRevision: the head has moved on.
            NothingToUndo: the head is the first revision.
        """
        with self._writing() as session:
            project = self._project(session, project_id)
            head = self._unmoved(session, project, base_revision)
            if head.parent_id is None:
                before = "a revision that has one before it"
                raise NothingToUndo(field="revision", given=head.number, allowed=before, said="There is nothing to take back.")
            return self._step(session, project, "undo", head.parent_id)

    def redo(self, project_id: str, *, base_revision: int) -> Kept:
        """Go forward to the child last left by undo.

        Raises:
            StaleRevision: the head has moved on.
            NothingToUndo: nothing was undone here.
        """
        with self._writing() as session:
            project = self._project(session, project_id)
            head = self._unmoved(session, project, base_revision)
            child = self._last_left(session, head)
            if child is None:
                left = "a revision that undo came back to"
                raise NothingToUndo(field="revision", given=head.number, allowed=left, said="There is nothing to bring back.")
            return self._step(session, project, "redo", child.id)

    def history(self, project_id: str) -> list[RevisionName]:
        """Return every revision of a project, in the order they were made."""
        with self._reading() as session:
            project = self._project(session, project_id)
            return [RevisionName._make(row) for row in session.execute(statements.HISTORY, {"project": project.id})]

    def plan_at(self, project_id: str, revision: int) -> Plan:
        """Return the plan of one revision; raises UnknownRevision."""
        with self._reading() as session:
            return load_plan(stored(self._revision(session, self._project(session, project_id), revision)))

    def deeds(self, project_id: str, words: Sequence[str] = ()) -> list[Logged]:
        """Return the changes of a project and its takes, as the log tells them: those that hold all words, the newest first."""
        changes = (Logged("change", str(it.revision), it.made_at, it.deed or "changed", it.summary, it.number) for it in self.history(project_id))  # fmt: skip
        takes = (Logged("take", str(it.id), it.made_at, "rehearsed", it.name, it.number) for it in self.takes(project_id))
        found = (it for it in (*changes, *takes) if not words or all(word in folded(it.text) for word in words))
        return sorted(found, key=attrgetter("made_at"), reverse=True)

    def takes(self, project_id: str) -> list[Take]:
        """Return the takes of a project, the last made first."""
        with self._reading() as session:
            return list(list_takes(session, self._project(session, project_id)))

    def take(self, project_id: str, take_id: int) -> Take:
        """Return one take; raises UnknownTake."""
        with self._reading() as session:
            row = take_row(session, self._project(session, project_id), take_id)
            number = session.get_one(RevisionRow, row.revision_id).number
            return Take(row.id, row.name, row.revision_id, number, row.made_at, row.events)

    def keep_take(self, project_id: str, revision: int, name: str, events: list[Document]) -> Take:
        """Keep a rehearsal on the revision it was played on; raises UnknownRevision, and OutOfRange where there are too many."""
        with self._writing() as session:
            project = self._project(session, project_id)
            return keep_take(session, project, self._revision(session, project, revision), name, events, self._now())

    def throw_take(self, project_id: str, take_id: int, *, is_thrown: bool) -> None:
        """Throw a take away, or put it back; raises UnknownTake."""
        with self._writing() as session:
            take_row(session, self._project(session, project_id), take_id).thrown_at = self._now() if is_thrown else None

    def taken(self, project_id: str, host: str) -> Taken | None:
        """Return when the program of a board was last taken away; None where it never was."""
        with self._reading() as session:
            row = session.get(TakenRow, (self._project(session, project_id).id, host))
            return None if row is None else Taken(row.revision_id, row.taken_at)

    def note_taken(self, project_id: str, host: str, revision: int) -> None:
        """Note that the program of a board was taken away as a revision has it; raises UnknownRevision."""
        with self._writing() as session:
            project = self._project(session, project_id)
            of = self._revision(session, project, revision).id
            session.merge(TakenRow(project_id=project.id, host=host, revision_id=of, taken_at=self._now()))

    def _project(self, session: Session, project_id: str) -> ProjectRow:
        project = session.get(ProjectRow, project_id)
        if project is None:
            said = "There is no project at this address; the shelf shows all that are kept here."
            raise UnknownProject(field="project", given=project_id, allowed="the id of a project on the shelf", said=said)
        return project

    def _head(self, session: Session, project: ProjectRow) -> RevisionRow:
        return session.get_one(RevisionRow, project.head_id)

    def _unmoved(self, session: Session, project: ProjectRow, base_revision: int) -> RevisionRow:
        head = self._head(session, project)
        if head.id != base_revision:
            raise StaleRevision(given=base_revision, revision=head.id)
        return head

    def _revision(self, session: Session, project: ProjectRow, revision: int) -> RevisionRow:
        row = session.get(RevisionRow, revision)
        if row is None or row.project_id != project.id:
            said = "This project has no such change; its history shows all it has."
            raise UnknownRevision(field="revision", given=revision, allowed="a revision of this project", said=said)
        return row

    def _grow(
        self,
        session: Session,
        project_id: str,
        parent: int | None,
        number: int,
        document: Document,
        summary: str,
        glance: Glance | None = None,
        deed: Deed = "changed",
    ) -> tuple[int, int, str]:
        """Add a revision and put the head on it; return its id, its number and when it was made."""
        now = self._now()
        row = {"project_id": project_id, "parent_id": parent, "number": number, "made_at": now, "summary": summary}
        revision = session.execute(statements.ADD_REVISION, {**row, "plan": document}).scalar_one()
        if deed != "changed":
            session.execute(statements.ADD_DEED, {"revision_id": int(revision), "deed": deed})
        self._put(session, project_id, "edit", parent, int(revision), document)
        if glance is not None:
            self._glance(session, int(revision), glance)
        return int(revision), number, now

    def _put(self, session: Session, project_id: str, kind: str, from_id: int | None, to_id: int, document: Document) -> None:
        """Move the head of a project."""
        step = {"project_id": project_id, "kind": kind, "from_id": from_id, "to_id": to_id, "made_at": self._now()}
        session.execute(statements.ADD_MOVE, step)
        session.execute(statements.PUT_HEAD, {"project": project_id, "head_id": to_id, "title": str(document["title"])})

    def _step(self, session: Session, project: ProjectRow, kind: str, to_id: int) -> Kept:
        self._put(session, project.id, kind, project.head_id, to_id, stored(session.get_one(RevisionRow, to_id)))
        session.expire(project)
        return self._kept(session, project)

    def _last_left(self, session: Session, head: RevisionRow) -> RevisionRow | None:
        return session.scalars(statements.LAST_LEFT, {"project": head.project_id, "head": head.id}).first()

    def _kept(self, session: Session, project: ProjectRow) -> Kept:
        head = self._head(session, project)
        child = self._last_left(session, head)
        return Kept(
            id=project.id,
            revision=head.id,
            number=head.number,
            made_at=head.made_at,
            summary=head.summary,
            undo=head.summary if head.parent_id is not None else None,
            redo=child.summary if child else None,
            plan=load_plan(stored(head)),
        )


def _named(row: Any) -> ProjectName:
    place: Place = "bin" if row.deleted_at else "archive" if row.archived_at else "shelf"
    return ProjectName(row.id, row.title, row.opened_at, place, row.head_id or 0)
