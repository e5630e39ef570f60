"""Whether every part a plan chooses is in the catalogue, and of the right kind."""

from collections.abc import Collection, Iterator, Mapping

from pydantic import ValidationError

from oddlamp.core.base import Model, si
from oddlamp.core.electrical.diode import ideality_of
from oddlamp.core.errors import FieldProblem, PlanInvalid
from oddlamp.core.parts.models import BoardPart, Catalog, LedPart, LoadPart
from oddlamp.core.parts.own import as_used, figures_of, own_board, with_own_parts
from oddlamp.core.plan.built import as_built, path_of
from oddlamp.core.plan.document import field_problems
from oddlamp.core.plan.fields import OwnValue, PartChoice
from oddlamp.core.plan.model import OwnPart, Plan
from oddlamp.core.plan.own_board import OwnBoard


def check_parts(plan: Plan, catalog: Catalog) -> None:
    """Refuse a plan that names parts the catalogue does not hold.

    Raises:
        PlanInvalid: lists every unknown part with the ids there are, or what a built line keeps that cannot be read.
    """
    as_built(plan)
    # A board of one's own that does not go together can't be chosen: it is told alone.
    problems = tuple(_own_problems(plan, catalog)) or tuple(_choice_problems(plan, with_own_parts(catalog, plan.parts)))
    if problems:
        first = problems[0]
        raise PlanInvalid(field=first.field, given=first.given, allowed=first.allowed, problems=problems)


def _own_problems(plan: Plan, catalog: Catalog) -> Iterator[FieldProblem]:
    for part_id, own in plan.parts.items():
        table: Mapping[str, Model] = getattr(catalog, own.table)
        if own.like not in table:
            yield FieldProblem(field=f"parts.{part_id}.like", given=repr(own.like), allowed="one of " + ", ".join(sorted(table)))
        else:
            yield from _figure_problems(f"parts.{part_id}.figures", own.figures, table[own.like], catalog.references)
            if own.board is not None:
                yield from _board_problems(f"parts.{part_id}.board", own, own.board, table[own.like], catalog)


def _board_problems(where: str, own: OwnPart, board: OwnBoard, like: Model, catalog: Catalog) -> Iterator[FieldProblem]:
    if not isinstance(like, BoardPart):
        yield FieldProblem(field=where, given="the pins of a board", allowed=f"nothing; {own.like} is no board")
        return
    unknown = next((key for key in board.sources if key not in catalog.references), None)
    if unknown is not None:
        yield FieldProblem(
            field=f"{where}.sources", given=repr(unknown), allowed="one of " + ", ".join(sorted(catalog.references))
        )
    try:
        own_board("own", own, board, like)
    except ValidationError as error:
        yield from field_problems(error, {})


def _choice_problems(plan: Plan, catalog: Catalog) -> Iterator[FieldProblem]:
    for where, choice, table in choices(plan, catalog):
        if choice is None:
            continue
        if choice.part is not None and choice.part not in table:
            yield FieldProblem(field=f"{where}.part", given=repr(choice.part), allowed="one of " + ", ".join(sorted(table)))
        elif choice.overrides and table:
            yield from _figure_problems(
                f"{where}.overrides",
                choice.overrides,
                table[choice.part] if choice.part else next(iter(table.values())),
                catalog.references,
            )


def _figure_problems(
    where: str, figures: Mapping[str, OwnValue], part: Model, references: Collection[str]
) -> Iterator[FieldProblem]:
    stranger = next((field for field in figures if field not in figures_of(type(part))), None)
    if stranger is None and isinstance(part, LedPart):
        yield from _curve_problems(where, as_used(part, figures))
    for field, own in figures.items():
        if own.source is not None and own.source not in references:
            allowed = "one of " + ", ".join(sorted(references))
            yield FieldProblem(field=f"{where}.{field}.source", given=repr(own.source), allowed=allowed)
        if field not in figures_of(type(part)):
            yield FieldProblem(field=f"{where}.{field}", given=repr(field), allowed="one of " + ", ".join(figures_of(type(part))))


def _curve_problems(where: str, led: LedPart) -> Iterator[FieldProblem]:
    """A second point of an LED lies below the first, by more than its series resistance makes of the currents."""
    volts, current = led.second_voltage_v, led.second_current_a
    if volts is None or current is None:
        return
    if current.value >= led.usual_current_a.value:
        most = f"under the {si(led.usual_current_a.value, 'A')} of its first point"
        yield FieldProblem(field=f"{where}.second_current_a", given=si(current.value, "A"), allowed=most)
    elif second_ideality(led) <= 0:
        apart_v = (led.usual_current_a.value - current.value) * led.series_ohm.value
        most = f"under {si(led.forward_voltage_v.value - apart_v, 'V')}, so that both points lie on one curve"
        yield FieldProblem(field=f"{where}.second_voltage_v", given=si(volts.value, "V"), allowed=most)


def second_ideality(led: LedPart) -> float:
    """Return n of an LED: from its two points where a second one is known, else as stated."""
    if led.second_voltage_v is None or led.second_current_a is None:
        return led.ideality.value
    return ideality_of(
        high_v=led.forward_voltage_v.value,
        high_a=led.usual_current_a.value,
        low_v=led.second_voltage_v.value,
        low_a=led.second_current_a.value,
        series_ohm=led.series_ohm.value,
    )


def uses_of(plan: Plan, catalog: Catalog, part_id: str) -> list[str]:
    """Return the paths of the choices of a plan that name a part."""
    return [where for where, choice, _ in choices(plan, catalog) if choice is not None and choice.part == part_id]


def choices(plan: Plan, catalog: Catalog) -> Iterator[tuple[str, PartChoice | None, Mapping[str, Model]]]:
    """Walk every choice of a part with its path and the parts it may be."""
    for name, source in plan.sources.items():
        yield f"sources.{name}.choice", source.choice, catalog.sources
    for name, converter in plan.converters.items():
        yield f"converters.{name}.choice", converter.choice, catalog.converters
    for name, node in plan.nodes.items():
        if node.kind == "board":
            yield f"nodes.{name}.choice", node.choice, catalog.boards
        elif node.kind == "module":
            yield f"nodes.{name}.choice", node.choice, catalog.modules
        elif node.kind == "chip":
            yield f"nodes.{name}.choice", node.choice, catalog.chips
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
        for place, value in signal.built.places.items() if signal.built is not None else ():
            table = _table_at(plan, catalog, path_of(place))
            if table and isinstance(value, str):
                yield f"signals.{name}.built.places.{place}", PartChoice(part=value), table
    for name, vocabulary in plan.vocabularies.items():
        yield f"vocabularies.{name}.dialect", PartChoice(part=vocabulary.dialect), catalog.modules


def _table_at(plan: Plan, catalog: Catalog, path: tuple[str, ...]) -> Mapping[str, Model]:
    """Return the parts that may stand at a path of the plan; none where it names no part."""
    if path[-1] != "part" or path[0] != "lamps" or path[1] not in plan.lamps:
        return {}
    if path[-2] == "led":
        return catalog.leds
    if "drive" in path:
        return catalog.transistors
    kind = plan.lamps[path[1]].kind
    return {key: it for key, it in catalog.pixels.items() if it.kind == kind} or loads_of(catalog, kind)


def loads_of(catalog: Catalog, kind: str) -> dict[str, LoadPart]:
    """Return the loads that can be a kind of lamp: a relay is a bare coil or a module."""
    return {key: it for key, it in catalog.loads.items() if it.kind.partition("-")[0] == kind}
