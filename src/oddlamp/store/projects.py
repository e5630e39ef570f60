"""Projects on disk: a tree of revisions with a moving head, written in one transaction per change."""

from collections.abc import Callable
from datetime import UTC, datetime
from typing import NamedTuple
from uuid import uuid4

from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from oddlamp.core.errors import NothingToUndo, StaleRevision, UnknownProject
from oddlamp.core.plan.document import dump_plan, edit_plan, load_plan
from oddlamp.core.plan.model import Plan
from oddlamp.store.models import MoveRow, ProjectRow, RevisionRow

Clock = Callable[[], datetime]
Patch = dict[str, object]


class ProjectName(NamedTuple):
    """A project on the shelf."""

    id: str
    title: str
    opened_at: str


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


class ProjectStore:
    """Keeps projects. Every method is one transaction; it returns only once the data is on disk."""

    def __init__(self, engine: Engine, clock: Clock = lambda: datetime.now(UTC)) -> None:
        self._engine, self._clock = engine, clock

    def _now(self) -> str:
        return self._clock().isoformat(timespec="milliseconds").replace("+00:00", "Z")

    def list(self) -> list[ProjectName]:
        """Return all projects, the last opened first."""
        with Session(self._engine) as session:
            rows = session.scalars(select(ProjectRow).order_by(ProjectRow.opened_at.desc(), ProjectRow.id))
            return [ProjectName(row.id, row.title, row.opened_at) for row in rows]

    def create(self, plan: Plan, *, summary: str) -> Kept:
        """Start a project with a plan as its first revision."""
        with Session(self._engine) as session, session.begin():
            now = self._now()
            project = ProjectRow(id=uuid4().hex[:12], title=plan.title, created_at=now, opened_at=now)
            session.add(project)
            session.flush()
            self._add(session, project, plan, parent=None, summary=summary)
            return self._kept(session, project)

    def open(self, project_id: str) -> Kept:
        """Return a project and note that it was opened.

        Raises:
            UnknownProject: there is none with this id.
        """
        with Session(self._engine) as session, session.begin():
            project = self._project(session, project_id)
            project.opened_at = self._now()
            return self._kept(session, project)

    def read(self, project_id: str) -> Kept:
        """Return a project; raises UnknownProject."""
        with Session(self._engine) as session:
            return self._kept(session, self._project(session, project_id))

    def edit(self, project_id: str, patch: Patch, *, base_revision: int, summary: str, check: Callable[[Plan], None]) -> Kept:
        """Apply a merge patch to the head as a new revision.

        Args:
            project_id: which project.
            patch: RFC 7396 merge patch; text quantities are parsed.
            base_revision: the revision the edit was made on.
            summary: what changed, in plain words.
            check: called with the new plan before it is kept; it may refuse.
        Raises:
            UnknownProject, StaleRevision: base_revision is not the head; PlanInvalid: the result cannot be read.
        """
        with Session(self._engine) as session, session.begin():
            project = self._project(session, project_id)
            head = self._head(session, project, base_revision)
            plan = edit_plan(load_plan(head.plan), patch)
            check(plan)
            document = dump_plan(plan)
            if document != head.plan:
                self._add(session, project, plan, parent=head, summary=summary[:200])
            return self._kept(session, project)

    def undo(self, project_id: str, *, base_revision: int) -> Kept:
        """Go back to the parent of the head.

        Raises:
            UnknownProject, StaleRevision, NothingToUndo: the head is the first revision.
        """
        with Session(self._engine) as session, session.begin():
            project = self._project(session, project_id)
            head = self._head(session, project, base_revision)
            if head.parent_id is None:
                raise NothingToUndo(field="revision", given=head.number, allowed="a revision that has one before it")
            self._move(session, project, "undo", head.parent_id)
            return self._kept(session, project)

    def redo(self, project_id: str, *, base_revision: int) -> Kept:
        """Go forward to the child last left by undo.

        Raises:
            UnknownProject, StaleRevision, NothingToUndo: nothing was undone here.
        """
        with Session(self._engine) as session, session.begin():
            project = self._project(session, project_id)
            head = self._head(session, project, base_revision)
            child = self._last_left(session, head)
            if child is None:
                raise NothingToUndo(field="revision", given=head.number, allowed="a revision that undo came back to")
            self._move(session, project, "redo", child.id)
            return self._kept(session, project)

    def _project(self, session: Session, project_id: str) -> ProjectRow:
        project = session.get(ProjectRow, project_id)
        if project is None:
            raise UnknownProject(field="project", given=project_id, allowed="the id of a project on the shelf")
        return project

    def _head(self, session: Session, project: ProjectRow, base_revision: int) -> RevisionRow:
        if project.head_id != base_revision:
            raise StaleRevision(
                field="base_revision", given=base_revision, allowed=f"{project.head_id}, the revision now; load it and look again"
            )
        return self._revision(session, project.head_id)

    def _revision(self, session: Session, revision_id: int | None) -> RevisionRow:
        return session.scalars(select(RevisionRow).where(RevisionRow.id == revision_id)).one()

    def _add(self, session: Session, project: ProjectRow, plan: Plan, *, parent: RevisionRow | None, summary: str) -> None:
        revision = RevisionRow(
            project_id=project.id,
            parent_id=parent.id if parent else None,
            number=parent.number + 1 if parent else 0,
            made_at=self._now(),
            summary=summary,
            plan=dump_plan(plan),
        )
        session.add(revision)
        session.flush()
        project.title = plan.title
        self._move(session, project, "edit", revision.id)

    def _move(self, session: Session, project: ProjectRow, kind: str, to_id: int) -> None:
        session.add(MoveRow(project_id=project.id, kind=kind, from_id=project.head_id, to_id=to_id, made_at=self._now()))
        project.head_id = to_id
        session.flush()

    def _last_left(self, session: Session, head: RevisionRow) -> RevisionRow | None:
        move = session.scalars(
            select(MoveRow)
            .where(MoveRow.kind == "undo", MoveRow.project_id == head.project_id, MoveRow.to_id == head.id)
            .order_by(MoveRow.id.desc())
            .limit(1)
        ).first()
        return self._revision(session, move.from_id) if move else None

    def _kept(self, session: Session, project: ProjectRow) -> Kept:
        head = self._revision(session, project.head_id)
        child = self._last_left(session, head)
        project.title = head.plan.get("title", project.title)
        return Kept(
            id=project.id,
            revision=head.id,
            number=head.number,
            made_at=head.made_at,
            summary=head.summary,
            undo=head.summary if head.parent_id is not None else None,
            redo=child.summary if child else None,
            plan=load_plan(head.plan),
        )
