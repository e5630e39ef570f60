"""From what a module shall be to the steps that make it so: wiring, mode, each command with its exact answer, and what to do if it differs."""

from collections.abc import Iterator, Mapping
from typing import Final, Literal, NamedTuple

from oddlamp.core.base import si
from oddlamp.core.errors import OutOfRange
from oddlamp.core.modules.pass_through import SOFTWARE_MOST_BD, SPEED_NAME, USB_BD
from oddlamp.core.parts.dialect import ENDINGS, Command, Dialect, answer_of
from oddlamp.core.words.frames import FieldValue

Route = Literal["adapter", "board", "pass-through"]
Deed = Literal["wire", "key up", "key down", "power on", "power off", "terminal", "find", "send", "link", "say", "control"]
UNKNOWN: Final = "FFFF:FF:FFFFFF"  # stands where an address will stand that only the other module can tell
UNKNOWN_SENT: Final = b"ffff,ff,ffffff"
ADDRESS_TOLD: Final = b"+ADDR:"
UNKNOWN_SHOWN: Final = "<its address, with commas>"
LIKELY_BD: Final = (9600, 38_400, 115_200, 19_200, 57_600, 4800)  # where a module is mostly found, the likeliest first
ADAPTER_MOST_BD: Final = 921_600  # most USB-serial adapters; from memory
EASY_MOST_BD: Final = 115_200  # every adapter and terminal, and most boards; from memory
WAIT_S: Final = 2.0
PORT: Final = 333  # where phones find what opens a line; any over 1023 that is free will do, and this one is often used
FACTORY_PINS: Final = frozenset({"0000", "1111", "1234", "000000", "123456"})
WIRING: Final[dict[Route, str]] = {
    "adapter": "Everything off. Set the adapter to 3.3 V, and take off whatever else hangs on the module's TX and RX. Crossed: the adapter's TX to the module's RX, its RX to the module's TX; join the grounds.",
    "board": "Everything off. Hold the board's chip in reset (its reset pin to ground), so that only its USB chip speaks. Straight: the board's RX pin to the module's RX, its TX pin to the module's TX through the plan's level shift; join the grounds.",
    "pass-through": "Leave the wires as the plan has them, crossed; only where they lie on the upload's pins they come off while you upload. Put the program below on the board.",
}


class Goal(NamedTuple):
    """What a module shall be.

    ``network`` is what a Wi-Fi module does: its own access point, or a guest of the house's, and ``port`` where it is found there. ``partner`` is the address of the module it is bound to, ``UNKNOWN`` where that is asked for on the way; ``is_bound_to``
    tells a slave that another module is bound to it, so that its address is asked for; ``is_driven`` that the phone shall
    drive the module's own pins.
    """

    name: str
    pin: str
    speed_bd: int
    role: Literal["slave", "master"] = "slave"
    partner: str | None = None
    is_bound_to: bool = False
    is_driven: bool = False
    network: Literal["access-point", "station"] | None = None
    port: int = PORT


class Way(NamedTuple):
    """One way to send a command, and the exact answer to it, or only how that begins or ends: versions of a family differ, some repeat the command."""

    sent: bytes
    answer: bytes
    begins: bool = False
    ends: bool = False

    def is_met_by(self, heard: bytes) -> bool:
        """Tell whether this is what was to be heard."""
        if self.ends:
            return heard.endswith(self.answer)
        return heard.startswith(self.answer) if self.begins else heard == self.answer


class Step(NamedTuple):
    """One step: what to do, in words, what is sent and answered in it, and what to do if the answer differs.

    ``speeds_bd`` are what the terminal is set to: one, or those to try in turn where the module's speed is not known.
    """

    does: Deed
    text: str
    ways: tuple[Way, ...] = ()
    speeds_bd: tuple[int, ...] = ()
    advice: str = ""


def script(goal: Goal, dialect: Dialect, route: Route = "adapter") -> tuple[Step, ...]:
    """Lay out the steps, the speed last.

    Raises:
        OutOfRange: the family cannot be that: a slave-only module asked to call, a name too long, a speed it does not know.
    """
    wanted: dict[str, FieldValue] = {**settings_of(goal, dialect), "bound": goal.partner or UNKNOWN}
    if goal.role == "master" and _setting(dialect, "role") is None:
        raise OutOfRange(field="role", given="master", allowed="slave: this family waits to be called and never calls")
    if route == "pass-through" and goal.speed_bd > SOFTWARE_MOST_BD and dialect.enters != "key":
        raise OutOfRange(field="speed", given=goal.speed_bd, allowed=f"at most {SOFTWARE_MOST_BD} through the board's program")
    if goal.partner is not None and goal.role == "slave":
        raise OutOfRange(field="bond", given=goal.role, allowed="a master: it is the one that calls")
    return tuple(_steps(dialect, route, wanted, goal)) if is_on_a_wire(dialect) else ()


def is_bound_by_address(dialect: Dialect) -> bool:
    """Tell whether a master of a family is told the address of the one it calls; else it calls the first of its kind it finds."""
    return _setting(dialect, "bound") is not None


def settings_of(goal: Goal, dialect: Dialect) -> dict[str, FieldValue]:
    """Return what is set in a module once it is what it shall be, by the names its family has for that."""
    remote, mode = dialect.remote, dialect.settings.get("mode", 0)
    if goal.network is not None:
        mode = 2 if goal.network == "access-point" else 1
    elif remote is not None:
        mode = remote.value if goal.is_driven else mode
    elif dialect.enters == "key":
        mode = 1 if goal.partner is None else 0
    role = 1 if goal.role == "master" else 0
    return {"name": goal.name, "pin": goal.pin, "speed": goal.speed_bd, "stop": 0, "parity": 0, "mode": mode, "role": role}


def is_on_a_wire(dialect: Dialect) -> bool:
    """Tell whether a family is set up by commands on its wire; else it takes raw bytes from whoever is linked."""
    return any(not it.is_hex for it in dialect.commands)


def _steps(dialect: Dialect, route: Route, wanted: dict[str, FieldValue], goal: Goal) -> Iterator[Step]:
    yield Step("wire", WIRING[route])
    yield from _entry(dialect, route)
    if any(it.send == "AT+VERR?" for it in dialect.commands):
        version = next(it for it in dialect.commands if it.send == "AT+VERR?")
        yield Step(
            "send",
            "Ask which one it is, before anything is set.",
            (_way(dialect, version, wanted)._replace(answer=b"V", begins=True),),
            advice="A look-alike: it has other commands, and its numbers mean other speeds. Send it no speed command; find its own list first.",
        )
    for name, told in (
        ("role", "Say that it calls." if goal.role == "master" else "Say that it waits to be called."),
        ("name", "Name it."),
        ("pin", "Give it its PIN."),
    ):
        yield from _set(dialect, name, told, wanted)
    if dialect.enters == "key":
        to_whom = "whoever knows the PIN" if goal.partner is None else "the one module it is bound to, and nobody else"
        yield from _set(dialect, "mode", f"Let it talk to {to_whom}.", wanted)
    if goal.is_driven and dialect.remote is not None:
        yield from _set(dialect, dialect.remote.setting, "Let the phone give it commands over the air.", wanted)
    if goal.partner is not None and is_bound_by_address(dialect):
        yield from _set(
            dialect,
            "bound",
            "Bind it to the other module: it calls that one whenever both have power. (Calling it by hand, AT+INIT, AT+PAIR and AT+LINK, is the other school; that link is gone at the first power cut, so it is not taken here.)",
            wanted,
        )
    asked = next((it for it in dialect.commands if it.send == "AT+ADDR?"), None)
    if goal.is_bound_to and asked is not None and is_bound_by_address(dialect):
        way = Way(asked.frame.build() + ENDINGS[dialect.ending], ADDRESS_TOLD, begins=True)
        told = "Ask for its address and write it down: the other module is bound to it."
        yield Step("send", told, (way,), advice="An error: it is a version that does not tell it; look at it from a phone.")
    beware = (
        f" Beware: only an adapter that reaches {si(goal.speed_bd, 'Bd')} hears it afterwards."
        if goal.speed_bd > EASY_MOST_BD
        else ""
    )
    yield from _set(dialect, "speed", f"Last of all its speed.{beware}", wanted)
    yield from _leaving(dialect, int(wanted["speed"]), goal, route)


def _set_to(route: Route, speed_bd: int) -> str:
    """Say how a speed is set: at the terminal, or in the board's program, to which the terminal speaks at a speed of its own."""
    if route == "pass-through":
        return f"Let the program say {SPEED_NAME} = {speed_bd}, and upload it; set the terminal to {si(USB_BD, 'Bd')}"
    return f"Set the terminal to {si(speed_bd, 'Bd')}"


def _entry(dialect: Dialect, route: Route) -> Iterator[Step]:
    ending = "a line ending of CR LF" if dialect.ending == "cr-lf" else "no line ending at all"
    at = next(it for it in dialect.commands if it.send == "AT")
    way = _way(dialect, at, {})
    if dialect.enters == "key" and dialect.setup_speed_bd is not None:
        speed_bd = dialect.setup_speed_bd
        yield Step("power off", "See that the module has no power.")
        yield Step("key up", "Hold its key, and keep it held.")
        turn = si(dialect.blinks["setup"].turns_s[0], "s")
        yield Step(
            "power on",
            f"Give it power: its LED goes on and off slowly, {turn} each. If it blinks quickly, the key was late: power off, and again.",
        )
        yield Step("terminal", f"{_set_to(route, speed_bd)}, 8N1, {ending}.", speeds_bd=(speed_bd,))
        advice = "Nothing: TX and RX may be swapped, the ending missing, or the key was not held when the power came. Garbage: the speed."
        yield Step("send", "See whether it listens.", (way,), advice=advice)
        return
    speeds = [*LIKELY_BD, *(it for it in _speeds(dialect) if it not in LIKELY_BD)]
    most_bd = SOFTWARE_MOST_BD if route == "pass-through" else ADAPTER_MOST_BD
    known = tuple(it for it in speeds if it in _speeds(dialect) and it <= most_bd)
    of_program = f" as the program's {SPEED_NAME}, uploading each time," if route == "pass-through" else ""
    yield Step("power off", "See that the module has no power, and that no phone is linked to it.")
    yield Step("power on", "Give it power: its LED blinks, nobody is linked.")
    yield Step(
        "find",
        f"Set the terminal to 8N1 and {ending}; wait a second after each try. Try these speeds{of_program} until it answers: {', '.join(si(it, 'Bd') for it in known)}.",
        (way,),
        known,
        f"Silence at every speed: TX and RX may be swapped, a phone is linked, or the terminal adds a line ending. If it once was set to more than {si(ADAPTER_MOST_BD, 'Bd')}, only what reaches that can call it back."
        + (
            " If it answers only with a line ending, it is a look-alike: its numbers mean other speeds."
            if dialect.versions
            else ""
        ),
    )


def _leaving(dialect: Dialect, speed_bd: int, goal: Goal, route: Route) -> Iterator[Step]:
    told = f"From now on it speaks at {si(speed_bd, 'Bd')}"
    if dialect.enters == "key":
        yield Step("key down", "Let the key go.")
        yield Step("power off", "Take its power away.")
        until = (
            "until it has found the other, which takes some seconds; then both blink twice every two seconds, in step"
            if goal.partner is not None
            else "until the other has found it; then both blink twice every two seconds, in step"
            if goal.is_bound_to
            else "until somebody links"
        )
        yield Step("power on", f"Give it power again: its LED blinks quickly {until}. {told}.", speeds_bd=(speed_bd,))
        return
    if dialect.speed_from == "restart":
        reset = next((it for it in dialect.commands if it.does == "restart"), None)
        if reset is not None:
            yield Step(
                "send",
                "Restart it.",
                (_way(dialect, reset, {}),),
                advice="Take its power away and give it back: that does the same.",
            )
    at = next(it for it in dialect.commands if it.send == "AT")
    if goal.partner is not None:
        told = f"As a master it calls the first of its kind that it finds: switch others off while the two meet. {told}"
    yield Step("terminal", f"{told}. {_set_to(route, speed_bd)}.", speeds_bd=(speed_bd,))
    yield Step(
        "send",
        "See whether it listens there.",
        (_way(dialect, at, {}),),
        advice="Silence: try the old speed; it may not have taken the new one.",
    )


def _set(dialect: Dialect, name: str, told: str, wanted: dict[str, FieldValue]) -> Iterator[Step]:
    command = _setting(dialect, name)
    if command is None:
        return
    ways = [_way(dialect, command, wanted)]
    for version in dialect.versions:
        other = _setting(dialect.version(version.id), name)
        if other is not None and other.send != command.send and dialect.version(version.id).ending == dialect.ending:
            ways.append(_way(dialect, other, wanted))
    advice = (
        "An error: read what it was given once more."
        if len(ways) == 1
        else "An error: a newer version wants it the other way, with quotes."
    )
    yield Step(
        "send", told, tuple(dict.fromkeys(ways)), advice=f"{advice} {taken_back(dialect)}".strip() if name == "name" else advice
    )


def taken_back(dialect: Dialect) -> str:
    """Say how all that was ever set in a module is taken back, where its family has a command for that."""
    command = next((it for it in dialect.commands if it.does == "factory"), None)
    return f"If nothing helps, {command.send} takes back all that was ever set; begin anew then." if command is not None else ""


def _setting(dialect: Dialect, name: str) -> Command | None:
    return next((it for it in dialect.commands if name in it.keeps), None)


def _speeds(dialect: Dialect) -> tuple[int, ...]:
    command = _setting(dialect, "speed")
    return tuple(command.fields["speed"].choices.values()) if command is not None else ()


def _way(dialect: Dialect, command: Command, wanted: dict[str, FieldValue]) -> Way:
    values = {name: wanted[name] for name in command.fields}
    known: dict[str, FieldValue] = {**dialect.settings, **wanted}
    return Way(command.frame.build(**values) + ENDINGS[dialect.ending], answer_of(dialect, command, known))


def as_text(step: Step) -> str:
    """Write a step as one line to follow: what to do, what is sent, what is answered."""
    if not step.ways:
        return step.text
    if not any(way.answer for way in step.ways):
        return f"{step.text} {' '.join(shown(way.sent) for way in step.ways)}"
    ways = [
        f"send {shown(way.sent)}; it answers {'with what begins with ' if way.begins else 'with what ends in ' if way.ends else ''}{shown(way.answer)}"
        for way in step.ways
    ]
    sent = ", or, where that errs, ".join(ways)
    return f"{step.text} {sent[:1].upper()}{sent[1:]}. {step.advice}".strip()


def shown(content: bytes) -> str:
    """Write what is sent or answered as a terminal shows it, its lines one after the other; raw bytes in hex."""
    if not content.isascii() or not content.decode("ascii").replace("\r\n", "").isprintable():
        return content.hex(" ").upper()
    return content.replace(UNKNOWN_SENT, UNKNOWN_SHOWN.encode("ascii")).decode("ascii").replace("\r\n", " ").strip()


def filled(step: Step, known: Mapping[bytes, bytes]) -> Step:
    """Put what only the maker knows into what a step sends."""

    def one(content: bytes) -> bytes:
        for stands, real in known.items():
            content = content.replace(stands, real)
        return content

    return step._replace(ways=tuple(way._replace(sent=one(way.sent), answer=one(way.answer)) for way in step.ways))


def proposed_pin(seed: str, digits: int) -> str:
    """Make up a PIN out of a project's name: always the same for it, and never one that modules leave the factory with."""
    number = 7
    for letter in seed:
        number = (number * 131 + ord(letter)) % 10**9
    while (pin := f"{number % 10**digits:0{digits}}") in FACTORY_PINS or pin[0] == "0":
        number = (number * 131 + 17) % 10**9
    return pin
