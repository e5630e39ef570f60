"""Rules for programs that speak with each other: none sets the other off for ever."""

from collections.abc import Iterator
from functools import partial
from typing import Final, NamedTuple

from oddlamp.core.base import Working
from oddlamp.core.checks.fewer import that_clear
from oddlamp.core.checks.findings import Breach, Move, Rule
from oddlamp.core.design.design import Design
from oddlamp.core.english import and_list
from oddlamp.core.plan.document import at_path

Heard = tuple[str, str]  # a host, and the word it hears


class Says(NamedTuple):
    """One rule that says a word which another host hears."""

    rule: str
    talk: str
    word: str
    to: Heard


def no_answer_answers_itself(design: Design) -> Iterator[Breach]:
    """No word sets off, over one host or several, that it is said again."""
    for round_ in _rounds(_said(design)):
        last = round_[-1]
        where = f"rules.{last.rule}.{last.word}"
        labels = [design.talks[it.talk].vocabulary.word(it.word).label for it in round_]
        yield Breach(
            severity="stop",
            where=where,
            stage=f"rules.{design.plan.rules[last.rule].host}",
            message=f"{and_list(labels)} {'sets itself' if len(labels) == 1 else 'set each other'} off for ever: once said, the line is never quiet again.",
            working=(
                Working(
                    formula="no word comes round to itself",
                    substituted=" → ".join([*labels, labels[0]]),
                    source="common-practice",
                ),
            ),
            ways=partial(_ended, design, round_, where),
            numbers={"words": len(labels)},
        )


def _said(design: Design) -> dict[Heard, list[Says]]:
    """List what each word that a host hears has it say to other hosts."""
    said: dict[Heard, list[Says]] = {}
    for name, rule in design.plan.rules.items():
        word = rule.when.heard
        for action in rule.do if word is not None else ():
            if action.say is None or word is None:
                continue
            talk = design.talks[action.say.talk]
            out = talk.vocabulary.word(action.say.word).direction == "out"
            to = talk.b if out else talk.a
            if design.nodes[to].node.kind == "board":
                said.setdefault((rule.host, word), []).append(Says(name, talk.id, action.say.word, (to, action.say.word)))
    return said


def _rounds(said: dict[Heard, list[Says]]) -> Iterator[list[Says]]:
    """Yield the ways on which a word comes round to itself; every word and what it says is walked once."""
    done = set[Heard]()
    for start in said:
        way: list[Says] = []  # how each word of the way after the first came to be said
        at = {start: 0}
        todo = [iter(said[start])] if start not in done else []
        while todo:
            it = next(todo[-1], None)
            if it is None:
                todo.pop()
                left = way.pop().to if way else start
                del at[left]
                done.add(left)
            elif it.to in at:
                yield [*way[at[it.to] :], it]
            elif it.to not in done:
                at[it.to] = len(at)
                way.append(it)
                todo.append(iter(said.get(it.to, ())))


def _ended(design: Design, round_: list[Says], where: str) -> Iterator[Move]:
    """Offer to leave out one of the words, the last first: other rules may lead round as well."""
    return that_clear(design, "CMD-LOOP", where, _silent(design, round_))


def _silent(design: Design, round_: list[Says]) -> Iterator[Move]:
    for it in round_[::-1]:
        rule = design.plan.rules[it.rule]
        do = [
            one.model_dump(mode="json", exclude_none=True)
            for one in rule.do
            if one.say is None or (one.say.talk, one.say.word) != (it.talk, it.word)
        ]
        words = design.talks[it.talk].vocabulary
        heard = next((one.label for one in words.words if one.id == rule.when.heard), rule.when.heard)
        yield Move(label=f"Do not say {words.word(it.word).label} to {heard}", patch=at_path(("rules", it.rule, "do"), do))


RULES: Final = (
    Rule("CMD-LOOP", "words", no_answer_answers_itself, "a word sets off that it is said again", "", "common practice"),
)
