"""What comes back to a phone, in words, and what its lights show of it."""

from typing import Final

from oddlamp.core.design.design import Design
from oddlamp.core.design.talks import ControlDesign
from oddlamp.core.plan.controls import COLOURS, LightState
from oddlamp.core.rehearsal.trace import Answered, AnswerShown, LightLook, Trace

SHOWN_MOST: Final = 3


def answers_shown(design: Design, trace: Trace) -> tuple[AnswerShown, ...]:
    """Put the last answers in words."""
    return tuple(AnswerShown(t_s=it.t_s, text=_told(design, it)) for it in trace.answered[-SHOWN_MOST:])


def _told(design: Design, it: Answered) -> str:
    word = design.talks[it.talk].vocabulary.word(it.word)
    carried = ", ".join(f"{one.label} {it.values[one.id]}" for one in word.parameters if one.id in it.values)
    return f"{word.label}: {carried}" if carried else word.label


def lights_of(design: Design, trace: Trace) -> dict[str, tuple[LightLook, ...]]:
    """Follow every light of every phone: of its states the first that an answer fits holds until another does."""
    looks = dict[str, tuple[LightLook, ...]]()
    for handset in design.handsets.values():
        mine = [it for it in trace.answered if it.handset == handset.id]
        for control in handset.controls:
            found = [_look(it.t_s, control, state) for it in mine if (state := _state(control, it)) is not None]
            if found:
                looks[control.id] = tuple(found)
    return looks


def _state(control: ControlDesign, it: Answered) -> LightState | None:
    return next((state for state in control.states if state.word == it.word and _fits(state, it)), None)


def _fits(state: LightState, it: Answered) -> bool:
    if state.value is None:
        return True
    value = it.values.get(state.value)
    if not isinstance(value, int):
        return False
    return (state.least is None or value >= state.least) and (state.most is None or value <= state.most)


def _look(t_s: float, control: ControlDesign, state: LightState) -> LightLook:
    return LightLook(t_s=t_s, label=state.label or control.label, colour=COLOURS[state.shade], blink_s=state.blink_s)
