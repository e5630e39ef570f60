"""Words drawn up from wishes, by every school, beside what each costs in bytes, time and typing."""

from collections.abc import Iterable
from typing import Final

from oddlamp.core.base import Model, si
from oddlamp.core.behaviour.framing import byte_time_s, said_by
from oddlamp.core.checks.fewer import verdicts
from oddlamp.core.checks.findings import Finding, Move
from oddlamp.core.checks.registry import run_rules
from oddlamp.core.design.design import Design
from oddlamp.core.designer.draw import SCHOOLS, Drawn, draw_up
from oddlamp.core.designer.spelling import School
from oddlamp.core.designer.wishes import WISHES, Wish, fitting
from oddlamp.core.english import plural
from oddlamp.core.errors import OutOfRange
from oddlamp.core.plan.document import Document, edit_plan, join_patches
from oddlamp.core.plan.text import ENDINGS
from oddlamp.core.resolve.resolve import resolve


class WishRow(Model):
    """One wish that some lamp can grant, and whether it is wished for."""

    id: Wish
    label: str
    is_wished: bool


class DrawnRow(Model):
    """One word that is drawn up: its name, what is sent, and why that."""

    id: str
    label: str
    sent: str
    why: str


class SchoolRow(Model):
    """The words of one school, what they cost, and the press that takes them."""

    label: str
    detail: str
    costs: str
    words: tuple[DrawnRow, ...]
    remarks: tuple[str, ...]
    move: Move | None


class DrawnUp(Model):
    """All that can be wished of the lamps of a talk, and the words each school draws up for what is wished."""

    wishes: tuple[WishRow, ...]
    schools: tuple[SchoolRow, ...]


USUAL: Final[tuple[Wish, ...]] = ("switch", "level", "colour")


def drawn_up(design: Design, vocabulary_id: str, wishes: Iterable[Wish] | None) -> DrawnUp:
    """Draw up words by every school for what is wished; the usual where nothing is said of it.

    Raises:
        OutOfRange: no vocabulary of a program that some phone talks with.
    """
    vocabulary = design.vocabularies.get(vocabulary_id)
    talk = next(iter(design.vocabulary_talks(vocabulary_id)), None)
    if vocabulary is None or vocabulary.is_whole or talk is None:
        raise OutOfRange(field="vocabulary", given=vocabulary_id, allowed="a vocabulary of a program, on a talk")
    fit = fitting(design, talk.b)
    wished = [it for it in fit if it in (USUAL if wishes is None else tuple(wishes))]
    hopeless = set[str]()
    return DrawnUp(
        wishes=tuple(WishRow(id=it, label=WISHES[it], is_wished=it in wished) for it in fit),
        schools=tuple(_school(design, vocabulary_id, wished, school, hopeless) for school in SCHOOLS) if wished else (),
    )


def _school(design: Design, vocabulary_id: str, wished: list[Wish], school: School, hopeless: set[str]) -> SchoolRow:
    """Draw up one school's words and try them; ``hopeless`` collects the verdicts that no way out ends, so that each is looked into once."""
    label, detail = SCHOOLS[school]
    drawn = draw_up(design, vocabulary_id, wished, school)
    after, new = _tried(design, drawn.patch)
    remarks, patch = drawn.left_out, drawn.patch
    if any(it.code.startswith("PIN-") for it in new):
        plain = [it for it in design.lamps if it not in design.dimmed]
        fewer = draw_up(design, vocabulary_id, wished, school, undimmed=plain)
        after_fewer, new_fewer = _tried(design, fewer.patch)
        if not new_fewer:
            drawn, patch, after, new = fewer, fewer.patch, after_fewer, new_fewer
            remarks = (*remarks, "only what is dimmed already is dimmed: no pin is left that could dim more")
    if new and new[0].code not in hopeless:
        if (way := _cleared(design, patch, new[0])) is not None:
            patch, new = join_patches([patch, way.patch]), []
            remarks = (*remarks, f"taken with it: {way.label[0].lower()}{way.label[1:]}")
        else:
            hopeless.add(new[0].code)
    remarks = (*remarks, *(f"not as the plan stands: {it.message}" for it in new))
    if not design.plan.rules.keys().isdisjoint(drawn.patch.get("rules", {})):
        remarks = (*remarks, "what can be said already is answered too")
    if not drawn.words:
        remarks = (*remarks, "everything wished for can be said already")
    take = f"Take these {plural(len(drawn.words), 'word')}" if len(drawn.words) > 1 else "Take this word"
    return SchoolRow(
        label=label,
        detail=detail,
        costs=_costs(after, drawn),
        words=tuple(DrawnRow(id=it.id, label=it.label, sent=it.sent, why=it.why) for it in drawn.words),
        remarks=remarks,
        move=Move(label=take, patch=patch) if drawn.words and not new else None,
    )


def _tried(design: Design, patch: Document) -> tuple[Design, list[Finding]]:
    """Try words on the whole plan; the verdicts they would bring."""
    after = resolve(edit_plan(design.plan, patch), design.catalog)
    old = {code for code, _, _ in verdicts(design)}
    if {code for code, _, _ in verdicts(after)} <= old:
        return after, []
    return after, [it for it in run_rules(after) if it.code not in old]


def _cleared(design: Design, patch: Document, finding: Finding) -> Move | None:
    """Return the first way out of a verdict with which the words bring none."""
    return next((it for it in finding.fixes if it.patch and not _tried(design, join_patches([patch, it.patch]))[1]), None)


def _costs(design: Design, drawn: Drawn) -> str:
    """Say what the longest word costs: its bytes, its time on the slowest wire, and how many signs are typed for it."""
    talk = next(
        (it for it in design.talks.values() if it.a in design.handsets and drawn.words and _has(it.vocabulary.words, drawn)), None
    )
    if talk is None:
        return ""
    handset = design.handsets[talk.a]
    mine = [talk.vocabulary.word(it.id) for it in drawn.words]
    most = max(len(said_by(handset, talk.vocabulary, it)) for it in mine)
    typed = most - len(ENDINGS[handset.appends.id])
    speeds = [design.wires[hop.link_id].baud.known for hop in talk.hops if hop.link_id in design.wires]
    time = f", {si(most * byte_time_s(min(speeds)), 's')} on the wire" if speeds else ""
    return f"{plural(most, 'byte')} at most{time}, {plural(typed, 'sign')} to type"


def _has(words: Iterable[object], drawn: Drawn) -> bool:
    return any(getattr(it, "id", "") == drawn.words[0].id for it in words)
