"""How earlier versions wrote what a built line was made with: a few fields by name, instead of by their places in the plan."""

from collections.abc import Mapping
from typing import Any, Final

from oddlamp.core.plan.lights import CHANNEL_KINDS

# Where each of those fields stands in the plan; {line}, {owner} and {lead} are the line's own.
PLACES: Final = {
    "pin": "signals/{line}/pin",
    "resistor_ohm": "lamps/{owner}/channels/{lead}/resistor_ohm",
    "led": "lamps/{owner}/channels/{lead}/led/part",
    "school": "signals/{line}/shift/school",
    "upper_ohm": "signals/{line}/shift/values/upper_ohm",
    "lower_ohm": "signals/{line}/shift/values/lower_ohm",
    "series_ohm": "signals/{line}/shift/values/series_ohm",
    "pull_ohm": "signals/{line}/shift/values/pull_ohm",
    "diode_v": "signals/{line}/shift/values/diode_v",
    "tolerance_ratio": "signals/{line}/shift/values/tolerance_ratio",
}


def by_place(document: Any) -> Any:
    """Return a plan document with what is built kept by its places; anything that is not read so is left for the model to judge."""
    signals = document.get("signals") if isinstance(document, Mapping) else None
    if not isinstance(signals, Mapping) or not any(_is_old(signal) for signal in signals.values()):
        return document
    lamps = document.get("lamps")
    return {
        **document,
        "signals": {
            name: {**signal, "built": _moved(str(name), signal["built"], lamps)} if _is_old(signal) else signal
            for name, signal in signals.items()
        },
    }


def _is_old(signal: Any) -> bool:
    built = signal.get("built") if isinstance(signal, Mapping) else None
    return isinstance(built, Mapping) and any(field in PLACES for field in built)


def _moved(line: str, built: Mapping[str, Any], lamps: Any) -> dict[str, Any]:
    owner, _, lead = line.partition(".")
    lamp = lamps.get(owner) if isinstance(lamps, Mapping) else None
    has_channel = isinstance(lamp, Mapping) and lamp.get("kind") in CHANNEL_KINDS
    kept = built.get("places")
    places = dict(kept) if isinstance(kept, Mapping) else {}
    for field, place in PLACES.items():
        # A lamp without channels never had a resistor to keep.
        if built.get(field) is not None and (has_channel or not place.startswith("lamps/")):
            places[place.format(line=line, owner=owner, lead=lead)] = built[field]
    rest = {field: value for field, value in built.items() if field not in PLACES and field != "places"}
    return {**rest, "places": places}
