"""How each thing a rule does is said: one form for printing and for reading it.

The first form of a verb that fits is printed, all are read. A form is a row of words and places; a place in braces names what stands there and how it is written. What belongs to a verb and
is in none of its forms says nothing, and is not printed.
"""

import re
from collections.abc import Mapping
from functools import cache
from typing import Any, Final, NamedTuple

Values = Mapping[str, Any]
OVER: Final = (" over {over_s:time}",)
ENDS: Final = (" going round{ends=round}", " stopping at the end{ends=stay}")


class Form(NamedTuple):
    """One way to say a verb: what it always says, and what it may add in this order."""

    head: str
    clauses: tuple[str, ...] = ()
    is_offered: bool = True  # one that is read only is not told as what could stand next


class Place(NamedTuple):
    """A value in a form: its name in the action's values, and how it is written."""

    field: str
    kind: str


class Fixed(NamedTuple):
    """A value that certain words stand for."""

    field: str
    value: Any


Part = str | Place | Fixed


@cache
def parts_of(form: str) -> tuple[Part, ...]:
    """Take a form apart: words, places, and values that the words before them stand for."""
    found, at = list[Part](), 0
    for match in re.finditer(r"\{(\w+)(?:(=|:)(-?\w+))?\}", form):
        if match.start() > at:
            found.append(form[at : match.start()])
        name, how, what = match.groups()
        found.append(Fixed(name, {"true": True, "false": False}.get(what, what)) if how == "=" else Place(name, what or name))
        at = match.end()
    return (*found, form[at:]) if at < len(form) else tuple(found)


FORMS: Final[Mapping[str, tuple[Form, ...]]] = {
    "on": (Form("{target} on", OVER),),
    "off": (Form("{target} off", OVER),),
    "toggle": (Form("{target} toggles", OVER), Form("{target} toggle", OVER, is_offered=False)),
    "hold": (Form("{target} on while it is held"),),
    "level": (Form("{target} as bright {level:told}", OVER), Form("{target} to {level:share}", OVER)),
    "colour": (
        Form("its own pixel of {target}{first=input} in {shade}", OVER),
        Form("pixels {first:whole} to {last:whole} of {target} in {shade}", OVER),
        Form("pixel {first:whole} of {target} in {shade}", OVER),
        Form("{target} in {shade}", OVER),
    ),
    "brighter": (Form("{target} one step brighter", (*ENDS, *OVER)), Form("{target} brighter", (*ENDS, *OVER), is_offered=False)),
    "dimmer": (Form("{target} one step darker", (*ENDS, *OVER)), Form("{target} dimmer", (*ENDS, *OVER), is_offered=False)),
    "add": (Form("{target} {more:share} brighter", (*ENDS, *OVER)), Form("{target} {less:share} darker", (*ENDS, *OVER))),
    "random": (Form("{target} as bright as chance has it", (" from {least:share}", " up to {most:share}", *OVER)),),
    "blink": (Form("{target} blinks", (" lit for {on_s:time}", " dark for {off_s:time}", " {times:whole} times")),),
    "pulse": (Form("{target} pulses", (" for {for_s:time}", " at {level:given}")),),
    "cue": (Form("plays {cue}"), Form("starts {cue}", is_offered=False)),
    "next": (Form("next of {cue}"),),
    "stop": (Form("stops everything"), Form("stops {cue}"), Form("stops {mover}"), Form("{cue} stops", is_offered=False), Form("{mover} stops", is_offered=False)),
    "text": (
        Form(
            "{target} shows {text:quoted}",
            (
                " standing still{scroll_s=0}",
                " moving on each {scroll_s:time}",
                " dark on light{is_inverted=true}",
                " light on dark{is_inverted=false}",
                " backwards{is_reversed=true}",
                " forwards{is_reversed=false}",
            ),
        ),
    ),
    "show": (
        Form("{target} shows the value of {input}", (" from {shows_least:whole}", " to {shows_most:whole}")),
        Form("{target} shows the time"),
    ),
    "score": (
        Form("{target} counts to {count:count}", ENDS),
        Form("{target} counts {by_count:whole} on", ENDS),
    ),
    "remember": (Form("remembers {target}"),),
    "restore": (Form("{target} as it was remembered", OVER),),
    "tone": (Form("{target} sounds {tone_hz:hertz}", (" for {for_s:time}",)),),
    "pattern": (
        *(Form(f"{{target}} runs {word}{{pattern={key}}}", (" a step each {step_s:time}",)) for key, word in (
            ("wipe", "one pixel after the other"), ("chase", "every third along"), ("bounce", "one to and fro"), ("random", "one by chance"),
            ("rain", "rain"),
        )),
        Form("{target} follows its neighbours by rule {rule:whole}{pattern=neighbours}", (" a step each {step_s:time}",)),
        Form("{target} follows its neighbours{pattern=neighbours}", (" a step each {step_s:time}",)),
    ),
    "send": (Form("{target} sends {code:hex}"),),
    "reverse": (Form("{mover} turns round"),),
    "resume": (Form("{mover} goes on as before"),),
    "run": (
        Form("{mover} as fast {speed:told}"),
        Form("{mover} at speed {speed:whole}"),
    ),
    "step": (Form("{mover} {by_count:whole} speeds ahead"), Form("{mover} one speed ahead")),
    "say": (Form("says {said}", ("{fill}",)),),
}  # fmt: skip
UNFINISHED: Final = "{target} does not know yet how to "
WHEN: Final[tuple[tuple[Mapping[str, str], str], ...]] = (
    ({}, "When {heard} is heard"),
    *(({"event": event}, f"When {{input}} is {event}") for event in ("pressed", "released", "moved")),
    *(({"event": event}, f"When {{input}} is switched {event}") for event in ("on", "off")),
    ({"event": "link-lost"}, "When {link} is lost"),
    ({"event": "link-back"}, "When {link} is back"),
    ({"event": "power-up"}, "When the power comes"),
    ({}, "At {at:clock}"),
    ({}, "Every {every_s:time}"),
)
COLOURS: Final[Mapping[str, tuple[float, float, float]]] = {
    "red": (1.0, 0.0, 0.0),
    "green": (0.0, 1.0, 0.0),
    "blue": (0.0, 0.0, 1.0),
    "amber": (1.0, 0.35, 0.0),
    "moonlight": (0.6, 0.75, 1.0),
    "white": (1.0, 1.0, 1.0),
    "dark": (0.0, 0.0, 0.0),
}
SHADES: Final = ("red", "green", "blue")
# What a lamp does when nobody tells it: the order, what it says, and how that is said.
ORDERS: Final[tuple[tuple[str, str, str], ...]] = (
    *(("power_up", key, f"At first {{lamp}} is {said}") for key, said in (("off", "off"), ("on", "on"), ("last", "as it was"))),
    *(
        ("link_lost", key, f"Without its link {{lamp}} is {said}")
        for key, said in (("off", "off"), ("on", "on"), ("keep", "as it is"))
    ),
    *(
        ("power_cut", key, f"After a power cut {{lamp}} is {said}")
        for key, said in (("off", "off"), ("on", "on"), ("last", "as it was"))
    ),
    *(
        ("winner", key, f"Where two want {{lamp}}, {said}")
        for key, said in (("last-moved", "the last one wins"), ("phone", "the phone wins"), ("local", "what is here wins"))
    ),
)
TAKES_OVER: Final = "{input} takes over {lamp} from {ratio:share} on"
