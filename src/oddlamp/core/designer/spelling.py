"""How words are written: short, far apart, and no longer than a packet of the air they go through."""

import re
from copy import copy
from typing import Final, Literal

from oddlamp.core.base import first_free
from oddlamp.core.checks.apart import heard_out, paths_of
from oddlamp.core.design.design import Design
from oddlamp.core.design.talks import VocabularyDesign
from oddlamp.core.designer.wishes import Wanted
from oddlamp.core.modules.goals import dialect_of
from oddlamp.core.plan.document import Document
from oddlamp.core.plan.words import TEXT_MOST
from oddlamp.core.resolve.words import TEXT_USUAL
from oddlamp.core.words.confusion import first_bytes

School = Literal["byte", "line", "letter", "fields"]
LETTERS: Final = "LRGVWXYZDEFHIJKMNOPQSTUABCbcdefghijklmnopqrstuvwxyz123456789"
ENDS_MOST: Final = 2  # CR LF
WIDTHS: Final = {"decimal": 3, "bit": 1}  # signs at most; of hex digits two


class Spelling:
    """Writes words of a vocabulary in one school, no two alike: it knows what is said already, whole and by first bytes."""

    def __init__(self, design: Design, vocabulary: VocabularyDesign, school: School, *, is_fixed: bool) -> None:
        self.school, self.is_fixed = school, is_fixed
        self.room = _packet_bytes(design, vocabulary) - ENDS_MOST
        self.texts = {it.text.casefold() for it in vocabulary.words}
        self.begun = {*chatter(design, vocabulary).casefold(), *vocabulary.terminator.decode("latin-1").casefold()}
        for it in (it for way in ("out", "back") for it in heard_out(vocabulary, way)):
            mask = first_bytes(paths_of(it, "sent"))
            self.begun |= {chr(byte).casefold() for byte in range(128) if mask >> byte & 1}

    def again(self) -> "Spelling":
        """Return another that knows the same and forgets what this one writes from now on."""
        made = copy(self)
        made.texts, made.begun = set(self.texts), set(self.begun)
        return made

    def spell(self, it: Wanted) -> tuple[str, Document]:
        """Choose what is sent for something, and how the values it carries are written."""
        sent = self._sent(it)
        left = max(self.room - len(sent.partition("{")[0]), 1)
        called = {name: {"label": it.called[name][:80]} if name in it.called else {} for name in it.carried}
        return sent, {name: {**self._parameter(written, left), **called[name]} for name, written in it.carried.items()}

    def fits(self, written: list[str], most: int) -> bool:
        """Tell whether one line holds some values: their letter, and each with a comma before it but the first, or two hex digits."""
        widths = [2 if self.is_fixed else WIDTHS[it] + 1 for it in written]
        return len(written) <= most and sum(widths) + self.is_fixed <= self.room

    def _sent(self, it: Wanted) -> str:
        """Choose a free letter with its values, or a word that reads as what it does and fits with them."""
        most = sum(WIDTHS.get(written, 2) + 1 for written in it.carried.values())
        if self.school == "line" and len(it.id) + most <= self.room:
            name = re.sub(r"[^a-z0-9]+", " ", it.id.replace("_", " ")).strip()
            name = first_free(name, self.texts.__contains__) if name in self.texts else name
            self.texts.add(name)
            self.begun.add(name[0])
            return name + "".join(f"{'' if self.is_fixed else ' '}{{{value}}}" for value in it.carried)
        letter = next((one for one in it.letters + LETTERS if self._is_free(one)), None) or first_free(
            "w", self.texts.__contains__
        )
        self.begun.add(letter[0].casefold())
        self.texts.add(letter.casefold())
        parted = "" if self.is_fixed else "," if self.school == "fields" else " "
        return letter + parted.join(f"{{{value}}}" for value in it.carried)

    def _is_free(self, sign: str) -> bool:
        return sign.isascii() and sign.isprintable() and sign not in "{}\\ ," and sign.casefold() not in self.begun

    def _parameter(self, written: str, room: int) -> Document:
        if written == "text":
            return {"written": "text", "most": min(room, TEXT_USUAL)}
        told: Document = {"written": "hex" if self.is_fixed else "decimal"}
        return {**told, "most": 1, "label": "On"} if written == "bit" else told


def _packet_bytes(design: Design, vocabulary: VocabularyDesign) -> int:
    """Return what one packet carries on the way, where the air has packets; a text is no longer than fits with what is around it."""
    hops = [hop.link_id for talk in design.vocabulary_talks(vocabulary.id) for hop in talk.hops]
    return min((design.airs[it].packet_most_bytes for it in hops if it in design.airs), default=TEXT_MOST)


def chatters(design: Design, vocabulary: VocabularyDesign) -> bool:
    """Tell whether a module on the way says things by itself that an ending would tie to the next word."""
    return bool(chatter(design, vocabulary))


def chatter(design: Design, vocabulary: VocabularyDesign) -> str:
    """Return what modules on the way say by themselves, one after the other: a byte of it is no word of its own."""
    hops = [hop for talk in design.vocabulary_talks(vocabulary.id) for hop in talk.hops[1:]]
    dialects = [dialect_of(design, design.nodes[hop.from_node]) for hop in hops]
    return "".join(it.on_link + it.on_unlink for it in dialects if it is not None and it.on_link and it.enters != "always")
