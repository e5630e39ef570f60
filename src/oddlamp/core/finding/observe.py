"""What each test of the knowledge file would show in a simulated build, and which of them there is a place for on a way.

What is measured is solved in the build, what is pressed is rehearsed in it, what is typed to the module its stand-in answers.
What is turned or changed over is so in the circuit; a part that is swapped takes what it carries with it. What is looked at is
seen as it stands there. No test knows which cause was put in.
"""

from collections.abc import Callable, Collection, Mapping
from dataclasses import replace
from typing import Final, NamedTuple

from oddlamp.core.bench.circuit import Piece, Tap
from oddlamp.core.bench.devices import State
from oddlamp.core.bench.judge import OPEN_OHM
from oddlamp.core.finding.broken import Part, swapped, turned_led
from oddlamp.core.finding.build import Build, By
from oddlamp.core.finding.metering import MEASURED, reading_class, step_ids, step_reading
from oddlamp.core.finding.states import RIGHT
from oddlamp.core.finding.way import PRESS_S, Way, looks_lit
from oddlamp.core.finding.wired import Look

MOVES_V: Final = 1.0
GATE_V: Final = 0.4  # a base moves by no more
ALIVE: Final = frozenset({"right", "dim", "bright", "colour", "first", "end", "flickers", "resets", "late", "wanders"})
OF_PROGRAM: Final[tuple[Part, ...]] = ("program", "rule")
OF_LAMP: Final[tuple[Part, ...]] = ("pin", "rule")  # with the place of the lamp, what is of no other lamp


class Test(NamedTuple):
    """One test: where there is a place for it, and what it shows."""

    fits: Callable[[Way], bool]
    shows: Callable[[Build], str]


def _measured(test: str) -> Test:
    def shows(build: Build) -> str:
        step_id = step_ids(build.way)[test]
        step = next(it for it in build.way.steps if it.id == step_id)
        value = step_reading(build, test, step)
        return "within" if value is None else reading_class(step, value)

    return Test(lambda way: test in step_ids(way), shows)


# Looked at, tried and swapped


def works(look: Look | None) -> str:
    """Say whether a lamp does anything where it should."""
    return "works" if look in ALIVE else "does not"


def swapped_out(build: Build, *parts: Part, place: str = "") -> Build:
    """Return the build with some parts swapped for good ones: what they carried is gone, and what is at a place."""
    return Build(build.way, build.broken.without(lambda it: it.part in parts or it.place == place))


def _by(by: By, *parts: Part, place: Callable[[Way], str] = lambda _: "") -> Callable[[Build], str]:
    """Try whether the lamp does anything once something is swapped."""
    return lambda build: works(swapped_out(build, *parts, place=place(build.way)).after(by))


def _from_afar(*parts: Part) -> Callable[[Build], str]:
    """Try whether what is sent from afar does anything once something is swapped; where no lamp obeys it, whether it arrives."""

    def shows(build: Build) -> str:
        once = swapped_out(build, *parts)
        if build.way.press is not None:
            return works(once.after("phone"))
        return "works" if once.links and once.heard() == "words" else "does not"

    return shows


def _lit_by(way: Way) -> By:
    """How a lamp is lit to be looked at: by the program that tries the wiring, or from the phone where a module drives it."""
    return "wiring" if way.is_board else "phone"


def _at_hand(way: Way) -> By:
    """How a lamp is set by its own program."""
    return "phone" if way.press is not None else "input"


def _module_light(build: Build) -> str:
    module, right = build.module, Build(build.way).module
    if module is None or right is None or module.mode == right.mode:
        return "as told"
    return module.mode


def _wiring(build: Build) -> str:
    return build.after("wiring") or "dark"


def _spare_lamp(build: Build) -> str:
    look = swapped_out(build, "lamp").after(_lit_by(build.way))
    return "right" if look in ("right", "flickers") else look if look in ("dark", "on") else "as before"


def _loop(build: Build) -> str:
    """The module alone, its TX joined to its RX: what a phone's terminal sends comes back."""
    return "comes back" if build.comes_back else "nothing"


def _has_pin(way: Way) -> bool:
    return any(net.id == way.line and any(it.piece == way.lamp.host for it in net.taps) for net in way.circuit.nets)


def _pin_volts(build: Build) -> str:
    """The board's own pin, with the program that tries the wiring lighting its lamp: it moves or it does not."""
    way, fault = build.way, build.fault
    tap = next(it for net in way.circuit.nets if net.id == way.line for it in net.taps if it.piece == way.lamp.host)
    ground = Tap(f"ground.{way.host.end or 'here'}", "")
    if tap in fault.lost:  # a pin that nothing hangs on goes all the way
        return "moves" if build.is_fed(way.lamp.host) and tap not in fault.dead else "stays"
    states = (State(), State(held_low=way.line)) if way.is_pixels else (State(lit=way.line), State())
    on, off = (build.volts(tap, ground, it) or 0.0 for it in states)
    return "moves" if abs(on - off) > MOVES_V else "stays"


def _way_ends(way: Way) -> tuple[Tap, Tap] | None:
    """The board's pin of the lamp, and the first leg its wire goes to."""
    net = next((it for it in way.circuit.nets if it.id == way.line), None)
    taps = net.taps if net is not None else ()
    pin = next((it for it in taps if it.piece == way.lamp.host), None)
    far = next((it for it in taps if it.piece != way.lamp.host), None)
    return None if pin is None or far is None else (pin, far)


def _way_ohms(build: Build) -> str:
    ends = _way_ends(build.way)
    assert ends is not None
    shown = build.ohms(*ends)
    return "open" if shown is None or shown >= OPEN_OHM else "joined"


def _other_pin(build: Build) -> str:
    """The lamp's wire on another pin of the board that is known to work, set so in the program that tries the wiring."""
    return works(swapped_out(build, "pin").after("wiring"))


def _transistor(way: Way) -> Piece | None:
    return next((it for it in way.pieces(way.line) if it.kind == "transistor" and it.transistor is not None), None)


def _gate_volts(build: Build) -> str:
    """The first leg of the transistor, with the program that tries the wiring: whether what the pin says gets there."""
    piece = _transistor(build.way)
    assert piece is not None
    tap, ground = Tap(piece.id, piece.pins[0]), Tap(f"ground.{build.way.host.end or 'here'}", "")
    on, off = (build.volts(tap, ground, State(lit=it)) or 0.0 for it in (build.way.line, ""))
    return "moves" if on - off > GATE_V else "stays"


def _low_volts(build: Build) -> str:
    """The leg of the transistor that goes to the lamp, lit by the program that tries the wiring: down where it conducts, or nothing comes from there."""
    piece = _transistor(build.way)
    assert piece is not None
    ground = Tap(f"ground.{build.way.host.end or 'here'}", "")
    shown = build.volts(Tap(piece.id, piece.pins[1]), ground, State(lit=build.way.line)) or 0.0
    return "up" if shown > MOVES_V else "down"


def _bridged(build: Build) -> str:
    """The transistor bridged with a wire, power on: what hangs on it lights where it is whole."""
    piece = _transistor(build.way)
    assert piece is not None
    one, fault = frozenset({piece.id}), build.fault
    bridged = build.with_fault(replace(fault, open=fault.open - one, turned=fault.turned - one, shorted=fault.shorted | one))
    return works(bridged.lamp_look(is_on=True))


def _seated(build: Build) -> str:
    """The same transistor taken out and put in as it is drawn."""
    piece = _transistor(build.way)
    assert piece is not None
    return works(build.with_fault(replace(build.fault, turned=build.fault.turned - {piece.id})).after("wiring"))


def _legs(build: Build) -> str:
    piece = _transistor(build.way)
    assert piece is not None
    return "other" if piece.id in build.fault.turned else "as drawn"


def _plus_volts(build: Build) -> str:
    """Plus of a lamp that comes from its rail, at the lamp itself."""
    tap = _plus(build.way)
    assert tap is not None
    ground = Tap(f"ground.{build.way.host.end or 'here'}", "")
    shown = 0.0 if tap in build.fault.lost else build.volts(tap, ground) or 0.0
    return "there" if shown > MOVES_V else "nothing"


def _plus(way: Way) -> Tap | None:
    """The pin at which a lamp that is no chain hangs on plus."""
    for piece in way.pieces(way.line):
        for pin in piece.pins if piece.kind in ("lamp", "load") and not way.is_pixels else ():
            net = way.circuit.net_of.get(Tap(piece.id, pin))
            if net is not None and net.kind == "supply":
                return Tap(piece.id, pin)
    return None


def _led_turned(build: Build) -> str:
    """The LED put in the other way round, with the program that tries the wiring."""
    there = turned_led(build.way)
    assert there is not None
    fault = replace(build.fault, turned=build.fault.turned ^ there.fault.turned)
    return works(build.with_fault(fault).after(_lit_by(build.way)))


def _swapped_serial(build: Build) -> str:
    """RX and TX changed over: right where they were wrong, wrong where they were right."""
    there = swapped(build.way)
    assert there is not None
    now, over = build.fault.moved, there.fault.moved
    is_over = all(now.get(tap) == net for tap, net in over.items())
    moved = {tap: net for tap, net in now.items() if tap not in over} if is_over else {**now, **over}
    once = build.with_fault(replace(build.fault, moved=moved))
    return works(once.after("phone")) if once.heard() == "words" else "does not"


def _text(build: Build) -> str:
    """What the phone's own controls send, beside the list of words."""
    app = build.states.app
    return "text" if not app.has_text else "same" if app.has_ending else "ending"


def _wiggled(nets_of: Callable[[Way], Collection[str]]) -> Callable[[Build], str]:
    """Whether a wire comes off as it is moved: one that is loose, on one of some nets."""

    def shows(build: Build) -> str:
        net_of, nets = build.way.circuit.net_of, nets_of(build.way)
        off = build.at_bad_moment.fault.lost - build.fault.lost
        names = (net_of[tap].id for tap in off if tap in net_of)
        return "changes" if any(it in nets or it.partition(":")[0] in nets for it in names) else "does not"

    return shows


def _module(way: Way) -> str:
    return way.module.id if way.module is not None else ""


def _minus(way: Way, piece: str) -> Tap | None:
    """The ground pin of a board or a module."""
    pins = way.circuit.pieces[piece].pins if piece in way.circuit.pieces else ()
    nets = {pin: way.circuit.net_of.get(Tap(piece, pin)) for pin in pins}
    return next((Tap(piece, pin) for pin, net in nets.items() if net is not None and net.kind == "ground"), None)


def _ground(build: Build, piece: str) -> str:
    """Ohms from the ground of a rail to that of a board or a module."""
    tap = _minus(build.way, piece)
    assert tap is not None
    net = build.way.circuit.net_of[tap]
    shown = build.ohms(tap, Tap(net.id, ""))
    return "open" if shown is None or shown >= OPEN_OHM else "joined"


def _knows(build: Build) -> str:
    """Whether the program knows what it hears, as it may print it."""
    program, app = build.states.program, build.states.app
    if build.heard() != "words" or not program.is_there:
        return "nothing"
    return "knows" if program.has_words and app.has_text and app.has_ending else "does not"


def _pin_told(build: Build) -> str:
    """The lamp's pin while its word is sent, by the program itself."""
    program = build.states.program
    if _pin_volts(build) == "stays" or not program.is_there or not program.is_on_pin:
        return "stays"
    if not program.is_upright:
        return "upside down"
    trace = build.course(_at_hand(build.way))
    return "moves" if trace is not None and looks_lit(trace, build.way.lamp, PRESS_S) else "stays"


def _listing(build: Build) -> str:
    """What the program on the board says of itself when it starts, beside the plan."""
    if not build.program_runs:
        return "nothing"
    return "same" if build.states.program == RIGHT.program else "other"


def _red(build: Build) -> str:
    look = build.after("wiring")
    return "other" if look == "colour" else "red" if look in ALIVE else "nothing"


def _past_first(build: Build) -> str:
    is_fed = build.is_fed(build.way.lamp.host)
    return "rest" if is_fed and build.pixel_look(first=1) in ALIVE else "nothing"


def _terminal_set(build: Build) -> str:
    terminal = build.states.terminal
    return "speed" if not terminal.is_at_speed else "right" if terminal.has_ending else "ending"


def _key(build: Build) -> str:
    return "low" if not build.states.terminal.is_key_up else "as told" if build.states.module.is_key_low else "up"


def _supply_nets(way: Way) -> frozenset[str]:
    """The nets that feed what drives the lamp."""
    return frozenset(
        net.id for net in way.circuit.nets if net.kind == "supply" and any(it.piece == way.lamp.host for it in net.taps)
    )


def _has_air(way: Way) -> bool:
    return way.talk is not None and bool(way.air)


def _has_press(way: Way) -> bool:
    return way.press is not None and bool(way.air)


TESTS: Final[Mapping[str, Test]] = {
    "board-light": Test(lambda way: way.is_board, lambda build: "on" if build.is_fed(build.way.lamp.host) else "off"),
    "module-light": Test(lambda way: way.module is not None and way.dialect is not None, _module_light),
    "links": Test(lambda way: bool(way.air), lambda build: "links" if build.links else "does not"),
    "other-lamp": Test(
        lambda way: _has_press(way) and bool(way.others), _by("phone", *OF_LAMP, place=lambda way: way.lamp.stage)
    ),
    "by-input": Test(lambda way: way.press is not None and way.local is not None, _by("input")),
    "by-terminal": Test(lambda way: way.has_words, _by("terminal")),
    "wiring-program": Test(lambda way: way.is_board, _wiring),
    "wiggle-lamp": Test(lambda _: True, _wiggled(lambda way: (way.line,))),
    "wiggle-supply": Test(lambda way: way.is_board, _wiggled(_supply_nets)),
    "wiggle-serial": Test(lambda way: bool(way.to_board), _wiggled(lambda way: (way.to_module, way.to_board))),
    "board-ground": Test(
        lambda way: way.is_board and _minus(way, way.lamp.host) is not None, lambda build: _ground(build, build.way.lamp.host)
    ),
    "module-ground": Test(
        lambda way: way.has_module and _minus(way, _module(way)) is not None, lambda build: _ground(build, _module(build.way))
    ),
    "near": Test(_has_air, _from_afar("air")),
    "other-phone": Test(lambda way: _has_air(way) and way.is_by_phone, _from_afar("phone")),
    "swap-serial": Test(lambda way: _has_press(way) and swapped(way) is not None, _swapped_serial),
    "spare-module": Test(lambda way: _has_air(way) and way.has_module, _from_afar("module")),
    "spare-lamp": Test(lambda _: True, _spare_lamp),
    "other-supply": Test(lambda way: way.is_board and way.rail is not None, _by("wiring", "supply")),
    "monitor": Test(lambda way: _has_air(way) and way.is_board, lambda build: build.heard()),
    "loop": Test(
        lambda way: way.has_module and bool(way.air) and way.dialect is not None and way.dialect.enters != "always", _loop
    ),
    "adapter": Test(lambda way: way.is_asked, lambda build: build.answers_at(by_adapter=True)),
    "at-answer": Test(lambda way: way.is_asked, lambda build: build.answers_at(by_adapter=False)),
    "pin-volts": Test(lambda way: way.is_board and _has_pin(way), _pin_volts),
    "way-ohms": Test(lambda way: _way_ends(way) is not None, _way_ohms),
    "other-pin": Test(lambda way: way.is_board and _has_pin(way), _other_pin),
    "gate-volts": Test(lambda way: way.is_board and _transistor(way) is not None, _gate_volts),
    "low-volts": Test(lambda way: way.is_board and _transistor(way) is not None, _low_volts),
    "bridge": Test(lambda way: way.is_board and _transistor(way) is not None, _bridged),
    "spare-switch": Test(lambda way: way.is_board and _transistor(way) is not None, _by("wiring", "switch")),
    "seated": Test(lambda way: way.is_board and _transistor(way) is not None, _seated),
    "legs": Test(lambda way: _transistor(way) is not None, _legs),
    "plus-volts": Test(lambda way: _plus(way) is not None, _plus_volts),
    "turn-led": Test(lambda way: turned_led(way) is not None, _led_turned),
    "reload": Test(lambda way: way.is_board, lambda build: works(swapped_out(build, *OF_PROGRAM).after(_at_hand(build.way)))),
    "app-text": Test(lambda way: way.has_words, _text),
    "listing": Test(lambda way: way.is_board, _listing),
    "wait": Test(lambda way: way.is_board, lambda build: "late" if build.after(_at_hand(build.way)) == "late" else "no"),
    "red-shows": Test(lambda way: way.is_board and (way.is_pixels or way.lamp.kind == "rgb"), _red),
    "arrow": Test(lambda way: way.is_pixels, lambda build: "away" if build.states.chain.is_forward else "towards"),
    "past-first": Test(lambda way: way.is_chain, _past_first),
    "addresses": Test(
        lambda way: way.has_module and way.talk is not None and not way.is_by_phone,
        lambda build: "same" if build.is_bound_right else "other",
    ),
    "pixels-ground": Test(
        lambda way: way.is_pixels and _minus(way, way.lamp.id) is not None, lambda build: _ground(build, build.way.lamp.id)
    ),
    "knows": Test(lambda way: way.has_words, _knows),
    "pin-told": Test(lambda way: way.is_board and not way.is_pixels and _has_pin(way), _pin_told),
    "knob-still": Test(lambda way: way.has_knob, lambda build: "stands" if build.states.rest.is_still else "trembles"),
    "terminal-set": Test(lambda way: way.is_asked, _terminal_set),
    "key-volts": Test(lambda way: way.has_module and way.dialect is not None and way.dialect.enters == "key", _key),
    **{it: _measured(it) for it in MEASURED},
}
