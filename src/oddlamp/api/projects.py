"""Routes of projects: the shelf, edits and steps, history, trials, rehearsals, export and import."""

from typing import Annotated, Any

from fastapi import APIRouter, Depends, Query, Request
from fastapi.responses import JSONResponse, PlainTextResponse, Response

from oddlamp.api.models import (
    AskedChoice,
    AskedSetup,
    AskedVerdict,
    AskedWords,
    Attempt,
    BoardFile,
    Demo,
    Edit,
    Elsewhere,
    HistoryItem,
    NewProject,
    Number,
    PastedWords,
    Place,
    ProjectState,
    Restore,
    RevisionId,
    SentencesTyped,
    ShelfItem,
    StageId,
    StageView,
    Step,
    Trial,
    TypedText,
)
from oddlamp.api.workshop import Workshop, with_stage
from oddlamp.catalog.board_file import Form, read_board, write_board
from oddlamp.catalog.load import MAIN_DEMO, demo_names, demo_plan
from oddlamp.core.checks.findings import Move
from oddlamp.core.errors import OutOfRange
from oddlamp.core.parts.own import with_own_parts
from oddlamp.core.plan.document import dump_plan, load_plan
from oddlamp.core.plan.upgrades import upgrade
from oddlamp.sheets.answers import answers_text
from oddlamp.sheets.boards import BoardsCompared, compare_boards
from oddlamp.sheets.builds import BuildsShown, build_many, heap
from oddlamp.sheets.clearing import Clearing, what_clears
from oddlamp.sheets.compare import compare
from oddlamp.sheets.drawn import DrawnUp, drawn_up
from oddlamp.sheets.models import Choice
from oddlamp.sheets.paper import sheets_markdown
from oddlamp.sheets.parts import moves_from, take_in
from oddlamp.sheets.pasted import pasted_words
from oddlamp.sheets.review import review_design
from oddlamp.sheets.sentences import Taken, Typed, host_of, taken, typed
from oddlamp.sheets.setup import SetupShown, setup_of
from oddlamp.sheets.shown import ShownFinding, Ways
from oddlamp.sheets.slots import SlotForm, slots_as, slots_of
from oddlamp.sheets.typed import TypedLine, typed_line
from oddlamp.sheets.versions import VersionsCompared, compare_versions

router = APIRouter(prefix="/api/projects")
EMPTY: dict[str, Any] = {"format": "oddlamp-plan", "schema_version": 1, "title": "New light"}


def get_workshop(request: Request) -> Workshop:
    """Return the store and the reviews the server was started with."""
    workshop: Workshop = request.app.state.workshop
    return workshop


Shop = Annotated[Workshop, Depends(get_workshop)]


@router.get("")
def list_projects(shop: Shop) -> list[ShelfItem]:
    """List all projects, the last opened first, those put away and thrown away included."""
    return shop.shelf()


@router.get("/demos")
def list_demos() -> list[Demo]:
    """List the demo projects, the main one first."""
    found = ((name, demo_plan(name)) for name in demo_names())
    return [Demo(name=name, title=plan["title"], notes=plan.get("notes", "")) for name, plan in found]


@router.post("", status_code=201)
def new_project(shop: Shop, new: NewProject) -> ProjectState:
    """Start a project, empty or from a demo."""
    if new.start == "empty":
        return shop.create(load_plan({**EMPTY, "catalog_version": shop.catalog.version}), summary="Started empty")
    if new.demo is not None and new.demo not in demo_names():
        raise OutOfRange(field="demo", given=new.demo, allowed="one of " + ", ".join(demo_names()))
    return shop.create(load_plan(demo_plan(new.demo or MAIN_DEMO)), summary="Started from the demo")


@router.post("/import", status_code=201)
def import_project(shop: Shop, plan: dict[str, Any]) -> ProjectState:
    """Start a project from a plan file; the file of an older version is brought up to date and kept as it was."""
    document, was = upgrade(plan)
    read = load_plan(document)
    summary = "Read from a file" + ("" if was is None else f" of version {was}, brought up to date")
    return shop.create(read, summary=summary, original=None if was is None else plan)


@router.get("/{project_id}")
def open_project(shop: Shop, project_id: str, stage: Annotated[StageId | None, Query()] = None) -> ProjectState:
    """Show a project as it stands."""
    return shop.state(shop.store.read(project_id), stage)


@router.post("/{project_id}/opened", status_code=204)
def note_opened(shop: Shop, project_id: str) -> None:
    """Note that a project was opened, so that it lies first on the shelf."""
    shop.store.opened(project_id)


@router.get("/{project_id}/stage")
def open_stage(
    shop: Shop, project_id: str, revision: Annotated[RevisionId, Query()], stage: Annotated[StageId, Query()]
) -> StageView:
    """Give one stage in full: its sheet, its numbers, and the ways out of its first verdicts."""
    return shop.stage(project_id, revision, stage)


@router.post("/{project_id}/options")
def open_options(shop: Shop, project_id: str, asked: AskedChoice) -> Choice:
    """Give all options of one row of a sheet."""
    return shop.choice(project_id, asked)


@router.post("/{project_id}/verdicts")
def list_verdicts(shop: Shop, project_id: str, attempt: Attempt) -> list[ShownFinding]:
    """List all verdicts, those included that answers leave out."""
    return shop.verdicts(project_id, attempt)


@router.post("/{project_id}/boards")
def boards_compared(shop: Shop, project_id: str, attempt: Attempt) -> tuple[BoardsCompared, ...]:
    """Try the plan on every board there is."""
    made = shop.looked_at(project_id, attempt.base_revision, attempt.patch)
    return compare_boards(made.plan, made.design)


@router.post("/{project_id}/setup")
def module_setup(shop: Shop, project_id: str, asked: AskedSetup) -> SetupShown:
    """Lay out the steps that set a module up."""
    made = shop.looked_at(project_id, asked.base_revision, asked.patch)
    return setup_of(made.design, asked.node, over=asked.over, network=asked.network, password=asked.password)


@router.post("/{project_id}/pasted-words")
def read_pasted_words(shop: Shop, project_id: str, pasted: PastedWords) -> Move:
    """Read a pasted table of words, and tell the edit that takes it in."""
    made = shop.looked_at(project_id, pasted.base_revision, pasted.patch)
    return pasted_words(made.design, pasted.vocabulary, pasted.text)


@router.post("/{project_id}/sentences")
def read_sentences(shop: Shop, project_id: str, given: SentencesTyped) -> Taken:
    """Read sentences of a host, and tell the edit that takes them in, or what is not understood."""
    made = shop.looked_at(project_id, given.base_revision, given.patch)
    return taken(made.design, host_of(made.design, given.host), given.text, given.rule)


@router.post("/{project_id}/sentence-begun")
def go_on_with_sentence(shop: Shop, project_id: str, given: SentencesTyped) -> Typed:
    """Tell what could stand next in a sentence that is being typed."""
    made = shop.looked_at(project_id, given.base_revision, given.patch)
    return typed(made.design, host_of(made.design, given.host), given.text)


@router.post("/{project_id}/typed-line")
def hear_typed_line(shop: Shop, project_id: str, typed: TypedText) -> TypedLine:
    """Tell what a program hears where a line is typed, and its bytes."""
    made = shop.looked_at(project_id, typed.base_revision, typed.patch)
    return typed_line(made.design, typed.vocabulary, typed.text)


@router.post("/{project_id}/drawn-words")
def draw_words_up(shop: Shop, project_id: str, asked: AskedWords) -> DrawnUp:
    """Draw up words for what is wished, by every school."""
    made = shop.looked_at(project_id, asked.base_revision, asked.patch)
    return drawn_up(made.design, asked.vocabulary, asked.wishes)


@router.post("/{project_id}/board-file")
def read_board_file(shop: Shop, project_id: str, file: BoardFile) -> Move:
    """Read a file of a board, and tell the edit that takes it in as a part of the user's own."""
    plan = shop.store.plan_at(project_id, file.base_revision)
    return take_in(plan, read_board(file.name, file.text, shop.catalog))


@router.get("/{project_id}/board-file", response_class=PlainTextResponse)
def write_board_file(
    shop: Shop, project_id: str, part: Annotated[str, Query(max_length=60)], form: Annotated[Form, Query()] = "toml"
) -> str:
    """Give a board, shipped or the user's own, as a file."""
    kept = shop.store.read(project_id)
    return write_board(with_own_parts(shop.catalog, kept.plan.parts).board(part), form)


@router.get("/{project_id}/slots", response_class=PlainTextResponse)
def write_slots(
    shop: Shop, project_id: str, node: Annotated[str, Query(max_length=40)], form: Annotated[SlotForm, Query()] = "csv"
) -> str:
    """Give what to type into which slot of a phone program as a file."""
    design = shop.worked_out(project_id, shop.store.read(project_id).revision).design
    if node not in design.handsets:
        raise OutOfRange(field="node", given=node, allowed="one of " + (", ".join(design.handsets) or "none: there is no phone"))
    return slots_as(slots_of(design, design.handsets[node]), form)


@router.post("/{project_id}/ways")
def open_ways(shop: Shop, project_id: str, asked: AskedVerdict) -> Ways:
    """Give the working of one verdict and its ways out."""
    return shop.ways(project_id, asked)


@router.get("/{project_id}/numbers")
def list_numbers(shop: Shop, project_id: str, revision: Annotated[RevisionId, Query()]) -> list[Number]:
    """List every number of a project, to find one by typing."""
    values = shop.worked_out(project_id, revision).review.values
    return [Number(id=it.id, stage=it.stage, label=it.label, text=it.text) for it in values]


@router.get("/{project_id}/plan")
def export_plan(shop: Shop, project_id: str) -> dict[str, Any]:
    """Give the plan as a file that can be imported again."""
    return dump_plan(shop.store.read(project_id).plan)


@router.get("/{project_id}/raw")
def export_raw(shop: Shop, project_id: str) -> Response:
    """Give what is kept of a project as it stands in the file, whether or not it can be read."""
    return Response(shop.store.raw(project_id), media_type="application/octet-stream")


@router.get("/{project_id}/original")
def export_original(shop: Shop, project_id: str) -> JSONResponse:
    """Give the file of an older version that the project was read from, as it was; null where there was none."""
    return JSONResponse(shop.store.original(project_id))


@router.get("/{project_id}/answers", response_class=PlainTextResponse)
def answers(shop: Shop, project_id: str) -> str:
    """Give the current answers as text."""
    kept = shop.store.read(project_id)
    return answers_text(review_design(shop.design(kept.id, kept.revision)))


@router.post("/{project_id}/edits")
def edit_project(shop: Shop, project_id: str, edit: Edit) -> ProjectState:
    """Apply an edit and answer with the new state, kept."""
    return shop.edit(project_id, edit)


@router.post("/{project_id}/trials")
def try_edit(shop: Shop, project_id: str, attempt: Attempt) -> Trial:
    """Show what an edit would give, and what it moves, without keeping it."""
    now = shop.worked_out(project_id, attempt.base_revision)
    tried = shop.looked_at(project_id, attempt.base_revision, attempt.patch)
    comparison = compare((now.plan, now.review), (tried.plan, tried.review))
    return Trial(review=with_stage(tried, attempt.stage), comparison=comparison)


@router.post("/{project_id}/keep")
def keep_proposals(shop: Shop, project_id: str, step: Step) -> ProjectState:
    """Settle everything that is proposed, without moving a number."""
    keep = review_design(shop.design(project_id, step.base_revision)).keep
    patch, summary = (keep.patch, keep.label) if keep else ({}, "Nothing was proposed")
    return shop.edit(project_id, Edit(base_revision=step.base_revision, patch=patch, summary=summary, stage=step.stage))


@router.post("/{project_id}/undo")
def undo(shop: Shop, project_id: str, step: Step) -> ProjectState:
    """Take the last change back."""
    return shop.state(shop.store.undo(project_id, base_revision=step.base_revision), step.stage)


@router.post("/{project_id}/redo")
def redo(shop: Shop, project_id: str, step: Step) -> ProjectState:
    """Bring the change last taken back again."""
    return shop.state(shop.store.redo(project_id, base_revision=step.base_revision), step.stage)


@router.post("/{project_id}/restore")
def restore(shop: Shop, project_id: str, wanted: Restore) -> ProjectState:
    """Bring an earlier state back as a new change."""
    return shop.state(shop.store.restore(project_id, wanted.revision, base_revision=wanted.base_revision), wanted.stage)


@router.get("/{project_id}/history")
def history(shop: Shop, project_id: str) -> list[HistoryItem]:
    """List every state of a project, the newest first."""
    return shop.history(project_id)


@router.get("/{project_id}/compare")
def compare_revisions(
    shop: Shop, project_id: str, before: Annotated[RevisionId, Query()], after: Annotated[RevisionId, Query()]
) -> VersionsCompared:
    """Compare two states: decisions, numbers, verdicts, pins, wires and programs."""
    sides = [
        (shop.store.plan_at(project_id, side), made.design, made.review)
        for side in (before, after)
        for made in (shop.worked_out(project_id, side),)
    ]
    return compare_versions(sides[0], sides[1])


@router.get("/{project_id}/sheets", response_class=PlainTextResponse)
def all_sheets(shop: Shop, project_id: str) -> PlainTextResponse:
    """Give all sheets as text to read, with what is to settle."""
    kept = shop.store.read(project_id)
    head = {"Content-Disposition": 'attachment; filename="sheets.md"'}
    text = sheets_markdown(review_design(shop.design(kept.id, kept.revision)))
    return PlainTextResponse(text, media_type="text/markdown; charset=utf-8", headers=head)


@router.get("/{project_id}/builds")
def try_builds(
    shop: Shop, project_id: str, signal: Annotated[str, Query(max_length=80)], seed: Annotated[int, Query(ge=0, le=2**31)] = 1
) -> BuildsShown:
    """Build one channel of a lamp, or one divider, ten thousand times with parts drawn inside their spreads."""
    kept = shop.store.read(project_id)
    return heap(build_many(shop.design(kept.id, kept.revision), signal, seed=seed))


@router.get("/{project_id}/elsewhere")
def parts_elsewhere(shop: Shop, project_id: str) -> list[Elsewhere]:
    """List the drawers and own parts of the other projects on the shelf, as moves on this one."""
    mine = shop.store.read(project_id).plan
    others = [it for it in shop.store.names() if it.id != project_id and it.place == "shelf"]
    found = [Elsewhere(title=it.title, moves=moves_from(mine, shop.store.plan_at(it.id, it.revision))) for it in others]
    return [it for it in found if it.moves]


@router.post("/{project_id}/clearings")
def clearings(shop: Shop, project_id: str, asked: AskedVerdict) -> list[Clearing]:
    """Search the values near a verdict for where it clears."""
    plan = shop.looked_at(project_id, asked.base_revision, asked.patch).plan
    return list(what_clears(plan, shop.catalog, asked.key))


@router.post("/{project_id}/copy", status_code=201)
def copy_project(shop: Shop, project_id: str) -> ProjectState:
    """Start a project from another one as it stands."""
    kept = shop.store.read(project_id)
    title = f"{kept.plan.title[:70]}, copy"
    return shop.create(kept.plan.model_copy(update={"title": title}), summary=f"Copied from {kept.plan.title}"[:200])


@router.post("/{project_id}/place")
def put_project(shop: Shop, project_id: str, where: Place) -> ShelfItem:
    """Put a project in the archive or the bin, or back on the shelf."""
    return shop.shelf_item(shop.store.move(project_id, where.place))
