"""What actions do to lamps: one small state each, and the duty of every channel that follows from it."""

import math
from collections.abc import Iterable, Mapping
from types import MappingProxyType
from typing import Final, NamedTuple

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


def scaled(value: int, least: int, most: int, top: int = LADDER_TOP) -> int:
    """Return a value of one range in another that begins at 0: clipped to its ends, then rounded half up, in whole numbers."""
    span = most - least
    return (2 * (min(max(value, least), most) - least) * top + span) // (2 * span) if span else top


def act(state: LampState, action: Action, shares: Mapping[str, float] = MappingProxyType({})) -> LampState:
    """Return the state after one action, with the values that the word carried, each 0 to 1; one that follows an input leaves it as it is."""
    values = action.values

    def given(value: float | str | None, old: float) -> float:
        if isinstance(value, str):
            return shares.get(value[1:-1], old)
        return old if value is None else float(value)

    match action.verb:
        case "on":
            return state._replace(is_on=True, level=state.level or 1.0)
        case "off":
            return state._replace(is_on=False)
        case "toggle":
            return state._replace(is_on=not state.is_on)
        case "level" if values is not None and values.level not in (None, "input"):
            level = given(values.level, state.level)
            return state._replace(is_on=level > 0, level=level)
        case "colour" if values is not None:
            red, green, blue = map(given, (values.red, values.green, values.blue), state.colour)
            return state._replace(is_on=red + green + blue > 0, colour=(red, green, blue))
        case _:
            return state


class _Full(dict[str, float]):
    """Every value a word carries at its most."""

    def get(self, _name: object, _default: object = None) -> float:
        return 1.0


FULL: Final = _Full()


def lit_after(design: Design, actions: Iterable[Action]) -> dict[str, bool]:
    """Return which lamps these actions leave lit, from dark; a toggle lights a dark lamp, a value that is carried is at its most."""
    states: dict[str, LampState] = {}
    for action in actions:
        if action.verb in ("on", "off", "toggle", "level", "colour"):
            for lamp in design.targets(action.target):
                states[lamp] = act(states.get(lamp, LampState()), action, FULL)
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
