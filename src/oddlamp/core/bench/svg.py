"""The drawing as an SVG of its own, to be printed or taken along: no style, script or font from anywhere else."""

from collections.abc import Iterator
from html import escape
from typing import Final

from oddlamp.core.bench.drawing import Box, Drawing, NetThread, Text

INK: Final = "#261c3a"
PAPER: Final = "#ffffff"
# On paper: dark enough to be followed in grey too.
HUES: Final = {
    "red": "#b3123f", "black": INK, "orange": "#b85c12", "brown": "#6f4326", "pink": "#c9698f", "blue": "#2f5fc4", "yellow": "#a98200",
    "green": "#25763f", "violet": "#6f45a6", "white": "#9a94ab", "grey": "#6d677d", "turquoise": "#167f8f",
}  # fmt: skip
FONT: Final = "font-family='sans-serif' font-size='13'"


def as_svg(made: Drawing, title: str) -> str:
    """Write a drawing as SVG 1.1; every text in it is escaped."""
    size = f"width='{made.width:.0f}' height='{made.height:.0f}' viewBox='0 0 {made.width:.0f} {made.height:.0f}'"
    body = [line for thread in made.threads for line in _thread(thread)] + [line for box in made.boxes for line in _box(box)]
    head = f"<svg xmlns='http://www.w3.org/2000/svg' {size} role='img' aria-label='{_clean(title)}'>"
    return "\n".join([head, f"<title>{_clean(title)}</title>", *body, "</svg>"]) + "\n"


def _clean(text: str) -> str:
    """Escape a text, without what XML cannot hold."""
    return escape("".join(it for it in text if it.isprintable()), quote=True)


def _text(it: Text, more: str = "") -> str:
    return f"<text x='{it.x:.1f}' y='{it.y:.1f}' text-anchor='{it.anchor}' {FONT} fill='{INK}'{more}>{_clean(it.told)}</text>"


def _thread(it: NetThread) -> Iterator[str]:
    hue = HUES.get(it.colour, INK)
    for stroke in it.strokes:
        points = " ".join(f"{at.x:.1f},{at.y:.1f}" for at in stroke)
        yield f"<polyline points='{points}' fill='none' stroke='{hue}' stroke-width='{3 if it.kind != 'signal' else 2.2}' stroke-linejoin='round'/>"
    yield from (f"<circle cx='{at.x:.1f}' cy='{at.y:.1f}' r='3.4' fill='{hue}'/>" for at in it.dots)
    if it.label is not None:
        yield _text(it.label)


def _box(it: Box) -> Iterator[str]:
    if it.kind in SYMBOLS:
        yield from SYMBOLS[it.kind](it)
    else:
        yield f"<rect x='{it.x:.1f}' y='{it.y:.1f}' width='{it.w:.1f}' height='{it.h:.1f}' rx='10' fill='{PAPER}' stroke='{INK}' stroke-width='1.6'/>"
        for pin in it.pins:
            yield f"<circle cx='{pin.x:.1f}' cy='{pin.y:.1f}' r='3.6' fill='{PAPER}' stroke='{INK}' stroke-width='1.6'/>"
            yield _text(pin.told, " opacity='0.85'")
    yield _text(it.label, " font-weight='600'")


def _rect(it: Box) -> Iterator[str]:
    """A resistor, as IEC 60617 draws it; a fuse has its wire in it."""
    yield f"<rect x='{it.x:.1f}' y='{it.y:.1f}' width='{it.w:.1f}' height='{it.h:.1f}' fill='{PAPER}' stroke='{INK}' stroke-width='1.6'/>"
    if it.kind == "fuse":
        yield _line(it.x, it.y + it.h / 2, it.x + it.w, it.y + it.h / 2)


def _plates(it: Box) -> Iterator[str]:
    """A capacitor: two plates, its plus at the leg that was named first."""
    middle, y = it.x + it.w / 2, it.y + it.h / 2
    yield f"<rect x='{middle - 4:.1f}' y='{it.y - 2:.1f}' width='8' height='{it.h + 4:.1f}' fill='{PAPER}'/>"
    yield _line(it.x, y, middle - 4, y) + _line(middle + 4, y, it.x + it.w, y)
    yield _line(middle - 4, it.y - 2, middle - 4, it.y + it.h + 2, 2.4) + _line(
        middle + 4, it.y - 2, middle + 4, it.y + it.h + 2, 2.4
    )


def _triangle(it: Box) -> Iterator[str]:
    """A diode: it points from its anode to its cathode; a zener's bar has a hook."""
    first_is_anode = it.kind == "diode"
    points_right = first_is_anode != it.is_turned
    middle, y = it.x + it.w / 2, it.y + it.h / 2
    base, tip = (middle - 8, middle + 8) if points_right else (middle + 8, middle - 8)
    yield _line(it.x, y, it.x + it.w, y)
    yield f"<path d='M{base:.1f} {it.y:.1f}V{it.y + it.h:.1f}L{tip:.1f} {y:.1f}Z' fill='{PAPER}' stroke='{INK}' stroke-width='1.6'/>"
    hook = f"h{4 if points_right else -4}" if it.kind == "zener" else ""
    yield f"<path d='M{tip:.1f} {it.y + it.h:.1f}V{it.y:.1f}{hook}' fill='none' stroke='{INK}' stroke-width='2.4'/>"


def _line(ax: float, ay: float, bx: float, by: float, width: float = 1.6) -> str:
    return f"<path d='M{ax:.1f} {ay:.1f}L{bx:.1f} {by:.1f}' stroke='{INK}' stroke-width='{width}'/>"


SYMBOLS: Final = {"resistor": _rect, "fuse": _rect, "capacitor": _plates, "diode": _triangle, "zener": _triangle}
