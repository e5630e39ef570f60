"""Every rule, in one place. A rule that is not in the tuple does not run."""

from collections.abc import Callable, Iterator
from typing import Final, NamedTuple

from oddlamp.core.checks import built, leds, levels, modules, pins, words
from oddlamp.core.design import Design
from oddlamp.core.findings import Breach, Finding
from oddlamp.core.plan.model import Risk


class Rule(NamedTuple):
    """A stable code, the function that looks, and what it looks for, as `docs/findings.md` prints it.

    ``stop`` and ``look`` are the exact conditions; empty where the rule has no such severity.
    """

    code: str
    check: Callable[[Design], Iterator[Breach]]
    stop: str
    look: str
    source: str


RULES: Final = (
    Rule(
        "LED-OVER",
        leds.led_current_within_limit,
        "nominal current over the LED's absolute limit",
        "nominal current over what is wanted, or the worst-case current over the absolute limit",
        "Ohm's law; limits of the LED part, from memory until measured or overridden",
    ),
    Rule(
        "LED-HEADROOM",
        leds.led_has_headroom,
        "drive at or below the lowest forward voltage",
        "under 0.5 V left for the resistor, or a worst-case current spread over 3 : 1",
        "common practice, no source",
    ),
    Rule(
        "PIN-CURRENT",
        leds.pin_gives_enough,
        "nominal current of all LEDs on the pin over its absolute limit",
        "nominal current over the recommended limit, or the worst case over the absolute limit",
        "limits of the board part, from memory",
    ),
    Rule(
        "LVL-OVER",
        levels.input_not_overdriven,
        "nominal level over the receiver's limit: the fixed one if stated, else its nominal supply + 0.3 V",
        "only the worst case (supply spread, resistor tolerance) over that limit",
        "divider rule; JESD8C for a lightly loaded output; limits of the part, from memory",
    ),
    Rule(
        "LVL-UNDER",
        levels.level_is_heard,
        "nominal high level under the receiver's V_IH",
        "worst-case high level under the highest V_IH",
        "divider rule; V_IH of the part, from memory",
    ),
    Rule("LVL-GROUND", levels.grounds_are_joined, "a wire joins two places without a common ground", "", "common practice"),
    Rule(
        "PIN-CANT", pins.pin_can, "the pin is not on the board, or cannot do what its line needs", "", "board part, from memory"
    ),
    Rule("PIN-TWICE", pins.pin_used_once, "one pin carries two lines", "", "common practice"),
    Rule("PIN-NO-FIT", pins.every_line_has_a_pin, "a line is left without a pin", "", "board part, from memory"),
    Rule("PIN-UPLOAD", pins.upload_pins_are_free, "", "a line hangs on a pin the USB upload uses", "board part, from memory"),
    Rule(
        "PIN-STRAP",
        pins.strap_lets_it_start,
        "a pin read at start-up rests, between your pull and the board's own, past V_IL where it must be low or short of V_IH where it must be high",
        "",
        "divider rule; straps and pulls of the board part, from memory",
    ),
    Rule("MOD-PHONE", modules.phone_can_reach, "the two ends of a radio link share no radio", "", "module part, from memory"),
    Rule("MOD-NAME", modules.setup_is_legal, "a name longer than the family takes", "", "module part, from memory"),
    Rule(
        "MOD-ROLE",
        modules.role_can_answer,
        "a module that a phone calls is set as master, or two modules of one link are both set to the same role",
        "",
        "module part, from memory",
    ),
    Rule(
        "MOD-BAUD-MISMATCH",
        modules.speed_is_legal,
        "the wire's speed is none of the module's data speeds",
        "",
        "module part, from memory",
    ),
    Rule("CMD-DUP", words.words_differ, "two words of one direction are the same bytes", "", "ISO/IEC 646"),
    Rule("CMD-PREFIX", words.no_word_starts_another, "nothing ends a word and one starts another", "", "common practice"),
    Rule(
        "CMD-ENDING",
        words.endings_fit,
        "what the phone adds is not what the words want and a word is lost or a byte is taken for one; a word of several bytes without an ending; a word that holds its own terminator",
        "single bytes, and the phone adds bytes that no word is",
        "ISO/IEC 646",
    ),
    Rule(
        "CMD-CHAR-NUMBER",
        words.characters_are_characters,
        "the phone sends numbers where characters are listened for, or the reverse",
        "",
        "ISO/IEC 646",
    ),
    Rule("CMD-NO-STOP", words.there_is_a_way_to_dark, "", "no word puts out everything the words can light", "common practice"),
    Rule(
        "BUILT-DIFFERS",
        built.built_lines_stay,
        "",
        "a value of a built line was edited after it was built; the built value stays in force",
        "common practice",
    ),
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
