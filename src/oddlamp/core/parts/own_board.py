"""A board of the user's own between its two forms: columns, as it is typed and kept, and pins, as all else reads it."""

from collections import defaultdict
from collections.abc import Iterable, Mapping
from typing import Any, Final, get_args

from oddlamp.core.parts.models import BoardPart, PortGroup
from oddlamp.core.parts.pins import Ability, Pin
from oddlamp.core.parts.sourced import Sourced
from oddlamp.core.plan.document import Document
from oddlamp.core.plan.own_board import OwnBoard

OWN: Final = "own"
RUN_OF: Final[Mapping[Ability, str]] = {
    "pwm": "pwm",
    "analog-in": "volts",
    "analog-out": "makes_volts",
    "software-serial-in": "software_serial",
    "interrupt": "interrupt",
}
GROUP_OF: Final[Mapping[Ability, tuple[str, str]]] = {
    "two-wire-data": ("two_wire", "data"),
    "two-wire-clock": ("two_wire", "clock"),
    "spi-out": ("spi", "out"),
    "spi-in": ("spi", "in"),
    "spi-clock": ("spi", "clock"),
}
HEARS: Final[Mapping[Ability, str]] = {"uart-rx": "hears", "uart-tx": "speaks"}
# What a board has that is neither a figure nor a pin, by the name of both forms.
PLAIN: Final = (
    "summary", "route", "radios", "ram_bytes", "flash_bytes", "timer_hz", "pwm_steps", "divides_by_8_or_16", "is_deaf_to_pixels", "is_clock_bound", "keeps_memory",
    "tone_timer", "deaf_on_wifi",
)  # fmt: skip


def pins_of(board: OwnBoard) -> tuple[Pin, ...]:
    """Read the pins out of the columns, edge by edge."""
    one = {
        name: _by_label(getattr(board, name))
        for name in ("timers", "converters", "straps", "pulls", "busy", "at_start", "sources")
    }
    return tuple(
        _pin(board, label, row, {name: it.get(label, "") for name, it in one.items()})
        for row in ("top", "right", "bottom")
        for label in getattr(board, row)
    )


def _by_label(groups: Mapping[str, Iterable[str]]) -> dict[str, str]:
    return {label: key for key, labels in groups.items() for label in labels}


def _pin(board: OwnBoard, label: str, row: str, one: Mapping[str, str]) -> Pin:
    can: set[str] = set()
    if label not in board.not_digital:
        can |= {"digital-out"} if label not in board.only_in else set()
        can |= {"digital-in"} if label not in board.only_out else set()
    can |= {it for it, name in RUN_OF.items() if label in getattr(board, name)}
    can |= {it for it, (name, key) in GROUP_OF.items() if label in getattr(board, name).get(key, ())}
    ports = {key.partition(".")[0]: None for key, labels in board.serial.items() if label in labels}
    can |= {it for it, way in HEARS.items() for port in ports if label in board.serial.get(f"{port}.{way}", ())}
    timer, _, channel = one["timers"].partition(".")
    way, _, ohm = one["pulls"].partition(" ")
    told: dict[str, Any] = {
        "chip": board.numbers.get(label),
        "timer": timer or None,
        "channel": channel or None,
        "port": int(next(iter(ports))) if ports else None,
        "converter": one["converters"] or None,
        "strap": one["straps"] or None,
        "board_pull": way or None,
        "board_pull_ohm": float(ohm) if ohm else None,
        "busy_with": one["busy"] or None,
    }
    return Pin.model_validate(
        {
            "label": label,
            "row": row,
            "can": tuple(it for it in get_args(Ability) if it in can),
            "strap_stops": label not in board.mild_straps,
            "at_start": one["at_start"] or "floats",
            "source": one["sources"] or OWN,
            **{key: it for key, it in told.items() if it is not None},
        }
    )


def board_of(part_id: str, label: str, board: OwnBoard, figures: Mapping[str, Sourced]) -> BoardPart:
    """Make a board out of its columns and its figures; raises ValidationError where a figure that every board has is missing."""
    pins = pins_of(board)
    converters = {pin.converter for pin in pins}
    groups = tuple(
        PortGroup(
            label=name,
            pins=it.pins,
            sink_a=None if it.sink_a is None else Sourced(value=it.sink_a, source=OWN),
            source_a=None if it.source_a is None else Sourced(value=it.source_a, source=OWN),
        )
        for name, it in board.limits.items()
    )
    plain = {name: getattr(board, name) for name in PLAIN}
    plain["deaf_on_wifi"] = tuple(it for it in board.deaf_on_wifi if it in converters)
    return BoardPart.model_validate({"id": part_id, "label": label, **plain, "port_groups": groups, "pins": pins, **figures})


def columns_of(part: BoardPart) -> Document:
    """Write what a board has besides its figures as the columns of an own board, a JSON document; nothing that is a default."""
    runs: dict[str, list[str]] = defaultdict(list)
    groups: dict[str, dict[str, list[str]]] = defaultdict(lambda: defaultdict(list))
    numbers: dict[str, int] = {}
    for pin in part.pins:
        runs[pin.row].append(pin.label)
        if pin.chip is not None:
            numbers[pin.label] = pin.chip
        is_out, is_in = "digital-out" in pin.abilities, "digital-in" in pin.abilities
        if not (is_out and is_in):
            runs["only_out" if is_out else "only_in" if is_in else "not_digital"].append(pin.label)
        for it in pin.can:
            if it in RUN_OF:
                runs[RUN_OF[it]].append(pin.label)
            elif it in GROUP_OF:
                groups[GROUP_OF[it][0]][GROUP_OF[it][1]].append(pin.label)
            elif it in HEARS:
                groups["serial"][f"{pin.port}.{HEARS[it]}"].append(pin.label)
        if pin.strap is not None and not pin.strap_stops:
            runs["mild_straps"].append(pin.label)
        for name, key in _once(pin):
            groups[name][key].append(pin.label)
    limits = {
        it.label: {
            "pins": list(it.pins),
            **{way: lim.value for way in ("sink_a", "source_a") if (lim := getattr(it, way)) is not None},
        }
        for it in part.port_groups
    }
    plain = {
        name: list(value) if isinstance(value, tuple) else value
        for name in PLAIN
        if (value := getattr(part, name)) != OwnBoard.model_fields[name].get_default(call_default_factory=True)
    }
    held = {"numbers": numbers, "limits": limits}
    return plain | dict(runs) | {name: dict(it) for name, it in groups.items()} | {key: it for key, it in held.items() if it}


def _once(pin: Pin) -> Iterable[tuple[str, str]]:
    """Yield the column and the name under which a pin stands there, where it stands under one only."""
    if pin.timer is not None:
        yield "timers", f"{pin.timer}.{pin.channel}"
    if pin.converter is not None:
        yield "converters", pin.converter
    if pin.strap is not None:
        yield "straps", pin.strap
    if pin.board_pull is not None and pin.board_pull_ohm is not None:
        yield "pulls", f"{pin.board_pull} {pin.board_pull_ohm:.12g}"
    if pin.busy_with is not None:
        yield "busy", pin.busy_with
    if pin.at_start != "floats":
        yield "at_start", pin.at_start
    if pin.source != OWN:
        yield "sources", pin.source
