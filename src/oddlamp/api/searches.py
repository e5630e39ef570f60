"""What goes in at the routes of the fault finder and the practice bench."""

from typing import Annotated, Literal

from pydantic import Field

from oddlamp.api.models import Asked
from oddlamp.core.finding.knowledge import Need


class WhyAnswer(Asked):
    """One answer of a search: the outcome of a test, or None where it could not be said."""

    test: Annotated[str, Field(max_length=40)]
    outcome: Annotated[str, Field(max_length=40)] | None = None


class WhyAsked(Asked):
    """A search as far as it has got: the lamp, what was seen, the answers in their order, and what is not at hand."""

    lamp: Annotated[str, Field(max_length=40)] = ""
    symptom: Annotated[str, Field(max_length=40)] = ""
    answers: Annotated[tuple[WhyAnswer, ...], Field(max_length=100)] = ()
    lacking: Annotated[tuple[Need, ...], Field(max_length=20)] = ()


class RoundAsked(Asked):
    """A round of the practice bench: of which plan (``own``, or the name of a demo or a starting point), how hard, and its number."""

    of: Annotated[str, Field(max_length=60, pattern=r"^[a-z0-9-]+$")] = "own"
    level: Annotated[int, Field(ge=1, le=3)] = 1
    seed: Annotated[int, Field(ge=1, le=2**31)] = 1


class ProbeGiven(Asked):
    """Something done at the practice bench: a test by its id; ``volts`` or ``ohms`` between two points, while something is done; or ``mend`` with a cause."""

    what: Annotated[str, Field(max_length=40)]
    red: Annotated[str, Field(max_length=200)] = ""
    black: Annotated[str, Field(max_length=200)] = ""
    doing: Literal["nothing", "lit", "pressed"] = "nothing"
    cause: Annotated[str, Field(max_length=40)] = ""


class RoundProbe(RoundAsked):
    """A probe in a round, after others."""

    probe: ProbeGiven
    before: Annotated[tuple[ProbeGiven, ...], Field(max_length=300)] = ()


class RoundOver(RoundAsked):
    """A round that is over, with all that was done in it."""

    probes: Annotated[tuple[ProbeGiven, ...], Field(max_length=300)] = ()
