"""Talks, vocabularies and handsets with every habit and byte filled in."""

from oddlamp.core.base import first_free
from oddlamp.core.design.supplies import NodeDesign, Picked
from oddlamp.core.design.talks import (
    AirDesign,
    HandsetDesign,
    Hop,
    ParameterDesign,
    TalkDesign,
    VocabularyDesign,
    WireDesign,
    WordDesign,
)
from oddlamp.core.design.values import NOT_YET, Origin, Slot, Value
from oddlamp.core.parts.models import Catalog
from oddlamp.core.plan.controls import HANDSETS
from oddlamp.core.plan.model import Handset, Plan
from oddlamp.core.plan.signals import label_of
from oddlamp.core.plan.text import bytes_of, parts_of, terminator_bytes
from oddlamp.core.plan.words import Framing, Gap, Vocabulary, Word, Written, bits_of, room_of
from oddlamp.core.resolve.controls import controls_of
from oddlamp.core.words.frames import Field, FieldKind, Shape

KINDS: dict[Written, FieldKind] = {
    "decimal": "number",
    "hex": "hex",
    "byte": "byte",
    "two-bytes": "two-bytes",
    "two-bytes-little": "two-bytes-little",
    "text": "text",
}
TEXT_USUAL = 20  # what a packet of BLE carries
DECIMAL_DIGITS = 5
CHECK = "its check"  # no name of a value, which has no space in it
FRAMINGS = {
    "single-byte": "Single bytes",
    "fixed": "Words of fixed length",
    "gap": "Words with a pause after",
    "terminated": "Words with an ending",
    "whole": "Commands of the module",
}
ENDING_NAMES = {"none": "nothing", "cr": "CR", "lf": "LF", "cr-lf": "CR LF"}


def resolve_vocabularies(plan: Plan, catalog: Catalog) -> dict[str, VocabularyDesign]:
    """Give every word its bytes, and every vocabulary its framing."""
    return {name: _vocabulary(name, vocabulary, catalog) for name, vocabulary in plan.vocabularies.items()}


def _vocabulary(name: str, vocabulary: Vocabulary, catalog: Catalog) -> VocabularyDesign:
    framing = vocabulary.framing
    kind: str = framing.kind if framing else "single-byte"
    if framing is None and any(word.sent is not None and _is_long(word.sent) for word in vocabulary.words.values()):
        kind = "terminated"
    if vocabulary.dialect is not None:
        kind = "whole"
    module = catalog.modules.get(vocabulary.dialect or "")
    drives = module is not None and bool(module.outputs)
    ending = (framing.terminator if framing and framing.kind == "terminated" else None) or "lf"
    why = (
        "one byte a word is the least to type and to go wrong"
        if kind == "single-byte"
        else "a word is all that comes until the line is quiet"
        if kind == "gap"
        else "each word has one length, and acts at its last byte"
        if kind == "fixed"
        else "a module takes all that comes at once for one command"
        if kind == "whole"
        else "words of several characters need an ending"
    )
    return VocabularyDesign(
        id=name,
        framing=Picked(kind, FRAMINGS[kind], "own" if framing else "proposed", None if framing else why),
        terminator=terminator_bytes(ending) if kind == "terminated" else b"",
        terminator_name=ending if kind == "terminated" else "none",
        words=_words(vocabulary, catalog),
        open_because=f"the module's own commands: {NOT_YET}" if vocabulary.dialect and not drives else None,
        dialect=vocabulary.dialect,
        gap=_gap(name, framing, catalog) if framing is not None and framing.kind == "gap" else None,
        answers_unknown=vocabulary.on_unknown == "answer",
    )


def _gap(name: str, framing: Gap, catalog: Catalog) -> Value:
    """Give the pause that ends a word: settled, or twice the longest time between two packets of these radios."""
    slot = Slot(
        id=f"vocabularies.{name}.gap_s",
        stage=f"vocabularies.{name}",
        label="Pause",
        unit="s",
        path=("vocabularies", name, "framing", "gap_s"),
    )
    proposal = catalog.proposals["gap"]
    if framing.gap_s is not None:
        return slot.filled(framing.gap_s, origin="own")
    return slot.filled(proposal.value or 0.1, origin="proposed", because=proposal.why)


def _is_long(text: str) -> bool:
    parts = parts_of(text)
    return len(parts) != 1 or isinstance(parts[0], str) or len(parts[0]) > 1


def letters_for(word_id: str, catalog: Catalog) -> list[str]:
    """Return the characters that a word is proposed to send, the best first: a usual one, those of its name, then any."""
    usual = {it.partition(":")[2]: it.partition(":")[0] for it in catalog.proposals["words"].words}
    return [it for it in (usual.get(word_id, ""), *word_id, *"abcdefghijklmnopqrstuvwxyz23456789") if it and it != "_"]


def _words(vocabulary: Vocabulary, catalog: Catalog) -> tuple[WordDesign, ...]:
    settled = {word.sent for word in vocabulary.words.values() if word.sent}
    used = settled | {it.swapcase() for it in settled}  # what differs in a capital only is mistaken for it
    out = []
    for word_id, word in vocabulary.words.items():
        text = word.sent
        if text is None:
            text = next((it for it in letters_for(word_id, catalog) if it not in used), first_free("w", used.__contains__))
            used.add(text)
        out.append(_word(catalog, word_id, word, text, vocabulary.framing))
    return tuple(out)


def _word(catalog: Catalog, word_id: str, word: Word, text: str, framing: Framing | None) -> WordDesign:
    """Give a word its bytes, or its shape where it carries values or a byte that checks it."""
    label, direction = label_of(word.label, word_id), word.direction or "out"
    origin: Origin = "own" if word.sent else "proposed"
    fixed = framing if framing is not None and framing.kind == "fixed" else None
    parts = [*([bytes_of(fixed.lead)] if fixed is not None and fixed.lead else []), *parts_of(text)]
    names = [it for it in parts if isinstance(it, str)]
    check = fixed.check if fixed is not None else None
    if not names and check is None:
        return WordDesign(word_id, label, text, b"".join(it for it in parts if isinstance(it, bytes)), origin, direction)
    parameters = tuple(_parameter(catalog, name, word) for name in names)
    fields = {it.id: it.field for it in parameters}
    if check is not None:
        fields, parts = {**fields, CHECK: Field(kind=check)}, [*parts, CHECK]
    shape = Shape(tuple(parts), fields)
    content = shape.build({it.id: it.at_most for it in parameters})
    return WordDesign(word_id, label, text, content, origin, direction, parameters, shape)


def _parameter(catalog: Catalog, name: str, word: Word) -> ParameterDesign:
    settled, proposal = word.parameters.get(name), catalog.proposals["parameter"]
    written = (settled.written if settled else None) or "decimal"
    signed = settled.signed if settled else None
    own_least, own_most = (settled.least, settled.most) if settled else (None, None)
    usual = min(TEXT_USUAL if written == "text" else int(proposal.value or 255), room_of(settled)[1])
    least = own_least if own_least is not None else 1 if written == "text" else -(own_most or usual) if signed else 0
    lowest, top = room_of(settled, least)
    least = max(least, lowest)
    most = max(min(own_most if own_most is not None else max(usual, least), top), least)
    field = Field(
        kind=KINDS[written],
        least=least,
        most=most,
        signed=signed,
        bits=bits_of(settled),
        escape=(settled.escape if settled else None) or "",
        unit=(settled.unit if settled else None) or "",
        digits_most=DECIMAL_DIGITS,
    )
    is_own = settled is not None and settled.most is not None
    label = label_of(settled.label if settled else None, name)
    return ParameterDesign(name, label, field, written, "own" if is_own else "proposed", None if is_own else proposal.why)


def resolve_talks(plan: Plan, vocabularies: dict[str, VocabularyDesign]) -> dict[str, TalkDesign]:
    """Walk every talk's path."""
    talks = {}
    for name, talk in plan.talks.items():
        at, hops = talk.a, []
        for link_id in talk.via:
            link = plan.links[link_id]
            forward = link.a == at
            to = link.b if forward else link.a
            hops.append(Hop(link_id, link.kind, at, to, "a_to_b" if forward else "b_to_a"))
            at = to
        talks[name] = TalkDesign(name, talk.a, talk.b, tuple(hops), vocabularies[talk.vocabulary])
    return talks


def resolve_handsets(plan: Plan, catalog: Catalog, talks: dict[str, TalkDesign]) -> dict[str, HandsetDesign]:
    """Fill in how each phone behaves, and something to press for every word it can say."""
    out = {}
    taken = {name for node in plan.nodes.values() if isinstance(node, Handset) for name in node.controls}
    for node_id, node in plan.nodes.items():
        if not isinstance(node, Handset):
            continue
        proposal = catalog.proposals["speaks"]
        receivers = [name for name, it in plan.inputs.items() if it.kind == "remote-receiver"]
        receiver = (node.receiver or next(iter(receivers), None)) if node.kind == "remote" else None
        host = plan.inputs[receiver].host if receiver is not None else None
        mine = [talk for talk in talks.values() if (talk.b == host if node.kind == "remote" else talk.a == node_id)]
        ending = next((talk.vocabulary.terminator_name for talk in mine if talk.vocabulary.terminator_name != "none"), "none")
        added = ending if ending in ENDING_NAMES else "none"
        appends = (
            Picked(node.appends, ENDING_NAMES[node.appends], "own")
            if node.appends
            else Picked(added, ENDING_NAMES[added], "proposed", "what the words on this talk want")
        )
        sends_as = Picked(
            node.sends_as or "characters",
            "",
            "own" if node.sends_as else "proposed",
            None if node.sends_as else "what nearly all phone terminals send",
        )
        speaks = Picked(
            "speaks",
            ", ".join(node.speaks or proposal.words),
            "own" if node.speaks is not None else "proposed",
            None if node.speaks is not None else proposal.why,
        )
        out[node_id] = HandsetDesign(
            node_id,
            node.speaks if node.speaks is not None else proposal.words,
            speaks,
            sends_as,
            appends,
            controls_of(node_id, node, mine, taken),
            node.kind,
            receiver,
        )
    return out


def resolve_links(
    plan: Plan, catalog: Catalog, nodes: dict[str, NodeDesign]
) -> tuple[dict[str, AirDesign], dict[str, WireDesign]]:
    """Give radio links their kind and latency, and wires their speed."""
    airs, wires = {}, {}
    for link_id, link in plan.links.items():
        stage = f"links.{link_id}"
        if link.kind == "air":
            ends = [nodes[link.b], nodes[link.a]]
            radios = [radio for node in ends if node.part for radio in node.part.radios]
            spoken = [set(node.node.speaks or catalog.proposals["speaks"].words) for node in ends if node.node.kind in HANDSETS]
            shared = [radio for radio in radios if all(radio in speaks for speaks in spoken)]
            usual = {"ble": "ble-serial", "wifi": "tcp"}.get((shared or radios or ["classic"])[0], "classic-serial")
            air = catalog.airs[link.transport or usual]
            picked = Picked(
                air.id,
                air.label,
                "own" if link.transport else "proposed",
                None if link.transport else "what the module's radio speaks",
            )
            latency = Slot(id=f"{link_id}.latency_s", stage=stage, label="In the air", unit="s").stated(air.latency_s)
            airs[link_id] = AirDesign(link_id, picked, air.radio, latency, air.packet_most_bytes)
        else:
            slot = Slot(
                id=f"{link_id}.baud_rate_bd", stage=stage, label="Speed", unit="Bd", path=("links", link_id, "baud_rate_bd")
            )
            proposal = catalog.proposals["baud"]
            if link.baud_rate_bd is not None:
                wires[link_id] = WireDesign(link_id, slot.filled(link.baud_rate_bd, origin="own"))
            else:
                wires[link_id] = WireDesign(link_id, slot.filled(proposal.value or 9600, origin="proposed", because=proposal.why))
    return airs, wires
