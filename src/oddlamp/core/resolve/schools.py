"""Schools of level shift, one table: what each is called, how it works, where it is offered, whose volts its highs are."""

from typing import Final, Literal, NamedTuple

from oddlamp.core.design.lines import LevelDesign

# Where a school is offered: wires down to or along a lower supply, up to a higher one, a bus that both ends pull low, pixels,
# matrix modules, inputs.
Place = Literal["wire", "up", "bus", "pixels", "matrix", "input"]


class SchoolOfShift(NamedTuple):
    """One way to bring a level across.

    ``high_of`` says whose volts a high has: the sender's, the receiver's own, or something between.
    """

    label: str
    built: str
    how: str
    high_of: Literal["sender", "receiver", "between"]
    offered: tuple[Place, ...]


SCHOOLS: Final[dict[str, SchoolOfShift]] = {
    "direct": SchoolOfShift(
        "Straight wire",
        "a straight wire",
        "A straight wire carries it across.",
        "sender",
        ("wire", "up", "bus", "pixels", "matrix", "input"),
    ),
    "divider": SchoolOfShift("Two resistors", "two resistors", "Two resistors bring it down.", "between", ("wire", "input")),
    "zener": SchoolOfShift(
        "Resistor and zener", "a resistor and a zener", "A resistor and a zener hold it, softly.", "between", ("wire",)
    ),
    "clamp": SchoolOfShift(
        "Resistor only", "a resistor alone", "A resistor only: the receiver's own clamp diode holds it.", "between", ("wire",)
    ),
    "gate": SchoolOfShift(
        "Gate or shifter board",
        "a gate",
        "A gate drives it to the receiver's own supply.",
        "receiver",
        ("wire", "up", "pixels", "matrix"),
    ),
    "mosfet": SchoolOfShift(
        "One MOSFET, two pull-ups",
        "a MOSFET with two pull-ups",
        "One MOSFET passes lows, pull-ups make the highs.",
        "receiver",
        ("wire", "up", "bus", "pixels", "matrix"),
    ),
    "diode": SchoolOfShift(
        "Diode and pull-up", "a diode and a pull-up", "A diode passes lows, a pull-up makes the highs.", "receiver", ("up",)
    ),
    "diode-fed": SchoolOfShift(
        "First pixel behind a diode",
        "a first pixel behind a diode",
        "The first pixel is fed through a diode, so that it hears less, and passes full levels on.",
        "sender",
        ("pixels",),
    ),
}
OMITTED: Final = "omitted"
LEFT_OUT: Final = "Left out"


def place_of(level: LevelDesign, lamp_kind: str | None) -> Place:
    """Say which schools can carry a line: by what hangs on it, and whether it goes up."""
    if level.is_bits:
        return "matrix" if lamp_kind == "matrix" else "pixels"
    if level.line.kind in ("input", "bus"):
        return "input" if level.line.kind == "input" else "bus"
    goes_up = level.sent.value is not None and level.limit.value is not None and level.sent.value + 1 < level.limit.value
    return "up" if goes_up else "wire"


def offered_at(place: Place) -> tuple[str, ...]:
    """Return the schools that are offered at a place, in the table's order."""
    return tuple(name for name, school in SCHOOLS.items() if place in school.offered)
