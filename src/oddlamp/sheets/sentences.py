"""Rules as sentences on the sheet of a host: read as they are typed or pasted, with what could stand next."""

import json
from functools import lru_cache
from typing import Final

from pydantic import Field, ValidationError

from oddlamp.core.base import Model, first_free
from oddlamp.core.checks.findings import Move
from oddlamp.core.design.design import Design
from oddlamp.core.english import plural
from oddlamp.core.errors import OutOfRange
from oddlamp.core.layouts.can import face_of
from oddlamp.core.plan.document import Document, at_path, field_problems, join_patches
from oddlamp.core.plan.lights import sends_codes
from oddlamp.core.plan.rules import Rule, Unless, When
from oddlamp.core.plan.signals import told_by
from oddlamp.core.sentences.reading import NotUnderstood
from oddlamp.core.sentences.whole import Sentences

OFFERED_MOST: Final = 12
LINES_MOST: Final = 400


class Wrong(Model):
    """A line that is no rule, and where and why."""

    line: int = Field(description="Counted from 1")
    text: str
    message: str


class Taken(Model):
    """What becomes of sentences: the edit that takes them in, where all of them are understood."""

    move: Move | None
    wrong: tuple[Wrong, ...] = ()


class Continued(Model):
    """One way to go on with a sentence: the whole text then, and what is added."""

    text: str
    adds: str
    is_example: bool = Field(default=False, description="Stands for all values of its kind")


class Typed(Model):
    """A sentence while it is typed."""

    is_whole: bool
    goes_on: tuple[Continued, ...]
    wrong: str = Field(default="", description="Why it is none, where nothing that is typed after it makes it one")


def host_of(design: Design, host: str) -> str:
    """Return a host that has rules.

    Raises:
        OutOfRange: there is no such board or module.
    """
    if host not in design.nodes or design.nodes[host].node.kind not in ("board", "module"):
        raise OutOfRange(field="host", given=host, allowed="a board or a module of the plan")
    return host


def sentences_of(design: Design, host: str) -> dict[str, str]:
    """Print the rules of a host, by their ids."""
    speaker = Speaker(Sentences(design.plan, host))
    return {name: _printed(speaker, rule.model_dump_json(exclude_none=True)) for name, rule in design.rules_of(host)}


class Speaker:
    """Sentences as a key of a cache: the same for every plan in which the same names mean the same things."""

    def __init__(self, sentences: Sentences) -> None:
        self.sentences = sentences
        plan, names = sentences.names.plan, sentences.names
        kinds = tuple((name, it.kind, face_of(it) is None, sends_codes(it)) for name, it in plan.lamps.items())
        groups = tuple((name, it.members) for name, it in plan.groups.items())
        self.key = sentences.host, tuple((kind, tuple(it)) for kind, it in names.of.items()), kinds, groups

    def __hash__(self) -> int:
        return hash(self.key)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Speaker) and other.key == self.key


@lru_cache(maxsize=1024)  # an edit changes one rule, or none
def _printed(speaker: Speaker, rule: str) -> str:
    return speaker.sentences.print(json.loads(rule))


def orders_of(design: Design, host: str) -> tuple[str, ...]:
    """Print what the lamps of a host do when nobody tells them, as far as it is settled."""
    sentences = Sentences(design.plan, host)
    return tuple(
        said
        for name, it in design.plan.standing.items()
        if told_by(design.plan, design.lamps[name].host) == host
        for said in sentences.orders(name, it.model_dump(mode="json", exclude_none=True))
    )


def taken(design: Design, host: str, text: str, rule: str | None) -> Taken:
    """Read sentences, a line each: in the place of a rule, or as new ones."""
    sentences = Sentences(design.plan, host)
    lines = [(at, line.strip()) for at, line in enumerate(text.splitlines(), 1) if line.strip()]
    if len(lines) > LINES_MOST:
        at, line = lines[LINES_MOST]
        return Taken(move=None, wrong=(Wrong(line=at, text=line, message=f"At most {LINES_MOST} sentences at once."),))
    wrong, made, names = list[Wrong](), dict[str, Document](), set(design.plan.rules)
    orders = list[Document]()
    for at, line in lines:
        order = sentences.order(line) if rule is None else None
        if order is not None:
            orders.append(at_path(("standing", order[0]), order[1]))
            continue
        try:
            read = sentences.read(line)
            Rule.model_validate(read)
        except NotUnderstood as error:
            wrong.append(Wrong(line=at, text=line, message=str(error)))
            continue
        except ValidationError as error:
            problem = field_problems(error, read)[0]
            told = f"{problem.given.removesuffix('.0')} cannot be: {problem.allowed}."
            wrong.append(Wrong(line=at, text=line, message=told[:1].upper() + told[1:]))
            continue
        name = rule if rule is not None and not made else first_free(_stem(read), names.__contains__)
        names.add(name)
        made[name] = _whole(read) if name in design.plan.rules else read
    if wrong or not (made or orders):
        return Taken(move=None, wrong=tuple(wrong))
    label = f"Write {plural(len(made) + len(orders), 'sentence')}" if rule is None else "Write the sentence anew"
    return Taken(move=Move(label=label, patch=join_patches([*([{"rules": made}] if made else []), *orders])))


def _stem(rule: Document) -> str:
    """Propose the id of a rule by what sets it off."""
    when = rule["when"]
    named = when.get("heard") or when.get("input") or when.get("link")
    stem = f"when_{named}" if named else "at_a_time" if "at" in when else "often" if "every_s" in when else "at_start"
    return stem[:36]


def _whole(rule: Document) -> Document:
    """Return a rule as a patch that leaves nothing of the one before it."""
    unless = rule.get("unless")
    return {
        **rule,
        "when": {**dict.fromkeys(When.model_fields), **rule["when"]},
        "unless": None if unless is None else {**dict.fromkeys(Unless.model_fields), **unless},
    }


def typed(design: Design, host: str, text: str) -> Typed:
    """Tell what could stand next in a sentence."""
    sentences = Sentences(design.plan, host)
    begun = text.splitlines()[0] if text.strip() else ""
    is_whole, wrong = sentences.order(begun) is not None, ""
    try:
        if not is_whole:
            sentences.read(begun)
            is_whole = True
    except NotUnderstood as error:
        wrong = str(error)
    found = sentences.next(begun)
    goes_on = [
        Continued(text=f"{begun[: it.place]}{it.text}", adds=it.text, is_example=it.is_example) for it in found if it.text.strip()
    ]
    return Typed(is_whole=is_whole, goes_on=tuple(goes_on[:OFFERED_MOST]), wrong="" if is_whole or goes_on else wrong)
