"""Rules for vocabularies: no two alike, none that starts another, endings that fit the phone, and a way to dark."""

from collections.abc import Iterator
from functools import partial
from typing import Final

from oddlamp.core.base import Working, first_free
from oddlamp.core.behaviour.compile import program_of
from oddlamp.core.behaviour.foresee import lit_and_dark
from oddlamp.core.behaviour.framing import parser_of, said_by, sent_bytes
from oddlamp.core.checks.apart import (
    end_with_lf,
    framed,
    heard_out,
    hex_names,
    holds_its_ending,
    judged,
    named,
    of_fixed_length,
    resend,
)
from oddlamp.core.checks.commands import as_commanded
from oddlamp.core.checks.fewer import that_clear
from oddlamp.core.checks.findings import Breach, Move, Rule
from oddlamp.core.design.design import Design
from oddlamp.core.design.talks import HandsetDesign, TalkDesign, VocabularyDesign, WordDesign
from oddlamp.core.english import and_list, plural
from oddlamp.core.plan.document import at_path
from oddlamp.core.plan.edits import framed_as
from oddlamp.core.plan.rules import Rule as PlanRule
from oddlamp.core.plan.text import ENDINGS, shown, typed


def endings_fit(design: Design) -> Iterator[Breach]:
    """What the phone adds is what the words want, and what the words want is there."""
    for vocabulary in framed(design):
        yield from _unended(design, vocabulary)
        for talk in design.vocabulary_talks(vocabulary.id):
            handset = design.handsets.get(talk.a)
            if handset is not None:
                yield from _ending_of(talk, handset)


def _unended(design: Design, vocabulary: VocabularyDesign) -> Iterator[Breach]:
    by_way = {way: heard_out(vocabulary, way) for way in ("out", "back")}
    for word in vocabulary.words:
        words = by_way[word.direction]
        is_long = vocabulary.framing.id == "single-byte" and len(word.content) > 1
        if is_long and not any(word.content.startswith(it.content) and len(it.content) < len(word.content) for it in words):
            yield Breach(
                severity="stop",
                where=f"{vocabulary.id}.{word.id}",
                stage=vocabulary.stage,
                message=f"{named(word.content)} is {len(word.content)} bytes, and each byte is read by itself: it is never heard.",
                working=(
                    Working(
                        formula="one byte a word where nothing ends it",
                        substituted=hex_names(word.content),
                        source="common-practice",
                    ),
                ),
                ways=partial(_made_whole, vocabulary, word),
                numbers={"bytes": len(word.content)},
            )
        elif vocabulary.framing.id == "fixed" and (
            open_one := next((it for it in word.parameters if it.field.width is None), None)
        ):
            yield Breach(
                severity="stop",
                where=f"{vocabulary.id}.{word.id}",
                stage=vocabulary.stage,
                message=f"{open_one.label} of {word.label} is a decimal of one to several digits, and nothing ends the word: it is never heard.",
                working=(
                    Working(
                        formula="one length for every message of a word",
                        substituted=open_one.field.span,
                        source="common-practice",
                    ),
                ),
                fixes=(end_with_lf(vocabulary), _as_hex(vocabulary, word)),
                numbers={"values": 1},
            )
        elif holds_its_ending(vocabulary, word):
            yield Breach(
                severity="stop",
                where=f"{vocabulary.id}.{word.id}",
                stage=vocabulary.stage,
                message=f"{named(word.content)} holds its own terminator {hex_names(vocabulary.terminator)}: it ends too soon.",
                working=(
                    Working(formula="no terminator inside a word", substituted=hex_names(word.content), source="common-practice"),
                ),
                ways=partial(_without_ending, design, vocabulary, word),
                numbers={"bytes": len(word.content)},
            )


def _without_ending(design: Design, vocabulary: VocabularyDesign, word: WordDesign) -> Iterator[Move]:
    """Offer the word without what ends it, another word, or another ending."""
    pieces = word.shape.pieces if word.shape is not None else (word.content,)
    text = "".join(f"{{{it}}}" if isinstance(it, str) else typed(it.replace(vocabulary.terminator, b"")) for it in pieces)
    path = ("vocabularies", vocabulary.id, "words", word.id, "sent")
    moves = [
        *([Move(label=f"Send {text} for {word.label}", patch=at_path(path, text))] if text else []),
        *resend(vocabulary, word),
        end_with_lf(vocabulary),
        Move(label="End every word with ;", patch=framed_as(vocabulary.id, "terminated", ";")),
    ]
    return that_clear(design, "CMD-ENDING", f"{vocabulary.id}.{word.id}", moves)


def _as_hex(vocabulary: VocabularyDesign, word: WordDesign) -> Move:
    """Offer to write every decimal of a word as hex, which has one length."""
    decimals = [it for it in word.parameters if it.field.width is None]
    patch = at_path(
        ("vocabularies", vocabulary.id, "words", word.id, "parameters"), {it.id: {"written": "hex"} for it in decimals}
    )
    return Move(label=f"Write {and_list([it.label for it in decimals])} as hex", patch=patch)


def _made_whole(vocabulary: VocabularyDesign, word: WordDesign) -> Iterator[Move]:
    yield end_with_lf(vocabulary)
    yield from of_fixed_length(vocabulary)
    yield from resend(vocabulary, word) if word.shape is None else ()


def _ending_of(talk: TalkDesign, handset: HandsetDesign) -> Iterator[Breach]:
    """Let the listener's own parser hear what the phone says: every word must come out, and nothing else."""
    vocabulary, added = talk.vocabulary, ENDINGS[handset.appends.id]
    wanted = vocabulary.terminator if vocabulary.terminator in ENDINGS.values() else b""
    if added == wanted:
        return
    is_heard = all(_comes_out(handset, vocabulary, word) for word in heard_out(vocabulary, "out"))
    names = " ".join(f"{shown(byte)} (0x{byte:02X})" for byte in added) or "nothing"
    want = " ".join(f"{shown(byte)} (0x{byte:02X})" for byte in wanted) or "none"
    if is_heard:
        spare = plural(len(added), "byte")
        message = f"The phone adds {names} to every message. No word uses it, so the listener passes over it: {spare} more on the wire each time."
    elif not vocabulary.terminator:
        taken = (
            "single bytes, so the listener takes them for words"
            if vocabulary.framing.id == "single-byte"
            else "told apart without, so the listener takes them for part of one"
        )
        message = f"The phone adds {names} to every message. These words are {taken}."
    else:
        message = f"The phone adds {names}; these words want {want}. The listener never hears a whole word."
    ending = next(name for name, content in ENDINGS.items() if content == wanted)
    let_add = at_path(("nodes", handset.id, "appends"), ending)
    fixes = [Move(label=f"Let the phone add {want if wanted else 'nothing'}", patch=let_add)]
    if added:
        patch = framed_as(vocabulary.id, "terminated", handset.appends.id)
        fixes.append(Move(label=f"End words with {handset.appends.label}", patch=patch))
    yield Breach(
        severity="look" if is_heard else "stop",
        where=f"{talk.id}.{handset.id}",
        stage=vocabulary.stage,
        message=message,
        fixes=tuple(fixes),
        numbers={"bytes": len(added)},
        working=(
            Working(
                formula="added by the phone = wanted by the words",
                substituted=f"{hex_names(added) or 'nothing'} ≠ {hex_names(wanted) or 'nothing'}",
                source="iso-646",
            ),
        ),
    )


def _comes_out(handset: HandsetDesign, vocabulary: VocabularyDesign, word: WordDesign) -> bool:
    """Tell whether what follows a word, said twice, spoils nothing: a number for a character is another rule's."""
    ending = said_by(handset, vocabulary, word)[len(sent_bytes(word, handset)) :]
    parser = parser_of(vocabulary, "out")
    heard = []
    for _ in range(2):
        heard += [it.taken for _, it in parser.feed(word.content + ending)]
        heard += [last.taken] if (last := parser.end()) is not None else []
    expected = [word.content] if vocabulary.framing.id != "single-byte" else [bytes((byte,)) for byte in word.content]
    return heard == expected * 2 and not parser.pending


def characters_are_characters(design: Design) -> Iterator[Breach]:
    """A phone that sends numbers does not send the characters of the words, and the reverse."""
    for talk in design.talks.values():
        handset = design.handsets.get(talk.a)
        if handset is None or talk.vocabulary.open_because is not None or talk.vocabulary.is_whole:
            continue
        for word in heard_out(talk.vocabulary, "out"):
            sent = sent_bytes(word, handset)
            if sent == word.content and not (
                handset.sends_as.id == "characters" and len(word.content) == 1 and word.content[0] < 10
            ):
                continue
            if handset.sends_as.id == "numbers":
                waits = (
                    f"{'character' if len(word.content) == 1 else 'characters'} {named(word.content)} ({hex_names(word.content)})"
                )
                message = f"The phone sends {named(word.content)} as the number {sent[0]} (0x{sent[0]:02X}). The listener waits for the {waits}."
                fix = Move(label="Let the phone send characters", patch=at_path(("nodes", handset.id, "sends_as"), "characters"))
            else:
                digit = chr(48 + word.content[0])
                sent = digit.encode()
                message = f"{word.label} is the number {word.content[0]} (0x{word.content[0]:02X}). A phone that sends characters sends {digit} as 0x{48 + word.content[0]:02X}."
                fix = Move(
                    label=f"Listen for the character {digit}",
                    patch=at_path(("vocabularies", talk.vocabulary.id, "words", word.id, "sent"), digit),
                )
            yield Breach(
                severity="stop",
                where=f"{talk.vocabulary.id}.{word.id}",
                stage=talk.vocabulary.stage,
                message=message,
                fixes=(fix,),
                numbers={"words": 1},
                working=(
                    Working(
                        formula="the character 1 is 0x31 is 49, and is not the number 1",
                        substituted=f"{hex_names(sent)} ≠ {hex_names(word.content)}",
                        source="iso-646",
                    ),
                ),
            )


def there_is_a_way_to_dark(design: Design) -> Iterator[Breach]:
    """Some word switches everything off that the words can switch on."""
    for vocabulary in framed(design):
        for host in dict.fromkeys(talk.b for talk in design.vocabulary_talks(vocabulary.id)):
            lights, dark_by = lit_and_put_out(design, vocabulary, host)
            if not lights or dark_by:
                continue
            names = ", ".join(design.lamps[lamp].label for lamp in design.lamps if lamp in lights)
            yield Breach(
                severity="look",
                where=vocabulary.id,
                stage=vocabulary.stage,
                message=f"No word switches everything off: {names} can be lit and not all put out at once.",
                working=(
                    Working(
                        formula="some word leaves every lamp off", substituted=f"lit by words: {names}", source="common-practice"
                    ),
                ),
                fixes=(
                    *_stops(design, vocabulary, host),
                    add_dark(design, vocabulary, host, [lamp for lamp in design.lamps if lamp in lights]),
                ),
                numbers={"lamps": len(lights)},
            )


def lit_and_put_out(design: Design, vocabulary: VocabularyDesign, host: str) -> tuple[set[str], list[str]]:
    """Return the lamps that some word can light at a host, and the words that put all of those out."""
    program = program_of(design, host)
    left = {
        word.id: lit_and_dark(program, ("heard", word.id), {it.id: (it.field.least, it.field.most) for it in word.parameters})
        for word in heard_out(vocabulary, "out")
    }
    lights = {lamp for lit, _ in left.values() for lamp in lit}
    return lights, [word_id for word_id, (_, dark) in left.items() if lights <= dark]


def _plays_on(design: Design, host: str) -> bool:
    """Tell whether something of a host goes on though lamps are put out: a cue that some rule starts, what codes move."""
    return any(it.sender is not None for it in design.plan.movers.values()) or any(
        action.verb == "cue" for _, rule in design.rules_of(host) for action in rule.do
    )


def _stops(design: Design, vocabulary: VocabularyDesign, host: str) -> Iterator[Move]:
    """Offer that a word which only puts lamps out stops cues as well, where there are any."""
    for name, rule in design.rules_of(host) if _plays_on(design, host) else ():
        word = next((it for it in vocabulary.words if it.id == rule.when.heard), None)
        if (
            word is not None
            and len(rule.do) > 0
            and {action.verb for action in rule.do} == {"off"}
            and _is_all(design, rule, host)
        ):
            yield Move(label=f"Let {word.label} stop everything", patch=at_path(("rules", name, "do"), [{"verb": "stop"}]))


def _is_all(design: Design, rule: PlanRule, host: str) -> bool:
    told = {lamp for action in rule.do for lamp in design.targets(action.target)}
    return told >= {lamp.id for lamp in design.lamps.values() if lamp.host == host}


def add_dark(design: Design, vocabulary: VocabularyDesign, host: str, lamps: list[str]) -> Move:
    """Offer a word that puts lamps out: one that nothing obeys yet, or a new one."""
    unused = [
        word.id
        for word in heard_out(vocabulary, "out")
        if word.id in ("off", "dark") and not any(rule.when.heard == word.id for rule in design.plan.rules.values())
    ]
    word_id = unused[0] if unused else first_free("dark", lambda name: any(word.id == name for word in vocabulary.words))
    rule_id = first_free(f"when_{word_id}", design.plan.rules.__contains__)
    do = [{"verb": "stop"}] if _plays_on(design, host) else [{"verb": "off", "target": lamp} for lamp in lamps]
    patch: dict[str, object] = {"rules": {rule_id: {"host": host, "when": {"heard": word_id}, "do": do}}}
    if not unused:
        patch["vocabularies"] = {vocabulary.id: {"words": {word_id: {}}}}
    label = next((word.label for word in vocabulary.words if word.id == word_id), word_id.capitalize())
    return Move(
        label=f"Let {label} switch everything off" if unused else f"Add {label}, which switches everything off", patch=patch
    )


def there_are_words(design: Design) -> Iterator[Breach]:
    """A talk has something to say."""
    for vocabulary in framed(design):
        talks = design.vocabulary_talks(vocabulary.id)
        if vocabulary.words or not talks:
            continue
        yield Breach(
            severity="look",
            where=vocabulary.id,
            stage=vocabulary.stage,
            message="There are no words: the phone has nothing to send, and nothing to light with.",
            working=(Working(formula="at least one word", substituted="none", source="common-practice"),),
            fixes=tuple(_first_words(design, vocabulary, talks[0].b)),
            numbers={"words": 1},
        )


def _first_words(design: Design, vocabulary: VocabularyDesign, host: str) -> Iterator[Move]:
    lamps = [lamp.id for lamp in design.lamps.values() if lamp.host == host]
    rules: dict[str, object] = {}
    for word in ("on", "off"):
        rule_id = first_free(f"when_{word}", design.plan.rules.__contains__)
        rules[rule_id] = {"host": host, "when": {"heard": word}, "do": [{"verb": word, "target": lamp} for lamp in lamps]}
    if lamps:
        patch = {"vocabularies": {vocabulary.id: {"words": {"on": {}, "off": {}}}}, "rules": rules}
        yield Move(label="Add On and Off for all lamps", patch=patch)


def words_are_obeyed(design: Design) -> Iterator[Breach]:
    """Every word does something where it is heard."""
    for vocabulary in judged(design):
        for host in dict.fromkeys(talk.b for talk in design.vocabulary_talks(vocabulary.id)):
            obeyed = {rule.when.heard for _, rule in design.rules_of(host) if rule.do}
            obeyed |= {it.keep_alive.word for it in design.plan.talks.values() if it.keep_alive is not None and it.b == host}
            for word in heard_out(vocabulary, "out"):
                if word.id in obeyed:
                    continue
                yield Breach(
                    severity="look",
                    where=f"{vocabulary.id}.{word.id}",
                    stage=vocabulary.stage,
                    message=f"{word.label} is heard and does nothing: no rule obeys it.",
                    working=(
                        Working(formula="a rule for every word", substituted=f"none for {word.label}", source="common-practice"),
                    ),
                    fixes=tuple(_obey(design, vocabulary, word, host)),
                    numbers={"rules": 1},
                )


def _obey(design: Design, vocabulary: VocabularyDesign, word: WordDesign, host: str) -> Iterator[Move]:
    """Offer what the word's name says, a lamp to switch to and fro, or to take it out; of a module's own command what it does."""
    if vocabulary.is_whole:
        yield from as_commanded(design, word, host)
        yield Move(label=f"Take {word.label} out", patch=design.taking_out.without_word(vocabulary.id, word.id))
        return
    lamps = [lamp for lamp in design.lamps.values() if lamp.host == host]
    rule_id = first_free(f"when_{word.id}"[:38], design.plan.rules.__contains__)
    if lamps and word.id in ("on", "off", "dark"):
        verb = "on" if word.id == "on" else "off"
        do = [{"verb": verb, "target": lamp.id} for lamp in lamps]
        patch = at_path(("rules", rule_id), {"host": host, "when": {"heard": word.id}, "do": do})
        yield Move(label=f"Let {word.label} switch everything {verb}", patch=patch)
    elif lamps:
        do = [{"verb": "toggle", "target": lamps[0].id}]
        patch = at_path(("rules", rule_id), {"host": host, "when": {"heard": word.id}, "do": do})
        yield Move(label=f"Let {word.label} switch {lamps[0].label} on and off", patch=patch)
    yield Move(label=f"Take {word.label} out", patch=design.taking_out.without_word(vocabulary.id, word.id))


RULES: Final = (
    Rule(
        "CMD-ENDING",
        "words",
        endings_fit,
        "what the phone adds is not what the words want and a word is lost or a byte is taken for one; a word of several bytes without an ending; a word that holds its own terminator",
        "single bytes, and the phone adds bytes that no word is",
        "ISO/IEC 646",
    ),
    Rule(
        "CMD-CHAR-NUMBER",
        "words",
        characters_are_characters,
        "the phone sends numbers where characters are listened for, or the reverse",
        "",
        "ISO/IEC 646",
    ),
    Rule(
        "CMD-NO-STOP", "words", there_is_a_way_to_dark, "", "no word puts out everything the words can light", "common practice"
    ),
    Rule("CMD-NONE", "words", there_are_words, "", "a talk without any word", "common practice"),
    Rule("CMD-NO-RULE", "words", words_are_obeyed, "", "a word that no rule of its listener obeys", "common practice"),
)
