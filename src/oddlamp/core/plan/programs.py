"""What a maker adds to a printed program by hand: regions that are kept when it is printed again."""

import re
from typing import Annotated, Final

from pydantic import AfterValidator, Field

from oddlamp.core.base import Model
from oddlamp.core.plan.quantities import Second

CODE_MOST: Final = 4000
USUAL_S: Final = 0.001  # what a region takes where nothing is told: no more than a pass
REGIONS_MOST: Final = 40
BEGINS: Final = "// ---- yours: "  # the line that begins a region in the printed program, with its place
ENDS: Final = "// ---- end of yours ----"
PAIRS: Final = {")": "(", "]": "[", "}": "{"}
_DIRECTIVE: Final = re.compile(r"^[ \t]*#(?![ \t]*(?:include|define)\b)", re.M)
_RAW: Final = re.compile(r"\b(?:u8|[uUL])?R\"")
Place = Annotated[str, Field(pattern=r"^(top|start|pass|heard\.[a-z][a-z0-9_]{0,39})$", max_length=50)]


def wrong_in(code: str) -> str | None:
    """Say what of a piece of C++ would not stay within its region; None where it does. What it does is the maker's own matter."""
    if code.strip("\n\t") and not all(" " <= it <= "~" or it in "\n\t" for it in code):
        return "plain characters, and no signs of other scripts"
    if BEGINS.strip() in code or ENDS in code:
        return "no line that begins or ends a region"
    if "??" in code:
        return "no two question marks together: old compilers take them for something else"
    if any(line.endswith("\\") for line in code.split("\n")):
        return "no line that ends with a backslash"
    if _DIRECTIVE.search(code):
        return "no directives but #include and #define"
    if _RAW.search(code):
        return "no raw strings"
    return _unbalanced(code)


def _unbalanced(code: str) -> str | None:
    """Walk over comments and texts, and say which bracket, text or comment is left open."""
    at, opened = 0, list[str]()
    while at < len(code):
        sign = code[at]
        if code.startswith("//", at):
            at = _after(code, "\n", at)
        elif code.startswith("/*", at):
            end = code.find("*/", at + 2)
            if end < 0:
                return "every /* with its */"
            at = end + 1
        elif sign in "\"'":
            end = at + 1
            while end < len(code) and code[end] not in (sign, "\n"):
                end += 2 if code[end] == "\\" else 1
            if end >= len(code) or code[end] != sign:
                return "every text closed on its own line"
            at = end
        elif sign in PAIRS.values():
            opened.append(sign)
        elif sign in PAIRS and (not opened or opened.pop() != PAIRS[sign]):
            return f"every {sign} after its {PAIRS[sign]}"
        at += 1
    return f"every {opened[-1]} closed" if opened else None


def _after(code: str, sign: str, at: int) -> int:
    found = code.find(sign, at)
    return len(code) if found < 0 else found


def _stays(given: str) -> str:
    wrong = wrong_in(given)
    if wrong is not None:
        raise ValueError(f"\n{given[:40]}\n{wrong}")
    return given


class Region(Model):
    """A piece of C++ of the maker's own, and how long it takes at most: that is rehearsed, and not what it does."""

    code: Annotated[str, Field(max_length=CODE_MOST), AfterValidator(_stays)]
    longest_s: Annotated[Second, Field(ge=0, le=10)] | None = Field(default=None, description="1 ms where absent")


class OwnProgram(Model):
    """What is added to the program of one host: by place, ``top``, ``start``, ``pass``, or when a word is heard."""

    regions: dict[Place, Region] = Field(default_factory=dict, max_length=REGIONS_MOST)

    def takes_s(self, place: str) -> float:
        """Return how long a region takes at most, as it was told, s; nothing where there is none there."""
        region = self.regions.get(place)
        return 0.0 if region is None else USUAL_S if region.longest_s is None else region.longest_s
