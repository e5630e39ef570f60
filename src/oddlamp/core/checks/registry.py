"""Every rule, in one place. A rule that is not in the tuple does not run."""

from collections.abc import Callable, Iterator
from typing import Final, NamedTuple

from oddlamp.core.checks import leds, levels, modules, pins, words
from oddlamp.core.design import Design
from oddlamp.core.findings import Breach, Finding
from oddlamp.core.plan.model import Risk


class Rule(NamedTuple):
    """A stable code and the function that looks."""

    code: str
    check: Callable[[Design], Iterator[Breach]]


RULES: Final = (
    Rule("LED-OVER", leds.led_current_within_limit),
    Rule("LED-HEADROOM", leds.led_has_headroom),
    Rule("PIN-CURRENT", leds.pin_gives_enough),
    Rule("LVL-OVER", levels.input_not_overdriven),
    Rule("LVL-UNDER", levels.level_is_heard),
    Rule("LVL-GROUND", levels.grounds_are_joined),
    Rule("PIN-CANT", pins.pin_can),
    Rule("PIN-TWICE", pins.pin_used_once),
    Rule("PIN-NO-FIT", pins.every_line_has_a_pin),
    Rule("PIN-UPLOAD", pins.upload_pins_are_free),
    Rule("PIN-STRAP", pins.strap_lets_it_start),
    Rule("MOD-PHONE", modules.phone_can_reach),
    Rule("MOD-NAME", modules.setup_is_legal),
    Rule("MOD-ROLE", modules.role_can_answer),
    Rule("MOD-BAUD-MISMATCH", modules.speed_is_legal),
    Rule("CMD-DUP", words.words_differ),
    Rule("CMD-PREFIX", words.no_word_starts_another),
    Rule("CMD-ENDING", words.endings_fit),
    Rule("CMD-CHAR-NUMBER", words.characters_are_characters),
    Rule("CMD-NO-STOP", words.there_is_a_way_to_dark),
)
WORSE_SLACK: Final = 1e-6


def run_rules(design: Design) -> tuple[Finding, ...]:
    """Run every rule on a design; stops first, accepted ones last, else in the order of the registry."""
    found = []
    for rule in RULES:
        for breach in rule.check(design):
            key = f"{rule.code}@{breach.where}"
            risk = design.plan.accepted.get(key)
            reason = risk.reason if risk is not None and _is_no_worse(breach, risk) else None
            found.append(Finding(code=rule.code, key=key, accepted=reason, **dict(breach)))
    return tuple(sorted(found, key=lambda it: (it.accepted is not None, it.severity != "stop")))


def _is_no_worse(breach: Breach, risk: Risk) -> bool:
    """An acceptance holds while none of its numbers got worse; bigger is worse."""
    return all(now <= risk.numbers.get(name, now) + WORSE_SLACK * abs(now) for name, now in breach.numbers.items())
