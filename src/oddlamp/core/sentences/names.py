"""What a sentence may call things: lamps, groups, cues, movers, inputs, words and links, by their names in the plan."""

from collections import Counter
from collections.abc import Iterable, Mapping
from typing import Final, Literal, NamedTuple

from oddlamp.core.layouts.can import why_not
from oddlamp.core.plan.model import Plan
from oddlamp.core.plan.signals import label_of

Kind = Literal["target", "lamp", "group", "cue", "mover", "input", "heard", "said", "link"]
SPACES: Final = {ord(it): " " for it in "\u00a0\u202f\t\r\n"}


class Named(NamedTuple):
    """One thing as it is called. ``id`` is its id in the plan; of a word that is said the talk's and the word's, with a dot between."""

    shown: str
    id: str


class Names:
    """The names that a host's sentences may use. Those that two things share are told apart by their ids, in brackets."""

    def __init__(self, plan: Plan, host: str) -> None:
        self.plan = plan

        def labelled(of: Iterable[tuple[str, str | None]]) -> list[tuple[str, str]]:
            return [(plain(label_of(label, name)), name) for name, label in of]

        talks = {name: it for name, it in plan.talks.items() if host in (it.a, it.b)}
        words = [
            (name, talk, key, word)
            for name, talk in talks.items()
            for key, word in plan.vocabularies[talk.vocabulary].words.items()
        ]
        heard = {key: word.label for _, talk, key, word in words if (talk.b == host) == (word.direction != "back")}
        said = {
            f"{name}.{key}": word.label or key
            for name, talk, key, word in words
            if (talk.b == host) == (word.direction == "back")
        }
        things: dict[Kind, list[tuple[str, str]]] = {
            "lamp": labelled((name, it.label) for name, it in plan.lamps.items()),
            "group": labelled((name, it.label) for name, it in plan.groups.items()),
            "cue": labelled((name, it.label) for name, it in plan.cues.items()),
            "mover": labelled((name, it.label) for name, it in plan.movers.items()),
            "input": labelled((name, it.label) for name, it in plan.inputs.items()),
        }
        self.of: dict[Kind, list[Named]] = {
            **_apart(things),
            **_apart({"heard": labelled(heard.items())}),
            **_apart({"said": labelled_words(said)}),
            **_apart({"link": labelled((name, it.label or "the link") for name, it in plan.links.items() if it.kind == "air")}),
        }
        self._by_letter: dict[Kind, dict[str, list[tuple[str, str]]]] = {}
        self.of["target"] = [*self.of["lamp"], *self.of["group"]]

    def shown(self, kind: Kind, name: str, *, is_sure: bool = False) -> str:
        """Return what a thing is called, with its id where asked to be sure; a thing that is not there by its id alone."""
        found = next((it.shown for it in self.of[kind] if it.id == name), None)
        if found is None or (is_sure and not found.endswith(f"{name})")):
            return f"{found or ''} ({name})".strip()
        return found

    def at(self, kind: Kind, text: str, lower: str, place: int) -> tuple[tuple[str, int], ...]:
        """Return what may be named at a place of a text and where that ends, the longest name first. ``lower`` is the text in small letters."""
        found = []
        for begun, name in self._begun(kind).get(lower[place : place + 1], ()):
            ends = place + len(begun)
            if lower.startswith(begun, place) and not (text[ends : ends + 1].isalnum() and text[ends - 1].isalnum()):
                found.append((name, ends))
        return tuple(sorted(found, key=lambda one: -one[1]))

    def can(self, target: str, verb: str) -> bool:
        """Tell whether a lamp, or one of a group, can do something."""
        group = self.plan.groups.get(target)
        lamps = [target] if group is None else group.members
        return any(why_not(self.plan.lamps[it], verb) is None for it in lamps)

    def _begun(self, kind: Kind) -> dict[str, list[tuple[str, str]]]:
        """Return the names of a kind by their first letter, each also with its id in brackets."""
        if kind not in self._by_letter:
            mine = self._by_letter[kind] = {}
            for it in self.of[kind]:
                for shown in (it.shown.casefold(), f"{it.shown} ({it.id})".casefold()):
                    mine.setdefault(shown[:1], []).append((shown, it.id))
        return self._by_letter[kind]


def plain(text: str) -> str:
    """Return a text on one line, with single spaces."""
    return " ".join(text.translate(SPACES).split())


def labelled_words(said: Mapping[str, str]) -> list[tuple[str, str]]:
    """Name the words that are said, by the talk's and the word's id."""
    return [
        (plain(label_of(None if label == key.partition(".")[2] else label, key.partition(".")[2])), key)
        for key, label in said.items()
    ]


def _apart(things: Mapping[Kind, Iterable[tuple[str, str]]]) -> dict[Kind, list[Named]]:
    """Name things so that no two are called alike: by their ids in brackets, and by what they are where those are alike too."""
    every = [(label.casefold(), name) for of in things.values() for label, name in of]
    labels, both = Counter(label for label, _ in every), Counter(every)
    return {
        kind: [
            Named(label if labels[label.casefold()] == 1 and label else f"{label} ({name})".strip(), name)
            if both[label.casefold(), name] == 1
            else Named(f"{label} ({kind} {name})".strip(), name)
            for label, name in of
        ]
        for kind, of in things.items()
    }
