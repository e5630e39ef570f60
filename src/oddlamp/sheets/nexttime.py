"""Notes for next time: what each entry is about, and where another project's note speaks of the same part or school."""

from collections.abc import Iterable, Iterator

from pydantic import Field

from oddlamp.core.base import Model
from oddlamp.core.design.design import Design
from oddlamp.core.design.supplies import Picked
from oddlamp.core.english import and_list, inner
from oddlamp.core.plan.entries import NextTime

Used = tuple[str, str, str]  # the stage where it is used, what it is called wherever it is, and its name to read
OFFERED_MOST = 50


class Offer(Model):
    """A note for next time from another project, why it is offered, and the stage of this project it speaks of."""

    uid: str
    text: str
    title: str = Field(description="The project whose log it stands in")
    project: str
    made_at: str
    because: str
    stage: str


def uses(design: Design) -> Iterator[Used]:
    """Yield every part and every school of a design with the stage where it is used."""
    for node in design.nodes.values():
        yield from _part(node.stage, node.picked)
    for rail in design.rails.values():
        yield from _part(rail.stage, rail.source)
        yield from _part(rail.stage, rail.feed.picked if rail.feed is not None else None)
    for level in design.levels:
        if not level.is_omitted and level.school.id != "direct":  # a straight wire is in every project, and says nothing of one
            yield from _school(level.line.stage, f"level.{level.line.kind}", level.school)
    for lamp in design.lamps.values():
        yield from _school(lamp.stage, f"drive.{lamp.kind}", lamp.school)
        yield from _part(lamp.stage, lamp.load.picked if lamp.load is not None else None)
        for channel in lamp.channels:
            yield from _part(lamp.stage, channel.led_picked)
        for switch in (lamp.switch, *(it.switch for it in lamp.channels)):
            yield from _part(lamp.stage, switch.part_picked if switch is not None else None)


def _part(stage: str, picked: Picked | None) -> Iterator[Used]:
    if picked is not None:
        yield stage, f"part:{picked.id}", picked.label


def _school(stage: str, of: str, picked: Picked | None) -> Iterator[Used]:
    if picked is not None:
        yield stage, f"school:{of}:{picked.id}", picked.label


def about(design: Design, stage: str | None) -> tuple[str, ...]:
    """Return what an entry is about: the parts and schools of its stage; the boards and modules where that has none, or it is of no stage."""
    here = [name for at, name, _ in uses(design) if at == stage]
    nodes = (name for node in design.nodes.values() for _, name, _ in _part(node.stage, node.picked))
    return tuple(dict.fromkeys(here or nodes))


def offers(design: Design, notes: Iterable[NextTime]) -> tuple[Offer, ...]:
    """Return the notes that speak of what this design uses as well, the newest first; each says why it is offered."""
    found: dict[str, tuple[str, str]] = {}
    for stage, name, label in uses(design):
        found.setdefault(name, (stage, label))
    made = []
    for note in notes:
        shared = [found[name] for name in note.uses if name in found]
        if shared:
            named = list(dict.fromkeys(inner(label) for _, label in shared))
            told = and_list(named if len(named) <= 3 else [*named[:2], f"{len(named) - 2} more"])
            made.append(Offer(uid=note.uid, text=note.text, title=note.title, project=note.project, made_at=note.made_at, because=f"Used here too: {told}", stage=shared[0][0]))  # fmt: skip
    return tuple(made[:OFFERED_MOST])
