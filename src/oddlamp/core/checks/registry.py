"""Every rule, in one place. A rule that is not in the tuple does not run."""

from collections.abc import Callable, Iterator
from typing import Final, NamedTuple

from oddlamp.core.checks import built, drivers, leds, levels, light, modules, pins, supplies, words
from oddlamp.core.design import Design
from oddlamp.core.findings import Breach, Finding, Move
from oddlamp.core.plan.built import rework_patch
from oddlamp.core.plan.model import Plan, Risk


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
        "drive, its source loaded, at or below the lowest forward voltage",
        "under 0.5 V left for the resistor, or a worst-case current spread over 3 : 1",
        "common practice, no source",
    ),
    Rule(
        "LED-UNDER",
        leds.led_gets_enough,
        "",
        "a settled resistor leaves under half of the wanted current, with 0.5 V or more of headroom",
        "common practice, no source",
    ),
    Rule(
        "LED-SHARED-R", leds.leds_have_their_own_resistors, "", "LEDs side by side on one resistor", "common practice, no source"
    ),
    Rule(
        "LED-POWER",
        leds.resistor_stays_cool,
        "the resistor dissipates more than its rating (1/4 W unless said)",
        "it dissipates more than half of its rating",
        "P = I^2 R; derating by 2, common practice",
    ),
    Rule(
        "LED-RGB-UNBALANCED",
        leds.colours_are_balanced,
        "",
        "shares of the wanted current differ by more than 1.2 : 1 between colours",
        "common practice, no source",
    ),
    Rule("LED-POLARITY", leds.common_leg_fits, "a common leg at ground with switches that pull to ground", "", "common practice"),
    Rule(
        "LED-GHOST",
        leds.off_lamps_are_dark,
        "",
        "over 20 uA by the diode curve through an off lamp whose rail stands above its pin",
        "diode equation; 20 uA, common practice",
    ),
    Rule("EYE-CAUTION", leds.eyes_are_warned, "", "infra-red or ultraviolet light", "common practice"),
    Rule(
        "DRV-NEEDED",
        drivers.load_has_its_driver,
        "a load on a pin takes more than the pin's recommended current, or needs more volts than it has",
        "",
        "limits of board and load part, from memory",
    ),
    Rule(
        "DRV-VOLTS",
        drivers.load_gets_its_volts,
        "a load's rail stands outside the volts it is made for, or over what its transistor blocks",
        "only the rail's worst case does",
        "load, pixel and transistor parts, from memory",
    ),
    Rule(
        "DRV-FLYBACK",
        drivers.coil_has_its_diode,
        "a relay coil without a diode over it",
        "a buzzer coil without one",
        "common practice",
    ),
    Rule(
        "DRV-BASE",
        drivers.base_gets_enough,
        "forced gain over 100, or more than the transistor carries",
        "forced gain over 20",
        "common practice; transistor part, from memory",
    ),
    Rule(
        "DRV-GATE-LEVEL",
        drivers.gate_gets_enough,
        "nominal gate volts under those the on-resistance is specified at, or more than the MOSFET carries",
        "only the worst case under them",
        "transistor part, from memory",
    ),
    Rule("DRV-GATE-PULLDOWN", drivers.gate_is_held, "", "no resistor from gate to ground", "common practice"),
    Rule(
        "DRV-PIEZO",
        drivers.disc_lets_go,
        "",
        "a piezo disc behind a transistor without a resistor across it, or one over half a period / 2.2 C",
        "RC edge; the disc's capacitance, from memory",
    ),
    Rule(
        "DRV-OPTO",
        drivers.opto_lets_go,
        "",
        "over 0.1 mA through an opto-input while it should be off, or under 1 mA while it should be on",
        "Ohm's law; load part, from memory",
    ),
    Rule(
        "MAINS-CAUTION",
        drivers.mains_is_warned,
        "",
        "a relay, whose contacts may switch mains",
        "local codes and licensed practice",
    ),
    Rule(
        "PORT-CURRENT",
        drivers.port_carries_together,
        "nominal sum over a port's pins past its limit, of lamps that can be on together",
        "only the worst case past it",
        "board part, from memory",
    ),
    Rule(
        "CHIP-CURRENT",
        drivers.chip_carries_together,
        "nominal sum over all pins past the chip's limit, of lamps that can be on together",
        "only the worst case past it",
        "board part, from memory",
    ),
    Rule(
        "PIN-CURRENT",
        drivers.pin_gives_enough,
        "nominal current of all LEDs on the pin, or of a level shift's resistors, over its absolute limit",
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
        "",
        "divider rule; V_IH of the part, from memory",
    ),
    Rule(
        "LVL-MARGIN",
        levels.level_has_margin,
        "",
        "only the worst-case high level under the highest V_IH",
        "divider rule; V_IH of the part, from memory",
    ),
    Rule(
        "LVL-LOW",
        levels.low_is_heard,
        "nominal low level over the receiver's V_IL",
        "only the worst-case low over the lowest V_IL",
        "Kirchhoff's law; V_IL of the part and the diode's drop, from memory",
    ),
    Rule(
        "LVL-SLOW",
        levels.edge_is_fast_enough,
        "rise time over a quarter of a bit, or over the edge that pixel data needs",
        "rise time over a tenth of a bit",
        "2.2 R C; a tenth of a bit, common practice",
    ),
    Rule(
        "LVL-DIRECT-RISK",
        levels.clamp_is_not_leant_on,
        "over 1 mA into the receiver's clamp diode at worst",
        "any current into it",
        "from memory",
    ),
    Rule(
        "PIX-DATA-LEVEL",
        levels.pixels_hear_their_data,
        "nominal data level under the threshold of pixels or matrix modules (0.7 of their own supply unless stated)",
        "only the worst case under it, on different supplies",
        "pixel part, from memory",
    ),
    Rule(
        "PIX-DATA-R",
        levels.pixel_line_has_its_resistor,
        "",
        "no 100 to 600 ohm in series with a pixel data line",
        "common practice",
    ),
    Rule(
        "PIX-ORDER",
        light.colour_order_is_tried,
        "",
        "a chain of pixels whose order of colours nobody has tried",
        "common practice",
    ),
    Rule(
        "PIX-RAM",
        light.pixels_fit_in_memory,
        "the colours of all pixels leave under 512 bytes of the board's memory",
        "they take more than half of it",
        "board and pixel parts, from memory",
    ),
    Rule(
        "LED-FLICKER",
        light.light_is_steady,
        "",
        "a dimmed lamp chopped under 80 Hz, or under 1 kHz where it is moved, or under 3 kHz where it is filmed",
        "common practice",
    ),
    Rule(
        "TONE-RANGE",
        light.tone_is_in_range,
        "a tone nobody can hear, under 20 Hz or over 20 kHz",
        "a tone outside the buzzer's range, or one for a buzzer that sounds by itself",
        "load part, from memory",
    ),
    Rule(
        "SUP-BACKFEED",
        levels.nothing_feeds_back,
        "",
        "a line between two supplies of their own lets over 1 mA into its receiver while the receiver's is off",
        "common practice",
    ),
    Rule("COIN-CAUTION", supplies.coin_cells_are_warned, "", "a coin cell", "common practice"),
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
            told = {**dict(breach), "fixes": tuple(_reworked(design.plan, fix) for fix in breach.fixes)}
            found.append(Finding(code=rule.code, key=key, accepted=reason, **told))
    return tuple(sorted(found, key=lambda it: (it.accepted is not None, it.severity != "stop")))


def _reworked(plan: Plan, fix: Move) -> Move:
    """What is soldered does not move by an edit: a way out that moves it says so, and has it rebuilt."""
    patch = rework_patch(plan, fix.patch)
    return fix if patch is None else Move(label=f"{fix.label}, and rebuild it", patch=patch)


def _is_no_worse(breach: Breach, risk: Risk) -> bool:
    """An acceptance holds while none of its numbers got worse; bigger is worse."""
    return all(now <= risk.numbers.get(name, now) + WORSE_SLACK * abs(now) for name, now in breach.numbers.items())
