"""Walks the records of a design, so that no value can be forgotten: the review shows them all, built lines keep theirs."""

from dataclasses import is_dataclass
from functools import cache
from typing import Any, Final, get_args, get_type_hints

from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import ChannelDesign, LampDesign
from oddlamp.core.design.values import Value
from oddlamp.core.plan.built import Path
from oddlamp.core.plan.changes import value_at
from oddlamp.core.plan.document import dump_plan
from oddlamp.core.plan.model import Settled

RECORDS: Final = "oddlamp.core.design."


def values_of(record: object) -> list[Value]:
    """Return every value in a record of a design and in what it holds, in the order of its fields; may repeat."""
    found: list[Value] = []
    _gather(record, found)
    return found


def _gather(thing: Any, found: list[Value]) -> None:
    kind = type(thing)
    if kind is Value:
        found.append(thing)
    elif kind is tuple:
        for inner in thing:
            _gather(inner, found)
    elif kind is dict:
        for inner in thing.values():
            _gather(inner, found)
    elif thing is not None:
        for name in _held(kind):  # type: ignore[arg-type]
            inner = getattr(thing, name)
            if type(inner) is Value:  # most are, and need no call of their own
                found.append(inner)
            elif inner is not None:
                _gather(inner, found)


@cache
def _held(kind: Any) -> tuple[str, ...]:
    """Name the fields of a record whose types say that they may hold values: told by the types, so that none is forgotten."""
    if not kind.__module__.startswith(RECORDS) or not is_dataclass(kind):
        return ()
    return tuple(name for name, hint in get_type_hints(kind).items() if _may_hold(hint, frozenset()))


def _may_hold(hint: Any, met: frozenset[Any]) -> bool:
    if hint is Value:
        return True
    if get_args(hint):
        return any(_may_hold(inner, met) for inner in get_args(hint))
    if not isinstance(hint, type) or hint in met or not hint.__module__.startswith(RECORDS) or not is_dataclass(hint):
        return False
    return any(_may_hold(inner, met | {hint}) for inner in get_type_hints(hint).values())


def design_values(design: Design) -> tuple[Value, ...]:
    """Return every value of a design once, in the order in which it is made."""
    found: dict[str, Value] = {}
    for value in values_of(design):
        found.setdefault(value.id, value)
    return tuple(found.values())


# What is wanted of a line, and no part of it.
AIMS: Final = frozenset({"wanted_current_a", "tone_hz", "length_m", "steps"})


def standing(design: Design, signal_id: str) -> dict[Path, Settled]:
    """Return the values a line has now, by their paths in the plan: what marking it as built freezes."""
    signal = design.signals[signal_id]
    line, level = signal.line, signal.level
    places: dict[Path, Settled] = {pin.path: pin.label for pin in (signal.pin, signal.far_pin) if pin and pin.label}
    if level is not None and not level.is_omitted:
        places[(*line.path, "shift", "school")] = level.school.id
        if line.is_spoken:
            places[(*line.path, "is_omitted")] = False
        told = design.plan.signals.get(line.id)
        if level.pull is not None and (line.kind != "bus" or (told is not None and told.pull_to is not None)):
            places[(*line.path, "pull_to")] = (told.pull_to if told is not None else None) or "ground"
    lamp = design.lamps.get(line.owner_id) if line.owner[0] == "lamps" else None
    held: list[object] = [level]
    if lamp is not None:
        channel = next((it for it in lamp.channels if it.signal_id == line.id), None)
        places |= _of_lamp(design, lamp, channel)
        held += [channel, lamp.switch, lamp.load]
    for value in values_of(tuple(held)):
        if not value.path or value.path[-1] in AIMS or value.path[0] not in ("signals", "lamps") or value.value is None:
            continue
        if "overrides" not in value.path:
            places[value.path] = value.value
        else:
            told = value_at(dump_plan(design.plan, {value.path[0]: {value.path[1]}}), value.path)
            places |= {(*value.path, key): it for key, it in told.items() if key != "note"} if isinstance(told, dict) else {}
    return places


def _of_lamp(design: Design, lamp: LampDesign, channel: ChannelDesign | None) -> dict[Path, Settled]:
    """Return what was chosen of a lamp: its LEDs, its drive, its part."""
    at: Path = ("lamps", lamp.id)
    places: dict[Path, Settled] = {}
    if lamp.common is not None:
        places[(*at, "common")] = lamp.common.id
    if lamp.school is not None:
        places[(*at, "drive", "school")] = lamp.school.id
    switch = lamp.switch or (channel.switch if channel else None)
    if switch is not None:
        places[(*at, "drive", "choice", "part")] = switch.part.id
        if switch.gate is not None:
            places[(*at, "drive", "values", "has_pull_down")] = switch.has_pull_down
    if lamp.load is not None:
        places[(*at, "choice", "part")] = lamp.load.part_id
        if lamp.load.is_coil:
            places[(*at, "drive", "values", "has_flyback")] = lamp.load.has_flyback
    if channel is not None:
        inside: Path = (*at, "channels", channel.id)
        places[(*inside, "led", "part")] = channel.led.id
        places[(*inside, "in_series")] = channel.in_series
        places[(*inside, "in_parallel")] = channel.in_parallel
        places[(*inside, "sharing")] = channel.sharing
    return places
