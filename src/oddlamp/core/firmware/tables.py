"""Tables of a printed program: cues, movers, ladders, and how signs are drawn."""

from typing import Final

from oddlamp.core.behaviour.program import CodedSpec, MoverSpec, Program
from oddlamp.core.design.design import Design
from oddlamp.core.firmware.calls import Row
from oddlamp.core.firmware.names import named, said
from oddlamp.core.layouts.glyphs import MISSING, NARROW_FONT, WIDE_FONT, bars_of

SIGNS_FROM: Final = 32
SIGNS_UNTIL: Final = 127
NO_DOT: Final = 65535


def cue_tables(design: Design, program: Program) -> tuple[list[Row], list[Row], list[Row]]:
    """Return what cues set, their pictures, and the cues."""
    settings, frames, cues = list[Row](), list[Row](), list[Row]()
    for name, code in program.cues.items():
        cues.append(
            {
                "name": named("CUE", name),
                "label": said(design.plan.cues[name].label or name),
                "first": len(frames),
                "count": len(code.frames),
                "loops": code.loops,
            }
        )
        for frame in code.frames:
            first = len(settings)
            for it in frame.pictures:
                shares = [-1 if one is None else one for one in it.shares or (None, None, None)]
                settings += [
                    {
                        "lamp": named("LAMP", lamp),
                        "level": -1 if it.level is None else it.level,
                        "shares": shares,
                        "over_ms": it.over_ms,
                        "first": -1 if it.first is None or it.shares is None else it.first,
                        "last": it.last,
                    }
                    for lamp in it.lamps
                ]
            frames.append({"after_ms": frame.after_ms, "first": first, "count": len(settings) - first})
    return settings, frames, cues


def sign_tables(lamps: list[Row]) -> Row:
    """Return the tables of signs, and where each pixel stands."""
    signs = [chr(it) for it in range(SIGNS_FROM, SIGNS_UNTIL)]
    chains = [it for it in lamps if it["count"]]
    stands = [it["spec"].stand for it in lamps]
    dots, rows, columns = list[tuple[int, int]](), list[int](), list[int]()
    for it in chains:
        stand = it["spec"].stand
        mine = list(stand.dots) if stand is not None and it["signs"] else []
        dots += [*mine, *[(NO_DOT, 0)] * (it["count"] - len(mine))][: it["count"]]
        rain = stand.rain if stand is not None else ()
        rows += [row for row, _ in rain][: it["count"]]
        columns += [column for _, column in rain][: it["count"]]
    return {
        "wide": [WIDE_FONT.get(it, WIDE_FONT[MISSING]) for it in signs],
        "narrow": [NARROW_FONT.get(it.upper(), NARROW_FONT[MISSING]) for it in signs],
        "bars": [sum(1 << (ord(bar) - ord("a")) for bar in bars_of(it)) for it in signs],
        "dots": dots,
        "pixel_rows": rows,
        "pixel_columns": columns,
        "chain_rows": [it.rows if it is not None else 1 for it in stands],
    }


def mover_table(program: Program, ladders: list[tuple[int, ...]]) -> list[Row]:
    """Return the movers of two lamps."""
    found = []
    for it in program.movers.values():
        if isinstance(it, MoverSpec):
            ladder = min((program.lamps[one].ladder for one in it[:2]), key=len)
            row = {"ahead": named("LAMP", it.ahead), "back": named("LAMP", it.back), "pause_ms": it.pause_ms}
            found.append({**row, "ladder": place_of(ladders, ladder), "rungs": len(ladder)})
    return found


def coded_table(program: Program) -> list[Row]:
    """Return what codes move."""
    return [
        {"sender": named("LAMP", it.sender), "most": it.most, "pause_ms": it.pause_ms, "codes": it.codes}
        for it in program.movers.values()
        if isinstance(it, CodedSpec)
    ]


def place_of(ladders: list[tuple[int, ...]], ladder: tuple[int, ...]) -> int:
    """Return the place of a ladder among all, each once."""
    if ladder not in ladders:
        ladders.append(ladder)
    return ladders.index(ladder)


def kinds_of(pieces: list[Row]) -> set[str]:
    """Return which kinds of pieces words are made of, as far as they are read in ways of their own."""
    ways = {
        "NUMBER": "number",
        "FREE_TEXT": "text",
        "XOR_OF": "check",
        "SUM_OF": "check",
        "CRC_OF": "check",
        "LETTERS_OF": "letters",
    }
    return {ways.get(it["kind"], "raw") for it in pieces}


def of_day_ms(time: str) -> int:
    """Return a time of day in milliseconds."""
    hours, _, minutes = time.partition(":")
    return (60 * int(hours) + int(minutes)) * 60_000
