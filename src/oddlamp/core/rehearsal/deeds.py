"""Ways over the hops of a talk."""

from oddlamp.core.design.lines import Way
from oddlamp.core.design.talks import Hop


def way_of(hop: Hop, goes_out: bool) -> Way:
    """Return the direction of a link that a message takes over a hop."""
    if goes_out:
        return hop.way
    return "b_to_a" if hop.way == "a_to_b" else "a_to_b"
