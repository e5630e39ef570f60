"""What is known of faults: symptoms, causes and tests, checked so that a file with a slip in it is refused with its line."""

import re
from collections import Counter
from collections.abc import Collection, Mapping
from functools import cached_property
from typing import TYPE_CHECKING, Annotated, Any, Final, Literal

from pydantic import Field, ValidationError

from oddlamp.core.base import Model
from oddlamp.core.english import inner
from oddlamp.core.errors import KnowledgeInvalid

if TYPE_CHECKING:
    from oddlamp.core.reasoning import Question

ODDS_SUM: Final = 1000
MINUTES_MOST: Final = 60.0
Name = Annotated[str, Field(pattern=r"^[a-z][a-z0-9-]{0,39}$")]
# A cause in a list, or a symptom: with a feature behind it, what is so on ways that have that.
Entry = Annotated[str, Field(pattern=r"^[a-z][a-z0-9-]{0,39}(/[a-z-]{1,20})?$")]
Said = Annotated[str, Field(min_length=1, max_length=200)]
Place = Literal["lamp", "board", "supply", "wire", "module", "phone", "air", "program", "input", "terminal"]
Need = Literal["meter", "computer", "adapter", "module", "lamp", "transistor", "supply", "phone", "capacitor"]
Feature = Literal[
    "board", "module", "battery", "air", "network", "phone", "pixels", "knob", "coil", "told", "one-speed", "by-hand"
]
# Of the module on the way: it has to be told at every start, or has the speed of its data while it is set up too. Of the way:
# nothing that is pressed afar lights the lamp.
APART: Final[tuple[Feature, ...]] = ("told", "one-speed", "by-hand")
MENDED: Final = "mended-"
MEND_MINUTES: Final = 3.0
MEND_RIGHT: Final = 0.995  # what was mended and is as it was should not be told again as the likeliest; an estimate
NEEDS: Final[dict[Need, str]] = {
    "meter": "a meter",
    "computer": "a computer with the cable",
    "adapter": "a serial adapter",
    "module": "a spare module",
    "lamp": "a spare lamp",
    "transistor": "a spare transistor",
    "supply": "a second supply",
    "phone": "a second phone",
    "capacitor": "a capacitor of 100 µF or more",
}
PLACES: Final[dict[Place, str]] = {
    "lamp": "at the lamp",
    "board": "at the board",
    "supply": "at the supply",
    "wire": "between board and module",
    "module": "at the module",
    "phone": "at the phone",
    "air": "in the air",
    "program": "in the program",
    "input": "at a button, switch or knob",
    "terminal": "at the terminal",
}


class Symptom(Model):
    """How it shows, in the maker's words."""

    id: Name
    words: Said


class Cause(Model):
    """One thing that may be wrong: what, where, how usual it is of a thousand, and what it makes; ``raised`` by verdicts or by how the plan stands."""

    id: Name
    what: Said
    where: Place
    odds: Annotated[int, Field(ge=1, le=ODDS_SUM)]
    makes: tuple[Entry, ...]
    raised: tuple[Said, ...] = ()
    mend: Said
    after: Name = Field(description="The test to do once more when it is mended")
    has: tuple[Feature, ...] = Field(default=(), description="What a plan has that it has a place in, where it is not simulated")

    def makes_on(self, features: Collection[str]) -> frozenset[str]:
        """Return the symptoms it makes on a way that has some features."""
        parts = (it.partition("/") for it in self.makes)
        return frozenset(name for name, _, feature in parts if not feature or feature in features)


class Test(Model):
    """One thing to find out: what to do, its minutes, what it needs, and the causes that give each outcome."""

    id: Name
    do: Said
    minutes: Annotated[float, Field(gt=0, le=MINUTES_MOST)]
    needs: tuple[Need, ...] = ()
    usual: Said
    outcomes: dict[Said, Said]
    says: dict[Said, tuple[Entry, ...]]
    has: tuple[Feature, ...] = ()
    caution: Annotated[str, Field(max_length=200)] = ""

    def given(self, cause: str, features: Collection[str] = ()) -> tuple[str, ...]:
        """Return the outcomes a cause may give on a way that has some features; the usual one where none lists it."""
        for name in (*(f"{cause}/{it}" for it in APART if it in features), cause):
            found = tuple(outcome for outcome, causes in self.says.items() if name in causes)
            if found:
                return found
        return (self.usual,)

    def question(self, causes: tuple[str, ...], right: float, features: Collection[str] = ()) -> "Question":
        """Write it as a question over some causes: each outcome with the share it has with every cause."""
        from oddlamp.core.reasoning import Question  # it takes long to import, and is not needed before something is wrong

        names = tuple(self.outcomes)
        shares = []
        for cause in causes:
            given = self.given(cause, features)
            rest = len(names) - len(given)
            shares.append(
                tuple((right / len(given) if it in given else (1 - right) / rest) if rest else 1 / len(names) for it in names)
            )
        return Question(self.id, self.minutes, tuple(tuple(row) for row in zip(*shares, strict=True)))


def mended(cause: Cause) -> Test:
    """Return what mending a cause is as a test: it works then, or it is as it was and something else is wrong."""
    return Test(
        id=f"{MENDED}{cause.id}",
        do=f"Mended: {inner(cause.what)}.",
        minutes=MEND_MINUTES,
        usual="as before",
        outcomes={"works": "it works now", "as before": "it is as it was"},
        says={"works": (cause.id,)},
    )


class Knowledge(Model):
    """All of it."""

    right: Annotated[float, Field(gt=0.5, lt=1)]
    symptoms: tuple[Symptom, ...] = Field(alias="symptom")
    causes: tuple[Cause, ...] = Field(alias="cause")
    tests: tuple[Test, ...] = Field(alias="test")

    @cached_property
    def symptom(self) -> Mapping[str, Symptom]:
        """Symptoms by their ids."""
        return {it.id: it for it in self.symptoms}

    @cached_property
    def cause(self) -> Mapping[str, Cause]:
        """Causes by their ids."""
        return {it.id: it for it in self.causes}

    @cached_property
    def test(self) -> Mapping[str, Test]:
        """Tests by their ids, and what mending each cause is as one."""
        return {it.id: it for it in (*self.tests, *map(mended, self.causes))}


class _Slip(Exception):
    """Something wrong at one entry: its table and id, which key, and what it should be."""

    def __init__(self, table: str, name: str, key: str, given: object, allowed: str) -> None:
        super().__init__(allowed)
        self.table, self.name, self.key, self.given, self.allowed = table, name, key, given, allowed


def read_knowledge(name: str, text: str, document: Mapping[str, Any]) -> Knowledge:
    """Check what was read from a file.

    Args:
        name: of the file.
        text: the file as it stands, for the lines of what is wrong.
        document: the same as tables.
    Raises:
        KnowledgeInvalid: the first slip, with file and line.
    """
    try:
        known = Knowledge.model_validate(document)
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        table, at, *rest = (*map(str, first["loc"]), "", "")
        entries = document.get(table)
        entry = entries[int(at)] if isinstance(entries, list) and at.isdigit() else {}
        slip = _Slip(table, str(entry.get("id", "")), ".".join(it for it in rest if it), first.get("input"), first["msg"])
        raise _told(name, text, slip) from None
    try:
        _check(known)
    except _Slip as slip:
        raise _told(name, text, slip) from None
    return known


def _told(name: str, text: str, slip: _Slip) -> KnowledgeInvalid:
    key = f".{slip.key}" if slip.key else ""
    where = f"{name}, line {_line_of(text, slip)}: {slip.table} {slip.name}{key}".strip()
    return KnowledgeInvalid(field=where, given=str(slip.given)[:80], allowed=slip.allowed)


def _line_of(text: str, slip: _Slip) -> int:
    """Find the line of a key of an entry; of the entry where it has none."""
    lines = text.split("\n")
    begins = next((at for at, line in enumerate(lines) if re.fullmatch(rf'id\s*=\s*"{re.escape(slip.name)}"\s*', line)), 0) if slip.name else 0  # fmt: skip
    last = slip.key.rpartition(".")[2] or slip.key
    for at in range(begins, len(lines)):
        if at > begins and lines[at].startswith("[[") and slip.name:
            break
        if last and re.match(rf'"?{re.escape(last)}"?\s*=', lines[at]):
            return at + 1
    return begins + 1


def _check(known: Knowledge) -> None:
    for table, ids in (("symptom", known.symptoms), ("cause", known.causes), ("test", known.tests)):
        twice = [name for name, count in Counter(it.id for it in ids).items() if count > 1]
        if twice:
            raise _Slip(table, twice[0], "id", twice[0], "an id that is there once")
    total = sum(it.odds for it in known.causes)
    if total != ODDS_SUM:
        raise _Slip(
            "cause", known.causes[-1].id if known.causes else "", "odds", f"{total} in all", f"odds that add up to {ODDS_SUM}"
        )
    for cause in known.causes:
        _check_cause(known, cause)
    for test in known.tests:
        _check_test(known, test)
    for symptom in known.symptoms:
        if not any(symptom.id in it.makes_on(APART) for it in known.causes):
            raise _Slip("symptom", symptom.id, "id", symptom.id, "a symptom that some cause makes")


def _check_cause(known: Knowledge, cause: Cause) -> None:
    if not cause.makes:
        raise _Slip("cause", cause.id, "makes", "nothing", "at least one symptom: nothing reaches it otherwise")
    for it in cause.makes:
        if it.partition("/")[0] not in known.symptom or it.partition("/")[2] not in ("", *APART):
            raise _Slip("cause", cause.id, "makes", it, "symptoms of this file")
    if cause.after not in {it.id for it in known.tests}:
        raise _Slip("cause", cause.id, "after", cause.after, "a test of this file")
    if not any(cause.id in causes for test in known.tests for causes in test.says.values()):
        raise _Slip("cause", cause.id, "id", cause.id, "a cause that some outcome of a test says something of")


def _check_test(known: Knowledge, test: Test) -> None:
    if len(test.outcomes) < 2 or test.usual not in test.outcomes:
        raise _Slip("test", test.id, "usual", test.usual, "one of two or more outcomes")
    if len(set(test.outcomes.values())) < len(test.outcomes):
        raise _Slip("test", test.id, "outcomes", "the same words twice", "words of its own for every outcome")
    for outcome, causes in test.says.items():
        if outcome not in test.outcomes:
            raise _Slip("test", test.id, outcome, outcome, "an outcome of this test")
        for it in causes:
            if it.partition("/")[0] not in known.cause or it.partition("/")[2] not in ("", *APART):
                raise _Slip("test", test.id, outcome, it, "causes of this file")
    given = {test.given(it.id) for it in known.causes}
    if len(given) < 2:
        raise _Slip("test", test.id, "says", "the same for every cause", "outcomes that tell at least one cause from the others")
