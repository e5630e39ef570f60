"""What goes in and out of the routes."""

from typing import Annotated, Any, Final, Literal

from pydantic import Field, model_validator

from oddlamp.core.base import Model
from oddlamp.core.checks.findings import Move
from oddlamp.core.design.values import Value
from oddlamp.core.designer.wishes import Wish
from oddlamp.core.plan.bench import Pass
from oddlamp.core.plan.entries import Cost, EntryText, Kind, Minutes, PhotoText
from oddlamp.core.plan.fields import Label
from oddlamp.sheets.compare import Comparison
from oddlamp.sheets.marks import State
from oddlamp.sheets.models import Sheet
from oddlamp.sheets.score import ScoreEdit
from oddlamp.sheets.shown import ShownReview, Ways

FIELDS_MOST: Final = 20
# SQLite counts rows in 64 bits; a page counts exactly up to 2^53.
RevisionId = Annotated[int, Field(ge=0, le=2**53)]


class ShelfItem(Model):
    """A project on the shelf, in the archive or in the bin, with its thread in small."""

    id: str
    title: str
    opened_at: str
    place: Literal["shelf", "archive", "bin"]
    revision: int
    sentence: str = Field(description="How many things are to settle")
    thread: tuple[State, ...] = Field(description="The states along the line, thumb to lamp, lamps last")
    trouble: str | None = Field(default=None, description="Why it cannot be shown; None where it can")


class ProjectState(Model):
    """A project as it stands, with everything the screen shows of it."""

    id: str
    notice: str | None = Field(description="What became of the file everything is kept in, where it was taken away")
    revision: int
    number: int = Field(description="How many changes led here")
    kept_at: str
    undo: str | None = Field(description="What undo would take back; None where there is nothing")
    redo: str | None = Field(description="What redo would bring again; None where there is nothing")
    review: ShownReview


StageId = Annotated[
    str, Field(max_length=120, description="Whose sheet the answer shall hold; the one worth opening on where left out")
]


class StageView(Model):
    """One stage of a revision in full."""

    sheet: Sheet
    values: tuple[Value, ...]
    ways: dict[str, Ways] = Field(description="Working and ways out of its first verdicts, by their key")


class Number(Model):
    """A number of the project as it is found by typing."""

    id: str
    stage: str
    label: str
    text: str


class Elsewhere(Model):
    """What another project on the shelf has that this one lacks."""

    title: str
    moves: tuple[Move, ...]


class Asked(Model):
    """What a request asks: told apart from junk before each field of that is refused on its own, while all others wait."""

    @model_validator(mode="before")
    @classmethod
    def _is_no_heap(cls, given: Any) -> Any:
        if isinstance(given, dict) and len(given) > FIELDS_MOST:
            raise ValueError(f"at most {FIELDS_MOST} fields, such as {', '.join(cls.model_fields)}")
        return given


class NewProject(Asked):
    """What a project starts from."""

    start: Literal["empty", "demo"]
    demo: str | None = Field(default=None, max_length=60, description="Which demo; the main one where none is named")


class PickedStart(Asked):
    """A starting point that a project is to become."""

    base_revision: RevisionId
    start: Annotated[str, Field(max_length=60)]


class Demo(Model):
    """A demo project that can be put on the shelf."""

    name: str
    title: str
    notes: str


class Edit(Asked):
    """A merge patch (RFC 7396) made on a revision."""

    base_revision: RevisionId
    patch: dict[str, Any]
    summary: str = Field(default="Changed", max_length=200)
    stage: StageId | None = None


class Attempt(Asked):
    """A merge patch to look at without keeping it."""

    base_revision: RevisionId
    patch: dict[str, Any]
    stage: StageId | None = None


class OnRevision(Asked):
    """What is looked into, on a revision or on what a patch would make of it."""

    base_revision: RevisionId
    patch: dict[str, Any] = Field(default={}, description="What is only looked at")


class AskedChoice(OnRevision):
    """Which row's options are wanted."""

    stage: StageId
    row: str = Field(max_length=160)


class AskedNode(OnRevision):
    """Which node of a plan is looked into."""

    node: str = Field(max_length=40)


class AskedSetup(AskedNode):
    """Which module is set up, or over which link a board's own radio is found, and what only the maker knows: that is kept nowhere."""

    over: str | None = Field(default=None, max_length=40)
    network: str = Field(default="", max_length=64, repr=False)
    password: str = Field(default="", max_length=64, repr=False)


class PastedWords(OnRevision):
    """A table of words for a vocabulary, for a revision."""

    vocabulary: str = Field(max_length=40)
    text: str = Field(max_length=100_000)


class ScoreEdited(OnRevision):
    """A change of a cue's score, for a revision."""

    cue: str = Field(max_length=40)
    edit: ScoreEdit


class ScoreKeep(ScoreEdited):
    """The same, kept at once."""

    stage: StageId | None = None


class ScoreKept(Model):
    """A project with a score that was changed, and where the step that was touched is then; None where none is."""

    state: ProjectState
    step: int | None
    target: str
    at_s: float


class StepAsked(OnRevision):
    """A step of a cue, to be turned in place."""

    cue: str = Field(max_length=40)
    step: int = Field(ge=0, lt=1000)


class SentencesTyped(OnRevision):
    """Sentences of a host, for a revision: in the place of a rule, or new ones, a line each."""

    host: str = Field(max_length=40)
    text: str = Field(max_length=100_000)
    rule: str | None = Field(default=None, max_length=40)


class TypedText(OnRevision):
    """A line typed in the phone's terminal."""

    vocabulary: str = Field(max_length=40)
    text: str = Field(max_length=200)


class AskedWords(OnRevision):
    """What the phone shall be able to do, for which words; the usual where nothing is said of it."""

    vocabulary: str = Field(max_length=40)
    wishes: tuple[Wish, ...] | None = Field(default=None, max_length=20)


class AskedVerdict(OnRevision):
    """Which verdict is looked into."""

    key: str = Field(max_length=160)


class BoardFile(Asked):
    """A file of a board, for a revision."""

    base_revision: RevisionId
    name: str = Field(max_length=200)
    text: str = Field(max_length=1_000_000)


class Trial(Model):
    """What an attempt would give, and what moves."""

    review: ShownReview
    comparison: Comparison


class Step(Asked):
    """An undo, a redo, or the keeping of all proposals, made on a revision."""

    base_revision: RevisionId
    stage: StageId | None = None


class Restore(Asked):
    """Which revision to bring back, and the one it was asked on."""

    base_revision: RevisionId
    revision: RevisionId
    stage: StageId | None = None


class Place(Asked):
    """Where a project is put."""

    place: Literal["shelf", "archive", "bin"]


class HistoryItem(Model):
    """One state of a project; ``lane`` is 0 on the way from the first to the newest state, and counts side branches."""

    revision: int
    parent: int | None
    number: int
    made_at: str
    summary: str
    deed: Literal["built", "measured", "changed"] | None = Field(
        description="A wire in or out, or a reading; None of any other change"
    )
    is_head: bool
    lane: int


class AskedTimeline(Asked):
    """A window of a rehearsal that is looked at over time."""

    events: Annotated[list[dict[str, Any]], Field(max_length=20_000)]
    patch: dict[str, Any] = Field(default={}, description="A merge patch that is only looked at")
    base_revision: RevisionId | None = None
    from_s: float = Field(default=0.0, ge=0, le=1e6)
    to_s: float | None = Field(default=None, ge=0, le=1e6, description="The end of the rehearsal where left out")


class NewTake(Asked):
    """A rehearsal to keep. Without a revision it was played on the newest."""

    name: Label
    events: Annotated[list[dict[str, Any]], Field(min_length=1, max_length=20_000)]
    revision: RevisionId | None = None


class TakeName(Model):
    """A take as it is listed: on which change of the project it was played."""

    id: int
    name: str
    number: int
    made_at: str
    events: int = Field(description="How many things were done in it")
    lasts_s: float


class TakeFile(Model):
    """A take as a file: what was done, and when; open to read by anything."""

    format: Literal["oddlamp-take"]
    schema_version: Literal[1]
    name: Label
    events: Annotated[list[dict[str, Any]], Field(min_length=1, max_length=20_000)]


class AskedPreview(OnRevision):
    """Something that one lamp is tried with by itself."""

    lamp: Annotated[str, Field(max_length=40)]
    verb: Annotated[str, Field(max_length=20)]
    values: dict[str, Any] = Field(default={}, description="As an action of a rule has them")


class ProgramBack(OnRevision):
    """A program that was changed by hand, to take its regions from."""

    host: Annotated[str, Field(max_length=40)]
    text: Annotated[str, Field(max_length=400_000)]


class ProgramTaken(Asked):
    """The program of a board is taken away, as a revision has it."""

    host: Annotated[str, Field(max_length=40)]
    revision: RevisionId


class Rehearsal(Asked):
    """Timed events to play through the plan."""

    events: Annotated[list[dict[str, Any]], Field(max_length=20_000)]
    patch: dict[str, Any] = Field(default={}, description="A merge patch that is only looked at: the take plays what it makes")
    base_revision: RevisionId | None = Field(default=None, description="What the patch was made on; the newest where left out")
    since_s: float = Field(
        default=0.0, ge=0, le=1e9, description="Leave out of the answer what happened before, s; looks are whole"
    )


class EntryGiven(Asked):
    """Something to write in the log. Minutes and cost as people write them: 80, 1:20, 1 h 20; 3,20."""

    kind: Kind
    text: EntryText
    stage: StageId | None = None
    minutes: Minutes = None
    cost: Cost = None


class EntryChanged(EntryGiven):
    """What an entry shall say instead, made on a version of it."""

    version: Annotated[int, Field(ge=0, le=10**6)]


class EntryStep(Asked):
    """Bring back what an entry said before, made on a version of it."""

    version: Annotated[int, Field(ge=0, le=10**6)]


class PhotoTold(Asked):
    """What is to be seen on a photo, for who can't see it."""

    alt: PhotoText


class Measured(Model):
    """What was measured at a step of the bring-up sheet, as it was typed; at a step that is looked at, ``well`` or ``not``."""

    base_revision: RevisionId
    now: Pass
    step: Annotated[str, Field(max_length=160)]
    text: Annotated[str, Field(max_length=60)]
    is_sure: bool = False
