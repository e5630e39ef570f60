"""Words drawn up from wishes, by several schools: short, far apart, safe to repeat where that can be, with one that switches everything off."""

import re
import string
from collections.abc import Collection, Iterable, Iterator
from typing import Final, Literal, NamedTuple

from oddlamp.core.base import first_free
from oddlamp.core.checks.apart import heard_out, paths_of
from oddlamp.core.design.design import Design
from oddlamp.core.design.talks import VocabularyDesign
from oddlamp.core.designer.wishes import MODES, Wanted, Wish, wanted_of
from oddlamp.core.modules.goals import dialect_of
from oddlamp.core.plan.document import Document, at_path, join_patches
from oddlamp.core.plan.edits import framed_as
from oddlamp.core.plan.lights import DIMMED_KINDS
from oddlamp.core.plan.rules import Action
from oddlamp.core.plan.words import FIELDS_MOST, TEXT_MOST
from oddlamp.core.resolve.words import TEXT_USUAL
from oddlamp.core.words.confusion import first_bytes

School = Literal["byte", "line", "letter", "fields"]
SCHOOLS: Final[dict[School, tuple[str, str]]] = {
    "byte": ("One byte a word", "the least to type and to go wrong; what has a value goes in steps"),
    "letter": ("A letter and a number", "short, easy to read off a terminal, made for sliders"),
    "line": ("A word a line", "reads like a sentence, and is the longest to type"),
    "fields": ("All values in one line", "one message sets everything, so that nothing is half set"),
}
LETTERS: Final = "LRGVWXYZDEFHIJKMNOPQSTUABCbcdefghijklmnopqrstuvwxyz123456789"
ID_MOST: Final = 38
ENDS_MOST: Final = 2  # CR LF
WIDTHS: Final = {"decimal": 3, "bit": 1}  # signs at most; of hex digits two


class DrawnWord(NamedTuple):
    """A word that is drawn up: what is sent for it, and why it is that."""

    id: str
    label: str
    sent: str
    why: str


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
    left_out = ("text: one byte carries none",) if school == "byte" and "text" in wishes else ()
    has_text = any("text" in it.carried.values() for it in wanted)
    is_fixed = school != "byte" and vocabulary.gap is None and not has_text and chatters(design, vocabulary)
    done = {(rule.when.heard, _told(rule.do)) for _, rule in design.rules_of(host)}
    obeyed = {told for heard, told in done if heard is not None}
    room = _packet_bytes(design, vocabulary) - ENDS_MOST
    if school == "fields":
        wanted = list(_joined(wanted, room, is_fixed=is_fixed))
    used = _Used(vocabulary, chatter(design, vocabulary))
    words, patches = [], list[Document]()
    for it in wanted:
        if _told_of(it.do) in obeyed:
            continue
        word_id = first_free(it.id[:ID_MOST], used.ids.__contains__)
        sent = used.sent_for(it, school, room, is_fixed=is_fixed)
        used.ids.add(word_id)
        rule = first_free(f"when_{word_id}"[:ID_MOST], design.plan.rules.__contains__)
        left = max(room - len(sent.partition("{")[0]), 1)
        parameters = {
            name: {
                **_parameter(written, left, is_fixed=is_fixed),
                **({"label": it.called[name][:80]} if name in it.called else {}),
            }
            for name, written in it.carried.items()
        }
        told: Document = {"label": it.label[:80], "sent": sent, **({"parameters": parameters} if parameters else {})}
        patches += [
            at_path(("vocabularies", vocabulary_id, "words", word_id), told),
            at_path(("rules", rule), {"host": host, "when": {"heard": word_id}, "do": it.do}),
        ]
        words.append(DrawnWord(word_id, it.label, sent, it.why))
        if it.do[0].get("verb") == "next" and MODES not in design.plan.cues:
            patches.append(at_path(("cues", MODES), _modes(design, host)))
    patches += _framing(design, vocabulary, school, is_fixed=is_fixed, has_text=has_text)
    return Drawn(school, tuple(words), left_out, join_patches(patches))


def _told(do: Iterable[Action]) -> str:
    return repr([it.model_dump(mode="json", exclude_none=True) for it in do])


def _told_of(do: list[Document]) -> str:
    return _told([Action.model_validate(it) for it in do])


class _Used:
    """What a vocabulary says already: ids, whole words, and first bytes, capitals and small letters as one."""

    def __init__(self, vocabulary: VocabularyDesign, chatter: str) -> None:
        words = heard_out(vocabulary, "out")
        self.ids = {it.id for it in vocabulary.words}
        self.texts = {it.text.casefold() for it in vocabulary.words}
        self.begun = set(chatter.casefold())
        for it in words:
            mask = first_bytes(paths_of(it, "sent"))
            self.begun |= {chr(byte).casefold() for byte in range(128) if mask >> byte & 1}

    def sent_for(self, it: Wanted, school: School, room: int, *, is_fixed: bool) -> str:
        """Choose what is sent: a free letter with its values, or a word that reads as what it does and fits with them."""
        most = sum(WIDTHS.get(written, 2) + 1 for written in it.carried.values())
        if school == "line" and len(it.id) + most <= room:
            name = re.sub(r"[^a-z0-9]+", " ", it.id.replace("_", " ")).strip()
            name = first_free(name, self.texts.__contains__) if name in self.texts else name
            self.texts.add(name)
            self.begun.add(name[0])
            return name + "".join(f"{'' if is_fixed else ' '}{{{value}}}" for value in it.carried)
        letter = next(
            (
                one
                for one in it.letters + LETTERS
                if one.isascii() and one.isprintable() and one not in "{}\\ ," and one.casefold() not in self.begun
            ),
            None,
        )
        letter = letter or first_free("w", self.texts.__contains__)
        self.begun.add(letter[0].casefold())
        self.texts.add(letter.casefold())
        parted = "" if is_fixed else "," if school == "fields" else " "
        return letter + parted.join(f"{{{value}}}" for value in it.carried)


def _packet_bytes(design: Design, vocabulary: VocabularyDesign) -> int:
    """Return what one packet carries on the way, where the air has packets; a text is no longer than fits with what is around it."""
    hops = [hop.link_id for talk in design.vocabulary_talks(vocabulary.id) for hop in talk.hops]
    return min((design.airs[it].packet_most_bytes for it in hops if it in design.airs), default=TEXT_MOST)


def _parameter(written: str, room: int, *, is_fixed: bool) -> Document:
    if written == "text":
        return {"written": "text", "most": min(room, TEXT_USUAL)}
    told: Document = {"written": "hex" if is_fixed else "decimal"}
    return {**told, "most": 1} if written == "bit" else told


def _joined(wanted: list[Wanted], room: int, *, is_fixed: bool) -> Iterator[Wanted]:
    """Put all values of numbers into as few lines as hold them; the rest stays as it is."""
    single = [it for it in wanted if it.carried and "text" not in it.carried.values()]
    yield from (it for it in wanted if it not in single)
    while single:
        mine, carried, called = list[Wanted](), dict[str, str](), dict[str, str]()
        while single and (not carried or _fits([*carried.values(), *single[0].carried.values()], room, is_fixed=is_fixed)):
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


def _fits(written: list[str], room: int, *, is_fixed: bool) -> bool:
    """Tell whether one line holds some values: their letter, and each with a comma before it but the first, or two hex digits."""
    return len(written) <= FIELDS_MOST and sum(2 if is_fixed else WIDTHS[it] + 1 for it in written) + is_fixed <= room


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
    is_cut = has_text and any(32 <= byte < 127 for byte in vocabulary.terminator)
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


def chatters(design: Design, vocabulary: VocabularyDesign) -> bool:
    """Tell whether a module on the way says things by itself that an ending would tie to the next word."""
    return bool(chatter(design, vocabulary))


def chatter(design: Design, vocabulary: VocabularyDesign) -> str:
    """Return what modules on the way say by themselves, one after the other: a byte of it is no word of its own."""
    hops = [hop for talk in design.vocabulary_talks(vocabulary.id) for hop in talk.hops[1:]]
    dialects = [dialect_of(design, design.nodes[hop.from_node]) for hop in hops]
    return "".join(it.on_link + it.on_unlink for it in dialects if it is not None and it.on_link and it.enters != "always")
