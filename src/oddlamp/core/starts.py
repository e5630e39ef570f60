"""How a project begins and grows: the first questions, and the patches that add a lamp with all it needs."""

from typing import NamedTuple

from oddlamp.core.base import first_free, inner
from oddlamp.core.design import Design
from oddlamp.core.findings import Move
from oddlamp.core.plan.document import Document, at_path
from oddlamp.core.sheets.models import Choice, Opening, Option


class Start(NamedTuple):
    """Something that can be put on a host: what it is called, and what the plan then says of it."""

    label: str
    detail: str
    lamp: Document
    led: str | None = None
    noun: str = "Lamp"


def _led(part: str) -> Document:
    return {"kind": "led", "channels": {"main": {"led": {"part": part}}}}


LEDS = (
    Start("A red LED", "", _led("led-red"), "led-red"),
    Start("A white LED", "", _led("led-white"), "led-white"),
    Start("A warm white LED", "", _led("led-warm-white"), "led-warm-white"),
    Start("A blue LED", "", _led("led-blue"), "led-blue"),
    Start("An RGB LED", "three colours, one common leg", {"kind": "rgb", "channels": {"red": {}, "green": {}, "blue": {}}}),
)
OTHERS = (
    Start(
        "One-wire pixels",
        "each with its own colour",
        {"kind": "pixels-one-wire", "layout": {"runs": [{"count": 8}]}},
        None,
        "Pixel chain",
    ),
    Start(
        "Clocked pixels",
        "faster, on two wires",
        {"kind": "pixels-clocked", "layout": {"runs": [{"count": 8}]}},
        None,
        "Pixel chain",
    ),
    Start("A 5 V strip", "one colour, through a MOSFET", {"kind": "strip", "choice": {"part": "strip-5v-warm"}}, None, "Strip"),
    Start("An infra-red LED", "not seen by the eye", _led("led-infra-red"), "led-infra-red"),
    Start("A relay", "switches something else", {"kind": "relay"}, None, "Relay"),
    Start("A buzzer", "a tone, or a beep", {"kind": "buzzer"}, None, "Buzzer"),
    Start("A matrix module", "8 x 8 LEDs with a driver", {"kind": "matrix"}, None, "Matrix"),
)
INPUTS = (
    ("button", "A button"),
    ("switch", "A switch"),
    ("knob", "A knob"),
    ("sensor", "A sensor"),
    ("remote-receiver", "A remote receiver"),
)


def opening(design: Design) -> Opening | None:
    """Ask the first questions while there is no lamp; None afterwards."""
    if design.lamps:
        return None
    catalog, plan = design.catalog, design.plan
    board = next((node for node in design.nodes.values() if node.node.kind == "board"), None)
    module = next((node for node in design.nodes.values() if node.node.kind == "module"), None)
    board_id = board.id if board else first_free("board", plan.nodes.__contains__)
    module_id = module.id if module else first_free("radio", plan.nodes.__contains__)
    board_part = board.picked.id if board and board.picked else catalog.proposals["board"].part
    boards = tuple(
        Option(
            label=part.label,
            detail=part.summary,
            patch=at_path(("nodes", board_id), {"kind": "board", "choice": {"part": name}}),
            is_chosen=name == board_part,
        )
        for name, part in catalog.boards.items()
    )
    module_part = module.picked.id if module and module.picked else catalog.proposals["module-classic"].part
    own_radio = bool(board and board.part and board.part.radios and module is None)
    modules = tuple(
        Option(
            label=part.label,
            detail=part.summary,
            patch=at_path(("nodes", module_id), {"kind": "module", "choice": {"part": name}}),
            is_chosen=name == module_part and not own_radio,
        )
        for name, part in catalog.modules.items()
    )
    if board and board.part and board.part.radios:
        modules += (
            Option(
                label="The board's own radio",
                detail="no module needed",
                patch=at_path(("nodes", module_id), None),
                is_chosen=own_radio,
            ),
        )
    radio = Choice(
        label="Words come in through",
        origin="own" if module or own_radio else "proposed",
        because=None if module or own_radio else catalog.proposals["module-classic"].why,
        options=modules,
    )
    return Opening(
        sentence="What should light?",
        lamps=tuple(
            Option(
                label=it.label,
                detail=it.detail or _volts(design, it.led),
                glow=catalog.leds[it.led].glow if it.led else None,
                patch=first_lamp(design, it),
            )
            for it in LEDS
        ),
        others=tuple(Option(label=it.label, detail=it.detail, patch=first_lamp(design, it)) for it in OTHERS),
        choices=(
            Choice(
                label="Driven by",
                origin="own" if board else "proposed",
                because=None if board else catalog.proposals["board"].why,
                options=boards,
            ),
            *(() if plan.links else (radio,)),  # where links stand already, they end at what was chosen
        ),
    )


def _volts(design: Design, part: str | None) -> str:
    return f"drops about {design.catalog.leds[part].forward_voltage_v.value:g} V" if part else ""


def first_lamp(design: Design, start: Start) -> Document:
    """Build the patch of a first lamp: it brings whatever the chain from thumb to lamp still lacks."""
    plan = design.plan
    end = next(iter(plan.ends), "table")
    rail = next(iter(plan.rails), "five")
    source = next(iter(plan.sources), "supply")
    phone = next(iter(design.handsets), "phone")
    board = next((node for node in design.nodes.values() if node.node.kind == "board"), None)
    module = next((node for node in design.nodes.values() if node.node.kind == "module"), None)
    board_id = board.id if board else first_free("board", plan.nodes.__contains__)
    module_id = module.id if module else first_free("radio", plan.nodes.__contains__)
    own_radio = bool(board and board.part and board.part.radios and module is None)
    nodes: dict[str, object] = {phone: {"kind": "phone"}, board_id: {"kind": "board", "end": end, "rail": rail}}
    if own_radio:
        links: dict[str, object] = {"air": {"kind": "air", "a": phone, "b": board_id}}
        via = ["air"]
    else:
        nodes[module_id] = {"kind": "module", "end": end, "rail": rail}
        links = {"air": {"kind": "air", "a": phone, "b": module_id}, "serial": {"kind": "wire", "a": module_id, "b": board_id}}
        via = ["air", "serial"]
    return {
        "ends": {end: {}},
        "sources": {source: {"end": end}},
        "rails": {rail: {"end": end, "fed_by": source}},
        "nodes": nodes,
        "links": links,
        "talks": {"main": {"a": phone, "b": board_id, "via": via, "vocabulary": "words"}},
        "vocabularies": {"words": {"words": {"on": {}, "off": {}}}},
        "lamps": {"lamp": {**start.lamp, "label": start.noun, "host": board_id}},
        "rules": {
            "when_on": {"host": board_id, "when": {"heard": "on"}, "do": [{"verb": "on", "target": "lamp"}]},
            "when_off": {"host": board_id, "when": {"heard": "off"}, "do": [{"verb": "off", "target": "lamp"}]},
        },
    }


def add_lamp_moves(design: Design, host: str) -> tuple[Move, ...]:
    """Offer one more lamp on a host, with a word of its own that switches it."""
    moves = []
    for start in (*LEDS, *OTHERS):
        name = start.noun.lower().replace(" ", "_")
        lamp_id = first_free(name, design.plan.lamps.__contains__)
        number = lamp_id.removeprefix(name)
        called = f"{start.noun} {number}".strip()
        patch: Document = {"lamps": {lamp_id: {**start.lamp, "label": called, "host": host}}}
        talk = next((talk for talk in design.talks.values() if talk.b == host and talk.vocabulary.open_because is None), None)
        if talk is not None:
            word_id = first_free(lamp_id, lambda it, talk=talk: any(word.id == it for word in talk.vocabulary.words))  # type: ignore[misc]
            rules: dict[str, object] = {
                first_free(f"when_{word_id}", design.plan.rules.__contains__): {
                    "host": host,
                    "when": {"heard": word_id},
                    "do": [{"verb": "toggle", "target": lamp_id}],
                }
            }
            for name, rule in design.rules_of(host):
                # A rule that puts every lamp out goes on doing so.
                off = {action.target for action in rule.do if action.verb == "off"}
                if rule.when.heard and off == set(design.lamps):
                    rules[name] = {
                        "do": [
                            *(action.model_dump(mode="json", exclude_unset=True) for action in rule.do),
                            {"verb": "off", "target": lamp_id},
                        ]
                    }
            patch["vocabularies"] = {talk.vocabulary.id: {"words": {word_id: {"label": called}}}}
            patch["rules"] = rules
        moves.append(Move(label=f"Add {inner(start.label)}", patch=patch))
    return tuple(moves)


def add_input_moves(design: Design, host: str) -> tuple[Move, ...]:
    """Offer buttons, knobs and the like on a host."""
    moves = []
    for kind, label in INPUTS:
        noun = kind.replace("-", "_")
        name = first_free(noun, design.plan.inputs.__contains__)
        called = f"{label.removeprefix('A ').capitalize()} {name.removeprefix(noun)}".strip()
        patch = at_path(("inputs", name), {"kind": kind, "label": called, "host": host})
        moves.append(Move(label=f"Add {inner(label)}", patch=patch))
    return tuple(moves)


def own_supply(design: Design, lamp_id: str, part: str) -> Document:
    """Build the patch that gives a lamp a supply of its own, at the place where its host stands."""
    plan, lamp = design.plan, design.lamps[lamp_id]
    name = first_free(f"{lamp_id}_supply"[:38], lambda it: it in plan.sources or it in plan.rails)
    end = design.nodes[lamp.host].end
    return {
        "sources": {name: {"choice": {"part": part}, **({"end": end} if end else {})}},
        "rails": {name: {"fed_by": name, "label": f"Supply of {lamp.label}"[:80], **({"end": end} if end else {})}},
        "lamps": {lamp_id: {"rail": name}},
    }
