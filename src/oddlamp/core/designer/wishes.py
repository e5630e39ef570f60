"""What the phone shall be able to do, as wishes; and what each comes to for the lamps of a host: what is carried, what follows, what it is best called by."""

from collections.abc import Collection, Iterator, Mapping
from types import MappingProxyType
from typing import Final, Literal, NamedTuple

from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import LampDesign
from oddlamp.core.plan.document import Document
from oddlamp.core.plan.lights import DIMMED_KINDS, DISPLAY_KINDS

Wish = Literal["switch", "level", "colour", "steps", "modes", "text", "score", "back", "answers"]
WISHES: Final[dict[Wish, str]] = {
    "switch": "on and off",
    "level": "how bright",
    "colour": "colours",
    "steps": "brighter and dimmer",
    "modes": "next mode",
    "text": "text",
    "score": "score",
    "back": "dark and back again",
    "answers": "answers, how each lamp is now",
}
CHANNELS: Final = ("red", "green", "blue")
SHADES: Final = {"red": (1, 0, 0), "green": (0, 1, 0), "blue": (0, 0, 1), "amber": (1, 0.35, 0), "white": (1, 1, 1)}
MODES: Final = "modes"
Values = Mapping[str, str]  # by the name of a value that is carried: how it is written, or what it is called


class Wanted(NamedTuple):
    """One thing that shall be said: what it is called, what it carries, and what follows; ``letters`` come to mind for it.

    Where words are there that do each of ``same``, it can be said already.
    """

    id: str
    label: str
    letters: str
    do: list[Document]
    carried: Values
    why: str
    called: Values = MappingProxyType({})
    same: tuple[list[Document], ...] = ()


def fitting(design: Design, host: str) -> list[Wish]:
    """Return the wishes that some lamp of a host can grant."""
    lamps = [it for it in design.lamps.values() if it.host == host and not it.sends_codes]
    dims = [it for it in lamps if it.kind in DIMMED_KINDS]
    shows = any(it.kind in DISPLAY_KINDS for it in lamps)
    has: dict[Wish, bool] = {
        "switch": bool(lamps),
        "level": bool(dims),
        "colour": any(it.kind == "rgb" for it in lamps),
        "steps": bool(dims),
        "modes": len(dims) > 1,
        "text": shows,
        "score": shows,
        "back": bool(lamps),
        "answers": bool(lamps),
    }
    return [wish for wish in WISHES if has[wish]]


def wanted_of(
    design: Design, host: str, wishes: Collection[Wish], *, carries: bool, undimmed: Collection[str] = ()
) -> Iterator[Wanted]:
    """Walk what shall be said for some wishes, what can carry a value with values where ``carries`` says so; ``undimmed`` lamps stay on or off."""
    lamps = [it for it in design.lamps.values() if it.host == host and not it.sends_codes]
    shaded = [it.id for it in lamps if it.kind in DIMMED_KINDS and it.id not in undimmed]
    for number, lamp in enumerate(lamps, 1):
        slid = carries and ((lamp.kind == "rgb" and "colour" in wishes) or (lamp.kind in DIMMED_KINDS and "level" in wishes))
        is_shaded = lamp.id in shaded
        if ("switch" in wishes and not (slid and is_shaded)) or (slid and not is_shaded):
            yield from _switched(lamp, number, carries=carries)
        if "colour" in wishes and lamp.kind == "rgb" and is_shaded:
            yield from _coloured(lamp, carries=carries)
        elif "level" in wishes and is_shaded and carries:
            values = {"level": "{level}"}
            do: Document = {"verb": "level", "target": lamp.id, "values": values}
            yield Wanted(
                f"{lamp.id}_level",
                f"{lamp.label}, how bright",
                lamp.label,
                [do],
                {"level": "decimal"},
                "0 is off, and off is safe to repeat",
            )
        if lamp.kind in DISPLAY_KINDS:
            yield from _shown(lamp, wishes, carries=carries)
    if shaded and ("steps" in wishes or ("level" in wishes and not carries)):
        for verb, letters in (("brighter", "+bB"), ("dimmer", "-dD")):
            do_all: list[Document] = [{"verb": verb, "target": it} for it in shaded]
            yield Wanted(verb, verb.capitalize(), letters, do_all, {}, "a step along each lamp's own ladder; at its end it stays")
    if "modes" in wishes and sum(it.kind in DIMMED_KINDS for it in lamps) > 1:
        yield Wanted(
            "next_mode", "Next mode", "nmN", [{"verb": "next", "target": MODES}], {}, "one lamp after the other, then all"
        )
    yield from _dark([it.id for it in lamps], is_remembered="back" in wishes)


def _switched(lamp: LampDesign, number: int, *, carries: bool) -> Iterator[Wanted]:
    if carries:
        do: Document = {"verb": "level", "target": lamp.id, "values": {"level": "{is_on}"}}
        yield Wanted(
            f"{lamp.id}_switch",
            f"{lamp.label}, on or off",
            lamp.label,
            [do],
            {"is_on": "bit"},
            "1 is on, 0 is off: safe to repeat",
            same=tuple([{"verb": verb, "target": lamp.id}] for verb in ("on", "off")),
        )
        return
    digit = str(number) if number < 10 else ""
    beside = chr(ord("a") + number - 1) if number < 10 else ""
    for verb, letters in (("on", digit), ("off", beside)):
        act: Document = {"verb": verb, "target": lamp.id}
        why = f"{letters or 'a letter'} for lamp {number}: on and off are two words, so that a repeat does no harm"
        yield Wanted(f"{lamp.id}_{verb}", f"{lamp.label} {verb}", letters, [act], {}, why)


def _coloured(lamp: LampDesign, *, carries: bool) -> Iterator[Wanted]:
    if carries:
        do: Document = {"verb": "colour", "target": lamp.id, "values": {it: f"{{{it}}}" for it in CHANNELS}}
        yield Wanted(
            f"{lamp.id}_colour",
            f"{lamp.label}, colour",
            "C" + lamp.label,
            [do],
            dict.fromkeys(CHANNELS, "decimal"),
            "red, green, blue, and 0 0 0 is off",
        )
        return
    for name, shade in SHADES.items():
        act: Document = {"verb": "colour", "target": lamp.id, "values": dict(zip(CHANNELS, shade, strict=True))}
        yield Wanted(
            f"{lamp.id}_{name}", f"{lamp.label} {name}", name[0].upper() + name, [act], {}, f"{name[0].upper()} for {name}"
        )


def _shown(lamp: LampDesign, wishes: Collection[Wish], *, carries: bool) -> Iterator[Wanted]:
    if "text" in wishes and carries:
        do: Document = {"verb": "text", "target": lamp.id, "values": {"text": "{text}"}}
        yield Wanted(
            f"{lamp.id}_text",
            f"{lamp.label}, text",
            "T" + lamp.label,
            [do],
            {"text": "text"},
            "a letter before it, so that no text is another word",
        )
    if "score" in wishes:
        more: Document = {"verb": "score", "target": lamp.id, "values": {"by_count": 1}}
        none: Document = {"verb": "score", "target": lamp.id, "values": {"count": 0}}
        yield Wanted(f"{lamp.id}_point", f"{lamp.label}, a point", "pP", [more], {}, "p for point; said twice it counts twice")
        yield Wanted(f"{lamp.id}_none", f"{lamp.label} at 0", "zZ", [none], {}, "z for zero")


def _dark(lamps: list[str], *, is_remembered: bool) -> Iterator[Wanted]:
    """End with the word that puts everything out; with another that brings back what there was, where that is wished."""
    off: list[Document] = [{"verb": "off", "target": it} for it in lamps]
    keep: list[Document] = [{"verb": "remember", "target": it} for it in lamps] if is_remembered else []
    if lamps:
        yield Wanted("dark", "Dark", "0xX", [*keep, *off], {}, "one word switches everything off")
    if lamps and is_remembered:
        yield Wanted(
            "back", "Back again", "9rR", [{"verb": "restore", "target": it} for it in lamps], {}, "all as it was before Dark"
        )
