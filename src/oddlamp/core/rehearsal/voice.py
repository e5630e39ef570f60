"""A stand-in for a voice helper: it takes what is said for one of its phrases, and knows nothing else."""

import re
from collections.abc import Iterable
from typing import NamedTuple

from oddlamp.core.design.talks import ControlDesign
from oddlamp.core.plan.text import FIELD


class Understood(NamedTuple):
    """Which control was meant, and the values that were said with it."""

    control: ControlDesign
    values: dict[str, int | str]


def plain(text: str) -> str:
    """Write what is said as it is compared: small letters and digits, one space between, no signs."""
    return " ".join(re.sub(r"[^\w{}-]+", " ", text.casefold()).split())


def understand(controls: Iterable[ControlDesign], said: str) -> Understood | None:
    """Return the first control one of whose phrases is what was said; a value in braces is any whole number, or at the end any text."""
    heard = plain(said)
    for control in controls:
        for phrase in control.phrases:
            values = _match(plain(phrase), heard)
            if values is not None:
                return Understood(control, values)
    return None


def _match(phrase: str, heard: str) -> dict[str, int | str] | None:
    """Compare piece by piece, so that no phrase takes longer than it is long."""
    values = dict[str, int | str]()
    wanted, given = phrase.split(), heard.split()
    for at, piece in enumerate(wanted):
        name = FIELD.fullmatch(piece)
        if at >= len(given):
            return None
        if name is None and piece != given[at]:
            return None
        if name is not None:
            is_number = re.fullmatch(r"-?\d{1,5}", given[at]) is not None
            if not is_number and at + 1 < len(wanted):
                return None
            if not is_number:
                values[name[1]] = " ".join(given[at:])
                return values
            values[name[1]] = int(given[at])
    return values if len(given) == len(wanted) else None
