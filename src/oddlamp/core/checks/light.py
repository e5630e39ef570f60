"""Rules for how light and sound come out: flicker and tones."""

from collections.abc import Iterator
from typing import Final

from oddlamp.core.base import Working, si
from oddlamp.core.checks.findings import Breach, Move, Rule
from oddlamp.core.design.design import Design
from oddlamp.core.design.passages import Severity
from oddlamp.core.plan.document import at_path

# All from common practice: what the eye and a camera tell, and what people hear.
STEADY_HZ = {"still": 80.0, "moving": 1000.0, "filmed": 3000.0}
SEEN_AS = {"still": "looks steady", "moving": "leaves no trails when moved", "filmed": "shows no bands on film"}
HEARD_HZ = (20.0, 20_000.0)


def light_is_steady(design: Design) -> Iterator[Breach]:
    """A dimmed lamp is chopped faster than whoever watches it can tell."""
    for lamp in design.lamps.values():
        dimming = lamp.dimming
        if dimming is None or dimming.frequency is None or lamp.id not in design.dimmed:
            continue
        kind, now = dimming.watched.id, dimming.frequency
        wanted_hz = STEADY_HZ[kind]
        if now.low >= wanted_hz:
            continue
        put_in = f"{now.text} against {si(wanted_hz, 'Hz')}, from where it {SEEN_AS[kind]}"
        yield Breach(
            severity="look",
            where=lamp.id,
            stage=lamp.stage,
            message=f"{lamp.label} is dimmed by switching {now.text}; it {SEEN_AS[kind]} only from about {si(wanted_hz, 'Hz')}.",
            working=(Working(formula="f_PWM ≥ what is watched for", substituted=put_in, source="common-practice"),),
            fixes=(Move(label="It is watched by eye, standing still", patch=at_path(("lamps", lamp.id, "watched"), "still")),),
            numbers={"missing_hz": wanted_hz - now.low},
        )


def tone_is_in_range(design: Design) -> Iterator[Breach]:
    """A buzzer can make the tone it is given, and somebody can hear it."""
    for lamp in design.lamps.values():
        tone = lamp.load.tone if lamp.load else None
        if tone is None:
            continue
        path, hz = ("lamps", lamp.id, "tone_hz"), tone.frequency.known
        severity: Severity = "look"
        fixes: tuple[Move, ...]
        if tone.makes_own:
            if tone.frequency.origin != "own":
                continue
            message = f"{lamp.label} sounds by itself: a tone on its pin only chops its own."
            put_in = f"{tone.frequency.text} wanted of a buzzer with its own oscillator"
            fixes = (
                Move(
                    label="Take a disc that sounds at its pin",
                    patch=at_path(("lamps", lamp.id, "choice"), {"part": design.catalog.proposals["buzzer"].part}),
                ),
                Move(label="Let it sound by itself", patch=at_path(path, None)),
            )
        else:
            low_hz, high_hz = max(tone.least_hz or 0.0, HEARD_HZ[0]), min(tone.most_hz or HEARD_HZ[1], HEARD_HZ[1])
            if low_hz <= hz <= high_hz:
                continue
            severity = "look" if HEARD_HZ[0] <= hz <= HEARD_HZ[1] else "stop"
            heard = f"sounds from {si(low_hz, 'Hz')} to {si(high_hz, 'Hz')}" if severity == "look" else "cannot be heard there"
            message = f"{lamp.label} is to sound at {tone.frequency.text} and {heard}."
            put_in = f"{si(low_hz, 'Hz')} ≤ {tone.frequency.text} ≤ {si(high_hz, 'Hz')} does not hold"
            near = low_hz if hz < low_hz else high_hz
            fixes = (Move(label=f"Sound at {si(near, 'Hz')}", patch=at_path(path, near)),)
        yield Breach(
            severity=severity,
            where=f"{lamp.id}.main",
            stage=lamp.stage,
            message=message,
            working=(
                Working(
                    formula="the part's range, within 20 Hz to 20 kHz that people hear", substituted=put_in, source="from-memory"
                ),
            ),
            fixes=fixes,
            numbers={"tones": 1},
        )


RULES: Final = (
    Rule(
        "LED-FLICKER",
        "lamp",
        light_is_steady,
        "",
        "a dimmed lamp chopped under 80 Hz, or under 1 kHz where it is moved, or under 3 kHz where it is filmed",
        "common practice",
    ),
    Rule(
        "TONE-RANGE",
        "lamp",
        tone_is_in_range,
        "a tone nobody can hear, under 20 Hz or over 20 kHz",
        "a tone outside the buzzer's range, or one for a buzzer that sounds by itself",
        "load part, from memory",
    ),
)
