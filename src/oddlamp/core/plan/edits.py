"""Edits of a plan as merge patches: taking something out with all that speaks of it, and adding lamps, inputs and supplies."""

from collections.abc import Iterable, Mapping
from typing import Any, Final

from oddlamp.core.base import first_free
from oddlamp.core.plan.document import Document, at_path, dump_plan
from oddlamp.core.plan.model import Plan
from oddlamp.core.plan.references import Place, mentions
from oddlamp.core.plan.signals import MODULE_LEADS, WIRE_WAYS, Line, label_of, signals, spare_lines, told_by

Thing = tuple[str, str]
ALONE: Final[Mapping[str, Document]] = {"": {"verb": "toggle"}}
_GONE: Final = object()


class TakingOut:
    """What speaks of what in one plan, looked up once, so that taking one thing out costs as much as speaks of it.

    Measurements and accepted risks go with what is taken out, and words that no rule obeys any more: what is added later
    starts afresh.
    """

    def __init__(self, plan: Plan, lines: Mapping[str, Line] | None = None) -> None:
        self.plan = plan
        self.lines: dict[Thing, list[str]] = {}
        for line in (signals(plan) if lines is None else lines).values():
            self.lines.setdefault(line.owner, []).append(line.id)
        for spare in spare_lines(plan):
            mine = self.lines.setdefault(("inputs", spare.partition(".")[0]), [])
            mine += [] if spare in mine else [spare]
        self.named: dict[tuple[str, object], list[Place]] = {}
        for it in mentions(plan):
            for of in it.of if it.given is not None else ():
                self.named.setdefault((of, it.given), []).append(it.goes)
        self.written: dict[Thing, Document] = {}
        self.heard: dict[str, set[str]] = {}
        for name, rule in plan.rules.items():
            if rule.when.heard is not None:
                self.heard.setdefault(rule.when.heard, set()).add(name)

    def without_lamps(self, gone: Iterable[str]) -> Document:
        """Build the merge patch that takes lamps out, with everything that speaks of them."""
        return self.without({("lamps", name) for name in gone})

    def without_input(self, name: str) -> Document:
        """Build the merge patch that takes an input out, with the rules it sets off."""
        return self.without({("inputs", name)})

    def without_word(self, vocabulary: str, word: str) -> Document:
        """Build the merge patch that takes a word out, with what says, shows and obeys it."""
        return self.without({(f"words.{vocabulary}", word)})

    def without(self, things: Iterable[Thing]) -> Document:
        """Build the merge patch that takes things out, with everything that speaks of them and of what goes with them.

        Args:
            things: pairs of collection and id; a word is ``("words." + its vocabulary, id)``.
        """
        gone, goes, todo = set[Thing](), set[Place](), list(things)
        while todo:
            thing = todo.pop()
            if thing in gone:
                continue
            gone.add(thing)
            todo += self._along(thing, gone)
            places = [*self.named.get(thing, ()), *_place_of(thing)]
            while places:
                place = places.pop()
                if place not in goes:
                    goes.add(place)
                    places += self._emptied(place, goes)
                    todo += self._left_by(place, goes)
        goes |= self._notes(gone)
        patch: Document = _patch_of(self._document(goes), _tree(goes))
        return patch

    def _document(self, places: Iterable[Place]) -> Document:
        """Write as much of the plan as these places lie in."""
        document: Document = {}
        for place in places:
            of, name = str(place[0]), str(place[1])
            if (of, name) not in self.written:
                self.written[of, name] = dump_plan(self.plan, {of: {name}}).get(of, {})
            document.setdefault(of, {}).update(self.written[of, name])
        return document

    def _along(self, thing: Thing, gone: set[Thing]) -> list[Thing]:
        """Find what goes with a thing: its lines, its own supply, and a word that nothing else is called."""
        of, name = thing
        spare = MODULE_LEADS if of == "nodes" else WIRE_WAYS if of == "links" else ()
        more: list[Thing] = [("signals", it) for it in (*self.lines.get(thing, ()), *(f"{name}.{lead}" for lead in spare))]
        if of.startswith("words."):
            others = (it for key, it in self.plan.vocabularies.items() if f"words.{key}" != of)
            more += [] if any(name in it.words for it in others) else [("words", name)]
        if of == "lamps":
            more += self._own_supply(name, gone)
        return more

    def _own_supply(self, lamp: str, gone: set[Thing]) -> list[Thing]:
        plan, more = self.plan, list[Thing]()
        for rail_id, rail in plan.rails.items():
            if rail_id.startswith(f"{lamp}_supply"[:38]):
                lit = [it for key, it in plan.lamps.items() if ("lamps", key) not in gone]
                users = [*lit, *plan.inputs.values(), *plan.nodes.values()]
                if not any(getattr(it, "rail", None) == rail_id for it in users):
                    more += [("rails", rail_id), *([("sources", str(rail.fed_by))] if rail.fed_by in plan.sources else [])]
        return more

    def _emptied(self, place: Place, goes: set[Place]) -> list[Place]:
        """Find a rule that does nothing any more, a control that says nothing, or a run without lamps, once one of its parts goes."""
        if place[0] == "spreads" and len(place) == 4:
            count = len(self.plan.spreads[str(place[1])].lamps)
            return [place[:2]] if all((*place[:3], at) in goes for at in range(count)) else []
        if place[0] == "rules" and len(place) == 4:
            count = len(self.plan.rules[str(place[1])].do)
            return [place[:2]] if all((*place[:3], at) in goes for at in range(count)) else []
        if place[0] == "nodes" and len(place) == 6:
            control = getattr(self.plan.nodes[str(place[1])], "controls", {})[place[3]]
            says = ((*place[:4], "says", gesture) for gesture in control.says)
            states = ((*place[:4], "states", at) for at in range(len(control.states)))
            return [place[:4]] if goes.issuperset((*says, *states)) else []
        return []

    def _left_by(self, place: Place, goes: set[Place]) -> list[Thing]:
        """Find what a place leaves behind: the thing it was, and the word that only it obeyed."""
        if len(place) != 2:
            return []
        more: list[Thing] = [(str(place[0]), str(place[1]))]
        word = self.plan.rules[str(place[1])].when.heard if place[0] == "rules" else None
        if word is not None and all(("rules", rule) in goes for rule in self.heard[word]):
            more += [(f"words.{key}", word) for key, it in self.plan.vocabularies.items() if word in it.words]
        return more

    def _notes(self, gone: set[Thing]) -> set[Place]:
        """Find readings and accepted risks of what is gone; both are keyed by dotted places that begin with its id, or with its collection."""
        names = {name: of for of, name in gone if of in ("lamps", "inputs", "nodes", "links", "rails")}
        leads = {name for of, name in gone if of == "signals"}
        places: set[Place] = set()
        for collection in ("measured", "accepted"):
            for key in getattr(self.plan, collection):
                first, _, rest = key.rpartition("@")[2].partition(".")
                second = rest.partition(".")[0]
                is_its_own = first in names and (f"{first}.{second}" in leads or not self._others_called(first, names[first]))
                if is_its_own or (first, second) in gone:
                    places.add((collection, key))
        return places

    def _others_called(self, name: str, collection: str) -> bool:
        collections = ("lamps", "inputs", "nodes", "links", "vocabularies")
        return any(name in getattr(self.plan, of) for of in collections if of != collection)


def _place_of(thing: Thing) -> list[Place]:
    collection, name = thing
    if collection.startswith("words."):
        return [("vocabularies", collection.partition(".")[2], "words", name)]
    return [] if collection in ("words", "signals") else [(collection, name)]


def _tree(places: Iterable[Place]) -> dict[Any, Any]:
    tree: dict[Any, Any] = {}
    for place in places:
        here = tree
        for step in place[:-1]:
            here = here.setdefault(step, {})
            if here is _GONE:
                break
        else:
            here[place[-1]] = _GONE
    return tree


def _patch_of(value: Any, tree: Mapping[Any, Any]) -> Any:
    """Turn what goes into a merge patch: a null for each entry of a map, a list anew without its items."""
    if isinstance(value, list):
        return [_patch_of(it, tree[at]) if at in tree else it for at, it in enumerate(value) if tree.get(at) is not _GONE]
    return {
        step: None if inner is _GONE else _patch_of(value[step], inner)
        for step, inner in tree.items()
        if isinstance(value, Mapping) and step in value
    }


def first_lamp(plan: Plan, lamp: Document, noun: str, *, has_own_radio: bool, words: Mapping[str, Document]) -> Document:
    """Build the patch of a first lamp: it brings whatever the chain from thumb to lamp still lacks.

    Args:
        plan: a plan without lamps.
        lamp: what the plan then says of it, such as ``{"kind": "relay"}``.
        noun: what it is called.
        has_own_radio: the board there is needs no module.
        words: what each word does to it, by the word's id.
    """
    end, rail = next(iter(plan.ends), "table"), next(iter(plan.rails), "five")
    source = next(iter(plan.sources), "supply")
    phone = next((name for name, it in plan.nodes.items() if it.kind in ("phone", "computer")), "phone")
    talk = next((name for name, it in plan.talks.items() if plan.nodes[it.b].kind == "board"), None)
    board = next((name for name, it in plan.nodes.items() if it.kind == "board"), "") if talk is None else plan.talks[talk].b
    module = next((name for name, it in plan.nodes.items() if it.kind == "module"), "")
    board = board or first_free("board", plan.nodes.__contains__)
    module = module or first_free("radio", plan.nodes.__contains__)
    nodes: dict[str, object] = {phone: {"kind": "phone"}, board: {"kind": "board", "end": end, "rail": rail}}

    def link(stem: str, a: str, b: str) -> str:
        """Name the link between two nodes: as the plan does, where it has one."""
        there = (name for name, it in plan.links.items() if {it.a, it.b} == {a, b})
        return next(there, first_free(stem, plan.links.__contains__))

    if has_own_radio:
        air = link("air", phone, board)
        links: dict[str, object] = {air: {"kind": "air", "a": phone, "b": board}}
        via = [air]
    else:
        nodes[module] = {"kind": "module", "end": end, "rail": rail}
        air, wire = link("air", phone, module), link("serial", module, board)
        links = {air: {"kind": "air", "a": phone, "b": module}, wire: {"kind": "wire", "a": module, "b": board}}
        via = [air, wire]
    own = [
        name for name, it in plan.vocabularies.items() if it.dialect is not None
    ]  # a module's commands are no words of a program
    vocabulary = first_free("words", own.__contains__)
    chain: Document = {
        "nodes": nodes,
        "links": links,
        "talks": {first_free("main", plan.talks.__contains__): {"a": phone, "b": board, "via": via, "vocabulary": vocabulary}},
    }
    if talk is not None:  # somebody talks to this board already
        chain, vocabulary = {"nodes": {board: nodes[board]}}, plan.talks[talk].vocabulary
    return {
        "ends": {end: {}},
        "sources": {source: {"end": end}},
        "rails": {rail: {"end": end, "fed_by": source}},
        **chain,
        "vocabularies": {vocabulary: {"words": {word: {} for word in words}}},
        "lamps": {"lamp": {**lamp, "label": noun, "host": board}},
        "rules": {f"when_{word}": _obeys(board, word, "lamp", deed) for word, deed in words.items()},
    }


def one_more_lamp(
    plan: Plan, lamp: Document, noun: str, host: str, *, vocabulary: str | None, deeds: Mapping[str, Document] = ALONE
) -> Document:
    """Build the patch of one more lamp on a host, with a name and words of its own; what puts all out puts it out too.

    Args:
        plan: the plan.
        lamp: what the plan then says of it.
        noun: what it is called, with a number where another is called so.
        host: what drives it.
        vocabulary: the words its own are added to; None for none.
        deeds: what each of its words does, by what is added to its name: none for switching it on and off.
    """
    name = noun.lower().replace(" ", "_")
    lamp_id = first_free(name, plan.lamps.__contains__)
    label = free_label(noun, (label_of(it.label, key) for key, it in plan.lamps.items()))
    patch: Document = {"lamps": {lamp_id: {**lamp, "label": label, "host": host}}}
    teller = told_by(plan, host)
    if vocabulary is None or teller is None:
        return patch
    words: Document = {}
    rules: Document = {}
    for more, deed in deeds.items():
        name = first_free(f"{lamp_id}_{more}"[:36].rstrip("_"), plan.vocabularies[vocabulary].words.__contains__)
        words[name] = {"label": f"{label} {more}".strip()}
        rules[first_free(f"when_{name}"[:38], plan.rules.__contains__)] = _obeys(teller, name, lamp_id, deed)
    for key, rule in plan.rules.items():
        off = {action.target for action in rule.do if action.verb == "off"}
        if rule.host == teller and rule.when.heard and off == set(plan.lamps):
            kept = [action.model_dump(mode="json", exclude_unset=True) for action in rule.do]
            rules[key] = {"do": [*kept, {"verb": "off", "target": lamp_id}]}
    return {**patch, "vocabularies": {vocabulary: {"words": words}}, "rules": rules}


def _obeys(host: str, word: str, lamp: str, deed: Document) -> Document:
    return {"host": host, "when": {"heard": word}, "do": [{**deed, "target": lamp}]}


def one_more_input(plan: Plan, kind: str, host: str) -> Document:
    """Build the patch of one more button, knob or the like on a host, with a name of its own."""
    noun = kind.replace("-", " ").capitalize()
    name = first_free(kind.replace("-", "_"), plan.inputs.__contains__)
    label = free_label(noun, (label_of(it.label, key) for key, it in plan.inputs.items()))
    return at_path(("inputs", name), {"kind": kind, "label": label, "host": host})


def free_label(noun: str, taken: Iterable[str]) -> str:
    """Return a name nothing else has: ``Pixel chain``, else ``Pixel chain 2`` and so on."""
    used = set(taken)
    number, label = 1, noun
    while label in used:
        number, label = number + 1, f"{noun} {number + 1}"
    return label


def own_supply(plan: Plan, lamp_id: str, part: str) -> Document:
    """Build the patch that gives a lamp a supply of its own, at the place where its host stands."""
    lamp = plan.lamps[lamp_id]
    name = first_free(f"{lamp_id}_supply"[:38], lambda it: it in plan.sources or it in plan.rails)
    end = getattr(plan.nodes[lamp.host], "end", None)
    at = {"end": end} if end else {}
    label = f"Supply of {label_of(lamp.label, lamp_id)}"[:80]
    return {
        "sources": {name: {"choice": {"part": part}, **at}},
        "rails": {name: {"fed_by": name, "label": label, **at}},
        "lamps": {lamp_id: {"rail": name}},
    }


def framed_as(vocabulary: str, kind: str, terminator: str | None = None) -> Document:
    """Tell the words of a vocabulary apart in another way; what only the way before had goes."""
    kept = {"fixed": ("lead", "check"), "gap": ("gap_s",)}.get(kind, ())
    gone = {name: None for name in ("lead", "check", "gap_s") if name not in kept}
    return at_path(("vocabularies", vocabulary, "framing"), {"kind": kind, "terminator": terminator, **gone})
