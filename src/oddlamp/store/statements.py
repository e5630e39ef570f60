"""What the store says to the database: made once, because an edit waits while a statement is put together.

Plain statements on tables: what the mapper would find out about these rows is known already.
"""

from typing import Final

from sqlalchemy import BindParameter, LargeBinary, Text, bindparam, cast, delete, insert, or_, select, type_coerce, update

from oddlamp.store.models import Base, RevisionRow

PROJECTS, REVISIONS, MOVES, GLANCES, DEEDS = (
    Base.metadata.tables[name] for name in ("projects", "revisions", "moves", "glances", "deeds")
)
_PROJECT: BindParameter[str] = bindparam("project")
_REVISION: BindParameter[int] = bindparam("revision")
# As it stands in the file, whether or not it can be read.
_TEXT: Final = cast(type_coerce(REVISIONS.c.plan, Text), LargeBinary)

NAMES: Final = select(
    *(PROJECTS.c[name] for name in ("id", "title", "opened_at", "archived_at", "deleted_at", "head_id"))
).order_by(PROJECTS.c.opened_at.desc(), PROJECTS.c.id)
HEAD: Final = (
    select(PROJECTS.c.head_id, REVISIONS.c.number)
    .join(REVISIONS, REVISIONS.c.id == PROJECTS.c.head_id)
    .where(PROJECTS.c.id == _PROJECT)
)
HEAD_AND_BASE: Final = (
    select(PROJECTS.c.head_id, REVISIONS.c.id, REVISIONS.c.plan)
    .join(REVISIONS, REVISIONS.c.project_id == PROJECTS.c.id)
    .where(PROJECTS.c.id == _PROJECT, or_(REVISIONS.c.id == PROJECTS.c.head_id, REVISIONS.c.id == bindparam("base")))
)
HISTORY: Final = (
    select(*(REVISIONS.c[name] for name in ("id", "parent_id", "number", "made_at", "summary")), DEEDS.c.deed)
    .join_from(REVISIONS, DEEDS, DEEDS.c.revision_id == REVISIONS.c.id, isouter=True)
    .where(REVISIONS.c.project_id == _PROJECT)
    .order_by(REVISIONS.c.id)
)
LAST_LEFT: Final = (
    select(RevisionRow)
    .join(MOVES, MOVES.c.from_id == REVISIONS.c.id)
    .where(MOVES.c.kind == "undo", MOVES.c.project_id == _PROJECT, MOVES.c.to_id == bindparam("head"))
    .order_by(MOVES.c.id.desc())
    .limit(1)
)
PLAN_TEXT: Final = select(_TEXT).where(REVISIONS.c.id == _REVISION)
GLANCES_OF_HEADS: Final = (
    select(GLANCES.c.revision_id, GLANCES.c.sentence, GLANCES.c.thread, GLANCES.c.crc, _TEXT)
    .join(REVISIONS, REVISIONS.c.id == GLANCES.c.revision_id)
    .join(PROJECTS, PROJECTS.c.head_id == REVISIONS.c.id)
    .where(GLANCES.c.stamp == bindparam("stamp"))
)
ADD_REVISION: Final = insert(REVISIONS).returning(REVISIONS.c.id)
ADD_DEED: Final = insert(DEEDS)
ADD_MOVE: Final = insert(MOVES)
ADD_GLANCE: Final = insert(GLANCES)
DROP_GLANCE: Final = delete(GLANCES).where(GLANCES.c.revision_id == _REVISION)
PUT_HEAD: Final = update(PROJECTS).where(PROJECTS.c.id == _PROJECT).values(head_id=bindparam("head_id"), title=bindparam("title"))
