"""Rules for what moves: it can always be stopped."""

from collections.abc import Iterator
from functools import partial
from typing import Final

from oddlamp.core.base import Working, first_free
from oddlamp.core.behaviour.compile import program_of
from oddlamp.core.behaviour.foresee import lit_and_dark
from oddlamp.core.checks.fewer import that_clear
from oddlamp.core.checks.findings import Breach, Move, Rule
from oddlamp.core.design.design import Design
from oddlamp.core.english import and_list
from oddlamp.core.plan.signals import label_of, told_by


def movers_can_be_stopped(design: Design) -> Iterator[Breach]:
    """Where words let a mover run, a word without values stops it, whatever ran before."""
    for name, mover in design.plan.movers.items():
        host = told_by(design.plan, design.lamps[mover.lamps[0]].host)
        if host is None or design.nodes[host].node.kind != "board":
            continue
        both, program = set(mover.lamps), program_of(design, host)
        for talk in (it for it in design.talks.values() if it.b == host):
            words = [it for it in talk.vocabulary.words if it.direction == "out"]
            found = {
                it.id: lit_and_dark(
                    program, ("heard", it.id), {one.id: (one.field.least, one.field.most) for one in it.parameters}
                )
                for it in words
            }
            runs = [it for it in words if found[it.id][0] & both]
            if not runs or any(both <= found[it.id][1] and not it.parameters for it in words):
                continue
            label = label_of(mover.label, name)
            where = f"movers.{name}.{talk.id}"
            yield Breach(
                severity="stop",
                where=where,
                stage=f"rules.{host}",
                message=f"{and_list([it.label for it in runs[:3]])} can set {label} going, and no word stops it for sure: fingers, and things in its way.",
                working=(
                    Working(formula="a word without values that stops both ways", substituted="none", source="common-practice"),
                ),
                ways=partial(_stop_word, design, talk.vocabulary.id, host, name, where),
                numbers={"words": len(runs)},
            )


def _stop_word(design: Design, vocabulary: str, host: str, mover: str, where: str) -> Iterator[Move]:
    words = design.plan.vocabularies[vocabulary].words
    word, rule = first_free("halt", words.__contains__), first_free("when_halt", design.plan.rules.__contains__)
    patch = {
        "vocabularies": {vocabulary: {"words": {word: {"label": "Halt"}}}},
        "rules": {rule: {"host": host, "when": {"heard": word}, "do": [{"verb": "stop"}]}},
    }
    yield from that_clear(design, "MOVER-STOP", where, [Move(label="Add Halt, which stops everything", patch=patch)])


RULES: Final = (
    Rule(
        "MOVER-STOP",
        "words",
        movers_can_be_stopped,
        "words set a mover going, and no word without values stops it",
        "",
        "common practice",
    ),
)
