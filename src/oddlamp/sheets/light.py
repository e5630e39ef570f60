"""Panels on how light and sound come out: the ladder of steps, the tone of a buzzer, the order of a pixel's colours."""

import math
from functools import lru_cache

from oddlamp.core.behaviour.arithmetic import seen_light
from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import DimmingDesign, LampDesign, ToneDesign
from oddlamp.core.english import inner, plural
from oddlamp.core.plan.document import at_path
from oddlamp.core.resolve.dimming import EVEN_IN, HALF_IS, WATCHED
from oddlamp.sheets.charts import Axis, Band, ChartPicture, Stroke
from oddlamp.sheets.entry import entry
from oddlamp.sheets.line import GLOW
from oddlamp.sheets.models import Choice, Entry, Option, Panel

FULL = 255
NUMBERED_MOST = 12
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


@lru_cache(maxsize=64)  # most lamps have the same steps
def _stairs(title: str, duties: tuple[int, ...], glow: str, *, is_used: bool) -> ChartPicture:
    """Draw brightness steps as stairs of what the eye sees, with the duty out of 255 under each."""
    every = math.ceil(len(duties) / NUMBERED_MOST)
    return ChartPicture(
        title=f"{title}, used" if is_used else title,
        text=f"{title}: {', '.join(map(str, duties))} of 255",
        size="small",
        x=Axis(most=float(len(duties))),
        y=Axis(most=1.0),
        bands=tuple(
            Band(
                glow=glow,
                from_x=at + 0.05,
                to_x=at + 0.95,
                from_y=0.0,
                to_y=max(seen_light(duty / FULL), 0.02),
                label=str(duty) if (len(duties) - 1 - at) % every == 0 else "",
            )
            for at, duty in enumerate(duties)
        ),
        strokes=(Stroke(points=((0.0, 0.0), (float(len(duties)), 1.0)), tone="soft", weight=1, is_dashed=True),),
        has_axis=False,
    )


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
    half = tuple(
        Option(label=label, detail=detail, patch=at_path((*path, "ladder", "half_is"), key), is_chosen=dimming.half_is.id == key)
        for (key, label), detail in zip(
            HALF_IS.items(), ("128 of 255, three quarters to the eye", "47 of 255, colours mix darker"), strict=True
        )
    )
    mine = [signal.pin for signal in design.lamp_signals(lamp) if signal.pin and signal.pin.label]
    part = design.nodes[lamp.host].part
    dull = [pin.label or "" for pin in mine if part and (it := part.pin(pin.label or "")) and "pwm" not in it.can]
    note = f"{plural(count, 'step')} {inner(dimming.even_in.label)}"
    note += f"; pin {', '.join(dull)} has no PWM: on and off only, until a word dims it" if dull and not lamp.load else ""
    ladder = dimming.by_eye if dimming.even_in.id == "eye" else dimming.by_duty
    if (same := len(ladder) - len(set(ladder))) > 0:
        note += f"; {same} of them look like the one before, with duties of 0 to 255"
    glow = lamp.channels[0].led.glow if len(lamp.channels) == 1 else GLOW
    is_settled = "own" in (dimming.steps.origin, dimming.even_in.origin, dimming.half_is.origin, dimming.watched.origin)
    return Panel(
        title="In steps",
        note=note,
        choices=(
            Choice(label="Steps are", origin=dimming.even_in.origin, because=dimming.even_in.why, options=even),
            Choice(label="A brightness of one half is", origin=dimming.half_is.origin, because=dimming.half_is.why, options=half),
            Choice(label="Watched", origin=dimming.watched.origin, because=dimming.watched.why, options=watched),
        ),
        entries=(steps,),
        facts=(dimming.frequency,) if dimming.frequency is not None else (),
        is_folded=not is_settled and lamp.id not in design.dimmed,
        pictures=(
            _stairs("Even to the eye", dimming.by_eye, glow, is_used=dimming.even_in.id == "eye"),
            _stairs("Even in duty", dimming.by_duty, glow, is_used=dimming.even_in.id == "duty"),
        ),
    )


def _tone(lamp: LampDesign, tone: ToneDesign) -> Panel:
    if tone.makes_own:
        return Panel(title="Tone", note="it sounds by itself: its pin only lets it")
    return Panel(title="Tone", note=tone.note, entries=(entry(tone.frequency),), facts=(tone.half_period,))


def _order(design: Design, lamp: LampDesign) -> Panel:
    """Offer the order the colours are sent in, and what the red, green and blue test at the bench showed."""
    plan, path = design.plan.lamps[lamp.id], ("lamps", lamp.id)
    own, seen = getattr(plan, "colour_order", None), getattr(plan, "order_seen", None)
    usual = lamp.load.pixel.colour_order if lamp.load and lamp.load.pixel else ORDERS[0]
    sent = tuple(
        Option(
            label=_named(order),
            detail="usual for this pixel" if order == usual else "",
            patch=at_path((*path, "colour_order"), order),
            is_chosen=order == (own or usual),
        )
        for order in ORDERS
    )
    shown = (
        Option(
            label="Not tried yet",
            detail="a step at the bench",
            patch=at_path((*path, "order_seen"), None),
            is_chosen=seen is None,
        ),
        *(Option(label=_named(order), patch=at_path((*path, "order_seen"), order), is_chosen=order == seen) for order in ORDERS),
    )
    why = "light the first pixel red, then green, then blue: makers change the order, and a wrong one is the commonest cause of wrong colours"
    return Panel(
        title="",
        choices=(
            Choice(
                label="Order its colours are sent in",
                origin="own" if own else "part",
                because=None if own else "usual for this pixel",
                options=sent,
            ),
            Choice(label="Order a test showed", origin="own" if seen else "part", because=None if seen else why, options=shown),
        ),
    )


def _named(order: str) -> str:
    return order.replace("-", ", ").capitalize()
