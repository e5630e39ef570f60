"""What an off value usually is where no circuit of a line is behind it: grounds, shorts, rails, converters, currents, chains, clocks.

Common practice, no source; the likeliest first.
"""

from typing import Final

from oddlamp.core.bench.step import Step

NOTHING_V: Final = 0.3
LOW: Final = {
    "short": (
        "plus and ground are bridged: take parts off one by one until it climbs",
        "a capacitor or a diode is the wrong way round",
        "a capacitor is still filling: wait until the meter stands",
    ),
    "rail": (
        "more hangs on it than its source gives: take lamps off until it comes back",
        "its lead or a contact keeps the rest: measure at the source itself",
        "it is another source than the plan has, or its cells are flat",
    ),
    "set": (
        "its trimmer is not there yet: turn it, many turns, and look again",
        "too little comes in: measure at its input",
        "something hangs on it already: nothing may, until it is set",
    ),
    "load": (
        "its source gives less than it says: the plan has a larger one",
        "its lead or a contact keeps the rest: measure at the source itself",
        "more is lit than the plan has",
    ),
    "clock": ("the clock is fast: take it into the plan, and every serial speed is judged by it",),
}
HIGH: Final = {
    "ground": (
        "a ground wire is off: the pin that shows most is the one",
        "a joint or a contact is bad: press on it and look again",
        "the probes resist: hold them together, and take off what they show",
    ),
    "rail": (
        "it is another source than the plan has, or one set higher",
        "nothing hangs on it yet: a source without regulation stands higher",
        "another supply is in as well, such as a USB plug",
    ),
    "set": (
        "its trimmer is not there yet: turn it, many turns, and look again",
        "the trimmer is at its end, or open: leave off all that hangs on it",
    ),
    "amps": (
        "a lamp takes more than its part says: take them off one by one",
        "something is nearly bridged: feel what gets warm, power off first",
        "more is lit than the plan has",
    ),
    "load": ("it is another source than the plan has, or one set higher",),
    "lost": (
        "a joint along it resists: measure halfway too, the half that loses more has it",
        "its rails are thinner than told: take what was measured into the plan",
        "more of it is lit than white at its cap",
    ),
    "clock": ("the clock is slow: take it into the plan, and every serial speed is judged by it",),
}
ANY: Final = {
    "ohms": (
        "it is another one than told: read its bands again",
        "it was measured in its place: what hangs beside it counts too",
    ),
    "joined": ("a joint or a contact on the way resists: press on it and look again", "the probes are at other pins than told"),
    "fed": ("a contact on its way resists, or its rail is not what it was: measure that again", "it is fed from another rail"),
}
NONE_ALONE: Final = (
    "no one usual fault shows just that: go back over the steps before, two things may be wrong at once",
    "the probes are not where they should be, or the meter is on another range",
)
GONE: Final = (
    "its source is off, or its fuse is out",
    "a wire of plus or ground is off",
    "the probes are not where they should be",
)
TURNED: Final = ("the plug or the probes are the other way round: power off before anything else",)


def usual(step: Step, value: float) -> tuple[str, ...]:
    """Say what an off value of a step usually is, the likeliest first, where no single fault of a circuit tells it."""
    kind = step.id.partition(".")[0]
    if kind in ("rail", "set", "load") and value < NOTHING_V:
        return TURNED if value < -NOTHING_V else GONE
    least = step.least if step.least is not None else -float("inf")
    return (LOW if value < least else HIGH).get(kind) or ANY.get(kind, NONE_ALONE)
