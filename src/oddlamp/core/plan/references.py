"""Which ids a plan speaks of, and whether it holds them."""

from collections.abc import Collection, Iterator
from typing import TYPE_CHECKING

from oddlamp.core.plan.lights import SIGNALS_BY_KIND

if TYPE_CHECKING:
    from oddlamp.core.plan.model import Plan, Talk

Dangling = tuple[str, object, str]


def signal_ids(plan: "Plan") -> set[str]:
    """Return every physical line the plan can have: two a wire, one for each lead of a lamp, one an input, one a module's key."""
    wires = {f"{link}.{way}" for link, it in plan.links.items() if it.kind == "wire" for way in ("a_to_b", "b_to_a")}
    lamps = {f"{lamp}.{lead}" for lamp, it in plan.lamps.items() for lead in SIGNALS_BY_KIND[it.kind]}
    keys = {f"{node}.key" for node, it in plan.nodes.items() if it.kind == "module"}
    return wires | lamps | keys | {f"{name}.in" for name in plan.inputs}


def dangling(plan: "Plan") -> Iterator[Dangling]:
    """Yield (field, given, allowed) for every mention of something the plan does not hold."""
    for where, given, known in _mentions(plan):
        if given is not None and given not in known:
            yield where, given, "one of " + ", ".join(sorted(known)) if known else "nothing yet: add it first"
    for name, talk in plan.talks.items():
        yield from _broken_path(plan, name, talk)


def _mentions(plan: "Plan") -> Iterator[tuple[str, object, Collection[str]]]:
    hosts = [name for name, node in plan.nodes.items() if node.kind in ("board", "module")]
    feeds = {
        *plan.sources,
        *plan.converters,
        *(f"{name}.supply_3v3" for name, node in plan.nodes.items() if node.kind == "board"),
    }
    targets = {*plan.lamps, *plan.groups}
    words = {word for vocabulary in plan.vocabularies.values() for word in vocabulary.words}
    for name, source in plan.sources.items():
        yield f"sources.{name}.end", source.end, plan.ends
    for name, converter in plan.converters.items():
        yield f"converters.{name}.from_rail", converter.from_rail, plan.rails
    for name, rail in plan.rails.items():
        yield f"rails.{name}.end", rail.end, plan.ends
        yield f"rails.{name}.fed_by", rail.fed_by, feeds
    for name, node in plan.nodes.items():
        if node.kind in ("board", "module", "chip"):
            yield f"nodes.{name}.end", getattr(node, "end", None), plan.ends
            yield f"nodes.{name}.rail", getattr(node, "rail", None), plan.rails
        if node.kind == "module" and node.setup is not None:
            yield f"nodes.{name}.setup.bound_to", node.setup.bound_to, plan.nodes
        for control_id, control in getattr(node, "controls", {}).items():
            for gesture, saying in control.says.items():
                yield from _saying(plan, f"nodes.{name}.controls.{control_id}.says.{gesture}", saying.talk, saying.word)
            for word in control.shows:
                yield f"nodes.{name}.controls.{control_id}.shows.{word}", word, words
    for name, link in plan.links.items():
        yield f"links.{name}.a", link.a, plan.nodes
        yield f"links.{name}.b", link.b, [node for node in plan.nodes if node != link.a]
    for name, talk in plan.talks.items():
        yield f"talks.{name}.a", talk.a, plan.nodes
        yield f"talks.{name}.b", talk.b, plan.nodes
        yield f"talks.{name}.vocabulary", talk.vocabulary, plan.vocabularies
        for link_id in talk.via:
            yield f"talks.{name}.via", link_id, plan.links
    for name, lamp in plan.lamps.items():
        yield f"lamps.{name}.host", lamp.host, hosts
        yield f"lamps.{name}.rail", lamp.rail, plan.rails
    for name, an_input in plan.inputs.items():
        yield f"inputs.{name}.host", an_input.host, hosts
        yield f"inputs.{name}.rail", an_input.rail, plan.rails
    known_signals = signal_ids(plan)
    for name, signal in plan.signals.items():
        yield f"signals.{name}", name, known_signals
        yield f"signals.{name}.pull_to", signal.pull_to, {*plan.rails, "ground"}
    for name, group in plan.groups.items():
        for member in group.members:
            yield f"groups.{name}.members", member, plan.lamps
    for name, cue in plan.cues.items():
        for step in cue.steps:
            yield f"cues.{name}.steps", step.target, targets
    for name in plan.standing:
        yield f"standing.{name}", name, plan.lamps
    for name, rule in plan.rules.items():
        yield f"rules.{name}.host", rule.host, hosts
        yield f"rules.{name}.when.heard", rule.when.heard, words
        yield f"rules.{name}.when.input", rule.when.input, plan.inputs
        yield f"rules.{name}.when.link", rule.when.link, plan.links
        for at, action in enumerate(rule.do):
            yield f"rules.{name}.do.{at}.target", action.target, plan.cues if action.verb == "cue" else targets
            if action.say is not None:
                yield from _saying(plan, f"rules.{name}.do.{at}.say", action.say.talk, action.say.word)


def _saying(plan: "Plan", where: str, talk: str, word: str) -> Iterator[tuple[str, object, Collection[str]]]:
    yield f"{where}.talk", talk, plan.talks
    if talk in plan.talks and plan.talks[talk].vocabulary in plan.vocabularies:
        yield f"{where}.word", word, plan.vocabularies[plan.talks[talk].vocabulary].words


def _broken_path(plan: "Plan", name: str, talk: "Talk") -> Iterator[Dangling]:
    """Follow a talk's links from its first node; the path must hold together and end at the second."""
    at = talk.a
    for link_id in talk.via:
        link = plan.links.get(link_id)
        if link is None:
            return
        if at not in (link.a, link.b):
            yield f"talks.{name}.via", link_id, f"a link that starts at {at}"
            return
        at = link.b if at == link.a else link.a
    if at != talk.b:
        yield f"talks.{name}.via", ", ".join(talk.via), f"links that lead from {talk.a} to {talk.b}, not to {at}"
