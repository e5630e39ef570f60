"""The sheet of a vocabulary: words as characters, decimal and hex, on the wire's own time."""

from typing import NamedTuple

from oddlamp.core.base import first_free, si
from oddlamp.core.behaviour.framing import byte_time_s, sent_bytes
from oddlamp.core.checks.findings import Finding, Move
from oddlamp.core.design.design import Design
from oddlamp.core.design.talks import HandsetDesign, ParameterDesign, TalkDesign, VocabularyDesign, WordDesign
from oddlamp.core.english import inner, plural
from oddlamp.core.plan.document import Document, at_path, join_patches
from oddlamp.core.plan.edits import framed_as
from oddlamp.core.plan.rules import Rule
from oddlamp.core.plan.text import ENDINGS, shown, typed
from oddlamp.core.plan.words import Written
from oddlamp.core.resolve.words import ENDING_NAMES, letters_for
from oddlamp.sheets.answering import Answering, answers_of
from oddlamp.sheets.bytes import Role, byte_row, marked, wire_speed
from oddlamp.sheets.charts import ticks
from oddlamp.sheets.deeds import Deed, deeds_of, describe
from oddlamp.sheets.entry import entry
from oddlamp.sheets.models import ByteRow, BytesPicture, Choice, Entry, Option, Panel, ParameterRow, Sheet, WordRow
from oddlamp.sheets.sliders import slider_moves

WRITTEN: tuple[tuple[Written, str, str], ...] = (
    ("decimal", "Decimal", "1 to 5 digits, easy to type"),
    ("hex", "Hex digits", "always as many"),
    ("byte", "Raw byte", "one byte, 0 to 255"),
    ("two-bytes", "Two bytes", "the high one first"),
    ("two-bytes-little", "Two bytes, low first", "the low one first"),
    ("text", "Text", "to the end of the word"),
)
BELOW: tuple[tuple[Document, str, str], ...] = (
    ({"signed": None, "bits": None, "least": None}, "Is never", "0 and more"),
    ({"signed": "minus", "bits": None}, "With a minus", "as it is read"),
    ({"signed": "twos-complement", "bits": 4}, "In 4 bits", "5 and 11 are opposite, 8 has none"),
    ({"signed": "twos-complement", "bits": 8}, "In 8 bits", "two's complement, 255 is -1"),
    ({"signed": "twos-complement", "bits": 16}, "In 16 bits", "two's complement, 65535 is -1"),
    ({"signed": "offset", "bits": None}, "Counted from its least", "which is 0"),
)
CHECKED: tuple[tuple[str | None, str, str], ...] = (
    (None, "It does not", "what is sent is all there is"),
    ("xor", "All before xored", "one byte more"),
    ("sum", "All before summed", "one byte more"),
    ("crc-8", "CRC-8", "finds what the others miss"),
)


def words_sheet(design: Design, vocabulary: VocabularyDesign, findings: tuple[Finding, ...]) -> Sheet:
    """Build the sheet of one vocabulary."""
    mine = [finding for finding in findings if finding.stage == vocabulary.stage and finding.accepted is None]
    count = len(vocabulary.words)
    if vocabulary.open_because is not None:
        sentence = f"{plural(count, 'word')} of the module itself. What they do is not worked out yet."
    elif vocabulary.is_whole and count and not any(finding.severity == "stop" for finding in mine):
        sentence = f"{plural(count, 'command')} of the module itself, each for the pin its lamp hangs on."
    elif not count:
        sentence = "Nothing can be said yet: add a word."
    elif any(finding.severity == "stop" for finding in mine):
        sentence = mine[0].message
    else:
        sentence = (
            f"{plural(count, 'word')}, no two alike, none that starts another."
            if count > 1
            else "One word, and nothing it could be mistaken for."
        )
    talks = design.vocabulary_talks(vocabulary.id)
    handset = next((design.handsets[talk.a] for talk in talks if talk.a in design.handsets), None)
    ending = (
        f"{ending_name(vocabulary)} ends a word"
        if vocabulary.terminator
        else f"A pause of {vocabulary.gap.text} ends a word"
        if vocabulary.gap is not None
        else "Nothing ends a word"
    )
    detail = (
        f"{ending}; the phone adds {handset.appends.label}. `1` is the character 0x31, 49 in decimal, and not the number 1."
        if handset
        else f"{ending}."
    )
    if vocabulary.is_whole and handset is not None:
        detail = f"The module takes all that comes at once for one command; the phone adds {handset.appends.label}."
    return Sheet(
        stage=vocabulary.stage,
        kind="words",
        title=design.plan.vocabularies[vocabulary.id].label or "Words",
        sentence=sentence,
        detail=detail.replace("`", ""),
        pictures=tuple(filter(None, (_picture(design, vocabulary, talks),))),
        panels=(_framing_panel(design, vocabulary, talks),),
        words=_rows(design, vocabulary),
        try_text=_example(vocabulary) if handset is not None else None,
        moves=_moves(design, vocabulary),
    )


def _example(vocabulary: VocabularyDesign) -> str | None:
    """Write the line that says the word with most to tell, as it is typed."""
    words = [it for it in vocabulary.words if it.direction == "out"] if vocabulary.open_because is None else []
    most = max(words, key=lambda it: len(it.parameters), default=None)
    return typed(most.content) if most is not None else None


def ending_name(vocabulary: VocabularyDesign) -> str:
    """Name the terminator as people say it."""
    return ENDING_NAMES.get(vocabulary.terminator_name, vocabulary.terminator_name)


def _picture(design: Design, vocabulary: VocabularyDesign, talks: list[TalkDesign]) -> BytesPicture | None:
    talk = next((it for it in talks if wire_speed(design, it) is not None), None)
    if talk is None or not vocabulary.words or vocabulary.open_because is not None:
        return None
    byte_s = byte_time_s(wire_speed(design, talk) or 9600)
    rows = tuple(_byte_row(design, vocabulary, talk, word, byte_s) for word in vocabulary.words[:8])
    most = max(len(row.bytes) for row in rows) * byte_s
    text = "; ".join(f"{row.word}: {' '.join(byte.shown for byte in row.bytes)}, {row.takes}" for row in rows)
    return BytesPicture(text=text, axis_most_s=most, ticks=ticks(most, lambda s: si(s, "s")), rows=rows)


def _byte_row(design: Design, vocabulary: VocabularyDesign, talk: TalkDesign, word: WordDesign, byte_s: float) -> ByteRow:
    handset = design.handsets.get(talk.a) if word.direction == "out" else None
    added = ENDINGS[handset.appends.id] if handset else vocabulary.terminator
    by_hand = (
        vocabulary.terminator if handset and vocabulary.terminator and vocabulary.terminator not in ENDINGS.values() else b""
    )
    body = sent_bytes(word, handset) if handset else word.content
    role: Role = "ending" if added == vocabulary.terminator else "unwanted"
    ending: list[tuple[int, Role]] = [(byte, "ending") for byte in by_hand]
    return byte_row(word.label, [*marked(word, body), *ending, *((byte, role) for byte in added)], byte_s)


def _framing_panel(design: Design, vocabulary: VocabularyDesign, talks: list[TalkDesign]) -> Panel:
    rows = [
        ("single-byte", None, "Single bytes", "nothing ends a word"),
        ("fixed", None, "Words of one length each", "each acts at its last byte"),
        ("gap", None, "A pause after each", "nothing is added, and nothing may come too soon"),
        *(
            ("terminated", key, f"End with {ENDING_NAMES.get(key, key)}", "words of any length")
            for key in ("lf", "cr", "cr-lf", "#", ";")
        ),
    ]
    options = tuple(
        Option(
            label=label,
            detail=detail,
            patch=framed_as(vocabulary.id, kind, key),
            is_chosen=vocabulary.framing.id == kind and (key is None or vocabulary.terminator_name == key),
        )
        for kind, key, label, detail in rows
    )
    ends = Choice(label="What ends a word", origin=vocabulary.framing.origin, because=vocabulary.framing.why, options=options)
    choices = [] if vocabulary.is_whole else [ends]
    framing = design.plan.vocabularies[vocabulary.id].framing
    path = ("vocabularies", vocabulary.id, "framing")
    entries: tuple[Entry, ...] = ()
    if framing is not None and framing.kind == "fixed":
        checks = tuple(
            Option(label=label, detail=detail, patch=at_path((*path, "check"), key), is_chosen=framing.check == key)
            for key, label, detail in CHECKED
        )
        choices.append(Choice(label="The last byte checks it", origin="own", options=checks))
        lead = Entry(
            label="All begin with",
            text=framing.lead or "nothing",
            path=(*path, "lead"),
            origin="own" if framing.lead else "proposed",
            because=None if framing.lead else "words are told apart by what they are",
            hint="characters as they are, any byte as 0x41",
        )
        entries = (lead,)
    for talk in talks:
        if (handset := design.handsets.get(talk.a)) is not None:
            choices.append(appends_choice(design, handset))
            break
    if vocabulary.gap is not None:
        entries = (entry(vocabulary.gap),)
    if not vocabulary.is_whole:
        choices.append(_unknown_choice(design, vocabulary))
    return Panel(title="", entries=entries, choices=() if vocabulary.open_because else tuple(choices))


def _unknown_choice(design: Design, vocabulary: VocabularyDesign) -> Choice:
    settled = design.plan.vocabularies[vocabulary.id].on_unknown
    rows = (("ignore", "Is passed over", "nothing is said of it"), ("answer", "Is answered with ?", "seen at once when testing"))
    options = tuple(
        Option(
            label=label,
            detail=detail,
            patch=at_path(("vocabularies", vocabulary.id, "on_unknown"), key),
            is_chosen=vocabulary.answers_unknown == (key == "answer"),
        )
        for key, label, detail in rows
    )
    because = None if settled else "a stray byte does no harm, and no program waits for an answer"
    return Choice(label="What is no word", origin="own" if settled else "proposed", because=because, options=options)


def appends_choice(design: Design, handset: HandsetDesign) -> Choice:
    """Offer what a phone adds after each message."""
    current = handset.appends.id
    options = tuple(
        Option(
            label=label.capitalize() if key == "none" else label,
            patch=at_path(("nodes", handset.id, "appends"), key),
            is_chosen=key == current,
        )
        for key, label in ENDING_NAMES.items()
    )
    label = f"The {inner(design.nodes[handset.id].label)} adds"
    return Choice(label=label, origin=handset.appends.origin, because=handset.appends.why, options=options)


class _Around(NamedTuple):
    """What the rows of a vocabulary need to know of what stands around, looked up once."""

    host: str | None
    rules: dict[str | None, list[tuple[str, Rule]]]
    senders: dict[str, list[WordDesign]]
    answering: Answering


def _rows(design: Design, vocabulary: VocabularyDesign) -> tuple[WordRow, ...]:
    host = next((talk.b for talk in design.vocabulary_talks(vocabulary.id)), None)
    around = _Around(host, {}, {}, answers_of(design, vocabulary))
    for name, rule in design.plan.rules.items():
        if rule.host == host:
            around.rules.setdefault(rule.when.heard, []).append((name, rule))
    for word in vocabulary.words:
        around.senders.setdefault(word.text.casefold(), []).append(word)
    return tuple(_row(design, vocabulary, word, around) for word in vocabulary.words)


def _row(design: Design, vocabulary: VocabularyDesign, word: WordDesign, around: _Around) -> WordRow:
    host = around.host
    deeds = deeds_of(design, host, {it.id: it.written for it in word.parameters}) if host is not None else []
    is_named = design.plan.vocabularies[vocabulary.id].words[word.id].label is not None
    name = Entry(
        label=f"Name of {word.label}",
        text=word.label,
        path=("vocabularies", vocabulary.id, "words", word.id, "label"),
        origin="own" if is_named else "proposed",
        because=None if is_named else "what it is called in the plan",
    )
    sent = Entry(
        label=f"Sent for {word.label}",
        text=word.text,
        path=("vocabularies", vocabulary.id, "words", word.id, "sent"),
        origin=word.origin,
        because=None if word.origin == "own" else "short, and no word starts another",
        hint="characters as they are, any byte as \\x41, and a value in braces: R{level}",
        settles=word.text if word.origin == "proposed" else None,
    )
    return WordRow(
        id=word.id,
        label=word.label,
        name=name,
        sent=sent,
        characters=" ".join(shown(byte) for byte in word.content),
        hex=" ".join(f"0x{byte:02X}" for byte in word.content),
        decimal=" ".join(str(byte) for byte in word.content),
        direction=word.direction,
        parameters=tuple(_parameter(design, vocabulary, word, it) for it in word.parameters),
        does=_does(design, word, host, deeds, around.rules.get(word.id, [])),
        answers=around.answering(word),
        moved=_moved(design, word, around),
        remove=_remove(design, vocabulary, word),
    )


def _moved(design: Design, word: WordDesign, around: _Around) -> str:
    """Say what a word would be proposed to send if another did not; empty where it is what it would be anyway, or settled."""
    wanted = letters_for(word.id, design.catalog)[0]
    other = next((it for it in around.senders.get(wanted.casefold(), ()) if it is not word), None)
    if word.origin == "own" or other is None or wanted == word.text:
        return ""
    return f"{word.text}, because {other.label} sends {other.text} already"


def _parameter(design: Design, vocabulary: VocabularyDesign, word: WordDesign, it: ParameterDesign) -> ParameterRow:
    """Hold a value that a word carries: how it is written, and its bounds; what is not settled of it is proposed."""
    path = ("vocabularies", vocabulary.id, "words", word.id, "parameters", it.id)
    settled = design.plan.vocabularies[vocabulary.id].words[word.id].parameters.get(it.id)
    options = tuple(
        Option(label=label, detail=detail, patch=at_path(path, _rewritten(it, key)), is_chosen=it.written == key)
        for key, label, detail in WRITTEN
        if key != "text" or word.text.endswith(f"{{{it.id}}}")
    )
    is_own = settled is not None and settled.written is not None
    written = Choice(
        label=f"{it.label} written as",
        origin="own" if is_own else "proposed",
        because=None if is_own else "easy to type, and read off any terminal",
        options=options,
    )
    bounds = tuple(
        Entry(
            label=f"{it.label} {label}",
            text=str(value),
            path=(*path, name),
            origin="own" if settled is not None and getattr(settled, name) is not None else "proposed",
            because=None if settled is not None and getattr(settled, name) is not None else why,
            settles=value if settled is None or getattr(settled, name) is None else None,
        )
        for name, label, value, why in (
            ("least", "at least", it.field.least, "as short as may be")
            if it.written == "text"
            else ("least", "from", it.field.least, "nothing is less than none"),
            ("most", "at most", it.field.most, "what one packet of BLE carries")
            if it.written == "text"
            else ("most", "to", it.field.most, it.why),
        )
    )
    unit = Entry(
        label=f"{it.label} in",
        text=it.field.unit,
        path=(*path, "unit"),
        origin="own",
        hint="its unit, such as %, told and not sent; leave it empty where it has none",
    )
    told = bounds if it.written == "text" else (*bounds, unit)
    return ParameterRow(id=it.label, written=written, below=_below(it, path), bounds=told)


def _rewritten(it: ParameterDesign, written: Written) -> Document:
    """Write a value another way; what that cannot have goes: a minus where nothing is typed, the bounds of a number in a text."""
    if (written == "text") != (it.written == "text"):
        return {"written": written, "signed": None, "bits": None, "least": None, "most": None, "escape": None}
    return {"written": written, **({"signed": "offset"} if it.field.signed == "minus" and written != "decimal" else {})}


def _below(it: ParameterDesign, path: tuple[str, ...]) -> Choice | None:
    """Offer how a number below nothing is carried: with its sign where it is typed, in two's complement of as many bits as there are."""
    if it.written == "text":
        return None
    bits = {"byte": (8,), "two-bytes": (16,), "two-bytes-little": (16,)}.get(it.written, (4, 8, 16))
    signed = it.field.signed
    options = tuple(
        Option(
            label=label,
            detail=detail,
            patch=at_path(path, told),
            is_chosen=told["signed"] == signed and (signed != "twos-complement" or told["bits"] == it.field.bits),
        )
        for told, label, detail in BELOW
        if (told["signed"] != "minus" or it.written == "decimal") and (told["bits"] is None or told["bits"] in bits)
    )
    because = None if signed else "most values are amounts"
    return Choice(label=f"{it.label} below 0", origin="own" if signed else "proposed", because=because, options=options)


def _does(design: Design, word: WordDesign, host: str | None, deeds: list[Deed], mine: list[tuple[str, Rule]]) -> Choice:
    """Offer what a word may do; the rule behind it is made or replaced."""
    if host is None or word.direction == "back":
        return Choice(label=f"{word.label} does", origin="own", options=(Option(label="is said back", patch={}, is_chosen=True),))
    rule_id = mine[0][0] if mine else first_free(f"when_{word.id}", design.plan.rules.__contains__)
    told = [action.model_dump(mode="json", exclude_none=True) for _, rule in mine for action in rule.do]
    current, says = ([it for it in told if (it["verb"] == "say") == is_said] for is_said in (False, True))
    options = []
    for label, do in deeds:
        patch: Document = {"rules": {rule_id: {"host": host, "when": {"heard": word.id}, "do": [*do, *says]}}}
        options.append(Option(label=label, patch=patch, is_chosen=current == do))
    if not any(option.is_chosen for option in options):
        keeps = any(it.keep_alive is not None and it.keep_alive.word == word.id for it in design.plan.talks.values())
        none = "keeps the link alive" if keeps else "nothing yet"
        options.insert(0, Option(label=describe(design, host, current) if current else none, patch={}, is_chosen=True))
    return Choice(label=f"{word.label} does", origin="own", options=tuple(options))


def _remove(design: Design, vocabulary: VocabularyDesign, word: WordDesign) -> Move:
    return Move(label=f"Take {word.label} out", patch=design.taking_out.without_word(vocabulary.id, word.id))


def _moves(design: Design, vocabulary: VocabularyDesign) -> tuple[Move, ...]:
    """Offer one more word, which switches a lamp to and fro until told otherwise, so that it is not heard for nothing; and sliders."""
    if vocabulary.open_because is not None or vocabulary.is_whole:
        return ()
    name = first_free("word", lambda it: any(word.id == it for word in vocabulary.words))
    patch: Document = at_path(("vocabularies", vocabulary.id, "words", name), {})
    host = next((talk.b for talk in design.vocabulary_talks(vocabulary.id)), None)
    lamp = next((it.id for it in design.lamps.values() if it.host == host), None)
    if host is not None and lamp is not None:
        rule = first_free(f"when_{name}", design.plan.rules.__contains__)
        do = [{"verb": "toggle", "target": lamp}]
        patch = join_patches([patch, at_path(("rules", rule), {"host": host, "when": {"heard": name}, "do": do})])
    return (Move(label="Add a word", patch=patch), *(slider_moves(design, vocabulary, host) if host is not None else ()))
