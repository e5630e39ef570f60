"""Rules that keep words apart: none the bytes of another, none the beginning of another, no value that looks like an ending."""

import string
from collections.abc import Iterator
from functools import partial
from typing import Final

from oddlamp.core.base import Working, first_free
from oddlamp.core.checks.fewer import that_clear
from oddlamp.core.checks.findings import Breach, Move, Rule
from oddlamp.core.design.design import Design
from oddlamp.core.design.talks import ParameterDesign, VocabularyDesign, WordDesign
from oddlamp.core.english import and_list, inner
from oddlamp.core.modules.goals import dialect_of
from oddlamp.core.plan.document import Document, at_path, join_patches
from oddlamp.core.plan.edits import framed_as
from oddlamp.core.plan.text import shown
from oddlamp.core.words.confusion import As, Automaton, automaton_of, begins, first_bytes, holds, shared
from oddlamp.core.words.frames import RAW, Shape
from oddlamp.core.words.starts import could_meet

VALUES_LISTED: Final = 8


def hex_names(content: bytes) -> str:
    """Write bytes as ``0x0D 0x0A``."""
    return " ".join(f"0x{byte:02X}" for byte in content)


def named(content: bytes) -> str:
    """Write bytes as a reader knows them: characters where they are, names where they are not."""
    return "".join(map(shown, content)) if all(33 <= byte < 127 for byte in content) else " ".join(map(shown, content))


def heard_out(vocabulary: VocabularyDesign, direction: str) -> list[WordDesign]:
    """Return the words of one direction."""
    return [word for word in vocabulary.words if word.direction == direction]


def judged(design: Design) -> Iterator[VocabularyDesign]:
    """Walk the vocabularies that are worked out."""
    return (vocabulary for vocabulary in design.vocabularies.values() if vocabulary.open_because is None)


def framed(design: Design) -> Iterator[VocabularyDesign]:
    """Walk the vocabularies of a program: a module's own commands are each all that comes at once, and judged elsewhere."""
    return (vocabulary for vocabulary in judged(design) if not vocabulary.is_whole)


def paths_of(word: WordDesign, by: As) -> Automaton:
    """Return all messages of a word, as they are sent, heard or shaped."""
    return automaton_of(word.shape or Shape((word.content,), {}), by)


PLAIN: Final = bytes(range(32, 127))  # what a text can hold
ESCAPE: Final = "/"  # what other words begin with where any text may come


def _free_letter(vocabulary: VocabularyDesign, word: WordDesign) -> str:
    """Return a character no other word is, nor begins with: one of the word's own letters if it can be."""
    others = [it for it in vocabulary.words if it is not word]
    taken = {it.text for it in vocabulary.words}
    begun = 0
    for it in others:
        begun |= first_bytes(paths_of(it, "shaped" if it.shape is not None else "sent"))
    letters = [letter for letter in word.id if letter.isalnum()] + list(string.ascii_letters + string.digits)
    taken |= {it.swapcase() for it in taken}
    free = [it for it in letters if it not in taken]
    return next((it for it in free if not begun >> ord(it) & 1), free[0] if free else first_free(word.id, taken.__contains__))


def resend(vocabulary: VocabularyDesign, word: WordDesign) -> Iterator[Move]:
    """Offer another character for a word; one that carries values begins with it."""
    letter = _free_letter(vocabulary, word)
    text = letter
    if word.shape is not None:
        at = word.text.find("{")
        text = letter + (word.text[at:] if at >= 0 else "")
    patch = at_path(("vocabularies", vocabulary.id, "words", word.id, "sent"), text)
    yield Move(label=f"Send {text} for {word.label}", patch=patch)


def end_with_lf(vocabulary: VocabularyDesign) -> Move:
    """Offer an ending."""
    return Move(label="End every word with LF", patch=framed_as(vocabulary.id, "terminated", "lf"))


def of_fixed_length(vocabulary: VocabularyDesign) -> Iterator[Move]:
    """Offer that each word acts at its last byte, where every one has one length and none begins another."""
    words = vocabulary.words
    if any(it.field.width is None for word in words for it in word.parameters):
        return
    for short in words:
        for long in words:
            if (
                short is not long
                and short.direction == long.direction
                and begins(paths_of(short, "shaped"), paths_of(long, "sent")) is not None
            ):
                return
    patch = framed_as(vocabulary.id, "fixed")
    yield Move(label="Let each word act at its last byte", patch=patch)


def words_differ(design: Design) -> Iterator[Breach]:
    """No message of a word is one of another that goes the same way."""
    for vocabulary in framed(design):
        for direction in ("out", "back"):
            plain: dict[bytes, WordDesign] = {}
            words = heard_out(vocabulary, direction)
            begun = [first_bytes(paths_of(it, "heard")) for it in words]
            for at, (word, before) in enumerate(zip(words, could_meet([it.start for it in words]), strict=True)):
                first, both = (plain.setdefault(word.content, word), word.content) if word.shape is None else (word, b"")
                if first is word:
                    for it, begins_with in ((words[place], begun[place]) for place in before):
                        if not begun[at] & begins_with or (it.shape is None and word.shape is None):
                            continue
                        message = shared(paths_of(word, "sent"), paths_of(it, "heard")) or shared(
                            paths_of(it, "sent"), paths_of(word, "heard")
                        )
                        if message is not None:
                            first, both = it, message
                            break
                if first is not word:
                    yield _both(design, vocabulary, first, word, both)


def _both(design: Design, vocabulary: VocabularyDesign, first: WordDesign, word: WordDesign, both: bytes) -> Breach:
    is_plain = first.shape is None and word.shape is None
    moved, stays = (word, first) if word.shape is None or first.shape is not None else (first, word)
    where = f"{vocabulary.id}.{word.id}"
    return Breach(
        severity="stop",
        where=where,
        stage=vocabulary.stage,
        message=f"{first.label} and {word.label} are both {named(both)}."
        if is_plain
        else f"{named(both)} is both {first.label} and {word.label}, with the right value.",
        working=(
            Working(formula="each word its own bytes", substituted=f"{hex_names(both)} = {hex_names(both)}", source="iso-646"),
        ),
        ways=partial(_told_apart, design, "CMD-DUP", where, vocabulary, moved, stays),
        numbers={"words": 2},
    )


def _told_apart(
    design: Design, code: str, where: str, vocabulary: VocabularyDesign, word: WordDesign, other: WordDesign
) -> Iterator[Move]:
    return that_clear(design, code, where, _apart(design, vocabulary, word, other, ends_first=code == "CMD-PREFIX"))


def _apart(
    design: Design, vocabulary: VocabularyDesign, word: WordDesign, other: WordDesign, *, ends_first: bool
) -> Iterator[Move]:
    """List what might tell two words apart, the mildest first: other characters, an ending, a letter in front; at last without one of them."""
    if ends_first:
        yield end_with_lf(vocabulary)
    yield from _escaped(vocabulary)
    yield from resend(vocabulary, word)
    yield from resend(vocabulary, other)
    if not vocabulary.is_ended:
        if not ends_first:
            yield end_with_lf(vocabulary)
        yield from of_fixed_length(vocabulary)
        for it in (word, other):
            if it.shape is not None:
                (move,) = resend(vocabulary, it)
                is_open = any(one.field.width is None for one in it.parameters)
                framed_so = framed_as(vocabulary.id, *(("terminated", "lf") if is_open else ("fixed",)))
                ends = "end every word with LF" if is_open else "let each word act at its last byte"
                yield Move(label=f"{move.label}, and {ends}", patch=join_patches([move.patch, framed_so]))
    for it in (word, other):
        yield Move(label=f"Take {it.label} out", patch=design.taking_out.without_word(vocabulary.id, it.id))


def _escaped(vocabulary: VocabularyDesign) -> Iterator[Move]:
    """Offer that all other words begin with one sign, and a text that begins with it has it twice."""
    words = heard_out(vocabulary, "out")
    texts = [(word, it) for word in words for it in word.parameters if it.written == "text" and word.text == f"{{{it.id}}}"]
    if not texts or not vocabulary.is_ended:
        return
    told: Document = {
        it.id: {"sent": ESCAPE + it.text} for it in words if it is not texts[0][0] and not it.text.startswith(ESCAPE)
    }
    word, text = texts[0]
    told[word.id] = {"parameters": {text.id: {"escape": ESCAPE}}}
    patch = at_path(("vocabularies", vocabulary.id, "words"), told)
    yield Move(label=f"Begin all other words with {ESCAPE}, and send it twice where {text.label} begins with it", patch=patch)


def no_word_starts_another(design: Design) -> Iterator[Breach]:
    """Where nothing ends a word, no word starts another."""
    for vocabulary in framed(design):
        if vocabulary.is_ended:
            continue
        for direction in ("out", "back"):
            for short, long in _pairs(heard_out(vocabulary, direction)):
                found = _begun(short, long)
                if found is None:
                    continue
                start, whole = found
                yield Breach(
                    severity="stop",
                    where=f"{vocabulary.id}.{long.id}",
                    stage=vocabulary.stage,
                    message=f"{named(start)} starts {named(whole)}, and nothing ends a word: {f'sending {named(whole)} does' if long.direction == 'out' else 'what comes back is read as'} {short.label} first.",
                    working=(
                        Working(
                            formula="no word is the start of another",
                            substituted=f"{hex_names(start)} starts {hex_names(whole)}",
                            source="common-practice",
                        ),
                    ),
                    ways=partial(_told_apart, design, "CMD-PREFIX", f"{vocabulary.id}.{long.id}", vocabulary, long, short),
                    numbers={"words": 2},
                )


def _pairs(words: list[WordDesign]) -> Iterator[tuple[WordDesign, WordDesign]]:
    """Walk the pairs of words, each way round, of which one might begin the other, in the order of the first."""
    begun = [first_bytes(paths_of(it, "shaped" if it.shape is not None else "sent")) for it in words]
    beside: list[list[int]] = [[] for _ in words]
    for at, before in enumerate(could_meet([it.start for it in words])):
        for place in before:
            if begun[at] & begun[place]:
                beside[at].append(place)
                beside[place].append(at)
    return ((word, words[place]) for word, places in zip(words, beside, strict=True) for place in sorted(places))


def _begun(short: WordDesign, long: WordDesign) -> tuple[bytes, bytes] | None:
    if short.shape is None and long.shape is None:
        is_begun = len(short.content) < len(long.content) and long.content.startswith(short.content)
        return (short.content, long.content) if is_begun else None
    return begins(paths_of(short, "shaped"), paths_of(long, "sent"))


def holds_its_ending(vocabulary: VocabularyDesign, word: WordDesign) -> bool:
    """Tell whether what ends a word stands within it, where that is no raw value's doing."""
    if not vocabulary.terminator or any(it.field.kind in (*RAW, "text") for it in word.parameters):
        return False
    if word.shape is None:
        return vocabulary.terminator in word.content
    return holds(paths_of(word, "sent"), vocabulary.terminator) is not None


def no_value_looks_like_an_ending(design: Design) -> Iterator[Breach]:
    """Raw values of a word are none of the bytes that begin, part or end it."""
    for vocabulary in framed(design):
        for word in vocabulary.words if vocabulary.terminator else ():
            raw = [it for it in word.parameters if it.field.kind in (*RAW, "text")]
            if word.shape is None or not raw:
                continue
            is_text = all(it.written == "text" for it in raw)  # it goes on to the end: only what ends it can cut it
            literal = b"" if is_text else b"".join(it for it in word.shape.pieces if isinstance(it, bytes))
            special = dict.fromkeys(literal + vocabulary.terminator)
            can_be = b"".join(PLAIN if it.written == "text" else it.field.bytes_it_can_be() for it in raw)
            met = [byte for byte in special if byte in can_be]
            ends = holds(paths_of(word, "sent"), vocabulary.terminator)
            if met or ends is not None:
                yield _payload(vocabulary, word, raw, met, ends)


def _payload(
    vocabulary: VocabularyDesign, word: WordDesign, raw: list[ParameterDesign], met: list[int], ends: bytes | None
) -> Breach:
    names = and_list([it.label for it in raw])
    told = and_list([f"{shown(byte)} (0x{byte:02X})" for byte in met[:VALUES_LISTED]])
    what = (
        f"can be {told}, and {hex_names(vocabulary.terminator)} ends a word: {hex_names(ends)} is cut in two"
        if ends is not None
        else f"can be {told}, which stands in the word as well: a listener that looks for it is misled, though this one counts places"
    )
    return Breach(
        severity="stop" if ends is not None else "look",
        where=f"{vocabulary.id}.{word.id}.payload",
        stage=vocabulary.stage,
        message=f"{names} of {word.label} {what}.",
        working=(
            Working(
                formula="no value is a byte that begins, parts or ends a word",
                substituted=", ".join(f"0x{byte:02X}" for byte in met),
                source="common-practice",
            ),
        ),
        ways=partial(_written_apart, vocabulary, word, raw, names),
        numbers={"values": len(met)},
    )


def _written_apart(vocabulary: VocabularyDesign, word: WordDesign, raw: list[ParameterDesign], names: str) -> Iterator[Move]:
    if any(it.written == "text" for it in raw):
        yield end_with_lf(vocabulary)
        return
    hexed = {it.id: {"written": "hex"} for it in raw}
    patch = at_path(("vocabularies", vocabulary.id, "words", word.id, "parameters"), hexed)
    yield Move(label=f"Write {names} as hex", patch=patch)
    yield from of_fixed_length(vocabulary)


def words_differ_in_more_than_case(design: Design) -> Iterator[Breach]:
    """No two words are the same but for capitals: phones write capitals by themselves, and hands forget them."""
    for vocabulary in framed(design):
        seen: dict[bytes, WordDesign] = {}
        for word in heard_out(vocabulary, "out"):
            if word.shape is not None:
                continue
            first = seen.setdefault(word.content.lower(), word)
            if first is not word and first.content != word.content:
                yield Breach(
                    severity="look",
                    where=f"{vocabulary.id}.{word.id}.case",
                    stage=vocabulary.stage,
                    message=f"{first.label} is {named(first.content)} and {word.label} {named(word.content)}: a capital by mistake, which phones write by themselves, does the other.",
                    working=(
                        Working(
                            formula="words differ in more than capitals",
                            substituted=f"{hex_names(first.content)}, {hex_names(word.content)}",
                            source="iso-646",
                        ),
                    ),
                    fixes=tuple(resend(vocabulary, word)),
                    numbers={"words": 2},
                )


def words_are_no_commands(design: Design) -> Iterator[Breach]:
    """A word that begins like a command of the module it passes is taken for one whenever nobody is linked, or ends the link."""
    for talk in design.talks.values():
        between = [design.nodes[hop.from_node] for hop in talk.hops[1:]] if not talk.vocabulary.is_whole else []
        for node in between:
            dialect = dialect_of(design, node)
            if dialect is None or (dialect.enters != "unlinked" and dialect.drops_on is None):
                continue
            for word in talk.vocabulary.words:
                if word.content[:2].upper() != b"AT" or any(
                    it.frame.cut(word.content) is not None for it in dialect.commands if it.send != "AT"
                ):
                    continue
                ends = (
                    word.direction == "back" and dialect.drops_on is not None and word.content == dialect.drops_on.encode("ascii")
                )
                yield Breach(
                    severity="stop" if ends else "look",
                    where=f"{talk.vocabulary.id}.{word.id}.at",
                    stage=talk.vocabulary.stage,
                    message=f"{word.label} is {named(word.content)}: said to the {inner(node.label)} while somebody is linked it ends the link."
                    if ends
                    else f"{word.label} is {named(word.content)} and begins like a command: the {inner(node.label)} takes it for one whenever nobody is linked.",
                    working=(
                        Working(formula="no word begins with AT", substituted=hex_names(word.content), source="from-memory"),
                    ),
                    fixes=tuple(resend(talk.vocabulary, word)),
                    numbers={"bytes": len(word.content)},
                )


RULES: Final = (
    Rule("CMD-DUP", "words", words_differ, "a message of a word, with some value, is one of another", "", "ISO/IEC 646"),
    Rule(
        "CMD-PREFIX",
        "words",
        no_word_starts_another,
        "nothing ends a word and a message of one, with some value, starts one of another",
        "",
        "common practice",
    ),
    Rule("CMD-CASE", "words", words_differ_in_more_than_case, "", "two words differ in capitals only", "common practice"),
    Rule(
        "CMD-AT-CLASH",
        "words",
        words_are_no_commands,
        "a word a board says is what ends the link of its module",
        "a word begins with AT, and its module listens for that while nobody is linked",
        "module part, from memory",
    ),
    Rule(
        "CMD-PAYLOAD",
        "words",
        no_value_looks_like_an_ending,
        "raw values of a word that has an ending can be that ending",
        "they can be another byte that always stands in the word",
        "common practice",
    ),
)
