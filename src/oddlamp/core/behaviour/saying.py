"""The values of a word that a program says, as they are when it is said."""

from collections.abc import Mapping

from oddlamp.core.behaviour.arithmetic import scaled
from oddlamp.core.behaviour.inputs import TURNED_MOST, Input
from oddlamp.core.behaviour.lamps import Lamp, now_of
from oddlamp.core.behaviour.program import Now, Say, Show
from oddlamp.core.plan.rules import carried_name
from oddlamp.core.words.frames import FieldValue


def said_now(
    step: Say, values: Mapping[str, FieldValue], lamps: Mapping[str, Lamp], inputs: Mapping[str, Input]
) -> dict[str, FieldValue]:
    """Return the values of a word: settled, carried by the word before it, or how a lamp or an input is now."""
    told = dict[str, FieldValue]()
    for name, given in step.fill.items():
        source = carried_name(given)
        if isinstance(given, Now):
            told[name] = now_told(given, lamps, inputs)
        elif source is not None and source in values:
            told[name] = values[source]
        elif source is None:
            told[name] = given if isinstance(given, str) else round(given)
    return told


def now_told(asked: Now, lamps: Mapping[str, Lamp], inputs: Mapping[str, Input]) -> FieldValue:
    """Tell how a lamp or an input is at the moment."""
    if asked.part != "value":
        return now_of(lamps[asked.lamp].state, asked)
    return asked.least + scaled(inputs[asked.lamp].value, 0, TURNED_MOST, asked.most - asked.least)


def shown_text(step: Show, lamps: Mapping[str, Lamp], inputs: Mapping[str, Input], clock_ms: int | None) -> str:
    """Return what a display is told to show: the value of an input, or the time of day."""
    if step.value is not None:
        return str(now_told(step.value, lamps, inputs))
    return "--:--" if clock_ms is None else f"{clock_ms // 3_600_000:02d}:{clock_ms // 60_000 % 60:02d}"
