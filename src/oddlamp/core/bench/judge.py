"""What was measured, read as it was typed and judged against what should be there."""

from dataclasses import dataclass
from typing import Literal

from oddlamp.core.base import si
from oddlamp.core.bench.step import Step
from oddlamp.core.errors import OutOfRange
from oddlamp.core.plan.bench import Checked
from oddlamp.core.plan.quantities import UNIT_NAMES, UNIT_WORDS, parse_quantity

Verdict = Literal["within", "off"]
OPEN_WORDS = frozenset({"ol", "o.l", "o.l.", "open", "inf", "over"})
OPEN_OHM = 1e8  # what a meter shows nothing for
TEN_LOW, TEN_HIGH = 7.0, 13.0
LEAST_ASKED = 1e-6


@dataclass(frozen=True, slots=True)
class Judged:
    """Whether it is right, and by how much it is off."""

    verdict: Verdict
    sentence: str


@dataclass(frozen=True, slots=True)
class Typed:
    """What was read: a value, or the two it could be, where it is ten times what it should be or a tenth."""

    value: float | None
    either: tuple[float, float] | None = None


def read_measured(step: Step, text: str, *, is_sure: bool = False) -> Typed:
    """Read what was measured at a step.

    Args:
        step: the step, whose unit it must have.
        text: as it was typed: 5,02, 3v31, 19.8 mA; of a resistance OL too, as a meter shows an open one.
        is_sure: take it though it is ten times too large or too small.
    Raises:
        OutOfRange: no number, another unit, or outside what a meter shows.
    """
    given = text.strip()
    told = f"{UNIT_NAMES.get(step.unit, 'a number')}, such as {_example(step)}"
    if step.unit == "ohm" and given.lower().replace(" ", "") in OPEN_WORDS:
        return Typed(OPEN_OHM)
    try:
        value = parse_quantity(given.replace("−", "-"), step.unit)
    except ValueError as error:
        other = next((unit for unit in ("V", "A", "ohm") if unit != step.unit and _ends_in(given, unit)), None)
        allowed = f"{told}: this step measures {UNIT_NAMES[step.unit]}" if other is not None else str(error)
        raise OutOfRange(field="measured", given=given[:60], allowed=allowed) from None
    if abs(value) > 1e9 or (value < 0 and step.unit != "V"):
        raise OutOfRange(field="measured", given=given[:60], allowed=f"{told}, over nothing")
    if not is_sure and step.nominal is not None and abs(step.nominal) > LEAST_ASKED and value > 0:
        ratio = value / step.nominal
        if TEN_LOW < ratio < TEN_HIGH:
            return Typed(None, (value, value / 10))
        if 1 / TEN_HIGH < ratio < 1 / TEN_LOW:
            return Typed(None, (value, value * 10))
    return Typed(value)


def _ends_in(text: str, unit: str) -> bool:
    return any(text.endswith(it) for it in UNIT_WORDS[unit])


def _example(step: Step) -> str:
    return si(step.nominal if step.nominal is not None else {"V": 5.0, "A": 0.02}.get(step.unit, 220.0), step.unit)


def judged(step: Step, checked: Checked | None) -> Judged | None:
    """Judge what was found at a step; None where nothing was yet."""
    if checked is None:
        return None
    if step.kind != "measure" or checked.value is None:
        return Judged("within" if checked.is_well else "off", "As it should be." if checked.is_well else "Not as it should be.")
    if checked.unit != step.unit:
        return Judged(
            "off", f"It was measured in another unit, and this step wants {UNIT_NAMES.get(step.unit, step.unit)}: measure again."
        )
    least, most = step.slack
    value = checked.value
    told = "open" if value >= OPEN_OHM and step.unit == "ohm" else si(value, step.unit)
    if least <= value <= most:
        return Judged("within", f"{told}: within.")
    if value >= OPEN_OHM and step.unit == "ohm":
        return Judged("off", "Open: nothing conducts there.")
    bound = most if value > most else least
    return Judged("off", f"Off by {si(abs(value - (step.nominal if step.nominal is not None else bound)), step.unit)}.")
