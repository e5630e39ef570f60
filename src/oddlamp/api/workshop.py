"""The store with the reviews of what it keeps: a revision never changes, so its review is worked out once while there is room."""

import hashlib
import logging
from contextlib import suppress
from threading import RLock
from typing import Final, NamedTuple

from cachetools import LRUCache

from oddlamp import __version__
from oddlamp.api.models import Edit, HistoryItem, ProjectState, ShelfItem, StageView
from oddlamp.core.checks.findings import Finding
from oddlamp.core.design.design import Design
from oddlamp.core.errors import DomainError, FileBusy, NotKept, OutOfRange, Unreadable
from oddlamp.core.parts.check import check_parts
from oddlamp.core.parts.models import Catalog
from oddlamp.core.plan.document import Document
from oddlamp.core.plan.model import Plan
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.line import Line, State
from oddlamp.sheets.review import Review, first_stage, review_design, sheet_of
from oddlamp.sheets.shown import ShownReview, shown, ways_of
from oddlamp.store.kept import Glance, Kept, ProjectName, RevisionName
from oddlamp.store.projects import ProjectStore

# What a design and its review hold: measured with tracemalloc, and held to that within a factor of two by a test.
log = logging.getLogger(__name__)
BASE_BYTES: Final = 150_000
BYTES_A_LINE: Final = 14_000
CACHE_BYTES: Final = 48_000_000


class WorkedOut(NamedTuple):
    """A design with its review, without sheets."""

    design: Design
    review: Review

    @property
    def weight_bytes(self) -> int:
        """About how much memory it holds: most of it belongs to the lines and their numbers."""
        return BASE_BYTES + BYTES_A_LINE * len(self.design.signals)


class Workshop:
    """Joins the store and the core for the routes."""

    def __init__(self, store: ProjectStore, catalog: Catalog) -> None:
        self.store, self.catalog = store, catalog
        self._kept: LRUCache[tuple[str, int], WorkedOut] = LRUCache(CACHE_BYTES, getsizeof=lambda it: it.weight_bytes)
        self._lock = RLock()
        figures = hashlib.sha256(catalog.model_dump_json().encode()).hexdigest()
        self.stamp = f"{__version__} {catalog.version} {figures[:16]}"

    def worked_out(self, project_id: str, revision: int, plan: Plan | None = None) -> WorkedOut:
        """Return design and review of one revision; raises UnknownProject, UnknownRevision."""
        known = self._known(project_id, revision)
        if known is not None:
            return known
        made = self.work_out(plan or self.store.plan_at(project_id, revision))
        self._remember(project_id, revision, made)
        return made

    def _known(self, project_id: str, revision: int) -> WorkedOut | None:
        with self._lock:
            return self._kept.get((project_id, revision))

    def work_out(self, plan: Plan, before: WorkedOut | None = None) -> WorkedOut:
        """Work out a plan that is not kept, quicker beside one much like it; raises PlanInvalid, or Unreadable where this program fails at it."""
        check_parts(plan, self.catalog)
        try:
            design = resolve(plan, self.catalog, before.design if before else None)
            return WorkedOut(design, review_design(design, stages=()))
        except Exception as error:
            log.exception("A plan cannot be worked out")
            raise Unreadable(
                field="plan",
                given=f"{type(error).__name__}: {error}",
                allowed="a plan this program can work out",
                said=f"Odd Lamp fails at this plan, and the fault is its own ({type(error).__name__}: {error}). What is kept is as it was: take something else, or go back to an earlier change.",
            ) from error

    def create(self, plan: Plan, *, summary: str, original: Document | None = None) -> ProjectState:
        """Start a project, once it is known that it can be shown; raises PlanInvalid, Unreadable."""
        made = self.work_out(plan)
        return self._shown(self.store.create(plan, summary=summary, original=original, glance=self._glance(made)), made)

    def edit(self, project_id: str, edit: Edit) -> ProjectState:
        """Keep an edit, once it is known that what it makes can be shown; raises what the store and ``work_out`` raise."""
        made: list[WorkedOut] = []
        before = self._known(project_id, edit.base_revision)

        def check(plan: Plan) -> Glance:
            made.append(self.work_out(plan, before))
            return self._glance(made[-1])

        kept = self.store.edit(project_id, edit.patch, base_revision=edit.base_revision, summary=edit.summary, check=check)
        return self._shown(kept, made[-1], edit.stage)

    def _shown(self, kept: Kept, made: WorkedOut, stage: str | None = None) -> ProjectState:
        self._remember(kept.id, kept.revision, made)
        return self.state(kept, stage)

    def _remember(self, project_id: str, revision: int, made: WorkedOut) -> None:
        with self._lock:
            if made.weight_bytes <= CACHE_BYTES:
                self._kept[project_id, revision] = made

    def design(self, project_id: str, revision: int) -> Design:
        """Return the design of one revision; raises UnknownProject, UnknownRevision."""
        return self.worked_out(project_id, revision).design

    def state(self, kept: Kept, stage: str | None = None) -> ProjectState:
        """Show a project as it stands, with one stage in full."""
        return ProjectState(
            id=kept.id,
            notice=self.store.notice,
            revision=kept.revision,
            number=kept.number,
            kept_at=kept.made_at,
            undo=kept.undo,
            redo=kept.redo,
            review=with_stage(self.worked_out(kept.id, kept.revision, kept.plan), stage),
        )

    def stage(self, project_id: str, revision: int, stage: str) -> StageView:
        """Show one stage of a revision in full.

        Raises:
            UnknownProject, UnknownRevision.
            OutOfRange: there is no such stage.
        """
        design, review = self.worked_out(project_id, revision)
        if stage not in review.titles:
            raise OutOfRange(field="stage", given=stage, allowed="a stage of this project's line")
        return StageView(
            sheet=sheet_of(design, review.findings, stage),
            values=tuple(value for value in review.values if value.stage == stage),
            ways={finding.key: ways_of(finding) for finding in review.findings if finding.stage == stage},
        )

    def finding(self, project_id: str, revision: int, key: str) -> Finding:
        """Return one verdict of a revision.

        Raises:
            UnknownProject, UnknownRevision.
            OutOfRange: there is no such verdict.
        """
        found = next((it for it in self.worked_out(project_id, revision).review.findings if it.key == key), None)
        if found is None:
            raise OutOfRange(field="key", given=key, allowed="a verdict of this project")
        return found

    def shelf(self) -> list[ShelfItem]:
        """Show all projects, the last opened first: what was worked out before is kept with their revisions."""
        names, known = self.store.names(), self.store.glances(self.stamp)
        items = [self.shelf_item(item, known.get(item.revision)) for item in names]
        new = {it.revision: self._glance_of(it) for it in items if it.revision not in known and it.trouble is None}
        if new:
            with suppress(NotKept, FileBusy):  # it is only quicker next time
                self.store.keep_glances(new)
        return items

    def shelf_item(self, item: ProjectName, glance: Glance | None = None) -> ShelfItem:
        """Show a project on the shelf, as broken where what is kept of it cannot be shown."""
        try:
            glance = glance or self._glance(self.worked_out(item.id, item.revision))
        except DomainError as error:
            return ShelfItem(**item._asdict(), sentence="This project cannot be shown.", thread=(), trouble=error.said)
        return ShelfItem(**item._asdict(), sentence=glance.sentence, thread=glance.thread)

    def _glance(self, made: WorkedOut) -> Glance:
        return Glance(self.stamp, made.review.sentence, small_thread(made.review.line))

    def _glance_of(self, item: ShelfItem) -> Glance:
        return Glance(self.stamp, item.sentence, item.thread)

    def history(self, project_id: str) -> list[HistoryItem]:
        """Lay the tree of revisions out, the newest first."""
        head = self.store.head(project_id)
        rows = self.store.history(project_id)
        lanes = lay_lanes(rows)
        return [HistoryItem(**row._asdict(), is_head=row.revision == head, lane=lanes[row.revision]) for row in reversed(rows)]


def with_stage(made: WorkedOut, stage: str | None) -> ShownReview:
    """Show a review with one stage in full: the one asked for, else the one worth opening on."""
    design, review = made
    wanted = stage if stage in review.titles else first_stage(review)
    return shown(review, wanted, None if wanted is None else sheet_of(design, review.findings, wanted))


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
