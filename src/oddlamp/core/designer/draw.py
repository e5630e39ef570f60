"""Words drawn up from wishes, by several schools: short, far apart, safe to repeat where that can be, with one that switches everything off."""

import string
from collections.abc import Collection, Iterable, Iterator
from typing import Final, NamedTuple

from oddlamp.core.base import first_free
from oddlamp.core.design.design import Design
from oddlamp.core.design.talks import VocabularyDesign
from oddlamp.core.designer.answers import Answer, Answers, answered, shaded_by
from oddlamp.core.designer.spelling import School, Spelling, chatters
from oddlamp.core.designer.wishes import MODES, Wanted, Wish, wanted_of
from oddlamp.core.plan.document import Document, at_path, join_patches
from oddlamp.core.plan.edits import framed_as
from oddlamp.core.plan.lights import DIMMED_KINDS
from oddlamp.core.plan.rules import Action
from oddlamp.core.plan.words import FIELDS_MOST

SCHOOLS: Final[dict[School, tuple[str, str]]] = {
    "byte": ("One byte a word", "the least to type and to go wrong; what has a value goes in steps"),
    "letter": ("A letter and a number", "short, easy to read off a terminal, made for sliders"),
    "line": ("A word a line", "reads like a sentence, and is the longest to type"),
    "fields": ("All values in one line", "one message sets everything, so that nothing is half set"),
}
ID_MOST: Final = 38


class DrawnWord(NamedTuple):
    """A word that is drawn up: what is sent for it, and why it is that."""

    id: str
    label: str
    sent: str
    why: str
    is_answer: bool = False


class Drawn(NamedTuple):
    """The words of one school, with the edit that takes them; ``left_out`` says what of the wishes it cannot carry."""

    school: School
    words: tuple[DrawnWord, ...]
    left_out: tuple[str, ...]
    patch: Document


def draw_up(
    design: Design, vocabulary_id: str, wishes: Collection[Wish], school: School, *, undimmed: Collection[str] = ()
) -> Drawn:
    """Draw up the words for some wishes; what is there and does the same already stays as it is.

    Args:
        design: the plan as it stands.
        vocabulary_id: whose words; a program's, not a module's own.
        wishes: what the phone shall be able to do.
        school: how the words are written.
        undimmed: lamps that stay on or off, where pins that dim are scarce.
    """
    vocabulary = design.vocabularies[vocabulary_id]
    host = next((talk.b for talk in design.vocabulary_talks(vocabulary_id)), "")
    wanted = list(wanted_of(design, host, wishes, carries=school != "byte", undimmed=undimmed))
    has_text = any("text" in it.carried.values() for it in wanted)
    is_fixed = school != "byte" and vocabulary.gap is None and not has_text and chatters(design, vocabulary)
    drawing = _Drawing(design, vocabulary, host, Spelling(design, vocabulary, school, is_fixed=is_fixed))
    wanted = [it for it in wanted if not it.same or not all(_told_of(one) in drawing.obeyed for one in it.same)]
    if school == "fields":
        wanted = list(_joined(wanted, drawing.spelling))
    if "answers" in wishes:
        drawing.answer(shaded_by([action for it in wanted for action in it.do if "bit" not in it.carried.values()]))
    for it in wanted:
        if _told_of(it.do) not in drawing.obeyed:
            drawing.add(it)
    drawing.patches += _framing(design, vocabulary, school, is_fixed=is_fixed, has_text=has_text)
    left_out = ("text: one byte carries none",) if school == "byte" and "text" in wishes else ()
    return Drawn(school, tuple(drawing.words), left_out, join_patches(drawing.patches))


class _Drawing:
    """Words as they are drawn up one after the other, with the edits that take them."""

    def __init__(self, design: Design, vocabulary: VocabularyDesign, host: str, spelling: Spelling) -> None:
        self.design, self.vocabulary, self.host, self.spelling = design, vocabulary, host, spelling
        self.path = ("vocabularies", vocabulary.id, "words")
        done = {(rule.when.heard, _told(rule.do)) for _, rule in design.rules_of(host)}
        heard = {word for word, _ in done}
        outs = [it for it in vocabulary.words if it.direction == "out"]
        self.obeyed = {told for word, told in done if word is not None}
        self.idle = {it.id: it.text for it in outs if not it.parameters and it.id not in heard}
        self.ids = {it.id for it in vocabulary.words}
        self.words, self.patches = list[DrawnWord](), list[Document]()
        self.answers: Answers | None = None

    def answer(self, shaded: Collection[str]) -> None:
        """Have all words answered from now on, and those that are there already."""
        spell = self.spelling.spell if self.spelling.school != "byte" else None
        self.answers = Answers(self.design, self.vocabulary, spell, shaded, self.ids)
        for patch, answer in answered(self.design, self.answers):
            self.patches.append(patch)
            self._say_back(answer)

    def add(self, it: Wanted) -> None:
        """Add a word and the rule that obeys it; a word that does nothing yet does this, as it is."""
        parameters: Document = {}
        if it.id in self.idle and not it.carried:
            word_id, sent, why = it.id, self.idle[it.id], "it is there, and did nothing yet"
        else:
            word_id, why = first_free(it.id[:ID_MOST], self.ids.__contains__), it.why
            self.ids.add(word_id)
            sent, parameters = self.spelling.spell(it)
            told: Document = {"label": it.label[:80], "sent": sent, **({"parameters": parameters} if parameters else {})}
            self.patches.append(at_path((*self.path, word_id), told))
        self.words.append(DrawnWord(word_id, it.label, sent, why))
        do = it.do
        if self.answers is not None:
            answer = self.answers.to(word_id, it.label, sent, parameters, it.do)
            do = [*do, *answer.says]
            self._say_back(answer)
        rule = first_free(f"when_{word_id}"[:ID_MOST], self.design.plan.rules.__contains__)
        self.patches.append(at_path(("rules", rule), {"host": self.host, "when": {"heard": word_id}, "do": do}))
        if it.do[0].get("verb") == "next" and MODES not in self.design.plan.cues:
            self.patches.append(at_path(("cues", MODES), _modes(self.design, self.host)))

    def _say_back(self, answer: Answer) -> None:
        if answer.word is not None:
            label, sent = str(answer.word["label"]), str(answer.word["sent"])
            self.patches.append(at_path((*self.path, answer.word_id), answer.word))
            self.words.append(DrawnWord(answer.word_id, label, sent, "said back", is_answer=True))


def _told(do: Iterable[Action]) -> str:
    return repr([it.model_dump(mode="json", exclude_none=True) for it in do if it.verb != "say"])


def _told_of(do: list[Document]) -> str:
    return _told([Action.model_validate(it) for it in do])


def _joined(wanted: list[Wanted], spelling: Spelling) -> Iterator[Wanted]:
    """Put all values of numbers into as few lines as hold them; the rest stays as it is."""
    single = [it for it in wanted if it.carried and "text" not in it.carried.values()]
    yield from (it for it in wanted if it not in single)
    while single:
        mine, carried, called = list[Wanted](), dict[str, str](), dict[str, str]()
        while single and (not carried or spelling.fits([*carried.values(), *single[0].carried.values()], FIELDS_MOST)):
            it = single.pop(0)
            names = {name: string.ascii_lowercase[len(carried) + at] for at, name in enumerate(it.carried)}
            carried |= {names[name]: written for name, written in it.carried.items()}
            lamp = it.label.partition(",")[0]
            called |= {short: lamp if len(names) == 1 else f"{lamp} {name}" for name, short in names.items()}
            mine.append(it._replace(do=[_renamed(action, names) for action in it.do]))
        labels = ", ".join(it.label.partition(",")[0] for it in mine)
        do = [action for it in mine for action in it.do]
        yield Wanted(
            "set_all",
            f"Set {labels}"[:80],
            "*SA",
            do,
            carried,
            "every value, in the order of the lamps, parted by commas",
            called,
        )


def _renamed(action: Document, names: dict[str, str]) -> Document:
    values = {key: f"{{{names[str(it)[1:-1]]}}}" for key, it in dict(action.get("values", {})).items()}
    return {**action, "values": values}


def _modes(design: Design, host: str) -> Document:
    """Each lamp that dims alone, one after the other, then all of them."""
    dims = [it.id for it in design.lamps.values() if it.host == host and it.kind in DIMMED_KINDS and not it.sends_codes]
    steps: list[Document] = []
    for lit in [*([it] for it in dims), dims]:
        for at, lamp in enumerate(dims):
            after = {"after_s": 1.0} if at == 0 and steps else {}
            steps.append({"target": lamp, "level": 1.0 if lamp in lit else 0.0, **after})
    return {"label": "Modes", "steps": steps}


def _framing(
    design: Design, vocabulary: VocabularyDesign, school: School, *, is_fixed: bool, has_text: bool
) -> Iterator[Document]:
    """Let words be told apart as the school wants, where they are not already."""
    if school == "byte":
        return
    is_talkative = chatters(design, vocabulary)
    # A text can hold any sign, a word any letter and a value any digit: what ends them must be none of these.
    is_cut = any((32 <= byte < 127 and has_text) or chr(byte).isalnum() or chr(byte) in " ,+-" for byte in vocabulary.terminator)
    if has_text and is_talkative and vocabulary.gap is None:
        yield framed_as(vocabulary.id, "gap")
    elif is_cut or not (vocabulary.is_ended or (is_fixed and vocabulary.framing.id == "fixed")):
        yield from framed(design, vocabulary, is_fixed=is_fixed)


def framed(design: Design, vocabulary: VocabularyDesign, *, is_fixed: bool) -> Iterator[Document]:
    """Let words of several bytes be told apart: by what the phone adds anyway, else by LF; or by their length."""
    if is_fixed:
        yield framed_as(vocabulary.id, "fixed")
        return
    handsets = [design.handsets[it.a] for it in design.vocabulary_talks(vocabulary.id) if it.a in design.handsets]
    added = next((it.appends.id for it in handsets if it.appends.origin == "own" and it.appends.id != "none"), None)
    yield framed_as(vocabulary.id, "terminated", added or "lf")
    yield from (at_path(("nodes", it.id, "appends"), None) for it in handsets if added is None and it.appends.origin == "own")
