"""What a word may do, offered by name; and what a list of actions does, in words."""

from collections.abc import Mapping, Sequence

from oddlamp.core.base import si
from oddlamp.core.design.design import Design
from oddlamp.core.designer.wishes import CHANNELS
from oddlamp.core.plan.lights import DISPLAY_KINDS, SWITCHED_KINDS

Action = dict[str, object]
Deed = tuple[str, list[Action]]
SHADES = ((0.25, "quarter"), (0.5, "half"), (1.0, "full"))
COLOURS = {
    "red": (1.0, 0.0, 0.0),
    "green": (0.0, 1.0, 0.0),
    "blue": (0.0, 0.0, 1.0),
    "amber": (1.0, 0.35, 0.0),
    "moonlight": (0.6, 0.75, 1.0),
}


def deeds_of(design: Design, host: str, carried: Mapping[str, str]) -> list[Deed]:
    """List what a word that carries some values, by name how each is written, may do at a host, each with its actions."""
    return [*_taken(design, carried, host), *_deeds(design, host)]


def _taken(design: Design, carried: Mapping[str, str], host: str) -> list[Deed]:
    """List what the values of a word may do: a lamp as bright as one says, a colour of three, a text, a score."""
    deeds = list[Deed]()
    texts = [name for name, written in carried.items() if written == "text"]
    names = [name for name in carried if name not in texts]
    for lamp in (it for it in design.lamps.values() if it.host == host and carried):
        if lamp.kind in DISPLAY_KINDS:
            deeds += [(f"{lamp.label} shows {{{it}}}", [_told("text", lamp.id, text=f"{{{it}}}")]) for it in texts]
            deeds += [(f"{lamp.label} at {{{it}}} points", [_told("score", lamp.id, count=f"{{{it}}}")]) for it in names]
        deeds += [(f"{lamp.label} as bright as {{{it}}}", [_told("level", lamp.id, level=f"{{{it}}}")]) for it in names]
        if lamp.kind == "rgb" and len(names) >= len(CHANNELS):
            told = dict(zip(CHANNELS, (f"{{{name}}}" for name in names), strict=False))
            deeds.append((f"{lamp.label} in the colour it carries", [_told("colour", lamp.id, **told)]))
    return deeds


def _told(verb: str, target: str, **values: object) -> Action:
    return {"verb": verb, "target": target, **({"values": values} if values else {})}


def _deeds(design: Design, host: str) -> list[Deed]:
    lamps = [lamp for lamp in design.lamps.values() if lamp.host == host]
    deeds: list[Deed] = []
    if len(lamps) > 1:
        deeds += [(f"everything {verb}", [_told(verb, lamp.id) for lamp in lamps]) for verb in ("on", "off")]
    deeds += [(f"next of {cue.label or name}", [_told("next", name)]) for name, cue in design.plan.cues.items()]
    for lamp in lamps:
        deeds += [(f"{lamp.label} {verb}", [_told(verb, lamp.id)]) for verb in ("on", "off", "toggle")]
        if lamp.kind in DISPLAY_KINDS:
            deeds.append((f"{lamp.label} one point more", [_told("score", lamp.id, by_count=1)]))
            deeds.append((f"{lamp.label} at 0 points", [_told("score", lamp.id, count=0)]))
        if lamp.kind not in (*SWITCHED_KINDS, *DISPLAY_KINDS):
            deeds += [(f"{lamp.label} {verb}", [_told(verb, lamp.id)]) for verb in ("brighter", "dimmer")]
        deeds += [(f"{lamp.label} to {name}", [_told("level", lamp.id, level=level)]) for level, name in SHADES]
        if lamp.kind == "rgb":
            deeds += [
                (f"{lamp.label} {name}", [_told("colour", lamp.id, **dict(zip(CHANNELS, shade, strict=True)))])
                for name, shade in COLOURS.items()
            ]
    return deeds


def describe(design: Design, actions: Sequence[Action]) -> str:
    """Say in words what a list of actions does."""
    return ", ".join(_described(design, action) for action in actions)


def _described(design: Design, action: Action) -> str:
    target = str(action.get("target", ""))
    group, cue = design.plan.groups.get(target), design.plan.cues.get(target)
    label = (
        design.lamps[target].label if target in design.lamps else (group.label if group else cue.label if cue else "") or target
    )
    given = action.get("values")
    values: dict[str, object] = given if isinstance(given, dict) else {}
    level = values.get("level")
    match action["verb"]:
        case "say":
            return "answers"
        case "level" if isinstance(level, str) and level != "input":
            return f"{label} as bright as {level}"
        case "level" if isinstance(level, int | float):
            return f"{label} to {si(float(level), 'ratio')}"
        case "level":
            return f"{label} follows the input"
        case "colour" if any(isinstance(it, str) for it in values.values()):
            return f"{label} in the colour it carries"
        case "colour" if values:
            return f"{label} to " + ", ".join(f"{name} {si(float(str(it)), 'ratio')}" for name, it in values.items())
        case "add":
            by = float(str(values.get("by_ratio", 0)))
            return f"{label} {si(abs(by), 'ratio')} {'brighter' if by > 0 else 'darker'}"
        case "text":
            text = str(values.get("text", ""))
            return f"{label} shows {text if text.startswith('{') else repr(text) if text else 'nothing'}"
        case "score" if "count" in values:
            return f"{label} at {values['count']} points"
        case "score":
            return f"{label} {int(str(values.get('by_count', 0))):+d} points"
        case "remember":
            return f"{label} is remembered"
        case "restore":
            return f"{label} as it was remembered"
        case "cue":
            return f"starts {label}"
        case "next":
            return f"next of {label}"
        case verb:
            return f"{label} {verb}"
