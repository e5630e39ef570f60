"""Takes of a project: kept, listed, thrown away and put back."""

from collections.abc import Iterator
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from oddlamp.core.errors import OutOfRange, UnknownTake
from oddlamp.store.kept import Take
from oddlamp.store.models import ProjectRow, RevisionRow, TakeRow

TAKES_MOST = 200


def list_takes(session: Session, project: ProjectRow) -> Iterator[Take]:
    """Yield the takes of a project, the last made first."""
    rows = session.execute(
        select(TakeRow, RevisionRow.number)
        .join(RevisionRow, RevisionRow.id == TakeRow.revision_id)
        .where(TakeRow.project_id == project.id, TakeRow.thrown_at.is_(None))
        .order_by(TakeRow.id.desc())
    )
    for row, number in rows:
        yield Take(row.id, row.name, row.revision_id, number, row.made_at, row.events)


def keep_take(
    session: Session, project: ProjectRow, revision: RevisionRow, name: str, events: list[dict[str, Any]], now: str
) -> Take:
    """Keep a take; raises OutOfRange where a project has as many as it may have."""
    if sum(1 for _ in list_takes(session, project)) >= TAKES_MOST:
        raise OutOfRange(field="takes", given=TAKES_MOST + 1, allowed=f"at most {TAKES_MOST} takes; throw one away first")
    row = TakeRow(project_id=project.id, revision_id=revision.id, name=name, made_at=now, events=events)
    session.add(row)
    session.flush()
    return Take(row.id, row.name, revision.id, revision.number, row.made_at, row.events)


def take_row(session: Session, project: ProjectRow, take_id: int) -> TakeRow:
    """Return the row of a take; raises UnknownTake where the project has none of that id."""
    row = session.get(TakeRow, take_id)
    if row is None or row.project_id != project.id:
        raise UnknownTake(field="take", given=take_id, allowed="a take of this project", said="This project has no such take.")
    return row
