"""Routes of projects: open, edit, undo, redo, rehearse, export, import."""

from typing import Annotated, Any, Literal

from fastapi import APIRouter, Depends, Request
from pydantic import Field

from oddlamp.catalog.load import demo_plan, load_catalog
from oddlamp.core.base import Model
from oddlamp.core.parts.check import check_parts
from oddlamp.core.plan.document import dump_plan, load_plan
from oddlamp.core.plan.model import Plan
from oddlamp.core.rehearsal.events import read_events
from oddlamp.core.rehearsal.journeys import show_run
from oddlamp.core.rehearsal.simulate import rehearse_design
from oddlamp.core.rehearsal.trace import Run
from oddlamp.core.resolve import resolve
from oddlamp.core.review import Review, review
from oddlamp.store.projects import Kept, ProjectStore

router = APIRouter(prefix="/api/projects")
EMPTY: dict[str, Any] = {"format": "oddlamp-plan", "schema_version": 1, "title": "New light"}


class ShelfItem(Model):
    """A project on the shelf."""

    id: str
    title: str
    opened_at: str


class ProjectState(Model):
    """A project as it stands, with everything the screen shows of it."""

    id: str
    revision: int
    number: int = Field(description="How many changes led here")
    kept_at: str
    undo: str | None = Field(description="What undo would take back; None where there is nothing")
    redo: str | None = Field(description="What redo would bring again; None where there is nothing")
    review: Review


class NewProject(Model):
    """What a project starts from."""

    start: Literal["empty", "demo"]


class Edit(Model):
    """A merge patch (RFC 7396) made on a revision."""

    base_revision: int
    patch: dict[str, Any]
    summary: str = Field(default="Changed", max_length=200)


class Step(Model):
    """An undo or redo made on a revision."""

    base_revision: int


class Rehearsal(Model):
    """Timed events to play through the plan."""

    events: Annotated[list[dict[str, Any]], Field(max_length=20_000)]
    since_s: float = Field(default=0.0, ge=0, description="Leave out of the answer what happened before, s; looks are whole")


def get_store(request: Request) -> ProjectStore:
    """Return the store the server was started with."""
    store: ProjectStore = request.app.state.store
    return store


Store = Annotated[ProjectStore, Depends(get_store)]


def _check(plan: Plan) -> None:
    check_parts(plan, load_catalog())


def _state(kept: Kept) -> ProjectState:
    return ProjectState(
        id=kept.id,
        revision=kept.revision,
        number=kept.number,
        kept_at=kept.made_at,
        undo=kept.undo,
        redo=kept.redo,
        review=review(kept.plan, load_catalog()),
    )


@router.get("")
def list_projects(store: Store) -> list[ShelfItem]:
    """List all projects, the last opened first."""
    return [ShelfItem(id=item.id, title=item.title, opened_at=item.opened_at) for item in store.list()]


@router.post("", status_code=201)
def new_project(store: Store, new: NewProject) -> ProjectState:
    """Start a project, empty or from the demo."""
    plan = load_plan(EMPTY if new.start == "empty" else demo_plan())
    _check(plan)
    return _state(store.create(plan, summary="Started empty" if new.start == "empty" else "Started from the demo"))


@router.post("/import", status_code=201)
def import_project(store: Store, plan: dict[str, Any]) -> ProjectState:
    """Start a project from a plan file."""
    read = load_plan(plan)
    _check(read)
    return _state(store.create(read, summary="Read from a file"))


@router.get("/{project_id}")
def open_project(store: Store, project_id: str) -> ProjectState:
    """Open a project."""
    return _state(store.open(project_id))


@router.get("/{project_id}/plan")
def export_plan(store: Store, project_id: str) -> dict[str, Any]:
    """Give the plan as a file that can be imported again."""
    return dump_plan(store.read(project_id).plan)


@router.post("/{project_id}/edits")
def edit_project(store: Store, project_id: str, edit: Edit) -> ProjectState:
    """Apply an edit and answer with the new state, kept."""
    return _state(store.edit(project_id, edit.patch, base_revision=edit.base_revision, summary=edit.summary, check=_check))


@router.post("/{project_id}/undo")
def undo(store: Store, project_id: str, step: Step) -> ProjectState:
    """Take the last change back."""
    return _state(store.undo(project_id, base_revision=step.base_revision))


@router.post("/{project_id}/redo")
def redo(store: Store, project_id: str, step: Step) -> ProjectState:
    """Bring the change last taken back again."""
    return _state(store.redo(project_id, base_revision=step.base_revision))


@router.post("/{project_id}/rehearsals")
def run_rehearsal(store: Store, project_id: str, rehearsal: Rehearsal) -> Run:
    """Play events through the plan as it stands."""
    design = resolve(store.read(project_id).plan, load_catalog())
    return show_run(design, rehearse_design(design, read_events(rehearsal.events)), since_s=rehearsal.since_s)
