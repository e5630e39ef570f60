"""Panels on how light and sound come out: the ladder of steps, the tone of a buzzer, the order of a pixel's colours."""

from oddlamp.core.base import inner, plural
from oddlamp.core.behaviour.lights import seen_light
from oddlamp.core.checks.light import dimmed_lamps
from oddlamp.core.design import Design, DimmingDesign, LampDesign, ToneDesign
from oddlamp.core.electrical.dimming import EVEN_IN, WATCHED
from oddlamp.core.line import GLOW
from oddlamp.core.plan.document import at_path
from oddlamp.core.sheets.entry import entry
from oddlamp.core.sheets.models import Choice, Entry, LadderPicture, Option, Panel, Rung

FULL = 255
STEPS_MOST = 64
ORDERS = ("red-green-blue", "red-blue-green", "green-red-blue", "green-blue-red", "blue-red-green", "blue-green-red")


def light_panels(design: Design, lamp: LampDesign) -> tuple[Panel, ...]:
    """Build the panels that a lamp has of these."""
    panels = []
    if lamp.load is not None and lamp.load.pixel is not None:
        panels.append(_order(design, lamp))
    if lamp.load is not None and lamp.load.tone is not None:
        panels.append(_tone(lamp, lamp.load.tone))
    if lamp.dimming is not None and lamp.open_because is None:
        panels.append(_steps(design, lamp, lamp.dimming))
    return tuple(panels)


def _rungs(duties: tuple[int, ...]) -> tuple[Rung, ...]:
    return tuple(Rung(duty=duty, seen_ratio=seen_light(duty / FULL)) for duty in duties)


def _steps(design: Design, lamp: LampDesign, dimming: DimmingDesign) -> Panel:
    path = ("lamps", lamp.id)
    count = int(dimming.steps.known)
    steps = Entry(
        label="Steps",
        text=str(count),
        path=(*path, "ladder", "steps"),
        origin=dimming.steps.origin,
        because=dimming.steps.because,
        settles=count if dimming.steps.origin == "proposed" else None,
        lower=count - 1 if count > 2 else None,
        higher=count + 1 if count < STEPS_MOST else None,
    )
    even = tuple(
        Option(label=label, detail=detail, patch=at_path((*path, "ladder", "even_in"), key), is_chosen=dimming.even_in.id == key)
        for (key, label), detail in zip(EVEN_IN.items(), ("each step looks alike", "the light is linear"), strict=True)
    )
    watched = tuple(
        Option(label=label, detail=detail, patch=at_path((*path, "watched"), key), is_chosen=dimming.watched.id == key)
        for (key, label), detail in zip(WATCHED.items(), ("from 80 Hz", "from 1 kHz", "from 3 kHz"), strict=True)
    )
    mine = [pin for pin in design.pins.values() if pin.signal_id.partition(".")[0] == lamp.id and pin.label]
    part = design.nodes[lamp.host].part
    dull = [pin.label or "" for pin in mine if part and (it := part.pin(pin.label or "")) and "pwm" not in it.can]
    note = f"{plural(count, 'step')} {inner(dimming.even_in.label)}"
    note += f"; pin {', '.join(dull)} has no PWM: on and off only, until a word dims it" if dull and not lamp.load else ""
    is_settled = "own" in (dimming.steps.origin, dimming.even_in.origin, dimming.watched.origin)
    return Panel(
        title="In steps",
        note=note,
        choices=(
            Choice(label="Steps are", origin=dimming.even_in.origin, because=dimming.even_in.why, options=even),
            Choice(label="Watched", origin=dimming.watched.origin, because=dimming.watched.why, options=watched),
        ),
        entries=(steps,),
        facts=(dimming.frequency,) if dimming.frequency.value is not None else (),
        is_folded=not is_settled and lamp.id not in dimmed_lamps(design),
        ladder=LadderPicture(
            text=f"{plural(count, 'step')} even to the eye: {', '.join(map(str, dimming.by_eye))}; even in duty: {', '.join(map(str, dimming.by_duty))}; of 255",
            glow=lamp.channels[0].led.glow if len(lamp.channels) == 1 else GLOW,
            by_eye=_rungs(dimming.by_eye),
            by_duty=_rungs(dimming.by_duty),
            used="eye" if dimming.even_in.id == "eye" else "duty",
        ),
    )


def _tone(lamp: LampDesign, tone: ToneDesign) -> Panel:
    if tone.makes_own:
        return Panel(title="Tone", note="it sounds by itself: its pin only lets it")
    return Panel(
        title="Tone", note=tone.note, entries=(entry(tone.frequency, "lamps", lamp.id, "tone_hz"),), facts=(tone.half_period,)
    )


def _order(design: Design, lamp: LampDesign) -> Panel:
    own = getattr(design.plan.lamps[lamp.id], "colour_order", None)
    usual = lamp.load.pixel.colour_order if lamp.load and lamp.load.pixel else ORDERS[0]
    options = tuple(
        Option(
            label=order.replace("-", ", ").capitalize(),
            detail="usual for this pixel" if order == usual else "",
            patch=at_path(("lamps", lamp.id, "colour_order"), order),
            is_chosen=order == (own or usual),
        )
        for order in ORDERS
    )
    because = None if own else "usual for this pixel, and not tried yet"
    # Only a test settles it: keeping all proposals must not say that one was made.
    choice = Choice(label="Order of its colours", origin="own" if own else "part", because=because, options=options)
    return Panel(title="", choices=(choice,))
