"""What is said back to a word: how the lamp is now, or the word itself where it speaks of more than one lamp."""

from collections.abc import Callable, Collection, Iterator
from copy import copy
from typing import Final, NamedTuple

from oddlamp.core.base import first_free
from oddlamp.core.behaviour.tables import spec_of
from oddlamp.core.design.design import Design
from oddlamp.core.design.talks import VocabularyDesign
from oddlamp.core.designer.wishes import CHANNELS, Wanted
from oddlamp.core.plan.document import Document, at_path
from oddlamp.core.plan.lights import DISPLAY_KINDS
from oddlamp.core.plan.text import fields_of

ID_MOST: Final = 38
SHADING: Final = ("level", "colour", "brighter", "dimmer", "add")
Spell = Callable[[Wanted], tuple[str, Document]]  # what is sent for it, and what is settled of the values it carries


class Answer(NamedTuple):
    """A word said back: its id, what stands in the plan for it (None where it is there already), and the actions that say it."""

    word_id: str
    word: Document | None
    says: list[Document]
    is_itself: bool = False


class Answers:
    """Answers on the talks of a vocabulary; each lamp tells how it is with one word, whatever was asked of it.

    Args:
        design: the plan as it stands.
        vocabulary: whose words are answered.
        spell: writes what is sent for something, no two alike; None where a word carries nothing: it is said back itself.
        shaded: the lamps that are told how bright, besides those that are already.
        ids: the ids of words that are taken; those of answers are added.
    """

    def __init__(
        self, design: Design, vocabulary: VocabularyDesign, spell: Spell | None, shaded: Collection[str], ids: set[str]
    ) -> None:
        self.design, self.vocabulary, self.spell = design, vocabulary, spell
        self.shaded = {*design.dimmed, *shaded}
        self.talks = [it.id for it in design.vocabulary_talks(vocabulary.id)]
        self.ids = ids
        self.told = {
            _key(action["say"]["fill"]): (action["say"]["word"], action["say"]["fill"])
            for rule in design.plan.rules.values()
            for it in rule.do
            if it.say is not None and it.say.fill and it.say.talk in self.talks
            for action in (it.model_dump(mode="json", exclude_none=True),)
        }

    def again(self, spell: Spell | None) -> "Answers":
        """Return others that know the same, and forget what these come to say from now on."""
        made = copy(self)
        made.spell, made.ids, made.told = spell, set(self.ids), dict(self.told)
        return made

    def to(self, word_id: str, label: str, sent: str, parameters: Document, do: list[Document]) -> Answer:
        """Answer one word: how its lamp is now where it is one lamp's, else the word itself."""
        lamps = list(dict.fromkeys(lamp for it in do for lamp in self.design.targets(str(it.get("target", "")))))
        if self.spell is None or len(lamps) != 1:
            return self._itself(word_id, label, sent, parameters)
        states = self._states(lamps[0], {str(it["verb"]) for it in do})
        fill = {name: f"{{{lamps[0]}.{part}}}" for name, (part, _) in states.items()}
        if (known := self.told.get(_key(fill))) is not None:
            return Answer(known[0], None, self._says(*known))
        lamp = self.design.lamps[lamps[0]].label
        what = next((it for it in ("text", "score") if it in states), "")
        back_id = self._new_id("_".join(filter(None, (lamps[0], what, "is"))))
        wanted = Wanted(
            back_id, " ".join(filter(None, (lamp, what, "now"))), lamp, [], {name: kind for name, (_, kind) in states.items()}, ""
        )
        text, settled = self.spell(wanted)
        most = spec_of(self.design, self.design.lamps[lamps[0]]).score_most
        for name, (part, _) in states.items():
            settled[name] |= {"most": most} if part == "score" else {"least": 0} if part == "text" else {}
        self.told[_key(fill)] = (back_id, fill)
        word: Document = {"label": wanted.label[:80], "sent": text, "direction": "back", "parameters": settled}
        return Answer(back_id, word, self._says(back_id, fill))

    def _itself(self, word_id: str, label: str, sent: str, parameters: Document) -> Answer:
        back_id = self._new_id(f"{word_id}_done")
        fill = {name: f"{{{name}}}" for name in fields_of(sent)}
        word: Document = {
            "label": f"{label}, done"[:80],
            "sent": sent,
            "direction": "back",
            **({"parameters": parameters} if parameters else {}),
        }
        return Answer(back_id, word, self._says(back_id, fill), is_itself=True)

    def _says(self, word_id: str, fill: Document) -> list[Document]:
        said = {"word": word_id, **({"fill": fill} if fill else {})}
        return [{"verb": "say", "say": {"talk": talk, **said}} for talk in self.talks]

    def _new_id(self, wanted: str) -> str:
        made = first_free(wanted[:ID_MOST], self.ids.__contains__)
        self.ids.add(made)
        return made

    def _states(self, lamp_id: str, verbs: Collection[str]) -> dict[str, tuple[str, str]]:
        """Name what tells how a lamp is: by name, which part of it, and how it is written."""
        kind = self.design.lamps[lamp_id].kind
        if kind in DISPLAY_KINDS and "text" in verbs:
            return {"text": ("text", "text")}
        if kind in DISPLAY_KINDS and "score" in verbs:
            return {"score": ("score", "decimal")}
        if kind == "rgb" and lamp_id in self.shaded:
            return {it: (it, "decimal") for it in CHANNELS}
        return {"level": ("level", "decimal")} if lamp_id in self.shaded else {"is_on": ("on", "bit")}


def _key(fill: Document) -> tuple[str, ...]:
    return tuple(sorted(map(str, fill.values())))


def answered(design: Design, answers: Answers) -> Iterator[tuple[Document, Answer]]:
    """Answer every word that some rule obeys already and nothing answers yet: the change of its rule, and the answer."""
    vocabulary = answers.vocabulary
    outs = {it.id: it for it in vocabulary.words if it.direction == "out"}
    hosts = {it.b for it in design.vocabulary_talks(vocabulary.id)}
    for name, rule in design.plan.rules.items():
        word = outs.get(rule.when.heard or "")
        if word is None or rule.host not in hosts or any(it.verb == "say" for it in rule.do):
            continue
        do = [it.model_dump(mode="json", exclude_none=True) for it in rule.do]
        plan_word = design.plan.vocabularies[vocabulary.id].words[word.id]
        parameters = {key: it.model_dump(mode="json", exclude_none=True) for key, it in plan_word.parameters.items()}
        answer = answers.to(word.id, word.label, word.text, parameters, do)
        yield at_path(("rules", name, "do"), [*do, *answer.says]), answer


def shaded_by(do: Collection[Document]) -> set[str]:
    """Return the lamps that some actions tell how bright or in what colour."""
    return {str(it.get("target")) for it in do if it.get("verb") in SHADING}
