"""The dots of a chain or a display as a short text, for the screen to draw."""

from collections.abc import Sequence

DRAWN_MOST = 1200
LISTED_MOST = 16


def as_text(colours: Sequence[str]) -> str:
    """Write the colours of dots, each rrggbb: how many bits tell each, the colours, and the bits in hex; see `LampLook.pixels`."""
    colours = colours[:DRAWN_MOST]
    listed = list(dict.fromkeys(colours))
    if len(listed) > LISTED_MOST:
        return "12::" + "".join(it[::2] for it in colours)
    bits = 1 if len(listed) <= 2 else 2 if len(listed) <= 4 else 4
    each, place = 4 // bits, {it: at for at, it in enumerate(listed)}
    digits = "".join(
        f"{sum(place[it] << (4 - bits * (at + 1)) for at, it in enumerate(colours[begun : begun + each])):x}"
        for begun in range(0, len(colours), each)
    )
    return f"{bits}:{''.join(listed)}:{digits}"
