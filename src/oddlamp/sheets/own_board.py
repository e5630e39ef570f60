"""The sheet of a board of one's own: its pin table typed a column at a time, and the picture that comes of it."""

from collections.abc import Iterator
from typing import Final

from oddlamp.core.checks.findings import Move
from oddlamp.core.design.design import Design
from oddlamp.core.english import and_list, inner, plural
from oddlamp.core.parts.models import BoardPart
from oddlamp.core.parts.own_board import columns_of
from oddlamp.core.plan.document import at_path
from oddlamp.core.plan.model import OwnPart
from oddlamp.core.plan.own_board import EDGES, GROUPED, LABELS, RUNS, OwnBoard, Route, column_text
from oddlamp.sheets.models import Choice, Entry, Option, Panel, Sheet
from oddlamp.sheets.parts import figure_entries, out_move, users_of
from oddlamp.sheets.pins import outline

NONE: Final = "none"
# How each column is typed.
HOW: Final[dict[str, str]] = {
    "top": "such as 0-13, or D0 D1 RX TX; the USB is at the left",
    "right": "such as 22-53, in two columns",
    "bottom": "such as A0-A5",
    "numbers": "such as D0=16 D1=5, only 16 5 4 in the order of the pins, or as printed",
    "pwm": "such as 3 5 6 9-11, all, or all but 4 5",
    "timers": "such as 2: 11/3, which is timer 2 with its outputs A and B",
    "volts": "such as A0-A5",
    "converters": "such as 1: 32-39; 2: 0 2 4, where there are several",
    "makes_volts": "a pin with a converter from numbers to volts",
    "serial": "such as 0/1, 19/18: port 0 hears on 0 and speaks on 1, port 1 hears on 19",
    "software_serial": "only where not all pins do",
    "interrupt": "pins with an interrupt",
    "two_wire": "data/clock, such as A4/A5",
    "spi": "out/in/clock, such as 11/12/13",
    "only_in": "read high or low, never driven",
    "only_out": "driven, never read",
    "not_digital": "neither driven nor read as high or low",
    "straps": "such as high: 0 2; low: 15, the level the chip must find there",
    "mild_straps": "the chip runs with the other level too",
    "pulls": "such as up 12k: D3 D4; down 12k: D8",
    "at_start": "such as high: D0; pulses: D3; talks: TX, until the program runs",
    "busy": "such as upload: 0 1; LED: 13; also memory, reset, USB, programming",
    "sources": "whose facts are from memory until you read them in its document",
}
PANELS: Final = (
    ("Its pins, as printed", "seen from above; blanks between, and 0-13 is a run", ("top", "right", "bottom", "numbers")),
    (
        "What they can do",
        "one line for all pins; a pin is output and input unless told otherwise",
        (
            "pwm", "timers", "volts", "converters", "makes_volts", "serial", "software_serial", "interrupt", "two_wire", "spi",
            "only_in", "only_out", "not_digital",
        ),
    ),
    ("What hangs on them, and what moves before the program runs", "", ("busy", "pulls", "straps", "mild_straps", "at_start")),
)  # fmt: skip
COUNTS: Final = ("ram_bytes", "flash_bytes", "timer_hz", "pwm_steps", "tone_timer", "radios", "deaf_on_wifi")
HINTS: Final = {
    "timer_hz": "such as 0: 977 Hz, where not all dim at the board's own",
    "radios": "classic, ble, wifi",
    "deaf_on_wifi": "such as 2: what reads nothing while its Wi-Fi runs",
}
ROUTES: Final[dict[Route, str]] = {
    "usb": "its USB plug",
    "usb-native": "USB in the chip",
    "usb-drive": "as a USB drive",
    "usb-plugged-in": "plugged in when asked",
    "adapter": "a serial adapter",
    "programmer": "a programmer",
    "over-the-air": "over the air",
}


def own_board_sheet(design: Design, part_id: str) -> Sheet:
    """Build the sheet of a board of the user's own."""
    own, part = design.plan.parts[part_id], design.catalog.boards[part_id]
    board = own.board
    users = users_of(design, part_id)
    recalled = [label for key, run in (board.sources if board else {}).items() for label in run if key != "own"]
    where = f" Of {plural(len(recalled), 'pin')} the facts are not from you: read them in its document." if recalled else ""
    return Sheet(
        stage=f"parts.{part_id}",
        kind="parts",
        title=own.label,
        sentence=_sentence(part),
        detail=(f"Used by {and_list(users)}." if users else "Not used yet.") + where,
        pictures=(outline(part, {}, {}),) if part.pins else (),
        panels=_panels(own, board, part, part_id)
        if board is not None
        else (Panel(title="", note=f"Its pins are those of the {inner(design.catalog.boards[own.like].label)}."),),
        file=part_id,
        moves=tuple(_moves(design, own, part, part_id, recalled)),
    )


def _sentence(part: BoardPart) -> str:
    if not part.pins:
        return "No pins yet: type what is printed along its edges."
    counts = [("pwm", "dims", "dim"), ("analog-in", "reads volts", "read volts")]
    found = [(sum(able in pin.abilities for pin in part.pins), one, many) for able, one, many in counts]
    said = [f"{count} {one if count == 1 else many}" for count, one, many in found if count]
    ports = len({pin.port for pin in part.pins if pin.port is not None})
    return plural(len(part.pins), "pin") + (f": {and_list(said)}" if said else "") + f"; {plural(ports, 'serial port')}."


def _panels(own: OwnPart, board: OwnBoard, part: BoardPart, part_id: str) -> tuple[Panel, ...]:
    path = ("parts", part_id, "board")
    name = Entry(label="Name", text=own.label, path=("parts", part_id, "label"), origin="own")
    typed = [
        Panel(title=title, note=note, entries=tuple(_column(board, it, path) for it in columns))
        for title, note, columns in PANELS
    ]
    first = typed[0].model_copy(update={"entries": (name, *typed[0].entries)})
    route = Choice(
        label=LABELS["route"],
        origin="own",
        options=tuple(
            Option(label=label, patch=at_path((*path, "route"), it), is_chosen=it == board.route) for it, label in ROUTES.items()
        ),
    )
    counts = tuple(_count(board, it, path) for it in COUNTS)
    figures = figure_entries(part, f"parts.{part_id}", "parts", part_id, "figures")
    return (
        first,
        *typed[1:],
        Panel(title="The board itself", choices=(route,), entries=(*counts, _column(board, "sources", path))),
        Panel(title="Its figures", note="a spread is typed as 5 V (4.5 to 5.5 V)", entries=figures, is_folded=True),
    )


def _column(board: OwnBoard, name: str, path: tuple[str, ...]) -> Entry:
    value = getattr(board, name)
    text = column_text(name, value, board.pins) or NONE
    return Entry(
        label=LABELS[name],
        text=text,
        path=(*path, name),
        origin="own" if value else "proposed",
        because=None if value else "nothing is told of it",
        hint=HOW[name],
    )


def _count(board: OwnBoard, name: str, path: tuple[str, ...]) -> Entry:
    value = getattr(board, name)
    text = column_text(name, value, board.pins)
    return Entry(
        label=LABELS[name],
        text=text or NONE,
        path=(*path, name),
        origin="own" if text else "proposed",
        because=None if text else "nothing is told of it",
        hint=HINTS.get(name),
    )


def _moves(design: Design, own: OwnPart, part: BoardPart, part_id: str, recalled: list[str]) -> Iterator[Move]:
    path = ("parts", part_id, "board")
    if own.board is None:
        yield Move(label="Tell its pins myself, starting from these", patch=at_path(path, columns_of(part)))
    elif part.pins:
        if recalled:
            yield Move(label="I read all of it in its document", patch=at_path((*path, "sources"), None))
        yield Move(
            label="Begin with no pins", patch=at_path(path, dict.fromkeys((*EDGES, *RUNS, *GROUPED, "numbers", "limits"), None))
        )
    yield out_move(design, part_id, own)
