"""Routes of the log: what is written in it with its photos, its files, and notes for next time from other projects."""

from typing import Annotated, Final, Literal

from anyio import CapacityLimiter, to_thread
from fastapi import APIRouter, Path, Query, Request
from fastapi.responses import Response

from oddlamp.api.models import EntryChanged, EntryGiven, EntryStep, PhotoTold
from oddlamp.api.projects import Shop
from oddlamp.api.receiving import OF_BYTES, received
from oddlamp.api.workshop import Workshop
from oddlamp.core.errors import DomainError
from oddlamp.core.plan.entries import Entry, words_of
from oddlamp.photos.developing import develop, refused
from oddlamp.photos.limits import PHOTO_MOST_BYTES
from oddlamp.sheets.log import EntryShown, Filter, LogShown, entry_shown, log_csv, log_markdown, log_shown, rows_wanted
from oddlamp.sheets.nexttime import Offer, about, offers

router = APIRouter(prefix="/api/projects/{project_id}")
EntryId = Annotated[str, Path(max_length=32)]
READERS: Final = CapacityLimiter(2)  # photos that are read at once: each may take a gigabyte of memory
PhotoId = Annotated[int, Path(ge=0, le=2**53)]


@router.get("/log")
def show_log(
    shop: Shop,
    project_id: str,
    find: Annotated[str, Query(max_length=200, description="Words that must all be in it")] = "",
    only: Annotated[Filter | None, Query(description="Of which kind; all but what was thrown away where left out")] = None,
    skip: Annotated[int, Query(ge=0, le=100_000, description="How many rows come before the page")] = 0,
) -> LogShown:
    """Show a page of the log: what was written beside what was changed, the newest first."""
    words, log = words_of(find), shop.store.log
    found = log.entries(project_id, words, only, most=rows_wanted(skip))
    return log_shown(found, shop.store.deeds(project_id, words), log.sums(project_id, words), only, skip, is_part=bool(words))


@router.get("/log/file")
def take_log(shop: Shop, project_id: str, form: Annotated[Literal["csv", "md"], Query()] = "md") -> Response:
    """Give the log as a table or as text to read."""
    entries, deeds = shop.store.log.entries(project_id), shop.store.deeds(project_id)
    if form == "csv":
        content, kind = log_csv(entries, deeds), "text/csv"
    else:
        content, kind = log_markdown(shop.store.title(project_id), entries, deeds), "text/markdown"
    head = {"Content-Disposition": f'attachment; filename="log.{form}"'}
    return Response(content.encode(), media_type=f"{kind}; charset=utf-8", headers=head)


@router.post("/log/entries", status_code=201)
def write_entry(shop: Shop, project_id: str, given: EntryGiven) -> EntryShown:
    """Write an entry."""
    said, uses = _said(shop, project_id, given)
    return entry_shown(shop.store.log.write(project_id, said, uses))


@router.put("/log/entries/{entry_id}")
def change_entry(shop: Shop, project_id: str, entry_id: EntryId, given: EntryChanged) -> EntryShown:
    """Write an entry anew; what it said before is kept beside it."""
    said, uses = _said(shop, project_id, given)
    return entry_shown(shop.store.log.change(project_id, entry_id, said, uses, version=given.version))


@router.post("/log/entries/{entry_id}/before")
def put_entry_before(shop: Shop, project_id: str, entry_id: EntryId, step: EntryStep) -> EntryShown:
    """Bring back what an entry said before its last change; asked again, it goes forth again."""
    log = shop.store.log
    uses = _about(shop, project_id, log.before(project_id, entry_id).stage)[1]
    return entry_shown(log.put_before(project_id, entry_id, uses, version=step.version))


@router.put("/log/entries/{entry_id}/thrown")
def throw_entry(shop: Shop, project_id: str, entry_id: EntryId) -> EntryShown:
    """Throw an entry away; it can be put back."""
    return entry_shown(shop.store.log.throw(project_id, entry_id, is_thrown=True))


@router.delete("/log/entries/{entry_id}/thrown")
def put_entry_back(shop: Shop, project_id: str, entry_id: EntryId) -> EntryShown:
    """Put an entry back."""
    return entry_shown(shop.store.log.throw(project_id, entry_id, is_thrown=False))


@router.post("/log/entries/{entry_id}/photos", status_code=201, openapi_extra=OF_BYTES)
async def add_photo(
    request: Request,
    shop: Shop,
    project_id: str,
    entry_id: EntryId,
    alt: Annotated[str, Query(max_length=300, description="What is to be seen on it")] = "",
) -> EntryShown:
    """Put a photo to an entry: it is written anew, with nothing in it but the picture."""
    await to_thread.run_sync(shop.store.log.entry, project_id, entry_id)  # said before ten megabytes are sent for nothing
    async with received(request, PHOTO_MOST_BYTES, "photo") as file:
        content = file.read()
        if not content:
            raise refused("an empty file")
        made = (await to_thread.run_sync(develop, [content], limiter=READERS))[0]
        return entry_shown(await to_thread.run_sync(shop.store.log.add_photo, project_id, entry_id, made, alt.strip()))


@router.get("/log/photos/{photo_id}", response_class=Response, responses={200: {"content": {"image/jpeg": {}}}})
def show_photo(shop: Shop, project_id: str, photo_id: PhotoId, is_small: Annotated[bool, Query()] = False) -> Response:
    """Give a photo, or a small one of it. It never changes."""
    head = {"Cache-Control": "private, max-age=31536000, immutable"}
    return Response(shop.store.log.picture(project_id, photo_id, is_small=is_small), media_type="image/jpeg", headers=head)


@router.put("/log/photos/{photo_id}")
def tell_photo(shop: Shop, project_id: str, photo_id: PhotoId, told: PhotoTold) -> EntryShown:
    """Say what is to be seen on a photo."""
    return entry_shown(shop.store.log.change_photo(project_id, photo_id, alt=told.alt))


@router.put("/log/photos/{photo_id}/thrown")
def throw_photo(shop: Shop, project_id: str, photo_id: PhotoId) -> EntryShown:
    """Take a photo off its entry; it can be put back."""
    return entry_shown(shop.store.log.change_photo(project_id, photo_id, is_thrown=True))


@router.delete("/log/photos/{photo_id}/thrown")
def put_photo_back(shop: Shop, project_id: str, photo_id: PhotoId) -> EntryShown:
    """Put a photo back to its entry."""
    return entry_shown(shop.store.log.change_photo(project_id, photo_id, is_thrown=False))


@router.get("/next-time")
def next_time(shop: Shop, project_id: str) -> tuple[Offer, ...]:
    """List notes for next time from other projects that speak of a part or school used here."""
    notes = shop.store.log.notes(project_id)
    return offers(shop.design(project_id, shop.store.head(project_id)), notes) if notes else ()


@router.put("/next-time/{entry_id}/gone", status_code=204)
def let_go(shop: Shop, project_id: str, entry_id: EntryId) -> None:
    """Let a note for next time go: it is not offered here again."""
    shop.store.log.let_go(project_id, entry_id, is_gone=True)


@router.delete("/next-time/{entry_id}/gone", status_code=204)
def offer_again(shop: Shop, project_id: str, entry_id: EntryId) -> None:
    """Have a note for next time offered again."""
    shop.store.log.let_go(project_id, entry_id, is_gone=False)


def _said(shop: Workshop, project_id: str, given: EntryGiven) -> tuple[Entry, tuple[str, ...]]:
    """Return what is written with what its stage is called now, and what it is about."""
    label, uses = _about(shop, project_id, given.stage)
    told = {name: getattr(given, name) for name in ("kind", "text", "stage", "minutes", "cost")}
    return Entry(**told, stage_label=label[:120]), uses


def _about(shop: Workshop, project_id: str, stage: str | None) -> tuple[str, tuple[str, ...]]:
    """Return what a stage is called now, and what is used there; a plan that can't be shown keeps no log from being written."""
    try:
        made = shop.worked_out(project_id, shop.store.head(project_id))
    except DomainError:
        return stage or "", ()
    return made.review.titles.get(stage or "", stage or ""), about(made.design, stage)
