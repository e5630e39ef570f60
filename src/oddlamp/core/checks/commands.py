"""Rules for words that are a module's own commands: each drives the pin its lamp hangs on, as the module takes it."""

import string
from collections.abc import Collection, Iterator
from typing import Final, NamedTuple

from oddlamp.core.base import Working, first_free
from oddlamp.core.behaviour.framing import Heard, parser_of, said_by
from oddlamp.core.checks.findings import Breach, Move, Rule
from oddlamp.core.design.design import Design
from oddlamp.core.design.supplies import NodeDesign
from oddlamp.core.design.talks import TalkDesign, VocabularyDesign, WordDesign
from oddlamp.core.english import and_list, inner
from oddlamp.core.modules.driving import said_to
from oddlamp.core.modules.goals import dialect_of
from oddlamp.core.parts.models import ModulePart
from oddlamp.core.plan.document import Document, at_path, join_patches
from oddlamp.core.plan.edits import framed_as
from oddlamp.core.plan.text import ENDINGS, shown

DRIVEN: Final = {"on": 1, "off": 0}


class _Said(NamedTuple):
    """A word that a rule obeys, what it does to which lamp, and what would have to be sent for that."""

    talk: TalkDesign
    word: WordDesign
    module: NodeDesign
    lamp: str
    pin: str
    wanted: bytes


def _said(design: Design) -> Iterator[_Said]:
    """Walk the words of modules that drive lamps by themselves, with the command each stands for."""
    for talk in design.talks.values():
        module = design.nodes[talk.b]
        if talk.vocabulary.dialect is None or not isinstance(module.part, ModulePart):
            continue
        for _, rule in design.rules_of(talk.b):
            word = next((it for it in talk.vocabulary.words if it.id == rule.when.heard), None)
            for action in rule.do if word is not None else ():
                pins = [(lamp, pin) for lamp in design.targets(action.target) for pin in design.pins if pin.line.owner_id == lamp]
                for lamp, pin in pins:
                    is_on = DRIVEN.get(action.verb)
                    said = said_to(module.part, pin.label or "")
                    if word is not None and said and is_on is not None:
                        yield _Said(
                            talk, word, module, design.lamps[lamp].label, pin.label or "", said[0 if is_on else -1].content
                        )


def _breach(it: _Said, code: str) -> Breach:
    sent, wanted = (escaped(content) for content in (it.word.content, it.wanted))
    why = "upper and lower case are told apart" if code == "MOD-CASE" else f"{it.lamp} hangs on {it.pin}, which obeys {wanted}"
    return Breach(
        severity="stop",
        where=f"{it.talk.vocabulary.id}.{it.word.id}",
        stage=it.talk.vocabulary.stage,
        message=f"{it.word.label} sends {sent}, and nothing follows: {why}.",
        working=(
            Working(formula="a command as the module knows it", substituted=f"{sent}, wanted {wanted}", source="from-memory"),
        ),
        fixes=(
            Move(
                label=f"Send {wanted}",
                patch=at_path(("vocabularies", it.talk.vocabulary.id, "words", it.word.id, "sent"), wanted),
            ),
        ),
        numbers={"bytes": len(it.word.content)},
    )


def escaped(content: bytes) -> str:
    """Write bytes as they are typed: characters as they are, all others as ``\\x41``."""
    return "".join(chr(byte) if 32 < byte < 127 and byte != 92 else f"\\x{byte:02X}" for byte in content)


def drives_the_pin(design: Design) -> Iterator[Breach]:
    """A command drives the pin its lamp hangs on."""
    return (_breach(it, "MOD-PIO") for it in _said(design) if it.word.content.upper() != it.wanted.upper())


def is_in_upper_case(design: Design) -> Iterator[Breach]:
    """A command is written as the module knows it: in upper case."""
    return (
        _breach(it, "MOD-CASE")
        for it in _said(design)
        if it.word.content != it.wanted and it.word.content.upper() == it.wanted.upper()
    )


def nothing_is_added(design: Design) -> Iterator[Breach]:
    """The phone adds nothing to a command that has no ending: with one it is another."""
    for talk in design.talks.values():
        handset = design.handsets.get(talk.a)
        if talk.vocabulary.dialect is None or talk.vocabulary.open_because is not None or handset is None:
            continue
        added = ENDINGS[handset.appends.id]
        if added:
            names = " ".join(map(shown, added))
            yield Breach(
                severity="stop",
                where=f"{talk.a}.appends",
                stage=design.nodes[talk.a].stage,
                message=f"The phone adds {names} to every message. The module takes all that comes at once for one command, and knows none that ends so.",
                working=(Working(formula="a command and nothing else", substituted=names, source="from-memory"),),
                fixes=(Move(label="Let it add nothing", patch=at_path(("nodes", talk.a, "appends"), "none")),),
                numbers={"bytes": len(added)},
            )


def fits_one_packet(design: Design) -> Iterator[Breach]:
    """A word goes through the air in one piece: in two, its second half comes later, and a module may take each for a whole."""
    for talk in design.talks.values():
        airs = [design.airs[hop.link_id] for hop in talk.hops if hop.link_id in design.airs]
        most = min((air.packet_most_bytes for air in airs), default=0)
        handset = design.handsets.get(talk.a)
        for word in talk.vocabulary.words if most and handset is not None else ():
            size = len(said_by(handset, talk.vocabulary, word)) if handset is not None else 0
            if word.direction == "out" and size > most:
                short = short_for(talk.vocabulary, word)
                yield Breach(
                    severity="look",
                    where=f"{talk.vocabulary.id}.{word.id}.packet",
                    stage=talk.vocabulary.stage,
                    message=f"{word.label} is {size} bytes with its ending; this radio carries {most} in a packet, so it comes in pieces.",
                    working=(
                        Working(
                            formula="bytes of a word ≤ bytes of a packet", substituted=f"{size} > {most}", source="from-memory"
                        ),
                    ),
                    fixes=(
                        Move(
                            label=f"Send {short} for {word.label}",
                            patch=at_path(("vocabularies", talk.vocabulary.id, "words", word.id, "sent"), short),
                        ),
                    ),
                    numbers={"bytes": size},
                )


def short_for(vocabulary: VocabularyDesign, word: WordDesign) -> str:
    """Return one character that no other word sends, of the word's own name where that can be."""
    letters = f"{word.id}{string.ascii_letters}".replace("_", "")
    return next(it for it in letters if all(it != other.text for other in vocabulary.words))


def what_it_says_by_itself_is_no_word(design: Design) -> Iterator[Breach]:
    """Some modules tell their board of every link, on the wire that words come by: the listener's own parser hears that too."""
    for talk in design.talks.values():
        for hop in talk.hops[1:]:
            dialect = dialect_of(design, design.nodes[hop.from_node])
            is_plain = (
                dialect is not None and dialect.enters != "always"
            )  # a program that speaks commands knows what is none of them
            says = [dialect.on_link, dialect.on_unlink] if dialect is not None and is_plain else []
            if not any(says) or talk.vocabulary.open_because is not None or not talk.vocabulary.words:
                continue
            parser = parser_of(talk.vocabulary, "out")
            heard = list[Heard]()
            for text in says:
                heard += [it for _, it in parser.feed(text.encode("ascii"))]
                if talk.vocabulary.gap is not None and (rest := parser.end()) is not None:
                    heard.append(rest)  # nobody presses within the quiet that ends what it says
            taken = list(dict.fromkeys(it.word.label for it in heard if it.word is not None))
            if taken or parser.pending:
                yield _chatter(design, talk, hop.from_node, says, taken)


def _chatter(design: Design, talk: TalkDesign, module: str, says: list[str], taken: list[str]) -> Breach:
    texts, name = " and ".join(filter(None, says)), design.nodes[module].label
    lost = "with no ending after it, the next word is taken for the rest of it and lost"
    done = f"that is heard as {and_list(taken)}"
    single = framed_as(talk.vocabulary.id, "single-byte")
    silent = at_path(("nodes", talk.a, "appends"), None) if talk.a in design.handsets else {}
    fixes = (
        []
        if taken
        else [
            Move(
                label="Take single bytes for words", patch=join_patches([single, silent, _letters(talk, but=set("".join(says)))])
            )
        ]
    )
    if taken:
        fixes = [Move(label="Send other letters for them", patch=_letters(talk, but=set("".join(says))))]
    return Breach(
        severity="stop" if taken else "look",
        where=f"{talk.id}.{module}.chatter",
        stage=talk.vocabulary.stage,
        message=f"The {inner(name)} says {texts} by itself when somebody links or leaves: {done if taken else lost}.",
        working=(Working(formula="what a module says by itself is no word", substituted=texts, source="from-memory"),),
        fixes=tuple(fixes),
        numbers={"words": len(taken) or 1},
    )


def _letters(talk: TalkDesign, but: Collection[str] = ()) -> Document:
    """Give every word a character of its own, and none of these; words that have one keep it."""
    free = (
        it
        for it in (*string.ascii_lowercase, *string.digits)
        if it not in but and all(it != word.text for word in talk.vocabulary.words)
    )
    words = {
        word.id: {"sent": next(free)}
        for word in talk.vocabulary.words
        if word.direction == "out" and (len(word.content) > 1 or word.text in but)
    }
    return at_path(("vocabularies", talk.vocabulary.id, "words"), words)


def as_commanded(design: Design, word: WordDesign, host: str) -> Iterator[Move]:
    """Offer to let a word do what the command it sends does to the lamp on that pin."""
    part = design.nodes[host].part
    for pin in design.pins if isinstance(part, ModulePart) else ():
        lamp = design.lamps.get(pin.line.owner_id) if pin.host == host and pin.line.owner[0] == "lamps" else None
        said = said_to(part, pin.label or "") if lamp is not None and isinstance(part, ModulePart) else ()
        verb = next((it.does for it in said if it.content == word.content), None)
        if lamp is not None and verb in ("on", "off"):
            rule = first_free(f"when_{word.id}"[:38], design.plan.rules.__contains__)
            do = [{"verb": verb, "target": lamp.id}]
            patch = at_path(("rules", rule), {"host": host, "when": {"heard": word.id}, "do": do})
            yield Move(label=f"Let {word.label} switch {lamp.label} {verb}", patch=patch)


RULES: Final = (
    Rule(
        "CMD-CHATTER",
        "words",
        what_it_says_by_itself_is_no_word,
        "what a module says by itself when somebody links or leaves is heard as a word",
        "it has no ending and the words have one, so that the first word after it is lost",
        "module part, from memory",
    ),
    Rule(
        "MOD-PACKET",
        "words",
        fits_one_packet,
        "",
        "a word and what the phone adds are longer than one packet of a radio on the way",
        "radio part, from memory; a BLE packet of 20 bytes, Bluetooth Core Specification, default ATT_MTU of 23",
    ),
    Rule(
        "MOD-PIO",
        "words",
        drives_the_pin,
        "a module's own command drives another pin than that of its lamp, or none",
        "",
        "module part, from memory",
    ),
    Rule("MOD-CASE", "words", is_in_upper_case, "a module's own command is not in upper case", "", "module part, from memory"),
    Rule(
        "MOD-ENDING",
        "words",
        nothing_is_added,
        "the phone adds an ending to commands that have none",
        "",
        "module part, from memory",
    ),
)
