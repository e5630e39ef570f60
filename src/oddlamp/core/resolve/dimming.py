"""How a lamp is dimmed: the ladder of its steps, and how fast its light is chopped."""

from oddlamp.core.design.lamps import DimmingDesign
from oddlamp.core.design.supplies import NodeDesign, Picked
from oddlamp.core.design.values import Origin, SlotMaker
from oddlamp.core.electrical.designers import step_ladder
from oddlamp.core.parts.models import BoardPart, Catalog, PixelPart
from oddlamp.core.plan.lights import Lamp

WATCHED = {"still": "By eye, standing still", "moving": "Moved about", "filmed": "Filmed"}
EVEN_IN = {"eye": "Even to the eye", "duty": "Even in duty"}


def resolve_dimming(
    slot: SlotMaker, catalog: Catalog, lamp: Lamp, host: NodeDesign, pixel: PixelPart | None
) -> DimmingDesign | None:
    """Work out a lamp's ladder and the frequency it is dimmed at; None for what is only on or off."""
    if lamp.kind in ("relay", "buzzer", "matrix"):
        return None
    ladder, proposed = getattr(lamp, "ladder", None), catalog.proposals["ladder"]
    own_steps = ladder.steps if ladder else None
    origin: Origin = "proposed" if own_steps is None else "own"
    count = own_steps or int(proposed.value or 9)
    why = proposed.why if own_steps is None else None
    steps = slot("ladder_steps", "Steps", "", ("ladder", "steps")).filled(count, origin=origin, because=why)
    even = ladder.even_in if ladder else None
    even_in = (
        Picked(even, EVEN_IN[even], "own")
        if even
        else Picked("eye", EVEN_IN["eye"], "proposed", "steps of equal duty look crowded at the bright end")
    )
    watched = getattr(lamp, "watched", None)
    watch = (
        Picked(watched, WATCHED[watched], "own")
        if watched
        else Picked("still", WATCHED["still"], "proposed", "most lamps stand where they are")
    )
    frequency = slot("pwm_frequency_hz", "PWM frequency", "Hz")
    figure = pixel.pwm_frequency_hz if pixel else host.part.pwm_frequency_hz if isinstance(host.part, BoardPart) else None
    return DimmingDesign(
        steps=steps,
        even_in=even_in,
        by_duty=step_ladder(count, is_even_to_the_eye=False),
        by_eye=step_ladder(count, is_even_to_the_eye=True),
        frequency=frequency.stated(figure) if figure else None,
        watched=watch,
    )
