"""Rules for links that are lost: something tells the program, where it should do something then."""

from collections.abc import Iterator
from functools import partial
from typing import Any, Final

from oddlamp.core.base import Working, first_free
from oddlamp.core.checks.fewer import that_clear
from oddlamp.core.checks.findings import Breach, Move, Rule
from oddlamp.core.design.design import Design
from oddlamp.core.design.talks import ParameterDesign, TalkDesign
from oddlamp.core.english import and_list, inner
from oddlamp.core.modules.known import Known, links_known
from oddlamp.core.plan.document import at_path
from oddlamp.core.plan.model import Handset
from oddlamp.core.plan.signals import told_by


def lost_links_are_seen(design: Design) -> Iterator[Breach]:
    """Where something is to happen when a link is lost, something tells the program that it is."""
    for known in links_known(design):
        if known.by is not None:
            continue
        lamps = [it.id for it in design.lamps.values() if told_by(design.plan, it.host) == known.board]
        told = [it for it in lamps if (order := design.plan.standing.get(it)) is not None and order.link_lost in ("off", "on")]
        rules = [
            name
            for name, rule in design.rules_of(known.board)
            if rule.when.link == known.air and rule.when.event in ("link-lost", "link-back")
        ]
        held = [
            name
            for name, rule in design.rules_of(known.board)
            if rule.when.heard is not None and any(it.verb == "hold" for it in rule.do)
        ]
        if not (told or rules or held):
            continue
        what = and_list([design.lamps[it].label for it in told[:3]]) if told else "a rule" if rules else "what is held"
        where = f"{known.board}.{known.air}"
        yield Breach(
            severity="look",
            where=where,
            stage=f"rules.{known.board}",
            message=f"Nothing tells the {inner(design.nodes[known.board].label)} that the link is lost, and {what} waits for it: it never happens.",
            working=(Working(formula="a pin, a message or a radio that tells", substituted="none", source="common-practice"),),
            ways=partial(_seen, design, known, where, told, [*rules, *held]),
            numbers={"waits": len(told) + len(rules) + len(held)},
        )


def _seen(design: Design, known: Known, where: str, told: list[str], rules: list[str]) -> Iterator[Move]:
    moves, module = [], known.module
    talks = (it for it in design.talks.values() if it.b == known.board and any(hop.link_id == known.air for hop in it.hops))
    for move in (with_keep_alive(design, it) for it in talks if it.a in design.handsets):
        moves += [] if move is None else [move]
    if module is not None:
        label = inner(design.nodes[module].label)
        moves.append(Move(label=f"Wire the state pin of the {label}", patch=at_path(("signals", f"{module}.state"), {})))
    patch: dict[str, Any] = {}
    if told:
        patch["standing"] = {it: {"link_lost": None} for it in told}
    if rules:
        patch["rules"] = dict.fromkeys(rules)
    moves.append(Move(label="Let nothing hang on it", patch=patch))
    yield from that_clear(design, "LINK-BLIND", where, moves)


def with_keep_alive(design: Design, talk: TalkDesign) -> Move | None:
    """Offer a word that a phone says over and over; None where its words are a module's own."""
    if talk.vocabulary.is_whole or talk.vocabulary.open_because is not None:
        return None
    words = design.plan.vocabularies[talk.vocabulary.id].words
    name = first_free("alive", words.__contains__)
    patch = {
        "vocabularies": {talk.vocabulary.id: {"words": {name: {"label": "Alive"}}}},
        "talks": {talk.id: {"keep_alive": {"word": name}}},
    }
    return Move(label="Let the phone say Alive over and over, and silence tell", patch=patch)


def lines_fit(design: Design) -> Iterator[Breach]:
    """Every line of a feed fits the word that carries it."""
    for handset in design.handsets.values():
        node = design.nodes[handset.id]
        if not isinstance(node.node, Handset) or node.node.kind != "feed":
            continue
        said = next((it.says["move"] for it in handset.controls if "move" in it.says), None)
        word = None if said is None else design.talks[said[0]].vocabulary.word(said[1])
        text = next((it for it in word.parameters if it.written == "text"), None) if word is not None else None
        most = 0 if text is None else text.field.most
        over = [it for it in node.node.lines if len(it) > most]
        if not over:
            continue
        longest = max(over, key=len)
        message = (
            f"No word carries a text: the {inner(node.label)} has nothing to say its lines with."
            if word is None
            else f"\u201c{longest}\u201d has {len(longest)} signs, and {word.label} carries {most}: it is no word then, and nothing shows."
        )
        yield Breach(
            severity="look",
            where=f"{handset.id}.lines",
            stage=node.stage,
            message=message,
            working=(
                Working(
                    formula="signs ≤ what its word carries", substituted=f"{len(longest)} > {most}", source="common-practice"
                ),
            ),
            ways=partial(
                _to_fit,
                design,
                handset.id,
                node.node.lines,
                most,
                None if word is None or said is None else (said[0], word.id, text),
            ),
            numbers={"signs": len(longest) - most},
        )


def _to_fit(
    design: Design, feed: str, lines: tuple[str, ...], most: int, carrier: tuple[str, str, ParameterDesign | None] | None
) -> Iterator[Move]:
    moves = []
    talk, word, text = carrier or ("", "", None)
    if text is not None:
        path = ("vocabularies", design.talks[talk].vocabulary.id, "words", word, "parameters", text.id, "most")
        moves.append(Move(label=f"Let it carry {max(map(len, lines))} signs", patch=at_path(path, max(map(len, lines)))))
        moves.append(
            Move(label=f"Cut lines to {most} signs", patch=at_path(("nodes", feed, "lines"), [it[:most] for it in lines]))
        )
    moves.append(Move(label="Do without the feed", patch=design.taking_out.without([("nodes", feed)])))
    yield from that_clear(design, "FEED-LINE", f"{feed}.lines", moves)


RULES: Final = (
    Rule(
        "FEED-LINE",
        "words",
        lines_fit,
        "",
        "a line of a feed is longer than the word that carries it takes, or no word carries one",
        "common practice",
    ),
    Rule(
        "LINK-BLIND",
        "words",
        lost_links_are_seen,
        "",
        "something hangs on a lost link, and nothing tells of it",
        "common practice",
    ),
)
