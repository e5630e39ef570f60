"""What can be done in a rehearsal from below the line: the phone's buttons, the plan's own, and what may befall a module."""

from collections.abc import Iterator
from typing import Final, cast

from oddlamp.core.base import si
from oddlamp.core.behaviour.each import keys_of
from oddlamp.core.behaviour.tables import input_spec
from oddlamp.core.checks.carried import said_every_s
from oddlamp.core.design.design import Design
from oddlamp.core.design.talks import ControlDesign
from oddlamp.core.english import inner
from oddlamp.core.modules.goals import dialect_of
from oddlamp.core.plan.signals import Span, label_of, span_of
from oddlamp.core.plan.text import ENDINGS, shown
from oddlamp.core.rehearsal.events import Trouble
from oddlamp.core.rehearsal.troubles import NAMES
from oddlamp.core.resolve.words import ENDING_NAMES
from oddlamp.sheets.models import Befalls, PhoneButton, Slide, WhatIf

BUSY_S: Final = 0.5  # a usual pause in a first program, common practice
GESTURES: Final = {"button": ("pressed", "released"), "contact": ("on", "off")}
SHARES: Final = Span(0, 100, "%")
TURNED_S: Final = 0.05
LOST_SHARE: Final = 0.2
TREMBLES: Final = (0.01, 0.05)
OTHER_BD: Final = (38_400, 9600)  # what modules leave the factory at, from memory


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
                interval_s=said_every_s(design, handset, control),
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
        spec = input_spec(it)
        if it.kind == "remote-receiver":
            continue
        is_turned = spec.kind == "turned"
        span = span_of(it) or SHARES
        label = "Turned" if it.kind == "knob" else "Sensed"
        way = Slide(id="value", label=label, least=span.least, most=span.most, unit=span.unit, is_text=False)
        for key in keys_of(name, it):
            yield PhoneButton(
                kind="input",
                control=key,
                label=f"{label_of(it.label, name)} {key.partition('.')[2]}".rstrip(),
                gestures=("moved",) if is_turned else GESTURES[spec.kind],
                says=f"The {it.kind} itself",
                is_proposed=False,
                slides=(way,) if is_turned else (),
                interval_s=TURNED_S if is_turned else 0.0,
            )


def befalls_of(design: Design) -> tuple[Befalls, ...]:
    """List what may befall the parts of the line: modules whose ways are known, links, wires, boards, phones and knobs."""
    found = [
        *_modules(design),
        *_airs(design),
        *_boards(design),
        *_wires(design),
        *_phones(design),
        *_feeds(design),
        *_knobs(design),
    ]
    return tuple(it for it in found if it.what_ifs)


def _modules(design: Design) -> Iterator[Befalls]:
    found = [(node, dialect) for node in design.nodes.values() if (dialect := dialect_of(design, node)) is not None]
    labels = [node.label for node, _ in found]
    for node, dialect in found:
        place = f" at {_place(design, node.end)}" if labels.count(node.label) > 1 and node.end else ""
        what_ifs = [
            WhatIf(label=label, event={"kind": "module", "node": node.id, "does": does})
            for label, does in _deeds(dialect.enters == "key")
        ]
        wires = [
            it.baud.known for it in design.wires.values() if node.id in (design.plan.links[it.id].a, design.plan.links[it.id].b)
        ]
        other = next((it for it in OTHER_BD if wires and it != wires[0]), None)
        if other is not None and wires:
            event = {"kind": "trouble", "what": "speed", "where": node.id, "baud_bd": other}
            what_ifs.append(WhatIf(label=f"speaks at {other} Bd", event=event))
        yield Befalls(node=node.id, label=f"the {inner(node.label)}{place}", is_near=True, what_ifs=tuple(what_ifs))


def _airs(design: Design) -> Iterator[Befalls]:
    for air in design.airs.values():

        def link(does: str, air_id: str = air.id) -> dict[str, object]:
            return {"kind": "link", "link": air_id, "does": does}

        lossy = {"kind": "trouble", "what": "packets", "where": air.id, "share": LOST_SHARE}
        what_ifs = (
            WhatIf(label="is lost", event=link("lost")),
            WhatIf(label="is back", event=link("back")),
            WhatIf(label="loses one packet in five", event=lossy),
            WhatIf(label="loses none", event={**lossy, "is_on": False}),
        )
        yield Befalls(node=air.id, label="the link", is_near=True, what_ifs=what_ifs)


def _boards(design: Design) -> Iterator[Befalls]:
    """Boards that hear words or inputs: what if their power goes, or their program takes nothing for a while."""
    hosts = {it.b for it in design.talks.values()} | {it.host for it in design.plan.inputs.values()}
    for node in design.nodes.values():
        if node.id in hosts and node.node.kind == "board":
            for_s = node.node.busy_s or BUSY_S
            events = (
                (f"takes nothing for {si(for_s, 's')}", {"kind": "busy", "node": node.id, "for_s": for_s}),
                ("is reset", {"kind": "power", "node": node.id, "does": "reset"}),
                ("loses its power", {"kind": "power", "node": node.id, "does": "off"}),
                ("has power again", {"kind": "power", "node": node.id, "does": "on"}),
                *(
                    (f"has a clock at {_before(at)}", {"kind": "clock", "at": _before(at)})
                    for at in dict.fromkeys(rule.when.at for _, rule in design.rules_of(node.id) if rule.when.at)
                ),
            )
            yield Befalls(
                node=node.id,
                label=f"the {inner(node.label)}",
                is_near=True,
                what_ifs=tuple(WhatIf(label=it, event=event) for it, event in events),
            )


def _before(at: str) -> str:
    """Return the time a few seconds before a time of day."""
    hours, minutes = map(int, at.split(":"))
    left = (60 * hours + minutes - 1) % (24 * 60)
    return f"{left // 60:02d}:{left % 60:02d}:57"


def _wires(design: Design) -> Iterator[Befalls]:
    for link_id in design.wires:
        yield Befalls(
            node=link_id,
            label="the wires",
            what_ifs=tuple(
                _put_in((("are swapped", "swapped"), ("have no common ground", "no-ground")), link_id, "are right again")
            ),
        )


def _phones(design: Design) -> Iterator[Befalls]:
    for handset in design.handsets.values():
        if handset.kind in ("phone", "computer"):
            events = [
                (
                    f"adds {ENDING_NAMES[it]}" if it != "none" else "adds nothing",
                    {"kind": "trouble", "what": "ending", "where": handset.id, "ending": it, "is_on": it != handset.appends.id},
                )
                for it in ENDINGS
            ]
            yield Befalls(
                node=handset.id,
                label=f"the {inner(design.nodes[handset.id].label)}",
                what_ifs=tuple(WhatIf(label=it, event=event) for it, event in events),
            )


def _feeds(design: Design) -> Iterator[Befalls]:
    for handset in design.handsets.values():
        if handset.kind == "feed":
            events = (("says its next line", "next"), ("goes on by itself", "go-on"), ("stops", "stop"))
            what_ifs = tuple(WhatIf(label=it, event={"kind": "feed", "node": handset.id, "does": does}) for it, does in events)
            yield Befalls(node=handset.id, label=f"the {inner(design.nodes[handset.id].label)}", is_near=True, what_ifs=what_ifs)


def _knobs(design: Design) -> Iterator[Befalls]:
    for name, it in design.plan.inputs.items():
        if input_spec(it).kind == "turned":
            event = {"kind": "trouble", "what": "noise", "where": name}
            what_ifs = [WhatIf(label=f"trembles by {si(share, 'ratio')}", event={**event, "share": share}) for share in TREMBLES]
            what_ifs.append(WhatIf(label="is still", event={**event, "is_on": False}))
            yield Befalls(node=name, label=inner(label_of(it.label, name)), what_ifs=tuple(what_ifs))


def _put_in(troubles: tuple[tuple[str, str], ...], where: str, right: str) -> Iterator[WhatIf]:
    for label, what in troubles:
        yield WhatIf(label=label, event={"kind": "trouble", "what": what, "where": where})
    for _, what in troubles:
        yield WhatIf(
            label=f"{right}: {NAMES[cast(Trouble, what)]}",
            event={"kind": "trouble", "what": what, "where": where, "is_on": False},
        )


def _place(design: Design, end: str) -> str:
    return label_of(design.plan.ends[end].label, end)


def _deeds(has_key: bool) -> Iterator[tuple[str, tuple[str, ...]]]:
    yield "loses its power", ("power-off",)
    yield "was never set up", ("as-bought",)
    if has_key:
        yield "starts with its key held", ("power-off", "key-up", "power-on")
    yield "starts again, set up", ("key-down", "set-up")
