"""What parts of the plan are called in a printed program, and what may stand in its comments."""

import re
from typing import Final

PLAIN: Final = re.compile(r"[^ -~]|[\\?/*\"']")


def named(kind: str, name: str) -> str:
    """Return the name of a part of the plan in the program: an id is letters, digits and _, and never a word of the language."""
    return f"{kind}_{name.upper().replace('.', '_')}"


def said(text: str) -> str:
    """Return a text as it may stand in a comment: nothing of it can end the comment or join the next line."""
    return PLAIN.sub(" ", text)[:60].strip()
