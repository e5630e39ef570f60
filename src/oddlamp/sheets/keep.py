"""Keep these: turns what is proposed into what is decided, without moving a number."""

from collections.abc import Iterable

from oddlamp.core.checks.findings import Move
from oddlamp.core.design.design import Design
from oddlamp.core.english import plural
from oddlamp.core.plan.document import Document, at_path, join_patches, without_nulls
from oddlamp.sheets.models import Choice, Entry, Sheet


def keep_sheet(sheet: Sheet) -> Sheet:
    """Give a sheet the move that settles its proposals, where it has any."""
    patches = _proposals(sheet)
    return sheet if not patches else sheet.model_copy(update={"keep": _move(patches)})


def _proposals(sheet: Sheet) -> list[Document]:
    entries = [*(entry for panel in sheet.panels for entry in panel.entries), *(row.sent for row in sheet.words)]
    choices = [*(choice for panel in sheet.panels for choice in panel.choices), *(row.pin for row in sheet.pins)]
    return [*_entries(entries), *_choices(choices)]


def keep_all(design: Design, sheets: Iterable[Sheet]) -> Move | None:
    """Return the move that settles every proposal of a project, buttons of the phone included."""
    patches = [patch for sheet in sheets for patch in _proposals(sheet)]
    for handset in design.handsets.values():
        for control in handset.controls:
            if control.origin == "proposed":
                says = {gesture: {"talk": talk, "word": word} for gesture, (talk, word) in control.says.items()}
                settled = {"kind": control.kind, "label": control.label, "says": says}
                patches.append(at_path(("nodes", handset.id, "controls", control.id), settled))
    return _move(patches) if patches else None


def _move(patches: list[Document]) -> Move:
    return Move(label=f"Keep {plural(len(patches), 'proposal')}", patch=join_patches(patches))


def _entries(entries: Iterable[Entry]) -> list[Document]:
    return [at_path(entry.path, entry.settles) for entry in entries if entry.settles is not None]


def _choices(choices: Iterable[Choice]) -> list[Document]:
    """A chosen option's patch may also clear what another choice would leave behind: keeping it clears nothing."""
    patches = []
    for choice in choices:
        chosen = next((option for option in choice.options if option.is_chosen), None)
        if choice.origin == "proposed" and chosen is not None:
            kept = without_nulls(chosen.patch)
            if kept:
                patches.append(kept)
    return patches
