"""The store with the reviews of what it keeps: a revision never changes, so its review is worked out once."""

from dataclasses import dataclass, field
from functools import lru_cache

from oddlamp.api.models import HistoryItem, ProjectState, ShelfItem
from oddlamp.core.design import Design
from oddlamp.core.line import Line, State
from oddlamp.core.parts.check import check_parts
from oddlamp.core.parts.models import Catalog
from oddlamp.core.plan.model import Plan
from oddlamp.core.resolve import resolve
from oddlamp.core.review import Review, first_stage, review_design, sheet_of
from oddlamp.store.projects import Kept, ProjectName, ProjectStore, RevisionName

REVIEWS_KEPT = 128


@dataclass(frozen=True, slots=True)
class _At:
    """A revision of a project, with its plan where that is at hand already."""

    project_id: str
    revision: int
    plan: Plan | None = field(default=None, compare=False)


class Workshop:
    """Joins the store and the core for the routes."""

    def __init__(self, store: ProjectStore, catalog: Catalog) -> None:
        self.store, self.catalog = store, catalog
        self._worked_out = lru_cache(maxsize=REVIEWS_KEPT)(self._work_out)

    def _work_out(self, at: _At) -> tuple[Design, Review]:
        design = resolve(at.plan or self.store.plan_at(at.project_id, at.revision), self.catalog)
        return design, review_design(design, stages=())

    def design(self, project_id: str, revision: int) -> Design:
        """Return the design of one revision; raises UnknownProject, UnknownRevision."""
        return self._worked_out(_At(project_id, revision))[0]

    def review(self, project_id: str, revision: int, stage: str | None = None) -> Review:
        """Return the review of one revision with the sheet of one stage, or of the one worth opening on.

        Raises:
            UnknownProject, UnknownRevision.
        """
        design, bare = self._worked_out(_At(project_id, revision))
        return with_sheet(design, bare, stage)

    def check(self, plan: Plan) -> None:
        """Refuse a plan whose parts are not in the catalogue; raises PlanInvalid."""
        check_parts(plan, self.catalog)

    def state(self, kept: Kept, stage: str | None = None) -> ProjectState:
        """Show a project as it stands, with the sheet of one stage."""
        design, bare = self._worked_out(_At(kept.id, kept.revision, kept.plan))
        return ProjectState(
            id=kept.id,
            revision=kept.revision,
            number=kept.number,
            kept_at=kept.made_at,
            undo=kept.undo,
            redo=kept.redo,
            review=with_sheet(design, bare, stage),
        )

    def shelf_item(self, item: ProjectName) -> ShelfItem:
        """Show a project on the shelf."""
        shown = self._worked_out(_At(item.id, item.revision))[1]
        return ShelfItem(**item._asdict(), sentence=shown.sentence, thread=small_thread(shown.line))

    def history(self, project_id: str) -> list[HistoryItem]:
        """Lay the tree of revisions out, the newest first."""
        head = self.store.read(project_id).revision
        rows = self.store.history(project_id)
        lanes = lay_lanes(rows)
        return [HistoryItem(**row._asdict(), is_head=row.revision == head, lane=lanes[row.revision]) for row in reversed(rows)]


def with_sheet(design: Design, bare: Review, stage: str | None) -> Review:
    """Add one sheet to a review that has none: the one asked for, else the one worth opening on."""
    wanted = stage if stage in bare.titles else first_stage(bare)
    if wanted is None:
        return bare
    return bare.model_copy(update={"sheets": {wanted: sheet_of(design, bare.findings, wanted)}})


def small_thread(line: Line) -> tuple[State, ...]:
    """Return the worst state of each column of a line, thumb to lamp."""
    rank = ("clear", "unknown", "look", "stop")
    by_column: dict[int, State] = {}
    for stage in line.stages:
        now = by_column.get(stage.column, "clear")
        by_column[stage.column] = max(now, stage.state, key=rank.index)
    return tuple(by_column[column] for column in sorted(by_column))


def lay_lanes(rows: list[RevisionName]) -> dict[int, int]:
    """Give every revision a lane: its parent's where it is the newest child, else a lane of its own."""
    newest_child = {row.parent: row.revision for row in rows}
    lanes: dict[int, int] = {}
    used = 0
    for row in rows:
        if row.parent is None or newest_child[row.parent] == row.revision:
            lanes[row.revision] = lanes.get(row.parent or 0, 0)
        else:
            used += 1
            lanes[row.revision] = used
    return lanes
