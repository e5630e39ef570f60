"""Where a plan speaks of its own ids: the one list behind what must stand, and what goes when something is taken out."""

from collections.abc import Collection, Iterator
from typing import TYPE_CHECKING, NamedTuple

from oddlamp.core.plan.lights import may_hang_on_chip, sends_codes
from oddlamp.core.plan.rules import OF_CUES, OF_INPUTS, TURNS, state_name
from oddlamp.core.plan.signals import signal_ids

if TYPE_CHECKING:
    from oddlamp.core.plan.fields import Saying
    from oddlamp.core.plan.model import Plan, Talk
    from oddlamp.core.plan.rules import Action

Step = str | int
Place = tuple[Step, ...]
Dangling = tuple[str, object, str]
TARGETS = ("lamps", "groups")
LISTED_MOST = 24


class Mention(NamedTuple):
    """One place of a plan that names something of it.

    ``of`` are the collections it may name, ``known`` the ids there are, None where any text may stand; ``goes`` is
    what goes with the thing named: an item of a list, an entry of a map, or the mention itself.
    """

    at: Place
    given: object
    of: tuple[str, ...]
    known: Collection[str] | None
    goes: Place


def dangling(plan: "Plan") -> Iterator[Dangling]:
    """Yield (field, given, allowed) for every mention of something the plan does not hold."""
    for it in mentions(plan):
        if it.given is not None and it.known is not None and it.given not in it.known:
            listed = sorted(it.known)
            more = f" and {len(listed) - LISTED_MOST} more" if len(listed) > LISTED_MOST else ""
            allowed = f"one of {', '.join(listed[:LISTED_MOST])}{more}" if listed else "nothing yet: add it first"
            yield ".".join(map(str, it.at)), it.given, allowed
    for name, talk in plan.talks.items():
        yield from _broken_path(plan, name, talk)
    yield from _stand_twice(plan)


def mentions(plan: "Plan") -> Iterator[Mention]:
    """Walk every mention of a plan, in plan order."""
    yield from _of_supplies(plan)
    yield from _of_nodes(plan)
    yield from _of_talks(plan)
    yield from _of_lights(plan)
    yield from _of_spreads(plan)
    yield from _of_signals(plan)
    yield from _of_behaviour(plan)


def _alone(at: Place, given: object, of: str, known: Collection[str]) -> Mention:
    return Mention(at, given, (of,), known, at)


def _of_supplies(plan: "Plan") -> Iterator[Mention]:
    outputs = [f"{name}.{it}" for name, node in plan.nodes.items() if node.kind == "board" for it in ("supply_3v3", "supply_5v")]
    feeds = {*plan.sources, *plan.converters, *outputs}
    for name, source in plan.sources.items():
        yield _alone(("sources", name, "end"), source.end, "ends", plan.ends)
    for name, converter in plan.converters.items():
        yield _alone(("converters", name, "from_rail"), converter.from_rail, "rails", plan.rails)
    for name, rail in plan.rails.items():
        yield _alone(("rails", name, "end"), rail.end, "ends", plan.ends)
        yield _alone(("rails", name, "fed_by"), rail.fed_by, "sources", feeds)


def _of_nodes(plan: "Plan") -> Iterator[Mention]:
    words = {word for vocabulary in plan.vocabularies.values() for word in vocabulary.words}
    for name, node in plan.nodes.items():
        if node.kind in ("board", "module", "chip"):
            yield _alone(("nodes", name, "end"), getattr(node, "end", None), "ends", plan.ends)
            yield _alone(("nodes", name, "rail"), getattr(node, "rail", None), "rails", plan.rails)
        if node.kind == "module" and node.setup is not None:
            yield _alone(("nodes", name, "setup", "bound_to"), node.setup.bound_to, "nodes", plan.nodes)
        receivers = [it for it, one in plan.inputs.items() if one.kind == "remote-receiver"]
        yield _alone(("nodes", name, "receiver"), getattr(node, "receiver", None), "inputs", receivers)
        for control_id, control in getattr(node, "controls", {}).items():
            at: Place = ("nodes", name, "controls", control_id)
            for gesture, saying in control.says.items():
                yield from _saying(plan, (*at, "says", gesture), saying, (*at, "says", gesture))
            for index, state in enumerate(control.states):
                place: Place = (*at, "states", index)
                yield Mention((*place, "word"), state.word, ("words",), words, place)
            for word in control.shows:
                yield _alone((*at, "shows", word), word, "words", words)


def _of_talks(plan: "Plan") -> Iterator[Mention]:
    for name, link in plan.links.items():
        others = [node for node in plan.nodes if node != link.a]
        yield Mention(("links", name, "a"), link.a, ("nodes",), plan.nodes, ("links", name))
        yield Mention(("links", name, "b"), link.b, ("nodes",), others, ("links", name))
        buttons = [it for it, one in plan.inputs.items() if one.kind == "button" and one.host in (link.a, link.b)]
        yield _alone(("links", name, "join_button"), getattr(link, "join_button", None), "inputs", buttons)
    for name, talk in plan.talks.items():
        goes: Place = ("talks", name)
        yield Mention((*goes, "a"), talk.a, ("nodes",), plan.nodes, goes)
        yield Mention((*goes, "b"), talk.b, ("nodes",), plan.nodes, goes)
        yield Mention((*goes, "vocabulary"), talk.vocabulary, ("vocabularies",), plan.vocabularies, goes)
        if talk.keep_alive is not None and talk.vocabulary in plan.vocabularies:
            place: Place = (*goes, "keep_alive")
            of = f"words.{talk.vocabulary}"
            yield Mention((*place, "word"), talk.keep_alive.word, (of,), plan.vocabularies[talk.vocabulary].words, place)
        for link_id in talk.via:
            yield Mention((*goes, "via"), link_id, ("links",), plan.links, goes)


def _hosts(plan: "Plan") -> list[str]:
    return [name for name, node in plan.nodes.items() if node.kind in ("board", "module")]


def _of_lights(plan: "Plan") -> Iterator[Mention]:
    hosts = _hosts(plan)
    of_plain = [*hosts, *(name for name, node in plan.nodes.items() if node.kind == "chip")]
    for collection in ("lamps", "inputs"):
        for name, it in getattr(plan, collection).items():
            known = of_plain if collection == "lamps" and may_hang_on_chip(it) else hosts
            yield Mention((collection, name, "host"), it.host, ("nodes",), known, (collection, name))
            yield _alone((collection, name, "rail"), it.rail, "rails", plan.rails)
        for at, name in enumerate(plan.order.get(collection, ())):
            yield Mention(("order", collection, at), name, (collection,), None, ("order", collection, at))


def _of_spreads(plan: "Plan") -> Iterator[Mention]:
    for name, spread in plan.spreads.items():
        for at, lamp in enumerate(spread.lamps):
            yield Mention(("spreads", name, "lamps"), lamp, ("lamps",), plan.lamps, ("spreads", name, "lamps", at))


def _stand_twice(plan: "Plan") -> Iterator[Dangling]:
    """Refuse a lamp that would stand at two places."""
    seen = set[str]()
    for name, spread in plan.spreads.items():
        for lamp in spread.lamps:
            if lamp in seen:
                yield f"spreads.{name}.lamps", lamp, "each lamp once, in one run alone"
            seen.add(lamp)


def _of_signals(plan: "Plan") -> Iterator[Mention]:
    known = signal_ids(plan)
    for name, signal in plan.signals.items():
        yield _alone(("signals", name), name, "signals", known)
        yield _alone(("signals", name, "pull_to"), signal.pull_to, "rails", {*plan.rails, "ground"})


def _of_behaviour(plan: "Plan") -> Iterator[Mention]:
    targets, hosts = {*plan.lamps, *plan.groups}, _hosts(plan)
    words = {word for vocabulary in plan.vocabularies.values() for word in vocabulary.words}
    for name, group in plan.groups.items():
        for at, member in enumerate(group.members):
            yield Mention(("groups", name, "members"), member, ("lamps",), plan.lamps, ("groups", name, "members", at))
    for name, cue in plan.cues.items():
        for at, step in enumerate(cue.steps):
            yield Mention(("cues", name, "steps"), step.target, TARGETS, targets, ("cues", name, "steps", at))
    for name, mover in plan.movers.items():
        yield Mention(("movers", name, "ahead"), mover.ahead, ("lamps",), plan.lamps, ("movers", name))
        others = [it for it in plan.lamps if it != mover.ahead]
        yield Mention(("movers", name, "back"), mover.back, ("lamps",), others, ("movers", name))
        senders = [it for it, lamp in plan.lamps.items() if sends_codes(lamp)]
        yield Mention(("movers", name, "sender"), mover.sender, ("lamps",), senders, ("movers", name))
    for name in plan.standing:
        yield Mention(("standing", name), name, ("lamps",), plan.lamps, ("standing", name))
        for source in plan.standing[name].thresholds:
            place: Place = ("standing", name, "thresholds", source)
            yield Mention(place, source, ("inputs",), None, place)
    for name, rule in plan.rules.items():
        goes: Place = ("rules", name)
        yield Mention((*goes, "host"), rule.host, ("nodes",), hosts, goes)
        yield Mention((*goes, "when", "heard"), rule.when.heard, ("words",), words, goes)
        yield Mention((*goes, "when", "input"), rule.when.input, ("inputs",), plan.inputs, goes)
        yield Mention((*goes, "when", "link"), rule.when.link, ("links",), plan.links, goes)
        if rule.unless is not None:
            yield Mention((*goes, "unless", "lamp"), rule.unless.lamp, ("lamps",), plan.lamps, (*goes, "unless"))
            yield Mention((*goes, "unless", "input"), rule.unless.input, ("inputs",), plan.inputs, (*goes, "unless"))
        for at, action in enumerate(rule.do):
            yield from _of_action(plan, name, at, action, targets)


def _of_action(plan: "Plan", rule: str, at: int, action: "Action", targets: Collection[str]) -> Iterator[Mention]:
    goes: Place = ("rules", rule, "do", at)
    is_cue = action.verb in OF_CUES
    if (action.verb in TURNS and action.verb not in OF_CUES) or (
        is_cue and action.target in plan.movers and action.verb in TURNS
    ):
        yield Mention((*goes, "target"), action.target, ("movers",), plan.movers, goes)
    else:
        of = ("cues",) if is_cue else TARGETS
        yield Mention((*goes, "target"), action.target, of, plan.cues if is_cue else targets, goes)
    if action.values is not None:
        yield Mention((*goes, "values", "input"), action.values.input, ("inputs",), plan.inputs, goes)
    if action.say is not None:
        yield from _saying(plan, (*goes, "say"), action.say, goes)


def _saying(plan: "Plan", at: Place, saying: "Saying", goes: Place) -> Iterator[Mention]:
    yield Mention((*at, "talk"), saying.talk, ("talks",), plan.talks, goes)
    if saying.talk in plan.talks and plan.talks[saying.talk].vocabulary in plan.vocabularies:
        vocabulary = plan.talks[saying.talk].vocabulary
        yield Mention((*at, "word"), saying.word, (f"words.{vocabulary}",), plan.vocabularies[vocabulary].words, goes)
    for name, given in saying.fill.items():
        if (state := state_name(given)) is not None:
            of = "inputs" if state[1] == OF_INPUTS else "lamps"
            yield Mention((*at, "fill", name), state[0], (of,), getattr(plan, of), goes)


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
