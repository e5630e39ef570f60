"""What a word may do, offered by name; and what a list of actions does, in words."""

from collections.abc import Iterator, Mapping, Sequence
from functools import lru_cache

from oddlamp.core.base import Same
from oddlamp.core.behaviour.program import INPUT
from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import LampDesign
from oddlamp.core.designer.wishes import CHANNELS
from oddlamp.core.english import inner
from oddlamp.core.layouts.can import face_of
from oddlamp.core.plan.lights import COLOUR_KINDS, DISPLAY_KINDS, PIXEL_KINDS, SWITCHED_KINDS
from oddlamp.core.plan.model import Plan
from oddlamp.core.plan.signals import label_of, span_of, told_by
from oddlamp.core.sentences.forms import COLOURS
from oddlamp.core.sentences.names import Names
from oddlamp.core.sentences.printing import Printer
from oddlamp.sheets.movers import movers_at, turns_of

Action = dict[str, object]
Deed = tuple[str, list[Action]]
SLOWLY_S = 1.0
STAYS_S = 30.0
STEP_S = 0.1
TONE_S = 0.5
NOTES = (("A4", 440.0), ("C5", 523.0), ("E5", 659.0))
PATTERNS = (
    ("wipe", "one pixel after the other"),
    ("chase", "every third goes along"),
    ("bounce", "one to and fro"),
    ("random", "one by chance"),
    ("rain", "rain"),
    ("neighbours", "rule of neighbours"),
)
FIRST_CODE = 1
CUE_DEEDS = (("next", "next of"), ("cue", "starts"), ("stop", "stops"))
SHADES = ((0.25, "quarter"), (0.5, "half"), (1.0, "full"))
OFFERED = ("red", "green", "blue", "amber", "moonlight")


def deeds_of(design: Design, host: str, carried: Mapping[str, str]) -> list[Deed]:
    """List what a word that carries some values, by name how each is written, may do at a host, each with its actions."""
    return [*_taken(design, carried, host), *_deeds(design, host)]


def _taken(design: Design, carried: Mapping[str, str], host: str) -> list[Deed]:
    """List what the values of a word may do: a lamp as bright as one says, a colour of three, a text, a score."""
    deeds = list[Deed]()
    texts = [name for name, written in carried.items() if written == "text"]
    names = [name for name in carried if name not in texts]
    deeds += [
        (f"{label_of(mover.label, it)} at the speed {{{name}}}", [_told("run", it, speed=f"{{{name}}}")])
        for it, mover in movers_at(design, host)
        for name in names
    ]
    for lamp in (it for it in design.lamps.values() if it.host == host and carried):
        if _writes(design, lamp):
            deeds += [(f"{lamp.label} shows {{{it}}}", [_told("text", lamp.id, text=f"{{{it}}}")]) for it in texts]
            deeds += [(f"{lamp.label} at {{{it}}} points", [_told("score", lamp.id, count=f"{{{it}}}")]) for it in names]
        deeds += [(f"{lamp.label} as bright as {{{it}}}", [_told("level", lamp.id, level=f"{{{it}}}")]) for it in names]
        if lamp.kind == "rgb" and len(names) >= len(CHANNELS):
            told = dict(zip(CHANNELS, (f"{{{name}}}" for name in names), strict=False))
            deeds.append((f"{lamp.label} in the colour it carries", [_told("colour", lamp.id, **told)]))
    return deeds


def _writes(design: Design, lamp: LampDesign) -> bool:
    return face_of(design.plan.lamps[lamp.id]) is not None


def _told(verb: str, target: str, **values: object) -> Action:
    return {"verb": verb, "target": target, **({"values": values} if values else {})}


def _deeds(design: Design, host: str) -> list[Deed]:
    lamps = [lamp for lamp in design.lamps.values() if lamp.host == host]
    deeds: list[Deed] = []
    if len(lamps) > 1:
        deeds += [(f"everything {verb}", [_told(verb, lamp.id) for lamp in lamps]) for verb in ("on", "off")]
    for name, mover in movers_at(design, host):
        deeds += [(f"{label_of(mover.label, name)} {word}", [told]) for word, told in turns_of(name, mover)]
    for name, cue in design.plan.cues.items():
        deeds += [(f"{word} {cue.label or name}", [_told(verb, name)]) for verb, word in CUE_DEEDS]
    for lamp in lamps:
        deeds += [(f"{lamp.label} {verb}", [_told(verb, lamp.id)]) for verb in ("on", "off", "toggle")]
        deeds += _over_time(lamp)
        deeds += _of_its_kind(design, lamp)
        if _writes(design, lamp):
            deeds.append((f"{lamp.label} one point more", [_told("score", lamp.id, by_count=1)]))
            deeds.append((f"{lamp.label} at 0 points", [_told("score", lamp.id, count=0)]))
        if lamp.kind not in (*SWITCHED_KINDS, *DISPLAY_KINDS):
            deeds += [(f"{lamp.label} {verb}", [_told(verb, lamp.id)]) for verb in ("brighter", "dimmer")]
        deeds += [(f"{lamp.label} to {name}", [_told("level", lamp.id, level=level)]) for level, name in SHADES]
        if lamp.kind in COLOUR_KINDS:
            deeds += [
                (f"{lamp.label} {name}", [_told("colour", lamp.id, **dict(zip(CHANNELS, shade, strict=True)))])
                for name, shade in ((it, COLOURS[it]) for it in OFFERED)
            ]
    return deeds


def _of_its_kind(design: Design, lamp: LampDesign) -> Iterator[Deed]:
    """Offer what only some kinds of lamps can do: patterns, tones, codes, values and the time."""
    if lamp.kind in PIXEL_KINDS:
        yield from ((f"{lamp.label}: {name}", [_told("pattern", lamp.id, pattern=key, step_s=STEP_S)]) for key, name in PATTERNS)
    if lamp.kind == "buzzer":
        yield from (
            (f"{lamp.label} sounds {note}", [_told("tone", lamp.id, tone_hz=hertz, for_s=TONE_S)]) for note, hertz in NOTES
        )
    if lamp.sends_codes:
        codes = {it.code: it.label for handset in design.handsets.values() for it in handset.controls if it.code is not None}
        for code, label in (codes or {FIRST_CODE: "a code"}).items():
            yield f"{lamp.label} sends {label}", [_told("send", lamp.id, code=code)]
    if _writes(design, lamp):
        yield f"{lamp.label} shows the time", [_told("show", lamp.id)]
        for name, it in design.plan.inputs.items():
            if it.host == told_by(design.plan, lamp.host) and it.kind in ("knob", "sensor"):
                span = span_of(it)
                ends = "0 to 100" if span is None else f"{span.least} to {span.most} {span.unit}"
                yield f"{lamp.label} shows {inner(label_of(it.label, name))}, {ends}", [_told("show", lamp.id, input=name)]


def _over_time(lamp: LampDesign) -> Iterator[Deed]:
    """Offer what takes its time; how long is turned at the behaviour."""
    if lamp.kind not in (*SWITCHED_KINDS, *DISPLAY_KINDS):
        yield from ((f"{lamp.label} slowly {verb}", [_told(verb, lamp.id, over_s=SLOWLY_S)]) for verb in ("on", "off"))
    yield f"{lamp.label} on, off after {STAYS_S:g} s", [_told("on", lamp.id), {**_told("off", lamp.id), "after_s": STAYS_S}]
    yield f"{lamp.label} blinks", [_told("blink", lamp.id)]


def _own_pixels(design: Design, name: str, event: str) -> Iterator[Deed]:
    """Offer, for inputs of which there are several alike, the pixel at the place of each."""
    it = design.plan.inputs[name]
    chains = [lamp for lamp in design.lamps.values() if lamp.host == it.host and lamp.kind in PIXEL_KINDS]
    for lamp in chains if (it.count or 1) > 1 else ():
        if event == "moved":
            shares = dict.fromkeys(CHANNELS, INPUT)
            yield f"its own pixel of {inner(lamp.label)} as bright as it is", [_told("colour", lamp.id, **shares, first=INPUT)]
            continue
        for shade, told in ((it, COLOURS[it]) for it in (*OFFERED, "dark")):
            mixed = dict(zip(CHANNELS, told, strict=True))
            yield f"its own pixel of {inner(lamp.label)} {shade}", [_told("colour", lamp.id, **mixed, first=INPUT)]


def input_deeds(design: Design, name: str, event: str) -> list[Deed]:
    """List what an event of an input may do: what is turned gives its own value, the rest is as for words."""
    host = design.plan.inputs[name].host
    if event != "moved":
        return [*_own_pixels(design, name, event), *_deeds(design, host)]
    deeds = [
        (f"{label_of(mover.label, it)} as fast as it is turned, either way", [_told("run", it, speed=INPUT)])
        for it, mover in movers_at(design, host)
    ]
    for lamp in (it for it in design.lamps.values() if it.host == host and it.kind not in (*SWITCHED_KINDS, *DISPLAY_KINDS)):
        deeds.append((f"{lamp.label} as bright as it is turned", [_told("level", lamp.id, level="input")]))
        if lamp.kind in COLOUR_KINDS:
            deeds += [(f"as much {it} in {inner(lamp.label)}", [_told("colour", lamp.id, **{it: "input"})]) for it in CHANNELS]
    deeds = [*_own_pixels(design, name, event), *deeds]
    if len(deeds) > 1:
        lamps = [it.id for it in design.lamps.values() if it.host == host and it.kind not in (*SWITCHED_KINDS, *DISPLAY_KINDS)]
        deeds.insert(0, ("everything as bright as it is turned", [_told("level", it, level="input") for it in lamps]))
    return deeds


@lru_cache(maxsize=8)
def _names(of: Same[Plan], host: str) -> Names:
    return Names(of.it, host)


def describe(design: Design, host: str, actions: Sequence[Action]) -> str:
    """Say in words what a list of actions of a host does: as its sentences do."""
    printer = Printer(_names(Same(design.plan), host))
    return ", ".join(map(printer.action, actions))
