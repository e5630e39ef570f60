"""The store with the reviews of what it keeps: a revision never changes, so its review is worked out once while there is room."""

import hashlib
import logging
from contextlib import suppress
from threading import RLock
from typing import Final, NamedTuple

from cachetools import LRUCache

from oddlamp import __version__
from oddlamp.api.models import AskedChoice, AskedVerdict, Attempt, Edit, HistoryItem, ProjectState, ShelfItem, StageView
from oddlamp.core.design.design import Design
from oddlamp.core.errors import DomainError, FileBusy, NotKept, OutOfRange, Unreadable
from oddlamp.core.parts.check import check_parts
from oddlamp.core.parts.models import Catalog
from oddlamp.core.parts.own import with_copies
from oddlamp.core.plan.document import Document, edit_plan
from oddlamp.core.plan.model import Plan
from oddlamp.core.resolve.resolve import noted, resolve
from oddlamp.sheets.line import Line
from oddlamp.sheets.marks import State
from oddlamp.sheets.models import Choice, Sheet
from oddlamp.sheets.pins import next_best
from oddlamp.sheets.review import Review, first_stage, review_design, sheet_of
from oddlamp.sheets.shown import ShownFinding, ShownReview, Ways, choice_of, closed_sheet, first_of, shown, shown_finding, ways_of
from oddlamp.store.archive import Unpacked
from oddlamp.store.kept import Checked, Glance, Kept, ProjectName, RevisionName
from oddlamp.store.projects import ProjectStore

# What a design and its review hold: measured with tracemalloc, and held to that within a factor of two by a test.
log = logging.getLogger(__name__)
BASE_BYTES: Final = 400_000
BYTES_A_LINE: Final = 18_000
CACHE_BYTES: Final = 48_000_000


class WorkedOut(NamedTuple):
    """A plan with its design and review, without sheets; the design's own plan has built lines as they were built."""

    plan: Plan
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
        plan = with_copies(plan, self.catalog)
        check_parts(plan, self.catalog)
        try:
            design = resolve(plan, self.catalog, before.design if before else None)
            return WorkedOut(noted(plan, design), design, review_design(design, stages=()))
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
        return self._shown(self.store.create(made.plan, summary=summary, original=original, glance=self._glance(made)), made)

    def take_in(self, found: Unpacked) -> ProjectState:
        """Keep a project from a file, once it is known that what it shows can be shown; raises PlanInvalid, Unreadable."""
        self.work_out(found.project.head_plan)
        return self.state(self.store.take_in(found))

    def edit(self, project_id: str, edit: Edit) -> ProjectState:
        """Keep an edit, once it is known that what it makes can be shown; raises what the store and ``work_out`` raise."""
        made: list[WorkedOut] = []
        before = self._known(project_id, edit.base_revision)

        def check(plan: Plan) -> Checked:
            made.append(self.work_out(plan, before))
            return Checked(made[-1].plan, self._glance(made[-1]))

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
        made = self.worked_out(project_id, revision)
        return StageView(
            sheet=closed_sheet(_sheet(made, stage)),
            values=tuple(value for value in made.review.values if value.stage == stage),
            ways={it.key: ways_of(it) for it in first_of(made.review, stage)},
        )

    def looked_at(self, project_id: str, revision: int, patch: Document) -> WorkedOut:
        """Work out a revision, or what a patch would make of it; raises UnknownProject, UnknownRevision, PlanInvalid, Unreadable."""
        if not patch:
            return self.worked_out(project_id, revision)
        before = self.store.plan_at(project_id, revision)
        return self.work_out(edit_plan(before, patch), self.worked_out(project_id, revision, before))

    def choice(self, project_id: str, asked: AskedChoice) -> Choice:
        """Give the choice of one row with all its options.

        Raises:
            What ``looked_at`` raises.
            OutOfRange: there is no such stage, or no such row on its sheet.
        """
        made = self.looked_at(project_id, asked.base_revision, asked.patch)
        found = choice_of(_sheet(made, asked.stage), asked.row)
        if found is None:
            raise OutOfRange(field="row", given=asked.row, allowed="a row of this sheet")
        other = next_best(made.design, asked.row) if asked.stage.startswith("pins.") else ""
        return found.model_copy(update={"because": f"{found.because}. {other}"}) if other else found

    def ways(self, project_id: str, asked: AskedVerdict) -> Ways:
        """Give the working of one verdict and its ways out.

        Raises:
            What ``looked_at`` raises.
            OutOfRange: there is no such verdict.
        """
        review = self.looked_at(project_id, asked.base_revision, asked.patch).review
        found = next((it for it in review.findings if it.key == asked.key), None)
        if found is None:
            raise OutOfRange(field="key", given=asked.key, allowed="a verdict of this project")
        return ways_of(found)

    def verdicts(self, project_id: str, attempt: Attempt) -> list[ShownFinding]:
        """List all verdicts, those that answers leave out included; raises what ``looked_at`` raises."""
        review = self.looked_at(project_id, attempt.base_revision, attempt.patch).review
        return [shown_finding(it, is_full=False) for it in review.findings]

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
    _, design, review = made
    wanted = stage if stage in review.titles else first_stage(review)
    return shown(review, wanted, None if wanted is None else sheet_of(design, review.findings, wanted))


def _sheet(made: WorkedOut, stage: str) -> Sheet:
    """Build one sheet; raises OutOfRange where there is no such stage."""
    if stage not in made.review.titles:
        raise OutOfRange(field="stage", given=stage, allowed="a stage of this project's line")
    return sheet_of(made.design, made.review.findings, stage)


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
