"""How a board knows of a lost link by silence: the keep-alive word, how often it is said and how long may pass without it."""

from collections.abc import Iterator
from typing import Final

from oddlamp.core.base import si
from oddlamp.core.checks.findings import Move
from oddlamp.core.checks.linked import with_keep_alive
from oddlamp.core.design.design import Design
from oddlamp.core.plan.document import Document, at_path
from oddlamp.core.plan.model import ALIVE_MISSED, ALIVE_S
from oddlamp.sheets.models import Entry, Panel

PHONE: Final = "The program on the phone must be able to say a word over and over by itself; many can."


def keep_alive_panels(design: Design, host: str) -> Iterator[Panel]:
    """Hold the times of the keep-alive words that a host waits for."""
    for talk in design.talks.values():
        it = design.plan.talks[talk.id].keep_alive
        if it is None or talk.b != host:
            continue
        label, path = talk.vocabulary.word(it.word).label, ("talks", talk.id, "keep_alive")
        said = Entry(
            label="Said every",
            text=si(it.said_every_s, "s"),
            path=(*path, "every_s"),
            origin="own" if it.every_s else "proposed",
            because=None if it.every_s else "often enough for a lamp that should not stay lit, and the line stays free",
            settles=None if it.every_s else ALIVE_S,
        )
        lost = Entry(
            label="Lost after silence for",
            text=si(it.silent_s, "s"),
            path=(*path, "lost_after_s"),
            origin="own" if it.lost_after_s else "proposed",
            because=None if it.lost_after_s else f"{ALIVE_MISSED} times as long: one or two may be lost in the air",
            settles=None if it.lost_after_s else it.silent_s,
        )
        yield Panel(
            title=f"{label} keeps the link alive",
            entries=(said, lost),
            lines=(PHONE,),
            moves=(Move(label="Do without it", patch=_without(design, talk.id, talk.vocabulary.id, it.word)),),
        )


def _without(design: Design, talk: str, vocabulary: str, word: str) -> Document:
    """Let go of a keep-alive word, and of the word itself where it says nothing else."""
    others = [name for name, it in design.plan.talks.items() if it.keep_alive is not None and it.keep_alive.word == word]
    is_obeyed = any(rule.when.heard == word for rule in design.plan.rules.values())
    if is_obeyed or others != [talk]:
        return at_path(("talks", talk, "keep_alive"), None)
    return design.taking_out.without_word(vocabulary, word)


def keep_alive_moves(design: Design, host: str) -> Iterator[Move]:
    """Offer a keep-alive word on the first talk of a phone with a host that has none."""
    talk = next((it for it in design.talks.values() if it.b == host and it.a in design.handsets), None)
    if talk is not None and not any(design.plan.talks[it.id].keep_alive for it in design.talks.values() if it.b == host):
        move = with_keep_alive(design, talk)
        if move is not None:
            yield move
