"""Other ways to build the chain, as merge patches: the board's own radio, no board at all, two modules bound to each other, and back."""

from collections.abc import Mapping
from typing import Any

from oddlamp.core.base import first_free
from oddlamp.core.plan.document import Document, dump_plan, join_patches
from oddlamp.core.plan.edits import TakingOut
from oddlamp.core.plan.model import Plan


def _rerouted(plan: Plan, was: str, now: str, *, without: str | None = None, after: Mapping[str, str] = {}) -> Document:
    """Let radio links and talks end at another node; ``without`` a wire they ran over, or with one more ``after`` a link."""
    links = {
        name: {end: now for end in ("a", "b") if getattr(it, end) == was} | {"transport": None}
        for name, it in plan.links.items()
        if it.kind == "air" and was in (it.a, it.b)
    }
    talks: Document = {}
    for name, talk in plan.talks.items():
        via = [it for it in talk.via if it != without]
        via = [step for it in via for step in ((it, after[it]) if it in after else (it,))]
        if via != list(talk.via):
            talks[name] = {"via": via}
    return {"links": links, "talks": talks}


def by_own_radio(plan: Plan, board: str, module: str, wire: str) -> Document:
    """Build the patch that takes a module out: its board speaks by a radio of its own."""
    lines = {name: None for name in plan.signals if name.partition(".")[0] in (module, wire)}
    gone: Document = {"nodes": {module: None}, "links": {wire: None}} | ({"signals": lines} if lines else {})
    return join_patches([_rerouted(plan, module, board, without=wire), gone])


def by_module(plan: Plan, board: str) -> Document:
    """Build the patch that puts a module between the air and a board that used a radio of its own."""
    module = first_free("radio", plan.nodes.__contains__)
    wire = first_free("serial", plan.links.__contains__)
    host = plan.nodes[board]
    at = {key: value for key in ("end", "rail") if (value := getattr(host, key, None)) is not None}
    airs = [name for name, it in plan.links.items() if it.kind == "air" and board in (it.a, it.b)]
    new: Document = {"nodes": {module: {"kind": "module", **at}}, "links": {wire: {"kind": "wire", "a": module, "b": board}}}
    return join_patches([_rerouted(plan, board, module, after=dict.fromkeys(airs, wire)), new])


def without_board(
    plan: Plan, board: str, module: str, wire: str, part: str, commands: Mapping[str, tuple[str, str, str]]
) -> Document:
    """Build the patch that takes a board out: the module drives its lamps itself, and the phone says the module's own commands.

    Args:
        plan: the plan.
        board: what goes, with its inputs, words and rules.
        module: what stays.
        wire: what joined the two.
        part: the family the module becomes.
        commands: for each lamp the pin it hangs on, and what switches it on and off, as it is typed.
    """
    taking = TakingOut(plan)
    words = [(f"words.{name}", word) for name, it in plan.vocabularies.items() for word in it.words]
    inputs = [("inputs", name) for name, it in plan.inputs.items() if it.host == board]
    rules = [("rules", name) for name, it in plan.rules.items() if it.host == board]
    gone = taking.without([*words, *inputs, *rules])
    vocabulary = next(iter(plan.vocabularies))
    lines = {name: None for name in plan.signals if name.partition(".")[0] in (wire, module)}
    said = {
        f"{lamp}_{word}": {"sent": sent}
        for lamp, (_, *both) in commands.items()
        for word, sent in zip(("on", "off"), both, strict=True)
    }
    told = {
        f"when_{lamp}_{word}": {"host": module, "when": {"heard": f"{lamp}_{word}"}, "do": [{"verb": word, "target": lamp}]}
        for lamp in commands
        for word in ("on", "off")
    }
    new: Document = {
        "nodes": {board: None, module: {"choice": {"part": part, "overrides": None}}},
        "links": {wire: None},
        "lamps": {lamp: {"host": module} for lamp in commands},
        "signals": {**lines, **{f"{lamp}.main": {"pin": pin} for lamp, (pin, *_) in commands.items()}},
        "vocabularies": {vocabulary: {"dialect": part, "framing": None, "words": said}},
        "rules": told,
    }
    talks = {
        name: {"b": module, "via": [it for it in talk.via if it != wire]} for name, talk in plan.talks.items() if talk.b == board
    }
    air = {name: {"transport": None} for name, it in plan.links.items() if it.kind == "air"}
    return join_patches([gone, new, {"talks": talks, "links": air}])


def with_far_end(plan: Plan, module: str, phone: str, talk: str, word: str) -> Document:
    """Build the patch that puts a button with a board and a module of its own at a second place, where a phone was: the two modules are bound.

    Args:
        plan: the plan.
        module: the module that is called from there.
        phone: what goes.
        talk: what the phone said; the far board says it now.
        word: what a press of the button says.
    """

    def free(stem: str, *of: Mapping[str, Any]) -> str:
        return first_free(stem, lambda it: any(it in one for one in of))

    end, source, rail = free("far", plan.ends), free("far_supply", plan.sources), free("far_rail", plan.rails)
    board, radio, wire = free("far_board", plan.nodes), free("far_radio", plan.nodes), free("far_serial", plan.links)
    button = free("far_button", plan.inputs)
    airs = [name for name, it in plan.links.items() if it.kind == "air" and phone in (it.a, it.b)]
    air = airs[0]
    via = [wire, air, *(it for it in plan.talks[talk].via if it not in airs)]
    ends = {key: radio for key in ("a", "b") if getattr(plan.links[air], key) == phone}
    mine = dump_plan(plan, {"nodes": {module}})["nodes"][module].get("setup") or {}
    return {
        "ends": {end: {"label": "Far end"}},
        "sources": {source: {"end": end}},
        "rails": {rail: {"end": end, "fed_by": source}},
        "nodes": {
            phone: None,
            board: {"kind": "board", "label": "Far board", "end": end, "rail": rail},
            radio: {
                "kind": "module",
                "label": "Far module",
                "end": end,
                "rail": rail,
                "setup": {"role": "master", "bound_to": module},
            },
            module: {"setup": {**mine, "role": "slave"}},
        },
        "links": {air: {**ends, "transport": "classic-serial"}, wire: {"kind": "wire", "a": board, "b": radio}},
        "talks": {talk: {"a": board, "via": via}},
        "inputs": {button: {"kind": "button", "label": "Far button", "host": board}},
        "rules": {
            free("when_far_button", plan.rules): {
                "host": board,
                "when": {"input": button, "event": "pressed"},
                "do": [{"verb": "say", "say": {"talk": talk, "word": word}}],
            }
        },
    }


def with_board(plan: Plan, module: str) -> Document:
    """Build the patch that puts a board behind a module that drove its lamps itself: the phone says words again, and the board obeys."""
    wire = first_free("serial", plan.links.__contains__)
    linked = {end for it in plan.links.values() for end in (it.a, it.b)}
    idle = (name for name, it in plan.nodes.items() if it.kind == "board" and name not in linked)
    board = next(idle, first_free("board", plan.nodes.__contains__))
    at = {key: value for key in ("end", "rail") if (value := getattr(plan.nodes[module], key, None)) is not None}
    mine = [name for name, lamp in plan.lamps.items() if lamp.host == module]
    pins: Document = {name: None for name, it in plan.signals.items() if name.partition(".")[0] in mine and it.pin is not None}
    words: Document = {
        name: {"dialect": None, "words": {word: {"sent": None} for word in it.words}}
        for name, it in plan.vocabularies.items()
        if it.dialect is not None
    }
    return {
        "nodes": {board: {"kind": "board", **at}, module: {"choice": None}},
        "links": {wire: {"kind": "wire", "a": module, "b": board}},
        "talks": {name: {"b": board, "via": [*talk.via, wire]} for name, talk in plan.talks.items() if talk.b == module},
        "lamps": {name: {"host": board} for name in mine},
        "vocabularies": words,
        "rules": {name: {"host": board} for name, rule in plan.rules.items() if rule.host == module},
    } | ({"signals": pins} if pins else {})


def with_phone(plan: Plan, board: str, radio: str, module: str) -> Document:
    """Build the patch that lets a phone call a module again, and takes out the board and the module that did."""
    phone = first_free("phone", plan.nodes.__contains__)
    wires = [name for name, it in plan.links.items() if it.kind == "wire" and {it.a, it.b} == {board, radio}]
    end, rail = getattr(plan.nodes[board], "end", None), getattr(plan.nodes[board], "rail", None)
    airs = {
        name: {key: phone for key in ("a", "b") if getattr(it, key) == radio} | {"transport": None}
        for name, it in plan.links.items()
        if it.kind == "air" and radio in (it.a, it.b)
    }
    talks = {
        name: {"a": phone, "via": [it for it in talk.via if it not in wires]}
        for name, talk in plan.talks.items()
        if talk.a == board
    }
    gone: dict[str, set[str]] = {
        "nodes": {board, radio},
        "links": set(wires),
        "inputs": {name for name, it in plan.inputs.items() if it.host == board},
        "rules": {name for name, it in plan.rules.items() if it.host == board},
        "rails": {rail} if rail else set(),
        "sources": {name for name, it in plan.sources.items() if it.end == end and end is not None},
        "ends": {end} if end else set(),
        "signals": {name for name in plan.signals if name.partition(".")[0] in (board, radio, *wires)},
    }
    taken: Document = {of: dict.fromkeys(sorted(names)) for of, names in gone.items() if names}
    setup = dict.fromkeys(("role", "bound_to"))
    new: Document = {"nodes": {phone: {"kind": "phone"}, module: {"setup": setup}}, "links": airs, "talks": talks}
    return join_patches([taken, new])
