"""What a maker would say of a simulated build that does not do as it should, worked out in it."""

from collections.abc import Callable, Mapping
from typing import Final

from oddlamp.core.finding.build import Build, By
from oddlamp.core.finding.observe import ALIVE, TESTS
from oddlamp.core.finding.way import Way
from oddlamp.core.finding.wired import Look


def _is(*looks: Look) -> Callable[[Build], bool]:
    return lambda build: build.after("phone") in looks or build.after("input") in looks


def _is_dark(build: Build) -> bool:
    return all(it == "dark" for it in (build.after("phone"), build.after("input")) if it is not None)


def _test(build: Build, test: str) -> str:
    return TESTS[test].shows(build) if TESTS[test].fits(build.way) else ""


def _is_lifeless(build: Build) -> bool:
    """Whether no light of board or module is on, or what drives the lamp has no supply."""
    return not build.is_fed(build.way.lamp.host) or _test(build, "module-light") == "off"


def _is_input_dead(build: Build) -> bool:
    return build.way.local is not None and build.after("input") in ("dark", "on") and build.after("phone") not in ("dark", None)


def _is_overdriven(build: Build) -> bool:
    """Whether the pin on which the module listens stands over what it takes."""
    step = next((it for it in build.way.steps if it.id == f"idle.{build.way.to_module}"), None)
    level = build.way.design.level(build.way.to_module) if step is not None else None
    if step is None or level is None or level.limit.value is None:
        return False
    shown = build.way.finder.model.reading(step, build.fault)
    return shown is not None and shown > level.limit.value


def _goes(build: Build, by: By) -> bool:
    return build.after(by) in ALIVE and build.at_bad_moment.after(by) == "dark"


def _has_back(way: Way) -> bool:
    """Whether a board says words that should come back to a phone."""
    return way.talk is not None and bool(way.to_module) and any(it.direction == "back" for it in way.talk.vocabulary.words)


def _comes_back(build: Build) -> bool:
    return build.is_fed(build.way.lamp.host) and build.passes(build.way.to_module) and build.states.module.is_at_speed


def _is_sometimes(build: Build) -> bool:
    is_back_gone = _has_back(build.way) and not _comes_back(build.at_bad_moment)
    return build.broken.is_loose and (is_back_gone or any(_goes(build, by) for by in ("phone", "input")))


def _is_link_loose(build: Build) -> bool:
    """Whether the link is gone whenever something loose is off, as where a board with a radio of its own loses its supply."""
    return bool(build.way.air) and build.broken.is_loose and build.links and not build.at_bad_moment.links


SYMPTOMS: Final[Mapping[str, Callable[[Build], bool]]] = {
    "nothing": lambda build: _is_dark(build) and _is_lifeless(build),
    "dark": lambda build: _is_dark(build) and build.is_fed(build.way.lamp.host),
    "dim": _is("dim"),
    "bright": _is("bright"),
    "on": lambda build: _is("on")(build) or build.is_lit_at_rest,
    "colour": _is("colour"),
    "flickers": _is("flickers"),
    "resets": _is("resets"),
    "late": _is("late"),
    "first": _is("first"),
    "end": _is("end"),
    "wanders": _is("wanders"),
    "sometimes": _is_sometimes,
    "no-answer": lambda build: _test(build, "at-answer") == "nothing",
    "garbage": lambda build: _test(build, "at-answer") == "garbage" or _test(build, "monitor") == "garbage",
    "no-link": lambda build: bool(build.way.air) and not build.links,
    "links-nothing": lambda build: build.links and build.after("phone") == "dark",
    "app-only": lambda build: build.after("phone") == "dark" and _test(build, "by-terminal") == "works",
    "no-back": lambda build: _has_back(build.way) and build.links and not _comes_back(build),
    "drops": lambda build: (build.after("phone") == "dark" and _test(build, "near") == "works") or _is_link_loose(build),
    "battery": lambda build: build.after("wiring") in ("dark", "resets") and _test(build, "other-supply") == "works",
    "input": _is_input_dead,
    "died": _is_overdriven,
}


def symptoms_of(build: Build) -> frozenset[str]:
    """Return all that a maker may say of a build."""
    return frozenset(name for name, is_so in SYMPTOMS.items() if is_so(build))


def can_show(way: Way, symptom: str) -> bool:
    """Tell whether a symptom can be met on a way at all: a button that does nothing wants a button."""
    match symptom:
        case "input":
            return way.local is not None and way.press is not None
        case "no-back":
            return _has_back(way)
        case "wanders":
            return way.has_knob
        case "no-answer":
            return way.is_asked
        case "garbage":
            return way.has_module
        case _:
            return True
