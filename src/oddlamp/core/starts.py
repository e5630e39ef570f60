"""How a project begins and grows: the first questions, and the patches that add a lamp with all it needs."""

from oddlamp.core.base import first_free
from oddlamp.core.design import Design
from oddlamp.core.findings import Move
from oddlamp.core.plan.document import at_path
from oddlamp.core.sheets.models import Choice, Opening, Option

LAMP_STARTS = (
    ("led-red", "A red LED", "led", "Lamp"),
    ("led-white", "A white LED", "led", "Lamp"),
    ("led-warm-white", "A warm white LED", "led", "Lamp"),
    ("led-blue", "A blue LED", "led", "Lamp"),
    (None, "An RGB LED", "rgb", "Lamp"),
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
    return Opening(
        sentence="What should light?",
        lamps=tuple(
            Option(
                label=label,
                detail=_volts(design, part),
                glow=design.catalog.leds[part].glow if part else None,
                patch=first_lamp(design, kind, part),
            )
            for part, label, kind, _ in LAMP_STARTS
        ),
        choices=(
            Choice(
                label="Driven by",
                origin="own" if board else "proposed",
                because=None if board else catalog.proposals["board"].why,
                options=boards,
            ),
            Choice(
                label="Words come in through",
                origin="own" if module or own_radio else "proposed",
                because=None if module or own_radio else catalog.proposals["module-classic"].why,
                options=modules,
            ),
        ),
    )


def _volts(design: Design, part: str | None) -> str:
    return (
        "three colours, one common leg"
        if part is None
        else f"drops about {design.catalog.leds[part].forward_voltage_v.value:g} V"
    )


def _lamp(kind: str, part: str | None, host: str, label: str) -> dict[str, object]:
    if kind == "rgb":
        return {"kind": "rgb", "label": label, "host": host, "channels": {"red": {}, "green": {}, "blue": {}}}
    return {"kind": "led", "label": label, "host": host, "channels": {"main": {"led": {"part": part}}}}


def first_lamp(design: Design, kind: str, part: str | None) -> dict[str, object]:
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
        "lamps": {"lamp": _lamp(kind, part, board_id, "Lamp")},
        "rules": {
            "when_on": {"host": board_id, "when": {"heard": "on"}, "do": [{"verb": "on", "target": "lamp"}]},
            "when_off": {"host": board_id, "when": {"heard": "off"}, "do": [{"verb": "off", "target": "lamp"}]},
        },
    }


def add_lamp_moves(design: Design, host: str) -> tuple[Move, ...]:
    """Offer one more lamp on a host, with a word of its own that switches it."""
    moves = []
    for part, label, kind, _ in LAMP_STARTS:
        lamp_id = first_free("lamp", design.plan.lamps.__contains__)
        number = lamp_id.removeprefix("lamp")
        patch: dict[str, object] = {"lamps": {lamp_id: _lamp(kind, part, host, f"Lamp {number}".strip())}}
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
            patch["vocabularies"] = {talk.vocabulary.id: {"words": {word_id: {"label": f"Lamp {number}".strip()}}}}
            patch["rules"] = rules
        moves.append(Move(label=label.replace("A ", "Add a ", 1).replace("An ", "Add an ", 1), patch=patch))
    return tuple(moves)
