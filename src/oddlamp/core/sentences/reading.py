"""A sentence as a rule, and what could stand next in one that is not whole."""

import re
from collections.abc import Iterator
from heapq import heappop, heappush
from typing import Any, Final, NamedTuple

from oddlamp.core.sentences.forms import (
    COLOURS,
    FORMS,
    ORDERS,
    SHADES,
    TAKES_OVER,
    UNFINISHED,
    WHEN,
    Fixed,
    Part,
    Place,
    parts_of,
)
from oddlamp.core.sentences.names import Kind, Names, plain
from oddlamp.core.sentences.printing import OF_PLAN
from oddlamp.core.sentences.slots import EXAMPLES, QUOTED, read

Got = dict[str, Any]
LONGEST: Final = 20_000
JOINS: Final = (", and ", ", then ", ", ", " and ", " then ")
UNLESS: Final[tuple[Kind, ...]] = ("lamp", "input")
TOLD: Final[tuple[Kind, ...]] = ("target", "mover")
FILL_NAME: Final = re.compile(r"[a-z][a-z0-9_]*")


class Expected(NamedTuple):
    """What could stand at a place of a sentence. ``is_example`` where it stands for all of its kind."""

    place: int
    text: str
    is_example: bool = False


class NotUnderstood(ValueError):
    """A sentence that is no rule: where it stops being one, and what could stand there."""

    def __init__(self, text: str, place: int, expected: tuple[str, ...]) -> None:
        self.text, self.place, self.expected = text, place, expected
        rest = text[place : place + 30].strip()
        where = f"at \u201c{rest}\u201d" if rest else "at its end"
        super().__init__(f"Not understood {where}: here could stand {' or '.join(expected[:6]) or 'nothing more'}.")


class Reader:
    """Reads one sentence of a host. Only where it ``tells`` does it note what could stand where."""

    def __init__(self, names: Names, host: str, text: str, *, tells: bool = False) -> None:
        self.tells = tells
        self._names = dict[tuple[Kind, int], tuple[tuple[str, int], ...]]()
        self.names, self.host, self.text = names, host, smooth(text[:LONGEST])
        self.lower = self.text.casefold()
        self.expected = dict[Expected, None]()
        self._actions = dict[int, list[tuple[Got, int]]]()

    def rule(self) -> Got:
        """Return the rule that a sentence says.

        Raises:
            NotUnderstood: says where, and what could stand there.
        """
        rule = self.found()
        if rule is None:
            raise Reader(self.names, self.host, self.text, tells=True).wrong()
        return rule

    def found(self) -> Got | None:
        """Return the rule; None where it is not whole."""
        for when, place in self._when():
            for unless, end in self._unless(place):
                do = self._do(end)
                if do is not None:
                    return {"host": self.host, "when": when, **({"unless": unless} if unless else {}), "do": do}
        return None

    def order(self) -> tuple[str, Got] | None:
        """Return the lamp and the order that a sentence gives for when nobody tells it; None where it gives none."""
        for field, key, form in ORDERS:
            for got, end in self._seq(parts_of(form), 0):
                if self._ends(end):
                    return got["lamp"], {field: key}
        for got, end in self._seq(parts_of(TAKES_OVER), 0):
            if self._ends(end):
                return got["lamp"], {"thresholds": {got["input"]: got["ratio"]}}
        return None

    def wrong(self) -> NotUnderstood:
        """Say where a sentence stops being understood: where most of it was."""
        if self.found() is None:
            self.order()
        place = max((it.place for it in self.expected), default=0)
        return NotUnderstood(self.text, place, tuple(it.text.strip() for it in self.expected if it.place == place))

    def completions(self) -> tuple[Expected, ...]:
        """Return what could stand next: what begins as the end of the text does."""
        if self.found() is None:
            self.order()
        found = [it for it in self.expected if it.text.casefold().startswith(self.lower[it.place :])]
        place = max((it.place for it in found), default=0)
        return tuple(it for it in found if it.place == place)

    # What sets it off

    def _when(self) -> Iterator[tuple[Got, int]]:
        for fixed, form in WHEN:
            for got, end in self._seq(parts_of(form), 0):
                yield {**fixed, **got}, end
        nothing = self._word("On nothing", 0)
        if nothing is not None:
            yield {}, nothing

    def _unless(self, place: int) -> Iterator[tuple[Got | None, int]]:
        start = self._word(", unless ", place)
        for kind in UNLESS if start is not None else ():
            for name, after in self._named(kind, start or 0):
                for state in ("on", "off"):
                    if (done := self._word(f" is {state}", after)) is not None:
                        yield {kind: name, "state": state}, done
        yield None, place

    def _do(self, place: int) -> list[Got] | None:
        starts = [it for it in (self._word(": ", place), self._word(", ", place)) if it is not None]
        for start in starts:
            if (end := self._word("nothing", start)) is not None and self._ends(end):
                return []
            do = self._actions_from(start)
            if do is not None:
                return do
        return None

    # What it does

    def _actions_from(self, place: int) -> list[Got] | None:
        """Read what a rule does, one after the other, to the end: from place to place, each looked at once."""
        came: dict[int, tuple[int, Got]] = {}
        todo = [place]
        while todo:
            here = heappop(todo)
            for action, end in self._action(here):
                if self._ends(end):
                    do = [action]
                    while here != place:
                        here, before = came[here]
                        do.append(before)
                    return do[::-1]
                for join in JOINS:
                    after = self._word(join, end)
                    if after is not None and after not in came:
                        came[after] = here, action
                        heappush(todo, after)
        return None

    def _action(self, place: int) -> list[tuple[Got, int]]:
        if place not in self._actions:
            self._actions[place] = [one for verb in FORMS for one in self._verb(verb, place)]
            self._actions[place].sort(key=lambda one: -one[1])  # the longest first
        return self._actions[place]

    def _verb(self, verb: str, place: int) -> Iterator[tuple[Got, int]]:
        named = self._named("target", place)
        tells, self.tells = self.tells, self.tells and (not named or any(self.names.can(it, verb) for it, _ in named))
        yield from self._forms(verb, place)
        self.tells = tells

    def _forms(self, verb: str, place: int) -> Iterator[tuple[Got, int]]:
        tells = self.tells
        for form in FORMS[verb]:
            self.tells = tells and form.is_offered
            for got, end in self._seq(parts_of(form.head), place):
                for more, after in self._clauses(form.clauses, end, got):
                    yield from self._timed(_made(verb, more), after)
        self.tells = tells
        for kind in TOLD:
            for name, end in self._named(kind, place):
                if self.text.startswith(UNFINISHED.replace("{target}", "") + verb, end):
                    yield from self._timed({"verb": verb, "target": name}, end + len(UNFINISHED.replace("{target}", "") + verb))

    def _timed(self, action: Got, place: int) -> Iterator[tuple[Got, int]]:
        start = self._word(" after ", place)
        for time_s, end in self._slot("time", start) if start is not None else ():
            yield {**action, "after_s": time_s}, end
        yield action, place

    def _clauses(self, clauses: tuple[str, ...], place: int, got: Got) -> Iterator[tuple[Got, int]]:
        if not clauses:
            yield got, place
            return
        for more, end in self._seq(parts_of(clauses[0]), place):
            yield from self._clauses(clauses[1:], end, {**got, **more})
        yield from self._clauses(clauses[1:], place, got)

    # The pieces

    def _seq(self, parts: tuple[Part, ...], place: int) -> Iterator[tuple[Got, int]]:
        if not parts:
            yield {}, place
            return
        first, rest = parts[0], parts[1:]
        if isinstance(first, str):
            end = self._word(first, place)
            if end is not None:
                yield from self._seq(rest, end)
        elif isinstance(first, Fixed):
            for got, end in self._seq(rest, place):
                yield {**got, first.field: float(first.value) if str(first.value).isdigit() else first.value}, end
        else:
            for value, middle in self._place(first, place):
                for got, end in self._seq(rest, middle):
                    yield {first.field: value, **got}, end

    def _place(self, part: Place, place: int) -> Iterator[tuple[Any, int]]:
        if part.field in OF_PLAN:
            yield from self._named(OF_PLAN[part.field], place)
        elif part.field == "shade":
            yield from self._shade(place)
        elif part.field == "fill":
            yield from self._fill(place)
        else:
            yield from self._slot(part.kind, place)

    def _word(self, word: str, place: int) -> int | None:
        """Take fixed words, however they are written."""
        if self.lower.startswith(word.casefold(), place):
            return place + len(word)
        if not self.tells:
            return None
        lead = len(word) - len(word.lstrip())  # what follows a space is told where that ends
        if self.text[place : place + lead] in (" " * lead, ""):
            self.expected[Expected(place + lead, word[lead:])] = None
        return None

    def _named(self, kind: Kind, place: int) -> tuple[tuple[str, int], ...]:
        """Return what may be named at a place."""
        if (kind, place) not in self._names:
            self._names[kind, place] = self.names.at(kind, self.text, self.lower, place)
            for it in self.names.of[kind] if self.tells else ():
                self.expected[Expected(place, it.shown)] = None
        return self._names[kind, place]

    def _slot(self, kind: str, place: int) -> Iterator[tuple[Any, int]]:
        if self.tells:
            self.expected[Expected(place, EXAMPLES[kind], is_example=True)] = None
        yield from read(kind, self.text, place)

    def _shade(self, place: int) -> Iterator[tuple[Got, int]]:
        for name, shade in COLOURS.items():
            if (end := self._word(name, place)) is not None:
                yield dict(zip(SHADES, shade, strict=True)), end
        yield from self._shares(SHADES, place, {})

    def _shares(self, left: tuple[str, ...], place: int, got: Got) -> Iterator[tuple[Got, int]]:
        for at, name in enumerate(left):
            start = self._word(f"{name} " if not got else f" {name} ", place)
            for value, end in self._slot("given", start) if start is not None else ():
                yield from self._shares(left[at + 1 :], end, {**got, name: value})
        if got:
            yield got, place

    def _fill(self, place: int) -> Iterator[tuple[Got, int]]:
        word, got = " with ", Got()
        while (start := self._word(word, place)) is not None and (name := FILL_NAME.match(self.text, start)) is not None:
            value = next(iter(self._slot("fill", name.end() + 1)), None)
            if value is None or self.text[name.end() : name.end() + 1] != " ":
                break
            got, place, word = {**got, name[0]: value[0]}, value[1], " and "
        if got:
            yield got, place

    def _ends(self, place: int) -> bool:
        return self.text[place:].rstrip() in ("", ".")


def _made(verb: str, got: Got) -> Got:
    """Put what was read of an action together as the plan has it."""
    values = dict(got)
    action: Got = {"verb": verb}
    for field in ("target", "cue", "mover"):
        if field in values:
            action["target"] = values.pop(field)
    if "said" in values:
        talk, _, word = values.pop("said").partition(".")
        fill = values.pop("fill", {})
        action["say"] = {"talk": talk, "word": word, **({"fill": fill} if fill else {})}
    values |= values.pop("shade", {})
    if verb == "add":
        values["by_ratio"] = values.pop("more") if "more" in values else -values.pop("less")
    return {**action, **({"values": values} if values else {})}


def smooth(text: str) -> str:
    """Return a sentence on one line, with single spaces but in what is quoted."""
    found, at = "", 0
    for match in QUOTED.finditer(text):
        found += _spaced(text[at : match.start()]) + match[0]
        at = match.end()
    return (found + _spaced(text[at:])).lstrip()


def _spaced(text: str) -> str:
    inner = plain(text)
    return f"{' ' if text[:1].isspace() else ''}{inner}{' ' if inner and text[-1:].isspace() else ''}"
