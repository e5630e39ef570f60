"""What is pressed, moved or said on each handset: what the plan has, and something proposed for every other word."""

import re
from collections.abc import Iterator, Mapping
from dataclasses import replace
from types import MappingProxyType
from typing import Final

from oddlamp.core.base import first_free
from oddlamp.core.design.talks import ControlDesign, TalkDesign, WordDesign
from oddlamp.core.plan.controls import ControlKind, LightState, Shade
from oddlamp.core.plan.model import Handset
from oddlamp.core.plan.signals import label_of

Fill = Mapping[str, float | str]
NO_FILLS: Final[Mapping[str, Fill]] = MappingProxyType({})


def controls_of(node_id: str, node: Handset, talks: list[TalkDesign], taken: set[str]) -> tuple[ControlDesign, ...]:
    """Give every word something that says it: what the plan has for it, else a button, a slider, a key or a phrase; ids are ``taken`` once."""
    own = [
        ControlDesign(
            name,
            node_id,
            it.kind,
            label_of(it.label, name),
            {gesture: (s.talk, s.word) for gesture, s in it.says.items()},
            "own",
            {gesture: s.fill for gesture, s in it.says.items()},
            it.interval_s,
            bool(it.is_held),
            it.sends == "at-rest",
            it.phrases or ((_phrase(label_of(it.label, name)),) if it.kind == "phrase" else ()),
            it.code,
            (*it.states, *(LightState(word=word, label=state, shade=_lit(state)) for word, state in it.shows.items())),
        )
        for name, it in node.controls.items()
    ]
    said = {pair for control in own for pair in control.says.values()}
    for talk in talks:
        for word in talk.vocabulary.words:
            if word.direction == "out" and (talk.id, word.id) not in said and (talk.vocabulary.id, word.id) not in said:
                said.add((talk.vocabulary.id, word.id))  # one button a word, however many talks carry it
                for control in _proposed(node, node_id, talk.id, word):
                    name = first_free(control.id, taken.__contains__)
                    taken.add(name)
                    own.append(replace(control, id=name))
    return tuple(own)


def _proposed(node: Handset, node_id: str, talk_id: str, word: WordDesign) -> Iterator[ControlDesign]:
    """Propose what says a word: a switch for one of two values, and what has no switch one thing for each; no key carries more."""
    pair, carried = (talk_id, word.id), [it.field for it in word.parameters]
    is_text = any(it.written == "text" for it in word.parameters)
    is_two = len(carried) == 1 and not is_text and carried[0].most - carried[0].least == 1
    ends = (
        {way: {word.parameters[0].id: value} for way, value in (("on", carried[0].most), ("off", carried[0].least))}
        if is_two
        else {}
    )

    def made(
        kind: ControlKind, label: str, *gestures: str, fills: Mapping[str, Fill] = NO_FILLS, phrase: str = ""
    ) -> ControlDesign:
        says = dict.fromkeys(gestures, pair)
        return ControlDesign(word.id, node_id, kind, label, says, "proposed", fills, phrases=(phrase,) if phrase else ())

    if node.kind == "feed":
        if is_text:  # it has lines, and nothing else
            yield made("text", word.label, "move")
    elif node.kind in ("voice", "remote"):
        kind: ControlKind = "phrase" if node.kind == "voice" else "key"
        for way, fill in ends.items():
            label = f"{word.label.partition(',')[0]} {way}"
            yield made(kind, label, "press", fills={"press": fill}, phrase=_phrase(label) if kind == "phrase" else "")
        if kind == "phrase" and not is_two:
            gesture = "move" if carried else "press"
            yield made(kind, word.label, gesture, phrase=_phrase(word.label, *(it.id for it in word.parameters)))
        elif not carried:
            yield made(kind, word.label, "press")
    elif is_two:
        yield made("toggle", word.label, "on", "off", fills=ends)
    else:
        yield made("text" if is_text else "slider" if carried else "button", word.label, "move" if carried else "press")


def _phrase(label: str, *values: str) -> str:
    """Propose what is said for a word: its name, then its values."""
    plain = " ".join(re.sub(r"[\W_]+", " ", label.casefold()).split())
    return " ".join([plain or "this", *(f"{{{it}}}" for it in values)])


def _lit(state: str) -> Shade:
    return "dark" if state in ("off", "dark") else "yellow"
