"""Starting points: small whole projects, offered by what they do with a moving picture of their light."""

from collections.abc import Mapping
from typing import Any, Final

from oddlamp.core.base import Model
from oddlamp.core.checks.findings import Move
from oddlamp.core.parts.models import Catalog
from oddlamp.core.plan.document import Document, dump_plan, load_plan, patch_between
from oddlamp.core.plan.model import Plan
from oddlamp.core.rehearsal.events import read_events
from oddlamp.core.rehearsal.simulate import rehearse_design
from oddlamp.core.rehearsal.trace import LampLook
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.journeys import show_run
from oddlamp.sheets.layouts import places_picture

SHOWN_S: Final = 6.0
KEPT: Final = ("format", "schema_version", "catalog_version", "drawer", "series", "parts")


class StartLight(Model):
    """One lamp of a starting point over some seconds, and where its pixels stand."""

    label: str
    looks: tuple[LampLook, ...]
    places: tuple[tuple[float, ...], ...]


class StartCard(Model):
    """A starting point: what it is called, what it does, what to press first, and its light."""

    name: str
    title: str
    does: str
    press: str
    ends_at_s: float
    lights: tuple[StartLight, ...]


class Begun(Model):
    """What a starting point makes of a project, and the stage to look at first."""

    move: Move
    leads_to: str


def start_card(name: str, data: Mapping[str, Any], catalog: Catalog) -> StartCard:
    """Rehearse a starting point for its picture."""
    design = resolve(load_plan(data["plan"]), catalog)
    events = read_events([*data["events"], {"kind": "wait", "t_s": SHOWN_S}])
    run = show_run(design, rehearse_design(design, events), since_s=0.0)
    lights = []
    for lamp in design.lamps.values():
        picture = places_picture(design, lamp)
        looks = tuple(it for it in run.looks.get(lamp.stage, ()) if it.t_s <= SHOWN_S)
        lights.append(StartLight(label=lamp.label, looks=looks, places=picture.places if picture is not None else ()))
    return StartCard(
        name=name, title=data["title"], does=data["does"], press=data["press"], ends_at_s=SHOWN_S, lights=tuple(lights)
    )


def begin(plan: Plan, fresh_title: str, data: Mapping[str, Any]) -> Begun:
    """Make a project into a starting point: what it held goes, and its title stays where it has one of its own."""
    whole: Document = data["plan"]
    held = dump_plan(plan)
    kept: Document = {field: held[field] for field in KEPT if field in held}
    title = data["title"] if plan.title == fresh_title else plan.title
    patch = patch_between(held, {**whole, **kept, "title": title})
    return Begun(move=Move(label=data["title"], patch=patch), leads_to=f"lamps.{next(iter(whole['lamps']))}")
