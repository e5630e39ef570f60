"""What parts of the plan are called in a printed program, and what may stand in its comments."""

import re
from typing import Final

from oddlamp.core.behaviour.program import Event
from oddlamp.core.parts.models import LogicPart

UNSAFE: Final = re.compile(r"[^ -~]|[\\?/*\"']")
SAID_MOST: Final = 90
NUMBERED: Final = re.compile(r"[A-Z]{1,4}(\d{1,2})")


def named(kind: str, name: str) -> str:
    """Return the name of a part of the plan in the program: an id is letters, digits and _, and never a word of the language.

    An id is in capitals there, and the number of one of several alike stands behind a small letter: no two are ever the same.
    """
    return f"{kind}_{name.upper().replace('.', 'n')}"


def event_named(event: Event) -> str:
    """Return the name of an event."""
    return named("ON", "_".join(event).replace(":", "_").replace("-", "_"))


def said(text: str) -> str:
    """Return a text as it may stand in a comment: nothing of it can end the comment or join the next line."""
    return UNSAFE.sub(" ", text)[:SAID_MOST].strip()


def pin_number(part: LogicPart, label: str) -> str:
    """Return what a board's package calls a pin: the number on it, a name such as A0, or the number that its chip counts it by."""
    pin = part.pin(label)
    if label.isdigit() or (label.startswith("A") and label[1:].isdigit()):
        return label
    found = NUMBERED.fullmatch(label)
    if pin is not None and pin.chip is not None and "wifi" in part.radios:  # its chip counts them otherwise than its print
        return str(pin.chip)
    return found[1] if found is not None else f"PIN_{label.upper()}"
