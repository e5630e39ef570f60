"""Rules for what a module turns out to be and how it is used: look-alikes, its key, its supply, its network, and what must stay secret."""

import re
from collections.abc import Iterator
from functools import partial
from typing import Any, Final

from oddlamp.core.base import Working, si
from oddlamp.core.checks.commands import escaped, short_for
from oddlamp.core.checks.fewer import that_clear
from oddlamp.core.checks.findings import Breach, Move, Rule
from oddlamp.core.checks.pins import move_away
from oddlamp.core.design.design import Design
from oddlamp.core.design.lines import PinDesign
from oddlamp.core.design.supplies import NodeDesign
from oddlamp.core.design.talks import TalkDesign, WordDesign
from oddlamp.core.english import inner
from oddlamp.core.modules.goals import dialect_of, setup_of_node
from oddlamp.core.parts.models import ModulePart
from oddlamp.core.plan.document import Document, at_path, join_patches
from oddlamp.core.plan.model import Plan
from oddlamp.core.resolve.start_up import key_at_start

PULL_DOWN_OHM: Final = 10_000.0
ALIKE_RATIO: Final = 1.1  # volts of two ends that far apart are joined by a level shift
SECRET: Final = "<password>"
# A pasted command with a password in it, or a password that is named as one; each stretch ends where the next could begin.
TOLD: Final = re.compile(
    r'(AT\+CW(?:JAP|SAP)[A-Z_]{0,5}="[^"]{0,64}",")([^"<]{1,64})(?=")|(\b(?:password|passphrase|passwd|wi-?fi key) ?[:=] ?"?)([^\s"<]{8,63})',
    re.IGNORECASE,
)


def look_alike_can_do_it(design: Design) -> Iterator[Breach]:
    """A look-alike without pin commands drives no lamps."""
    for node in design.nodes.values():
        dialect = dialect_of(design, node)
        version = setup_of_node(node).version
        mine = [lamp for lamp in design.lamps.values() if lamp.host == node.id]
        if dialect is None or version is None or not mine or any(it.sets is not None for it in dialect.commands):
            continue
        yield Breach(
            severity="stop",
            where=f"nodes.{node.id}.version",
            stage=node.stage,
            message=f"The {inner(node.label)} turned out to be a look-alike that has no commands for its pins: nothing that hangs on them obeys.",
            working=(Working(formula="a command for each pin", substituted=dialect.label, source="from-memory"),),
            fixes=(Move(label="It is the real one after all", patch=at_path(("nodes", node.id, "setup", "version"), None)),),
            numbers={"lamps": len(mine)},
        )


def key_lets_it_start(design: Design) -> Iterator[Breach]:
    """A pin of the board that holds a module's key leaves it down until the program runs."""
    for node in design.nodes.values():
        it = key_at_start(design, node.id) if isinstance(node.part, ModulePart) else None
        if it is None or it.is_quiet:
            continue
        is_sure = it.stands_v is not None
        told = (
            "which holds its key: it starts in set-up mode, and no word gets through"
            if is_sure
            else "and its key may be up as it starts: then it is in set-up mode, and no word gets through"
        )
        yield Breach(
            severity="stop" if is_sure else "look",
            where=f"{node.id}.key",
            stage=node.stage,
            message=f"While the {inner(node.label)} gets its power, pin {it.pin.label} is {it.because}, {told}.",
            working=(
                Working(
                    formula="the key is down while the power comes",
                    substituted=f"pin {it.pin.label} {it.because}"
                    + (f", {si(it.stands_v, 'V')}" if it.stands_v is not None else ""),
                    source="from-memory",
                ),
            ),
            ways=partial(that_clear, design, "MOD-MODE", f"{node.id}.key", _key_down(design, node, it.pin), most=3),
            numbers={"pins": 1},
        )


def _key_down(design: Design, node: NodeDesign, pin: PinDesign) -> Iterator[Move]:
    yield Move(label=f"Pull it down with {si(PULL_DOWN_OHM, 'ohm')}", patch=pulled_down(node.id))
    yield from move_away(design, pin)
    yield Move(label="Hold its key by hand", patch=at_path(("nodes", node.id, "setup", "key_from"), None))


def pulled_down(node_id: str) -> Document:
    """Give a module's key line a resistor to ground, which keeps it down until the board's program runs."""
    return at_path(("signals", f"{node_id}.key"), {"pull_ohm": PULL_DOWN_OHM, "pull_to": "ground"})


def key_by_board(design: Design, node: NodeDesign) -> Document:
    """Let a pin of the board hold a module's key; where no divider keeps it down until the program runs, with a resistor that does."""
    patch = at_path(("nodes", node.id, "setup", "key_from"), "board")
    links = [it for it in design.plan.links.values() if it.kind == "wire" and node.id in (it.a, it.b)]
    boards = [design.nodes[it.b if it.a == node.id else it.a] for it in links]
    volts = [it.logic.value for it in (node, *boards) if it.logic is not None and it.logic.value is not None]
    return patch if len(volts) < 2 or max(volts) > ALIKE_RATIO * min(volts) else join_patches([patch, pulled_down(node.id)])


def linked_modules_take_no_commands(design: Design) -> Iterator[Breach]:
    """A word that is one of the module's own commands sets nothing: while somebody is linked it is passed on like any other."""
    for talk in design.talks.values():
        between = [design.nodes[hop.from_node] for hop in talk.hops[1:]] if talk.vocabulary.dialect is None else []
        for node in between:
            dialect = dialect_of(design, node)
            plain = [it.frame for it in dialect.commands if not it.is_hex and it.send != "AT"] if dialect is not None else []
            for word in talk.vocabulary.words if plain else ():
                if word.content.startswith(b"AT") and any(it.cut(word.content) is not None for it in plain):
                    yield _command_as_word(talk, node, word)


def _command_as_word(talk: TalkDesign, node: NodeDesign, word: WordDesign) -> Breach:
    short = short_for(talk.vocabulary, word)
    return Breach(
        severity="look",
        where=f"{talk.vocabulary.id}.{word.id}.command",
        stage=talk.vocabulary.stage,
        message=f"{word.label} sends {escaped(word.content)}, a command of the {inner(node.label)}. While somebody is linked it is none: it is passed on and sets nothing.",
        working=(Working(formula="set up while nobody is linked", substituted=escaped(word.content), source="from-memory"),),
        fixes=(
            Move(
                label=f"Send {short} for {word.label}",
                patch=at_path(("vocabularies", talk.vocabulary.id, "words", word.id, "sent"), short),
            ),
        ),
        numbers={"bytes": len(word.content)},
    )


def forgetful_modules_are_told(design: Design) -> Iterator[Breach]:
    """A module that forgets at every start what lets phones in is told again by its board: there is a wire for that."""
    for level in design.levels:
        dialect = dialect_of(design, level.receiver) if level.line.is_spoken and level.is_omitted else None
        if dialect is None or dialect.enters != "always":
            continue
        yield Breach(
            severity="stop",
            where=f"{level.line.id}.untold",
            stage=level.receiver.stage,
            message=f"The {inner(level.receiver.label)} forgets at every start what lets phones in, and the wire on which its board would say it again is left out.",
            working=(
                Working(formula="said again at every start", substituted=", ".join(dialect.volatile), source="from-memory"),
            ),
            fixes=(Move(label="Put the wire in", patch=at_path((*level.line.path, "is_omitted"), None)),),
            numbers={"wires": 1},
        )


def house_network_can_be_joined(design: Design) -> Iterator[Breach]:
    """A guest of the house's Wi-Fi joins it at 2.4 GHz or not at all."""
    for link_id, air in design.airs.items():
        link = design.plan.links[link_id]
        if link.kind != "air" or air.radio != "wifi" or link.join != "station" or link.band in ("2g4", "both"):
            continue
        is_known = link.band == "5g"
        yield Breach(
            severity="stop" if is_known else "look",
            where=f"{link_id}.band",
            stage=air.stage,
            message="The house's network has 5 GHz only, and these radios know 2.4 GHz only: it is never found."
            if is_known
            else "These radios join a network at 2.4 GHz only. Look what the house's has, before it is searched for in vain.",
            working=(
                Working(formula="2.4 GHz at both ends", substituted="5 GHz" if is_known else "not told", source="from-memory"),
            ),
            fixes=(
                *(() if is_known else (Move(label="It has 2.4 GHz", patch=at_path(("links", link_id, "band"), "2g4")),)),
                Move(label="Let it open a network of its own", patch=at_path(("links", link_id), {"join": None, "band": None})),
            ),
            numbers={"networks": 1},
        )


def secrets_are_kept_out(design: Design) -> Iterator[Breach]:
    """A plan is kept, exported and shown: no Wi-Fi password stands in it. What was found is not said again."""
    found = [(path, text) for path, text in _texts(design.plan) if TOLD.search(text)]
    if not found:
        return
    patch = join_patches(at_path(path, TOLD.sub(rf"\g<1>\g<3>{SECRET}", text)) for path, text in found)
    place = {
        "notes": "the notes",
        "parts": "the notes of a part",
        "measured": "the note of a reading",
        "accepted": "the reason of a risk",
    }
    where = place.get(found[0][0][0], "a word")
    yield Breach(
        severity="look",
        where="plan.secret",
        stage=next(iter(design.airs.values())).stage if design.airs else "",
        message=f"What looks like a password stands in {where}: a plan is kept, exported and shown to others. Odd Lamp asks for passwords when steps are copied, and keeps none.",
        working=(Working(formula="no password in what is kept", substituted=f"{len(found)} found", source="common-practice"),),
        fixes=(Move(label="Take it out", patch=patch),),
        numbers={"passwords": len(found)},
    )


def _texts(plan: Plan) -> Iterator[tuple[tuple[str, ...], str]]:
    """Walk the free texts of a plan, each with its place."""
    if plan.notes:
        yield ("notes",), plan.notes
    rows: list[tuple[tuple[str, ...], Any]] = [
        *((("parts", name, "note"), it.note) for name, it in plan.parts.items()),
        *((("measured", name, "note"), it.note) for name, it in plan.measured.items()),
        *((("accepted", name, "reason"), it.reason) for name, it in plan.accepted.items()),
        *(
            (("vocabularies", name, "words", word, "sent"), it.sent)
            for name, vocabulary in plan.vocabularies.items()
            for word, it in vocabulary.words.items()
        ),
    ]
    yield from ((path, text) for path, text in rows if text)


RULES: Final = (
    Rule(
        "MOD-CLONE",
        "module",
        look_alike_can_do_it,
        "a module turned out to be a look-alike without pin commands, and lamps hang on its pins",
        "",
        "module part, from memory",
    ),
    Rule(
        "MOD-MODE",
        "module",
        key_lets_it_start,
        "the board's pin on a module's key stands high while it gets its power",
        "nothing holds that pin low until the program runs",
        "board and module parts, from memory",
    ),
    Rule(
        "MOD-CONNECTED",
        "words",
        linked_modules_take_no_commands,
        "",
        "a word for a board is one of its module's own commands",
        "module part, from memory",
    ),
    Rule(
        "MOD-UNTOLD",
        "module",
        forgetful_modules_are_told,
        "the wire from the board to a Wi-Fi serial module is left out",
        "",
        "module part, from memory",
    ),
    Rule(
        "MOD-2G4",
        "line",
        house_network_can_be_joined,
        "the house's network is joined and has 5 GHz only",
        "it is joined and what it has is not told",
        "from memory",
    ),
    Rule("MOD-SECRET", "whole", secrets_are_kept_out, "", "what looks like a password in a text of the plan", "common practice"),
)
