"""What runs ahead and back: what it can be told, in words, and the panels that hold its pause and its codes."""

from collections.abc import Iterator
from typing import Final

from oddlamp.core.base import first_free, si
from oddlamp.core.behaviour.tables import PAUSE_S, SPEEDS_MOST, speed_codes
from oddlamp.core.checks.findings import Move
from oddlamp.core.design.design import Design
from oddlamp.core.plan.document import at_path
from oddlamp.core.plan.edits import TakingOut
from oddlamp.core.plan.rules import SPEED_BITS, Mover, MoverCodes
from oddlamp.core.plan.signals import label_of, told_by
from oddlamp.sheets.models import Choice, Entry, Option, Panel

Action = dict[str, object]
MOVES: Final = ("relay", "motor")  # kinds of lamps of which two make a mover
FINGERS: Final = "Fingers: keep them out, and fit a switch that takes the motor's supply away."
LOST: Final = "Codes may be missed: a stop is sent again each time it is said."
WRITTEN: Final = (
    ("twos-complement", "Two's complement", "in 4 bits 5 back is 11"),
    ("offset", "Counted from the fastest back", "the fastest back is 0"),
)


def _told(verb: str, target: str, **values: object) -> Action:
    return {"verb": verb, "target": target, **({"values": values} if values else {})}


def movers_at(design: Design, host: str) -> list[tuple[str, Mover]]:
    """List the movers that a host moves."""
    return [(name, it) for name, it in design.plan.movers.items() if told_by(design.plan, design.lamps[it.lamps[0]].host) == host]


def turns_of(name: str, mover: Mover) -> Iterator[tuple[str, Action]]:
    """List what a mover can be told, in words and as an action."""
    if mover.ahead is not None and mover.back is not None:
        yield from (("runs ahead", _told("on", mover.ahead)), ("runs back", _told("on", mover.back)))
    else:
        most = len(speed_codes(mover.codes or MoverCodes())) // 2
        yield from ((f"runs {way}", _told("run", name, speed=speed)) for way, speed in (("ahead", most), ("back", -most)))
        yield from ((f"creeps {way}", _told("run", name, speed=speed)) for way, speed in (("ahead", 1), ("back", -1)))
    yield from (
        ("stops", _told("stop", name)),
        ("turns round", _told("reverse", name)),
        ("goes on as before", _told("resume", name)),
        ("one speed more ahead", _told("step", name, by_count=1)),
        ("one speed more back", _told("step", name, by_count=-1)),
    )


def mover_panels(design: Design, host: str) -> Iterator[Panel]:
    """Tell of each mover what it is made of, and let its pause and its codes be turned."""
    for name, it in movers_at(design, host):
        label = label_of(it.label, name)
        pause = Entry(
            label="Pause between the two ways",
            text=si(PAUSE_S if it.pause_s is None else it.pause_s, "s"),
            path=("movers", name, "pause_s"),
            origin="proposed" if it.pause_s is None else "own",
            because="a small motor has come to rest by then" if it.pause_s is None else None,
            settles=PAUSE_S if it.pause_s is None else None,
        )
        called = Entry(
            label="Name",
            text=label,
            path=("movers", name, "label"),
            origin="own" if it.label else "proposed",
            settles=None if it.label else label,
        )
        out = TakingOut(design.plan).without([("movers", name)])
        if it.sender is not None:
            codes = it.codes or MoverCodes()
            sent = speed_codes(codes)
            most = len(sent) // 2
            told = f"stop is {sent[most]:X}, 1 ahead {sent[most + 1]:X}, 1 back {sent[most - 1]:X}"
            yield Panel(
                title=f"{label}: codes of {design.lamps[it.sender].label}, speeds {most} back to {most} ahead",
                entries=(called, *_code_entries(name, codes, most), pause),
                choices=_code_choices(name, codes),
                lines=(f"What it is sent: {told}.", LOST, FINGERS),
                moves=(Move(label=f"Let {label} go", patch=out),),
            )
            continue
        ways = f"{design.lamps[it.ahead or ''].label} ahead, {design.lamps[it.back or ''].label} back"
        yield Panel(
            title=f"{label}: {ways}, never both",
            entries=(called, pause),
            lines=(FINGERS,),
            moves=(Move(label=f"Let {label} be two lamps again", patch=out),),
        )


def _code_entries(name: str, codes: MoverCodes, most: int) -> tuple[Entry, ...]:
    path = ("movers", name, "codes")
    first = Entry(
        label="Its first code",
        text=f"0x{codes.first_code or 0:X}",
        path=(*path, "first_code"),
        origin="proposed" if codes.first_code is None else "own",
        because="a speed is added to it: its maker tells it, or a remote that moves the same thing"
        if codes.first_code is None
        else None,
        hint="hexadecimal, such as 0x20DF00",
    )
    speeds = Entry(
        label="Speeds each way",
        text=str(most),
        path=(*path, "speeds"),
        origin="proposed" if codes.speeds is None else "own",
        because=f"all that {codes.bits or SPEED_BITS} bits hold" if codes.speeds is None else None,
        settles=most if codes.speeds is None else None,
        lower=most - 1 if most > 1 else None,
        higher=most + 1 if most < (1 << ((codes.bits or SPEED_BITS) - 1)) - 1 and most < SPEEDS_MOST else None,
    )
    return first, speeds


def _code_choices(name: str, codes: MoverCodes) -> tuple[Choice, ...]:
    path = ("movers", name, "codes")
    bits = tuple(
        Option(label=f"{it} bits", patch=at_path(path, {"bits": it, "speeds": None}), is_chosen=it == (codes.bits or SPEED_BITS))
        for it in (4, 8, 16)
    )
    written = tuple(
        Option(
            label=label,
            detail=detail,
            patch=at_path((*path, "signed"), key),
            is_chosen=key == (codes.signed or "twos-complement"),
        )
        for key, label, detail in WRITTEN
    )
    return (
        Choice(
            label="A speed takes",
            origin="own" if codes.bits else "proposed",
            because=None if codes.bits else "usual in small codes",
            options=bits,
        ),
        Choice(
            label="Back is written in",
            origin="own" if codes.signed else "proposed",
            because=None if codes.signed else "usual in small codes",
            options=written,
        ),
    )


def mover_moves(design: Design, host: str) -> Iterator[Move]:
    """Offer that two relays, or both inputs of a motor driver, are the two ways of one mover, and that codes move something."""
    taken = {lamp for it in design.plan.movers.values() for lamp in it.lamps}
    free = [it for it in design.lamps.values() if told_by(design.plan, it.host) == host and it.id not in taken]
    name = first_free("mover", design.plan.movers.__contains__)
    for kind in MOVES:
        mine = [it for it in free if it.kind == kind]
        for ahead, back in zip(mine[::2], mine[1::2], strict=False):
            patch = at_path(("movers", name), {"ahead": ahead.id, "back": back.id})
            yield Move(label=f"Make a mover of {ahead.label} and {back.label}", patch=patch)
    for it in free:
        if it.sends_codes:
            yield Move(label=f"Let codes of {it.label} move something", patch=at_path(("movers", name), {"sender": it.id}))
