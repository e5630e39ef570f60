"""Rules for the values that words carry: in their bounds, obeyed by who hears them, not longer than a buffer, not quicker than the line."""

from collections.abc import Iterator
from functools import partial
from typing import Final, NamedTuple

from oddlamp.core.base import Working, si
from oddlamp.core.behaviour.framing import byte_time_s, said_by
from oddlamp.core.checks.apart import framed
from oddlamp.core.checks.findings import Breach, Move, Rule
from oddlamp.core.design.design import Design
from oddlamp.core.design.talks import ControlDesign, HandsetDesign, TalkDesign, VocabularyDesign, WordDesign
from oddlamp.core.english import and_list
from oddlamp.core.plan.document import at_path
from oddlamp.core.plan.text import SENT_MOST
from oddlamp.core.plan.words import FIELDS_MOST, MOST, room_of

SLIDER_S: Final = 0.1  # common practice, no source: smooth to the eye, and ten messages a second
BUFFER_HOLDS: Final = 63  # of a ring of 64 bytes, as the packages of 8-bit boards have; from memory
PERCENT_MOST: Final = 100
NICE_S: Final = (0.02, 0.05, 0.1, 0.2, 0.5, 1.0)


def values_have_room(design: Design) -> Iterator[Breach]:
    """What a value is written as holds its whole range, and a share in per cent ends at a hundred."""
    for vocabulary in framed(design):
        for word in vocabulary.words:
            settled = design.plan.vocabularies[vocabulary.id].words[word.id].parameters
            for it in word.parameters:
                own = settled.get(it.id)
                path = ("vocabularies", vocabulary.id, "words", word.id, "parameters", it.id)
                lowest, top = room_of(own, own.least or 0 if own is not None else 0)
                given = [] if own is None else [one for one in (own.least, own.most) if one is not None]
                over = next((one for one in given if not lowest <= one <= top), None)
                if over is not None:
                    yield Breach(
                        severity="stop",
                        where=f"{vocabulary.id}.{word.id}.{it.id}",
                        stage=vocabulary.stage,
                        message=f"{it.label} of {word.label} goes to {over}, and what it is written in holds {lowest} to {top}.",
                        working=(
                            Working(
                                formula="least and most of its codes", substituted=f"{over}: {lowest} to {top}", source="iso-646"
                            ),
                        ),
                        ways=partial(_within, path, lowest, top, given),
                        numbers={"over": max(over - top, lowest - over)},
                    )
                elif it.field.signed == "twos-complement" and it.field.least == lowest:
                    yield Breach(
                        severity="look",
                        where=f"{vocabulary.id}.{word.id}.{it.id}",
                        stage=vocabulary.stage,
                        message=f"{it.label} of {word.label} can be {lowest}, code {-lowest}, which has no opposite: turned round it stays what it is.",
                        working=(
                            Working(
                                formula="(2^n − v) mod 2^n ≠ v",
                                substituted=f"({-2 * lowest} − {-lowest}) mod {-2 * lowest} = {-lowest}",
                                source="common-practice",
                            ),
                        ),
                        fixes=(Move(label=f"Let it begin at {lowest + 1}", patch=at_path((*path, "least"), lowest + 1)),),
                        numbers={"codes": 1},
                    )
                elif it.field.unit == "%" and it.field.most > PERCENT_MOST:
                    yield Breach(
                        severity="look",
                        where=f"{vocabulary.id}.{word.id}.{it.id}",
                        stage=vocabulary.stage,
                        message=f"{it.label} of {word.label} is a share in per cent and goes to {it.field.most}.",
                        working=(Working(formula="per cent ≤ 100", substituted=f"{it.field.most}", source="common-practice"),),
                        fixes=(Move(label="Let it go to 100", patch=at_path((*path, "most"), PERCENT_MOST)),),
                        numbers={"most": it.field.most},
                    )


def _within(path: tuple[str, ...], lowest: int, top: int, given: list[int]) -> Iterator[Move]:
    if min(given) >= 0 and max(given) <= MOST["two-bytes"]:
        yield Move(label="Write it as two bytes", patch=at_path(path, {"written": "two-bytes", "signed": None, "bits": None}))
    bounds = {"least": max(min(given), lowest), "most": min(max(given), top)} if len(given) > 1 else {"most": min(given[0], top)}
    yield Move(label=f"Let it go from {bounds.get('least', 0)} to {bounds['most']}", patch=at_path(path, bounds))


def values_are_carried(design: Design) -> Iterator[Breach]:
    """A rule takes only values that its word carries."""
    words = {
        (host, it.id): (talk.vocabulary, it)
        for talk in design.talks.values()
        for host in (talk.a, talk.b)
        for it in talk.vocabulary.words
    }
    for name, rule in design.plan.rules.items():
        known = words.get((rule.host, rule.when.heard or ""))
        carried = {it.id for it in known[1].parameters} if known is not None else set()
        wanted = [one for action in rule.do for one in action.carried()]
        missing = [it for it in dict.fromkeys(wanted) if it not in carried]
        if not missing:
            continue
        told = and_list([f"{{{it}}}" for it in missing])
        yield Breach(
            severity="stop",
            where=f"rules.{name}",
            stage=f"rules.{rule.host}",
            message=f"A rule takes {told}, and {known[1].label if known is not None else 'what sets it off'} carries no such value: nothing comes of it.",
            working=(Working(formula="a value for every brace", substituted=told, source="common-practice"),),
            ways=partial(_carry, design, name, known, missing),
            numbers={"values": len(missing)},
        )


def _carry(design: Design, rule_id: str, known: tuple[VocabularyDesign, WordDesign] | None, missing: list[str]) -> Iterator[Move]:
    if known is not None:
        vocabulary, word = known
        text = (
            word.text + " ".join(f"{{{it}}}" for it in missing)
            if not word.parameters
            else " ".join([word.text, *(f"{{{it}}}" for it in missing)])
        )
        patch = at_path(("vocabularies", vocabulary.id, "words", word.id, "sent"), text)
        if len(text) <= SENT_MOST and len(word.parameters) + len(missing) <= FIELDS_MOST:
            yield Move(label=f"Send {text} for {word.label}", patch=patch)
    rule = design.plan.rules[rule_id]
    do = [it.model_dump(mode="json", exclude_none=True) for it in rule.do if not set(missing) & set(it.carried())]
    yield Move(label="Take that out of the rule", patch=at_path(("rules", rule_id, "do"), do))


def words_fit_the_buffer(design: Design) -> Iterator[Breach]:
    """A word with its ending is no longer than what a listener holds."""
    for talk, handset, word, size in _said(design):
        if size > BUFFER_HOLDS:
            yield Breach(
                severity="stop",
                where=f"{talk.vocabulary.id}.{word.id}.long",
                stage=talk.vocabulary.stage,
                message=f"{word.label} is {size} bytes with its ending, and {'a phone' if handset else 'a board'} that says it meets a buffer of {BUFFER_HOLDS}: its end is lost.",
                working=(Working(formula="bytes of a word ≤ 63", substituted=f"{size} > {BUFFER_HOLDS}", source="from-memory"),),
                ways=partial(_shorter, talk, word),
                numbers={"bytes": size},
            )


def _shorter(talk: TalkDesign, word: WordDesign) -> Iterator[Move]:
    at = word.text.find("{")
    text = word.id[:1] + (word.text[at:] if word.shape is not None and at >= 0 else "")
    yield Move(
        label=f"Send {text} for {word.label}", patch=at_path(("vocabularies", talk.vocabulary.id, "words", word.id, "sent"), text)
    )


def _said(design: Design) -> Iterator[tuple[TalkDesign, HandsetDesign | None, WordDesign, int]]:
    """Walk what is said on each talk, with its bytes at most."""
    for talk in design.talks.values():
        handset = design.handsets.get(talk.a)
        for word in talk.vocabulary.words if talk.vocabulary.open_because is None and not talk.vocabulary.is_whole else ():
            is_typed = handset is not None and word.direction == "out"
            size = (
                len(said_by(handset, talk.vocabulary, word))
                if is_typed and handset is not None
                else len(word.content + talk.vocabulary.terminator)
            )
            yield talk, handset if is_typed else None, word, size


def controls_are_no_quicker_than_the_line(design: Design) -> Iterator[Breach]:
    """A slider says a word no more often than the wire and the air carry it."""
    for handset in design.handsets.values():
        for control in handset.controls:
            need = needs_s(design, handset, control)
            if control.interval_s is None or need is None or control.interval_s >= need.least_s:
                continue
            nice = next((it for it in NICE_S if it >= need.least_s), need.least_s)
            yield Breach(
                severity="stop" if control.interval_s < need.wire_s else "look",
                where=f"{handset.id}.{control.id}.rate",
                stage=f"nodes.{handset.id}",
                message=f"{control.label} says {need.size} bytes every {si(control.interval_s, 's')}. The {'wire takes ' + si(need.wire_s, 's') if control.interval_s < need.wire_s else 'air takes about ' + si(need.air_s, 's')} for them: they pile up, and the lamp lags behind the thumb.",
                working=(
                    Working(
                        formula="interval ≥ bytes × 10 / baud, and what the air takes",
                        substituted=f"{si(control.interval_s, 's')} < {si(need.least_s, 's')}",
                        source="from-memory",
                    ),
                ),
                fixes=(
                    Move(
                        label=f"Say it every {si(nice, 's')}",
                        patch=at_path(("nodes", handset.id, "controls", control.id, "interval_s"), nice),
                    ),
                ),
                numbers={"short_s": need.least_s - control.interval_s},
            )


def needs_s(design: Design, handset: HandsetDesign, control: ControlDesign) -> "Need | None":
    """Return what the line needs for each message of a slider; None for what is no slider."""
    said = control.says.get("move")
    if said is None or control.at_rest:
        return None
    talk = design.talks[said[0]]
    size = len(said_by(handset, talk.vocabulary, talk.vocabulary.word(said[1])))
    wire_s = max(
        (size * byte_time_s(design.wires[hop.link_id].baud.known) for hop in talk.hops if hop.link_id in design.wires),
        default=0.0,
    )
    air_s = max((design.airs[hop.link_id].latency.known for hop in talk.hops if hop.link_id in design.airs), default=0.0)
    return Need(size, wire_s, air_s, talk.vocabulary.gap.known if talk.vocabulary.gap is not None else 0.0)


def said_every_s(design: Design, handset: HandsetDesign, control: ControlDesign) -> float:
    """Return how long it is from one message of what is moved to the next: as settled, else no oftener than the line takes."""
    need = needs_s(design, handset, control)
    return control.interval_s or max(SLIDER_S, need.least_s if need is not None else 0.0)


class Need(NamedTuple):
    """What a message takes: its bytes, the time on its slowest wire and in the air, and the pause that ends it."""

    size: int
    wire_s: float
    air_s: float
    gap_s: float

    @property
    def least_s(self) -> float:
        """The shortest time from one to the next."""
        return max(self.wire_s + self.gap_s, self.air_s)


RULES: Final = (
    Rule(
        "CMD-RANGE",
        "words",
        values_have_room,
        "a value goes past what the byte it is written as holds",
        "a share in per cent goes past a hundred",
        "common practice",
    ),
    Rule("CMD-NO-VALUE", "whole", values_are_carried, "a rule takes a value that its word does not carry", "", "common practice"),
    Rule("CMD-LONG", "words", words_fit_the_buffer, "a word is longer than the buffer of who hears it", "", "from memory"),
    Rule(
        "CMD-RATE",
        "words",
        controls_are_no_quicker_than_the_line,
        "a slider says a word more often than its wire carries it",
        "more often than the air carries it",
        "a byte of ten bits; radio part, from memory",
    ),
)
