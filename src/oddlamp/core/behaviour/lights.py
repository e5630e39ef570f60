"""What actions do to lamps: one small state each, and the duty of every channel that follows from it."""

import math
from collections.abc import Iterable
from typing import NamedTuple

from oddlamp.core.design.design import Design
from oddlamp.core.plan.rules import Action

LADDER_TOP = 255
COLOURS = {"red": 0, "green": 1, "blue": 2}


class LampState(NamedTuple):
    """On or off, how bright, and the share of each colour."""

    is_on: bool = False
    level: float = 1.0
    colour: tuple[float, float, float] = (1.0, 1.0, 1.0)

    def share(self, channel_id: str) -> float:
        """Return the wanted duty of one channel, 0 to 1."""
        if not self.is_on:
            return 0.0
        at = COLOURS.get(channel_id)
        return self.level if at is None else self.level * self.colour[at]


def act(state: LampState, action: Action) -> LampState:
    """Return the state after one action. A level that follows an input leaves the state as it is."""
    values = action.values
    match action.verb:
        case "on":
            return state._replace(is_on=True, level=state.level or 1.0)
        case "off":
            return state._replace(is_on=False)
        case "toggle":
            return state._replace(is_on=not state.is_on)
        case "level" if values is not None and isinstance(values.level, float | int):
            return state._replace(is_on=values.level > 0, level=float(values.level))
        case "colour" if values is not None:
            red, green, blue = (
                old if new is None else new
                for new, old in zip((values.red, values.green, values.blue), state.colour, strict=True)
            )
            return state._replace(is_on=red + green + blue > 0, colour=(red, green, blue))
        case _:
            return state


def lit_after(design: Design, actions: Iterable[Action]) -> dict[str, bool]:
    """Return which lamps these actions leave lit, from dark; a toggle lights a dark lamp."""
    states: dict[str, LampState] = {}
    for action in actions:
        if action.verb in ("on", "off", "toggle", "level", "colour"):
            for lamp in design.targets(action.target):
                states[lamp] = act(states.get(lamp, LampState()), action)
    return {lamp: state.is_on and state.level > 0 for lamp, state in states.items()}


def step_duty(share: float) -> float:
    """Return the duty an 8-bit output really gives, as a ratio: floor(255 k/n + 1/2) of 255, the same in every language."""
    return math.floor(LADDER_TOP * share + 0.5) / LADDER_TOP


def seen_light(luminance_ratio: float) -> float:
    """Return light as the eye sees it, 0 to 1 for 0 to full: CIE 1976 lightness L* / 100.

    Source: ISO/CIE 11664-4; L* = 116 (Y/Yn)^(1/3) - 16 above (6/29)^3, else (29/3)^3 Y/Yn.
    """
    if luminance_ratio > (6 / 29) ** 3:
        return (116 * math.cbrt(luminance_ratio) - 16) / 100
    return (29 / 3) ** 3 * luminance_ratio / 100
