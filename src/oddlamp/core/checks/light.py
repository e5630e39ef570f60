"""Rules for how light and sound come out: flicker, tones, the order of colours, and memory for pixels."""

from collections.abc import Iterator

from oddlamp.core.base import Working, inner, plural, si
from oddlamp.core.design import Design, LampDesign
from oddlamp.core.findings import Breach, Move, Severity
from oddlamp.core.parts.models import BoardPart
from oddlamp.core.plan.document import at_path

# All from common practice: what the eye and a camera tell, what people hear, and what a small program keeps for itself.
STEADY_HZ = {"still": 80.0, "moving": 1000.0, "filmed": 3000.0}
SEEN_AS = {"still": "looks steady", "moving": "leaves no trails when moved", "filmed": "shows no bands on film"}
HEARD_HZ = (20.0, 20_000.0)
RAM_KEPT_BYTES = 512
RAM_LOOK_RATIO = 0.5


def dimmed_lamps(design: Design) -> set[str]:
    """Return the lamps that are dimmed: pixels by themselves, other lamps where a line of theirs needs PWM."""
    return {pin.signal_id.partition(".")[0] for pin in design.pins.values() if "pwm" in pin.needs} | {
        lamp.id for lamp in design.lamps.values() if lamp.kind.startswith("pixels")
    }


def light_is_steady(design: Design) -> Iterator[Breach]:
    """A dimmed lamp is chopped faster than whoever watches it can tell."""
    dimmed = dimmed_lamps(design)
    for lamp in design.lamps.values():
        dimming = lamp.dimming
        if dimming is None or dimming.frequency.value is None or lamp.id not in dimmed:
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


def colour_order_is_tried(design: Design) -> Iterator[Breach]:
    """The order of a pixel's colours was seen in a test: makers change it, and it is the commonest cause of wrong colours."""
    for lamp in design.lamps.values():
        pixel = lamp.load.pixel if lamp.load else None
        plan = design.plan.lamps[lamp.id]
        if pixel is None or getattr(plan, "colour_order", None) is not None or not lamp.load or not lamp.load.pixels:
            continue
        order = pixel.colour_order.replace("-", ", ")
        yield Breach(
            severity="look",
            where=lamp.id,
            stage=lamp.stage,
            message=f"Nobody has seen the order of {lamp.label}'s colours yet: light the first pixel red, then green, then blue, and compare.",
            working=(
                Working(
                    formula="wrong colours are most often a wrong order",
                    substituted=f"usual for a {inner(pixel.label)}: {order}",
                    source="common-practice",
                ),
            ),
            fixes=(
                Move(
                    label=f"Red, green and blue came as sent: keep {order}",
                    patch=at_path(("lamps", lamp.id, "colour_order"), pixel.colour_order),
                ),
            ),
            numbers={"untried": 1},
        )


def pixels_fit_in_memory(design: Design) -> Iterator[Breach]:
    """The colours of all pixels of a board fit in its memory, with room for the rest of the program."""
    for node in design.nodes.values():
        if not isinstance(node.part, BoardPart):
            continue
        mine = [lamp for lamp in design.lamps.values() if lamp.host == node.id and lamp.load and lamp.load.pixel]
        needs = sum(lamp.load.pixels * lamp.load.pixel.bytes_each for lamp in mine if lamp.load and lamp.load.pixel)
        has, room = node.part.ram_bytes, node.part.ram_bytes - RAM_KEPT_BYTES
        if not mine or needs <= RAM_LOOK_RATIO * has:
            continue
        is_over = needs > room
        put_in = " + ".join(
            f"{lamp.load.pixels} · {lamp.load.pixel.bytes_each}" for lamp in mine if lamp.load and lamp.load.pixel
        )
        yield Breach(
            severity="stop" if is_over else "look",
            where=f"{node.id}.memory",
            stage=node.stage,
            message=f"The colours of {plural(sum(it.load.pixels for it in mine if it.load), 'pixel')} take {needs} bytes; the {inner(node.label)} has {has} for everything.",
            working=(
                Working(
                    formula=f"n · bytes each ≤ memory − {RAM_KEPT_BYTES} for the rest",
                    substituted=f"{put_in} = {needs} of {has} bytes",
                    source="common-practice",
                ),
            ),
            fixes=tuple(_fewer(mine, int(RAM_LOOK_RATIO * has))),
            numbers={"bytes": needs},
        )


def _fewer(lamps: list[LampDesign], room_bytes: int) -> Iterator[Move]:
    """Offer to shorten the longest chain to what half the memory holds."""
    longest = max(lamps, key=lambda it: it.load.pixels if it.load else 0)
    if longest.load is None or longest.load.pixel is None:
        return
    others = sum(it.load.pixels * it.load.pixel.bytes_each for it in lamps if it is not longest and it.load and it.load.pixel)
    count = (room_bytes - others) // longest.load.pixel.bytes_each
    if count > 0:
        patch = at_path(("lamps", longest.id, "layout"), {"runs": [{"count": count}]})
        yield Move(label=f"Shorten {longest.label} to {plural(count, 'pixel')}", patch=patch)
