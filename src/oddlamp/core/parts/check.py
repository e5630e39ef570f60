"""Whether every part a plan chooses is in the catalogue, and of the right kind."""

from collections.abc import Iterator, Mapping

from oddlamp.core.errors import FieldProblem, PlanInvalid
from oddlamp.core.parts.models import Catalog, LoadPart
from oddlamp.core.plan.fields import PartChoice
from oddlamp.core.plan.model import Plan


def check_parts(plan: Plan, catalog: Catalog) -> None:
    """Refuse a plan that names parts the catalogue does not hold.

    Raises:
        PlanInvalid: lists every unknown part with the ids there are.
    """
    problems = tuple(
        FieldProblem(field=f"{where}.part", given=repr(choice.part), allowed="one of " + ", ".join(sorted(table)))
        for where, choice, table in _choices(plan, catalog)
        if choice is not None and choice.part is not None and choice.part not in table
    )
    if problems:
        first = problems[0]
        raise PlanInvalid(field=first.field, given=first.given, allowed=first.allowed, problems=problems)


def _choices(plan: Plan, catalog: Catalog) -> Iterator[tuple[str, PartChoice | None, Mapping[str, object]]]:
    for name, source in plan.sources.items():
        yield f"sources.{name}.choice", source.choice, catalog.sources
    for name, node in plan.nodes.items():
        if node.kind == "board":
            yield f"nodes.{name}.choice", node.choice, catalog.boards
        elif node.kind == "module":
            yield f"nodes.{name}.choice", node.choice, catalog.modules
    for name, lamp in plan.lamps.items():
        if lamp.kind in ("led", "rgb"):
            for channel_id, channel in lamp.channels.items():
                yield f"lamps.{name}.channels.{channel_id}.led", channel.led, catalog.leds
        else:
            pixels = {key: it for key, it in catalog.pixels.items() if it.kind == lamp.kind}
            yield f"lamps.{name}.choice", getattr(lamp, "choice", None), pixels or loads_of(catalog, lamp.kind)
        drive = getattr(lamp, "drive", None)
        if drive is not None:
            switches = {key: it for key, it in catalog.transistors.items() if drive.school in (None, it.kind)}
            yield f"lamps.{name}.drive.choice", drive.choice, switches or catalog.transistors
    for name, signal in plan.signals.items():
        if signal.built is not None:
            yield f"signals.{name}.built.led", PartChoice(part=signal.built.led), catalog.leds
    for name, vocabulary in plan.vocabularies.items():
        yield f"vocabularies.{name}.dialect", PartChoice(part=vocabulary.dialect), catalog.modules


def loads_of(catalog: Catalog, kind: str) -> dict[str, LoadPart]:
    """Return the loads that can be a kind of lamp: a relay is a bare coil or a module."""
    return {key: it for key, it in catalog.loads.items() if it.kind.partition("-")[0] == kind}
