"""What can be done in a rehearsal from below the line: the phone's buttons, the plan's own, and what may befall a module."""

from collections.abc import Iterator
from typing import Final

from oddlamp.core.base import si
from oddlamp.core.checks.carried import needs_s
from oddlamp.core.design.design import Design
from oddlamp.core.design.talks import ControlDesign
from oddlamp.core.english import inner
from oddlamp.core.modules.goals import dialect_of
from oddlamp.core.plan.signals import label_of
from oddlamp.core.plan.text import shown
from oddlamp.sheets.models import Befalls, PhoneButton, Slide, WhatIf

BUSY_S: Final = 0.5  # a usual pause in a first program, common practice
GESTURES: Final = {"button": ("pressed", "released"), "switch": ("on", "off")}
SLIDER_S: Final = 0.1  # common practice, no source: smooth to the eye, and ten messages a second


def buttons_of(design: Design) -> tuple[PhoneButton, ...]:
    """List the controls of every phone, then the buttons and switches of the plan."""
    return (*_controls(design), *_inputs(design))


def _controls(design: Design) -> Iterator[PhoneButton]:
    for handset in design.handsets.values():
        group = design.nodes[handset.id].label if len(design.handsets) > 1 else ""
        if handset.kind == "voice":
            yield PhoneButton(
                kind="spoken",
                control=handset.id,
                label="Say",
                gestures=(),
                says="What it understands",
                is_proposed=False,
                group=group,
            )
        for control in handset.controls:
            need = needs_s(design, handset, control)
            pairs = [(design.talks[talk_id].vocabulary.word(word_id)) for talk_id, word_id in control.says.values()]
            yield PhoneButton(
                control=control.id,
                node=handset.id,
                group=group,
                label=f"\u201c{control.phrases[0]}\u201d" if control.phrases else control.label,
                gestures=tuple(control.says),
                says=f"Sends {' or '.join(' '.join(shown(byte) for byte in word.content) for word in pairs)}"
                if pairs
                else "A light",
                is_proposed=control.origin == "proposed",
                slides=_slides(design, control),
                at_rest=control.at_rest,
                looks=control.kind,
                interval_s=control.interval_s or max(SLIDER_S, need.least_s if need is not None else 0.0),
            )


def _slides(design: Design, control: ControlDesign) -> tuple[Slide, ...]:
    said, settled = control.says.get("move"), control.fills.get("move", {})
    if said is None:
        return ()
    word = design.talks[said[0]].vocabulary.word(said[1])
    return tuple(
        Slide(
            id=it.id, label=it.label, least=it.field.least, most=it.field.most, unit=it.field.unit, is_text=it.written == "text"
        )
        for it in word.parameters
        if it.id not in settled
    )


def _inputs(design: Design) -> Iterator[PhoneButton]:
    for name, it in design.plan.inputs.items():
        if it.kind in GESTURES:
            label = label_of(it.label, name)
            yield PhoneButton(
                kind="input",
                control=name,
                label=label,
                gestures=GESTURES[it.kind],
                says=f"The {it.kind} itself",
                is_proposed=False,
            )


def befalls_of(design: Design) -> tuple[Befalls, ...]:
    """List what may befall each module whose ways are known."""
    found = [(node, dialect) for node in design.nodes.values() if (dialect := dialect_of(design, node)) is not None]
    labels = [node.label for node, _ in found]
    modules = tuple(
        Befalls(
            node=node.id,
            label=inner(node.label) + (f" at {_place(design, node.end)}" if labels.count(node.label) > 1 and node.end else ""),
            what_ifs=tuple(_what_ifs(dialect.enters == "key")),
        )
        for node, dialect in found
    )
    return (*modules, *_busy(design))


def _busy(design: Design) -> Iterator[Befalls]:
    """Boards that hear words: what if their program takes nothing for a while, as one with a pause in it."""
    hosts = {it.b for it in design.talks.values()}
    for node in design.nodes.values():
        if node.id in hosts and node.node.kind == "board":
            for_s = node.node.busy_s or BUSY_S
            what_if = WhatIf(label=f"takes nothing for {si(for_s, 's')}", busy_s=for_s)
            yield Befalls(node=node.id, label=inner(node.label), what_ifs=(what_if,))


def _place(design: Design, end: str) -> str:
    return label_of(design.plan.ends[end].label, end)


def _what_ifs(has_key: bool) -> Iterator[WhatIf]:
    yield WhatIf(label="loses its power", does=("power-off",))
    yield WhatIf(label="was never set up", does=("as-bought",))
    if has_key:
        yield WhatIf(label="starts with its key held", does=("power-off", "key-up", "power-on"))
    yield WhatIf(label="starts again, set up", does=("key-down", "set-up"))
