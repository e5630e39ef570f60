"""What a lamp can be told, by its kind and by how its pixels stand."""

from oddlamp.core.layouts.signs import Face, chain_face, matrix_face
from oddlamp.core.plan.lights import COLOUR_KINDS, PIXEL_KINDS, SWITCHED_KINDS, Lamp, MatrixLamp, PixelLamp, sends_codes


def face_of(lamp: Lamp) -> Face | None:
    """Return what a lamp writes signs on; None where it shows none."""
    if isinstance(lamp, MatrixLamp):
        return matrix_face(lamp.count or 1, lamp.panel)
    return chain_face(lamp.layout) if isinstance(lamp, PixelLamp) else None


def why_not(lamp: Lamp, verb: str, *, of_pixels: bool = False) -> str | None:
    """Say why a lamp can do nothing with what a rule tells it, or some of its pixels; None where it can."""
    if of_pixels and lamp.kind not in PIXEL_KINDS:
        return "it has no pixels"
    if verb == "send" and not sends_codes(lamp):
        return "it sends no codes"
    if verb == "tone" and lamp.kind != "buzzer":
        return "it makes no sound"
    if verb == "pattern" and lamp.kind not in PIXEL_KINDS:
        return "it has no pixels"
    if verb in ("text", "score", "show") and face_of(lamp) is None:
        return "its pixels stand in no rows for signs" if lamp.kind in PIXEL_KINDS else "it shows no signs"
    if verb == "colour" and lamp.kind not in COLOUR_KINDS:
        return "it has one colour"
    return "it is only on or off" if verb in ("brighter", "dimmer", "add", "random") and lamp.kind in SWITCHED_KINDS else None
