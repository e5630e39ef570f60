"""Sliders for lamps that dim: a word that carries how bright, or what colour, and the rule that takes it."""

from collections.abc import Iterator
from typing import Final

from oddlamp.core.base import first_free
from oddlamp.core.checks.apart import heard_out, paths_of
from oddlamp.core.checks.findings import Move
from oddlamp.core.checks.words import add_dark, lit_and_put_out
from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import LampDesign
from oddlamp.core.design.talks import VocabularyDesign
from oddlamp.core.designer.draw import framed
from oddlamp.core.designer.spelling import chatters
from oddlamp.core.designer.wishes import CHANNELS
from oddlamp.core.plan.document import Document, at_path, join_patches
from oddlamp.core.plan.lights import DIMMED_KINDS
from oddlamp.core.words.confusion import first_bytes

OFFERED: Final = 3
LETTERS: Final = "LRGVWXYZDEFHIJKMNOPQSTUABCbcdefghijklmnopqrstuvwxyz"


def slider_moves(design: Design, vocabulary: VocabularyDesign, host: str) -> Iterator[Move]:
    """Offer a slider for the first lamps that dim and have none: one value for how bright, three for a colour."""
    wanted = [it for it in design.lamps.values() if it.host == host and it.kind in DIMMED_KINDS and not _is_slid(design, it)]
    for lamp in wanted[:OFFERED]:
        patch = _slider(design, vocabulary, host, lamp)
        what = "Add sliders for the colour of" if lamp.kind == "rgb" else "Add a slider for"
        yield Move(label=f"{what} {lamp.label}", patch=patch)


def _is_slid(design: Design, lamp: LampDesign) -> bool:
    return any(
        action.values is not None and action.values.carried() and lamp.id in design.targets(action.target)
        for rule in design.plan.rules.values()
        for action in rule.do
    )


def _slider(design: Design, vocabulary: VocabularyDesign, host: str, lamp: LampDesign) -> Document:
    """Write the word, begun by a letter that no other word begins with, its rule, and an ending for all words where there is none."""
    begun = 0
    for other in heard_out(vocabulary, "out"):
        begun |= first_bytes(paths_of(other, "sent")) | (1 << ord(other.text.swapcase()) if len(other.text) == 1 else 0)
    letter = next((it for it in ("C" if lamp.kind == "rgb" else "B") + LETTERS if not begun >> ord(it) & 1), LETTERS[0])
    names = CHANNELS if lamp.kind == "rgb" else ("level",)
    word_id = first_free(
        f"{lamp.id}_{'colour' if lamp.kind == 'rgb' else 'level'}"[:38], lambda it: any(w.id == it for w in vocabulary.words)
    )
    values = {name: f"{{{name}}}" for name in names}
    verb = "colour" if lamp.kind == "rgb" else "level"
    rule = first_free(f"when_{word_id}"[:38], design.plan.rules.__contains__)
    label = f"{lamp.label}, {'colour' if lamp.kind == 'rgb' else 'how bright'}"
    is_fixed = vocabulary.framing.id == "fixed" or (not vocabulary.is_ended and chatters(design, vocabulary))
    word: Document = {"label": label, "sent": letter + ("" if is_fixed else " ").join(values.values())}
    if is_fixed:
        word["parameters"] = {name: {"written": "hex"} for name in names}
    do = [{"verb": verb, "target": lamp.id, "values": values}]
    patches: list[Document] = [
        at_path(("vocabularies", vocabulary.id, "words", word_id), word),
        at_path(("rules", rule), {"host": host, "when": {"heard": word_id}, "do": do}),
    ]
    patches += _put_out(design, vocabulary, host, lamp.id)
    if not vocabulary.is_ended:
        patches += framed(design, vocabulary, is_fixed=is_fixed)
    return join_patches(patches)


def _put_out(design: Design, vocabulary: VocabularyDesign, host: str, lamp: str) -> Iterator[Document]:
    """Let the word that puts everything out put this lamp out as well; where nothing can be lit yet, with a word of its own."""
    lights, dark_by = lit_and_put_out(design, vocabulary, host)
    if not lights:
        yield add_dark(design, vocabulary, host, [lamp]).patch
        return
    for name, rule in design.rules_of(host):
        if lamp not in lights and rule.when.heard in dark_by[:1]:
            do = [*(it.model_dump(mode="json", exclude_none=True) for it in rule.do), {"verb": "off", "target": lamp}]
            yield at_path(("rules", name, "do"), do)
            return
