"""Rules for what words set off: lamps within reach that can do it, something said when a held control is let go, replies that are said."""

from collections.abc import Iterator
from functools import partial
from typing import Final

from oddlamp.core.base import Working
from oddlamp.core.behaviour.framing import UNKNOWN
from oddlamp.core.checks.apart import heard_out, judged
from oddlamp.core.checks.fewer import that_clear
from oddlamp.core.checks.findings import Breach, Move, Rule
from oddlamp.core.checks.words import lit_and_put_out
from oddlamp.core.design.design import Design
from oddlamp.core.design.talks import ControlDesign, HandsetDesign, TalkDesign, VocabularyDesign, way_of
from oddlamp.core.english import and_list, inner
from oddlamp.core.layouts.can import why_not
from oddlamp.core.plan.document import at_path, join_patches
from oddlamp.core.plan.signals import told_by


def lamps_are_in_reach(design: Design) -> Iterator[Breach]:
    """A rule tells only lamps that hang on its own host."""
    for name, rule in design.plan.rules.items():
        told = dict.fromkeys(lamp for action in rule.do for lamp in (*design.targets(action.target), *action.tells_of()))
        away = [it for it in told if told_by(design.plan, design.lamps[it].host) != rule.host]
        if not away:
            continue
        labels = and_list([design.lamps[it].label for it in away])
        there = inner(design.nodes[design.lamps[away[0]].host].label)
        yield Breach(
            severity="stop",
            where=f"rules.{name}",
            stage=f"rules.{rule.host}",
            message=f"A rule of the {inner(design.nodes[rule.host].label)} tells {labels}, which hangs on the {there}: it cannot reach it.",
            working=(
                Working(formula="a lamp on the host of its rule", substituted=f"{labels}: {there}", source="common-practice"),
            ),
            ways=partial(_without, design, name, away, f"Tell {labels} nothing in this rule"),
            numbers={"lamps": len(away)},
        )


def _without(design: Design, rule_id: str, lamps: list[str], label: str, verb: str | None = None) -> Iterator[Move]:
    """Offer to leave lamps out of a rule; a group that holds some is told lamp by lamp."""
    do = []
    for action in design.plan.rules[rule_id].do:
        targets = design.targets(action.target)
        if set(action.tells_of()) & set(lamps):
            continue
        if not set(lamps) & set(targets) or verb not in (None, action.verb):
            do.append(action)
        else:
            do += [action.model_copy(update={"target": it}) for it in targets if it not in lamps]
    told = [it.model_dump(mode="json", exclude_none=True) for it in do]
    yield Move(label=label, patch=at_path(("rules", rule_id, "do"), told))


def lamps_can_do_it(design: Design) -> Iterator[Breach]:
    """A rule asks of a lamp only what it can do: no text of an LED, no half brightness of a relay."""
    for name, rule in design.plan.rules.items():
        asked = [
            (it, action.verb, because)
            for action in rule.do
            for it in design.targets(action.target)
            if (because := why_not(design.plan.lamps[it], action.verb, of_pixels=action.of_pixels)) is not None
        ]
        for lamp, verb, because in dict.fromkeys(asked):
            label = design.lamps[lamp].label
            yield Breach(
                severity="stop",
                where=f"rules.{name}.{lamp}.{verb}",
                stage=f"rules.{rule.host}",
                message=f"A rule asks {WHAT[verb]} of {label}, and nothing comes of it: {because}.",
                working=(Working(formula="a lamp that can do it", substituted=f"{label}: {because}", source="common-practice"),),
                ways=partial(_without, design, name, [lamp], f"Ask no {WHAT[verb].split()[-1]} of {label}", verb),
                numbers={"lamps": 1},
            )


WHAT: Final = {
    "text": "a text",
    "score": "a score",
    "colour": "a colour",
    "brighter": "more light",
    "dimmer": "less light",
    "add": "other light",
    "random": "light by chance",
    "show": "a value",
    "tone": "a tone",
    "pattern": "a pattern",
    "send": "a code",
}


def held_controls_are_let_go(design: Design) -> Iterator[Breach]:
    """A control that is held says something when it is let go, and a switch something at both its ends."""
    for handset in design.handsets.values():
        for control in handset.controls:
            missing = _missing(control)
            if missing is None:
                continue
            does, gesture = missing
            yield Breach(
                severity="look",
                where=f"{handset.id}.{control.id}.release",
                stage=f"nodes.{handset.id}",
                message=f"{control.label} says nothing when it is {does}: what it set off goes on.",
                working=(
                    Working(
                        formula="a word for each way of a held control", substituted=f"none for {does}", source="common-practice"
                    ),
                ),
                ways=partial(_let_go, design, handset, control, gesture, does),
                numbers={"words": 1},
            )


def _missing(control: ControlDesign) -> tuple[str, str] | None:
    says = set(control.says)
    if control.kind == "button" and control.is_held and "press" in says and "release" not in says:
        return "let go", "release"
    if control.kind == "toggle" and says == {"on"}:
        return "switched off", "off"
    return ("switched on", "on") if control.kind == "toggle" and says == {"off"} else None


def _let_go(design: Design, handset: HandsetDesign, control: ControlDesign, gesture: str, does: str) -> Iterator[Move]:
    path = ("nodes", handset.id, "controls", control.id)
    talk_id, said = next(iter(control.says.values()))
    talk = design.talks[talk_id]
    others = [it for it in heard_out(talk.vocabulary, "out") if it.id != said and not it.parameters]
    _, dark_by = lit_and_put_out(design, talk.vocabulary, talk.b)
    for word in sorted(others, key=lambda it: it.id not in dark_by)[:2]:
        saying = {"talk": talk_id, "word": word.id}
        yield Move(label=f"Let it say {word.label} when {does}", patch=at_path((*path, "says", gesture), saying))
    plain = {"kind": "button", "is_held": None, "says": dict.fromkeys(control.says)}
    plain["says"] = {**plain["says"], "press": {"talk": talk_id, "word": said}}  # type: ignore[dict-item]
    yield Move(label="Make it a plain button", patch=at_path(path, plain))


def replies_are_said(design: Design) -> Iterator[Breach]:
    """Every word that comes back is said by some rule."""
    said = {
        (design.talks[it.say.talk].vocabulary.id, it.say.word)
        for rule in design.plan.rules.values()
        for it in rule.do
        if it.say is not None and it.say.talk in design.talks
    }
    for vocabulary in judged(design):
        for word in heard_out(vocabulary, "back"):
            if (vocabulary.id, word.id) in said or not design.vocabulary_talks(vocabulary.id):
                continue
            yield Breach(
                severity="look",
                where=f"{vocabulary.id}.{word.id}.reply",
                stage=vocabulary.stage,
                message=f"{word.label} is to be said back, and no rule says it: the phone waits for nothing.",
                working=(
                    Working(formula="a rule for every reply", substituted=f"none for {word.label}", source="common-practice"),
                ),
                ways=partial(_say_it, design, vocabulary, word.id, word.label, bool(word.parameters)),
                numbers={"rules": 1},
            )


def _say_it(design: Design, vocabulary: VocabularyDesign, word_id: str, label: str, carries: bool) -> Iterator[Move]:
    talk = design.vocabulary_talks(vocabulary.id)[0]
    outs = {it.id: it.label for it in heard_out(vocabulary, "out")}
    for name, rule in design.plan.rules.items():
        if rule.host == talk.b and rule.when.heard in outs and not carries:
            do = [it.model_dump(mode="json", exclude_none=True) for it in rule.do]
            said = {"verb": "say", "say": {"talk": talk.id, "word": word_id}}
            patch = at_path(("rules", name, "do"), [*do, said])
            yield Move(label=f"Say {label} back when {outs[rule.when.heard]} is heard", patch=patch)
            break
    yield Move(label=f"Take {label} out", patch=design.taking_out.without_word(vocabulary.id, word_id))


def words_have_a_wire(design: Design) -> Iterator[Breach]:
    """What is said on a talk goes over wires that are there."""
    for talk in design.talks.values():
        back = [
            it.say.word
            for rule in design.plan.rules.values()
            for it in rule.do
            if it.say is not None and it.say.talk == talk.id and talk.vocabulary.word(it.say.word).direction == "back"
        ]
        said = {"out": [it.id for it in heard_out(talk.vocabulary, "out")], "back": list(dict.fromkeys(back))}
        for hop in talk.hops:
            for direction, words in said.items():
                level = design.level(f"{hop.link_id}.{way_of(hop, goes_out=direction == 'out')}")
                if level is None or not level.is_omitted or not words:
                    continue
                labels = and_list([talk.vocabulary.word(it).label for it in words[:LISTED]])
                more = f" and {len(words) - LISTED} more" if len(words) > LISTED else ""
                where = f"{talk.id}.{level.line.id}"
                yield Breach(
                    severity="stop",
                    where=where,
                    stage=level.stage,
                    message=f"{labels}{more} {'goes' if len(words) == 1 else 'go'} over a wire that is left out: nothing of it arrives.",
                    working=(
                        Working(
                            formula="a wire for each way that words go",
                            substituted=f"{level.line.id}: none",
                            source="common-practice",
                        ),
                    ),
                    ways=partial(_wired, design, talk, level.line.path, where, is_back=direction == "back"),
                    numbers={"words": len(words)},
                )


LISTED: Final = 3


def _wired(design: Design, talk: TalkDesign, path: tuple[str, ...], where: str, *, is_back: bool) -> Iterator[Move]:
    """Offer the wire, with what brings its level down where that is needed; or that nothing is said back."""
    moves = [Move(label="Put the wire in", patch=at_path(path, {"is_omitted": None}))]
    if is_back:
        silent = [
            at_path(
                ("rules", name, "do"),
                [it.model_dump(mode="json", exclude_none=True) for it in rule.do if it.say is None or it.say.talk != talk.id],
            )
            for name, rule in design.plan.rules.items()
            if any(it.say is not None and it.say.talk == talk.id for it in rule.do)
        ]
        gone = [("words." + talk.vocabulary.id, it.id) for it in heard_out(talk.vocabulary, "back")]
        moves.append(Move(label="Say nothing back", patch=join_patches([design.taking_out.without(gone), *silent])))
    divided = {"is_omitted": None, "shift": {"school": "divider", "values": None}}
    moves.append(Move(label="Put the wire in, with a divider", patch=at_path(path, divided)))
    yield from that_clear(design, "CMD-ONE-WAY", where, moves)


def unknown_bytes_end_somewhere(design: Design) -> Iterator[Breach]:
    """Two programs that both answer what they do not know answer each other's answers for ever."""
    for vocabulary in judged(design):
        if not vocabulary.answers_unknown:
            continue
        known = {way: any(it.content == UNKNOWN for it in heard_out(vocabulary, way)) for way in ("out", "back")}
        talk = next((it for it in design.vocabulary_talks(vocabulary.id) if it.a not in design.handsets), None)
        if talk is not None and not all(known.values()):
            yield Breach(
                severity="stop",
                where=f"{vocabulary.id}.unknown",
                stage=vocabulary.stage,
                message=f"The {inner(design.nodes[talk.a].label)} and the {inner(design.nodes[talk.b].label)} both answer ? to what is no word, and ? is none: one wrong byte, and they answer each other for ever.",
                working=(Working(formula="at most one end answers", substituted="both do", source="common-practice"),),
                fixes=(_passed_over(vocabulary),),
                numbers={"ends": 2},
            )
        elif talk is None and any(it.content == UNKNOWN for it in heard_out(vocabulary, "back")):
            yield Breach(
                severity="look",
                where=f"{vocabulary.id}.unknown",
                stage=vocabulary.stage,
                message="? answers what is no word, and is a reply too: the phone cannot tell which.",
                working=(Working(formula="an answer that is no word", substituted="? is a reply", source="common-practice"),),
                fixes=(_passed_over(vocabulary),),
                numbers={"words": 1},
            )


def _passed_over(vocabulary: VocabularyDesign) -> Move:
    return Move(label="Pass over what is no word", patch=at_path(("vocabularies", vocabulary.id, "on_unknown"), "ignore"))


RULES: Final = (
    Rule("CMD-REACH", "words", lamps_are_in_reach, "a rule tells a lamp that hangs on another host", "", "common practice"),
    Rule("CMD-CANNOT", "words", lamps_can_do_it, "a rule asks of a lamp what it cannot do", "", "common practice"),
    Rule(
        "CMD-NO-RELEASE",
        "words",
        held_controls_are_let_go,
        "",
        "a held button says nothing when let go, or a switch nothing at one end",
        "common practice",
    ),
    Rule("CMD-NO-REPLY", "words", replies_are_said, "", "a word is to be said back and no rule says it", "common practice"),
    Rule("CMD-ONE-WAY", "words", words_have_a_wire, "what is said goes over a wire that is left out", "", "common practice"),
    Rule(
        "CMD-UNKNOWN",
        "words",
        unknown_bytes_end_somewhere,
        "two programs answer each other's unknown bytes for ever",
        "what answers an unknown byte is a reply too",
        "common practice",
    ),
)
