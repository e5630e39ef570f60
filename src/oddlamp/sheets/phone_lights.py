"""Lights on the phone that show what is answered: their states, each with its colour and its blink, turned in place."""

from collections.abc import Iterator
from typing import Final

from oddlamp.core.base import first_free
from oddlamp.core.checks.apart import heard_out
from oddlamp.core.checks.findings import Move
from oddlamp.core.design.design import Design
from oddlamp.core.design.talks import ControlDesign, HandsetDesign, WordDesign
from oddlamp.core.plan.controls import LightState, Shade
from oddlamp.core.plan.document import Document, at_path
from oddlamp.sheets.models import Choice, Option, Panel

SHADES: Final[tuple[tuple[Shade, str], ...]] = (
    ("dark", "Dark"),
    ("red", "Red"),
    ("amber", "Amber"),
    ("yellow", "Yellow"),
    ("green", "Green"),
    ("blue", "Blue"),
    ("white", "White"),
)
COLOURED: Final = 3  # values that say one thing together: one of them alone would be a light that lies
BLINKS: Final[tuple[tuple[float | None, str], ...]] = ((None, "Steady"), (1.5, "Slowly"), (0.5, "Quickly"))


def light_panels(handset: HandsetDesign) -> Iterator[Panel]:
    """Show every light of a phone with its states."""
    for control in handset.controls:
        if control.kind == "light":
            path = ("nodes", handset.id, "controls", control.id)
            choices = [it for at in range(len(control.states)) for it in _state(control, at, path)]
            out = Move(label=f"Take the light {control.label} out", patch=at_path(path, None))
            yield Panel(title=f"{control.label}, a light", choices=tuple(choices), moves=(out,), is_folded=True)


def _state(control: ControlDesign, at: int, path: tuple[str, ...]) -> Iterator[Choice]:
    state = control.states[at]
    name = state.label or state.word

    def changed(**told: object) -> Document:
        states = [it.model_copy(update=told if index == at else {}) for index, it in enumerate(control.states)]
        return at_path((*path, "states"), [it.model_dump(mode="json", exclude_none=True) for it in states])

    yield Choice(
        label=f"{name} shows",
        origin="own",
        options=tuple(Option(label=label, patch=changed(shade=key), is_chosen=state.shade == key) for key, label in SHADES),
    )
    if state.shade != "dark":
        yield Choice(
            label=f"{name} blinks",
            origin="own",
            options=tuple(Option(label=label, patch=changed(blink_s=s), is_chosen=state.blink_s == s) for s, label in BLINKS),
        )


def light_moves(design: Design, handset: HandsetDesign) -> Iterator[Move]:
    """Offer a light for every answer that a phone shows nowhere yet."""
    shown = {state.word for control in handset.controls for state in control.states}
    taken = {control.id for control in handset.controls}
    for talk in (it for it in design.talks.values() if it.a == handset.id):
        for word in heard_out(talk.vocabulary, "back"):
            if word.id not in shown and len(word.parameters) < COLOURED:
                name = first_free(f"{word.id}_light"[:38], taken.__contains__)
                states = [it.model_dump(mode="json", exclude_none=True) for it in _states(word)]
                light: Document = {"kind": "light", "label": word.label, "states": states}
                yield Move(label=f"Show {word.label} as a light", patch=at_path(("nodes", handset.id, "controls", name), light))


def _states(word: WordDesign) -> Iterator[LightState]:
    """Draw up the states of a light: dark at nothing, dim below half, full above; lit by a word that carries no number."""
    first = next((it for it in word.parameters if it.written != "text"), None)
    if first is None:
        yield LightState(word=word.id, label=word.label)
        return
    least, most = max(first.field.least, 0), first.field.most
    half = max((least + most + 1) // 2, least + 1)
    yield LightState(word=word.id, value=first.id, most=least, label=f"{first.label} {least}", shade="dark")
    if half > least + 1:
        told = f"{first.label} under {half}"
        yield LightState(word=word.id, value=first.id, least=least + 1, most=half - 1, label=told, shade="amber")
    yield LightState(word=word.id, value=first.id, least=half, label=f"{first.label} {half}{' and more' if half < most else ''}")
