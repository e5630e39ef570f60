"""Refusals the core understands. They know nothing of HTTP or the command line."""

from collections.abc import Sequence
from typing import ClassVar

from oddlamp.core.base import Model


class FieldProblem(Model):
    """One field that cannot be read: where, what was given, what is allowed."""

    field: str
    given: str
    allowed: str


class DomainError(Exception):
    """A request the core understands and refuses.

    ``said`` is what a reader is told; of what is no field it says what happened, what is safe, and what to do.
    """

    code: ClassVar[str] = "domain-error"

    def __init__(
        self, *, field: str, given: object, allowed: str, problems: tuple[FieldProblem, ...] = (), said: str | None = None
    ) -> None:
        super().__init__(said or f"{field} is {given!r}; allowed: {allowed}")
        self.field, self.given, self.allowed = field, given, allowed
        self.problems = problems or (FieldProblem(field=field, given=repr(given), allowed=allowed),)
        first = self.problems[0]
        self.said = said or f"{first.field}: given {first.given}, allowed: {first.allowed}"


class OutOfRange(DomainError):
    """A number for which the question has no answer."""

    code = "out-of-range"


class PlanInvalid(DomainError):
    """A plan document with fields that cannot be read; ``problems`` lists every one."""

    code = "plan-invalid"


class BoardInvalid(DomainError):
    """A file of a board that cannot be read; ``problems`` lists every fault with its place in the file."""

    code = "board-invalid"


class PlanTooNew(DomainError):
    """A plan written by a later version of Odd Lamp."""

    code = "plan-too-new"


class UnknownPart(DomainError):
    """A choice names a part that is not in the catalogue."""

    code = "unknown-part"


class UnknownProject(DomainError):
    """No project has this id."""

    code = "unknown-project"


class StaleRevision(DomainError):
    """An edit that meets another one, or a step from a revision that is no longer the current one.

    ``revision`` is the current one; ``clashes`` tells what each side wants, where both touched the same place.
    """

    code = "stale-revision"

    def __init__(self, *, given: object, revision: int, clashes: Sequence[Model] = ()) -> None:
        said = "Something else was kept here meanwhile. Nothing of either is lost: "
        said += "choose between the two." if clashes else "look at it as it is now, then do it again."
        super().__init__(field="base_revision", given=given, allowed=f"{revision}, the revision now", said=said)
        self.revision, self.clashes = revision, tuple(clashes)


class UnknownRevision(DomainError):
    """The project has no revision of this number."""

    code = "unknown-revision"


class UnknownTake(DomainError):
    """The project has no take of this number."""

    code = "unknown-take"


class KnowledgeInvalid(DomainError):
    """What is known of causes and questions does not add up, or tells nothing."""

    code = "knowledge-invalid"


class UnknownEntry(DomainError):
    """The log of the project has no such entry, or no such photo."""

    code = "unknown-entry"


class StaleEntry(DomainError):
    """A change of an entry that was changed elsewhere meanwhile; that one stands."""

    code = "stale-entry"


class PhotoRefused(DomainError):
    """A file that is no photo, is broken, or is larger than a photo may be; nothing of it is kept."""

    code = "photo-refused"


class NotKept(DomainError):
    """The disk took nothing: full, read-only or broken. What was kept before is untouched."""

    code = "not-kept"


class FileBusy(DomainError):
    """Another program holds the file of the projects; nothing of this change was kept, all before it is safe."""

    code = "file-busy"


class FileDamaged(DomainError):
    """The file of the projects is damaged where it was looked at; what can still be read is shown."""

    code = "file-damaged"


class Unreadable(DomainError):
    """What is kept of a project cannot be shown by this program; its file, its changes and all else are untouched."""

    code = "unreadable"


class NothingToUndo(DomainError):
    """Undo at the first revision, or redo where nothing was undone."""

    code = "nothing-to-undo"


class EventsInvalid(DomainError):
    """A list of rehearsal events that cannot be read."""

    code = "events-invalid"


class NotPrinted(DomainError):
    """A program with something in it that cannot be printed; ``allowed`` says what, and nothing is printed."""

    code = "not-printed"
