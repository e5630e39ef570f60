"""How a project begins and grows: the first questions, and what can be put on a host."""

from collections.abc import Mapping
from typing import Final, NamedTuple

from oddlamp.core.base import first_free
from oddlamp.core.checks.findings import Move
from oddlamp.core.checks.registry import run_rules
from oddlamp.core.design.design import Design
from oddlamp.core.english import inner
from oddlamp.core.plan.document import Document, at_path, edit_plan
from oddlamp.core.plan.edits import ALONE, first_lamp, one_more_input, one_more_lamp
from oddlamp.core.plan.lights import CHIP_KINDS
from oddlamp.core.plan.signals import told_by
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.models import Choice, Opening, Option
from oddlamp.sheets.variants import commanded_lamps

CAUTIONS: Final = frozenset({"EYE-CAUTION", "MAINS-CAUTION", "COIN-CAUTION"})  # what is said of a thing however it is built
SMALL_PINS: Final = 12
ON_AND_OFF: Final[Mapping[str, Document]] = {"on": {"verb": "on"}, "off": {"verb": "off"}}
COLOURS_AND_OFF: Final[Mapping[str, Document]] = {
    "red": {"verb": "colour", "values": {"red": 1, "green": 0, "blue": 0}},
    "green": {"verb": "colour", "values": {"red": 0, "green": 1, "blue": 0}},
    "blue": {"verb": "colour", "values": {"red": 0, "green": 0, "blue": 1}},
    "white": {"verb": "colour", "values": {"red": 1, "green": 1, "blue": 1}},
    "off": {"verb": "off"},
}


class Start(NamedTuple):
    """Something that can be put on a host: what it is called, and what the plan then says of it."""

    label: str
    detail: str
    lamp: Document
    led: str | None = None
    noun: str = "Lamp"
    words: Mapping[str, Document] = ON_AND_OFF


def _led(part: str) -> Document:
    return {"kind": "led", "channels": {"main": {"led": {"part": part}}}}


LEDS = (
    Start("A red LED", "", _led("led-red"), "led-red"),
    Start("A white LED", "", _led("led-white"), "led-white"),
    Start("A warm white LED", "", _led("led-warm-white"), "led-warm-white"),
    Start("A blue LED", "", _led("led-blue"), "led-blue"),
    Start(
        "An RGB LED",
        "three colours, one common leg",
        {"kind": "rgb", "channels": {"red": {}, "green": {}, "blue": {}}},
        words=COLOURS_AND_OFF,
    ),
)
OTHERS = (
    Start(
        "One-wire pixels",
        "each with its own colour",
        {"kind": "pixels-one-wire", "layout": {"runs": [{"count": 8}]}},
        None,
        "Pixel chain",
    ),
    Start(
        "Clocked pixels",
        "faster, on two wires",
        {"kind": "pixels-clocked", "layout": {"runs": [{"count": 8}]}},
        None,
        "Pixel chain",
    ),
    Start("A 5 V strip", "one colour, through a MOSFET", {"kind": "strip", "choice": {"part": "strip-5v-warm"}}, None, "Strip"),
    Start("An infra-red LED", "not seen by the eye", _led("led-infra-red"), "led-infra-red"),
    Start("A relay", "switches something else", {"kind": "relay"}, None, "Relay"),
    Start("A motor, one way", "an input of its driver; two make a mover", {"kind": "motor"}, None, "Motor"),
    Start("A buzzer", "a tone, or a beep", {"kind": "buzzer"}, None, "Buzzer"),
    Start("A matrix module", "8 x 8 LEDs with a driver", {"kind": "matrix"}, None, "Matrix"),
)
INPUTS = (
    ("button", "A button"),
    ("switch", "A switch"),
    ("knob", "A knob"),
    ("sensor", "A sensor"),
    ("remote-receiver", "A remote receiver"),
)


def opening(design: Design) -> Opening | None:
    """Ask the first questions while there is no lamp; None afterwards."""
    if design.lamps:
        return None
    catalog, plan = design.catalog, design.plan
    board = next((node for node in design.nodes.values() if node.node.kind == "board"), None)
    module = next((node for node in design.nodes.values() if node.node.kind == "module"), None)
    board_id = board.id if board else first_free("board", plan.nodes.__contains__)
    module_id = module.id if module else first_free("radio", plan.nodes.__contains__)
    board_part = board.picked.id if board and board.picked else catalog.proposals["board"].part
    boards = tuple(
        Option(
            label=part.label,
            detail=part.summary,
            patch=at_path(("nodes", board_id), {"kind": "board", "choice": {"part": name}}),
            is_chosen=name == board_part,
        )
        for name, part in catalog.boards.items()
    )
    module_part = module.picked.id if module and module.picked else catalog.proposals["module-classic"].part
    own_radio = bool(board and board.part and board.part.radios and module is None)
    modules = tuple(
        Option(
            label=part.label,
            detail=part.summary,
            patch=at_path(("nodes", module_id), {"kind": "module", "choice": {"part": name}}),
            is_chosen=name == module_part and not own_radio,
        )
        for name, part in catalog.modules.items()
        if not part.wants_pulled  # a bare one wants more round it than a beginning has
    )
    if board and board.part and board.part.radios:
        modules += (
            Option(
                label="The board's own radio",
                detail="no module needed",
                patch=at_path(("nodes", module_id), None),
                is_chosen=own_radio,
            ),
        )
    radio = Choice(
        label="Words come in through",
        origin="own" if module or own_radio else "proposed",
        because=None if module or own_radio else catalog.proposals["module-classic"].why,
        options=modules,
    )
    is_small = len(catalog.boards[board_part or ""].usable_pins) <= SMALL_PINS

    def offer(it: Start) -> Option:
        patch = _first(design, it, has_own_radio=own_radio)
        because = _not_clear(design, patch) if is_small else ""
        glow = catalog.leds[it.led].glow if it.led else None
        if because:
            return Option(label=it.label, detail=because, state="stop", glow=glow, patch={})
        return Option(label=it.label, detail=it.detail or _volts(design, it.led), glow=glow, patch=patch)

    lamps, others = tuple(offer(it) for it in LEDS), tuple(offer(it) for it in OTHERS)
    return Opening(
        sentence="What should light?"
        if any(it.state != "stop" for it in (*lamps, *others))
        else "Nothing begins clear on this board: take another, under “Driven by”.",
        lamps=lamps,
        leads_to=f"lamps.{next(iter(_first(design, LEDS[0], has_own_radio=own_radio)['lamps']))}",
        others=others,
        choices=(
            Choice(
                label="Driven by",
                origin="own" if board else "proposed",
                because=None if board else catalog.proposals["board"].why,
                options=boards,
            ),
            *(() if plan.links else (radio,)),  # where links stand already, they end at what was chosen
        ),
    )


def _not_clear(design: Design, patch: Document) -> str:
    """Say what a beginning would bring that is not clear, empty where it is: on a board of few pins each is tried before it is offered."""
    found = run_rules(resolve(edit_plan(design.plan, patch), design.catalog))
    return next((f"not with this board: {inner(it.message)}" for it in found if it.code not in CAUTIONS), "")


def _volts(design: Design, part: str | None) -> str:
    return f"drops about {design.catalog.leds[part].forward_voltage_v.value:g} V" if part else ""


def _first(design: Design, start: Start, *, has_own_radio: bool) -> Document:
    return first_lamp(design.plan, start.lamp, start.noun, has_own_radio=has_own_radio, words=start.words)


def _own_deeds(start: Start) -> Mapping[str, Document]:
    """Return the words of one more such lamp: to and fro, and its colours where it has several."""
    return (
        ALONE
        if start.words is ON_AND_OFF
        else {**ALONE, **{name: it for name, it in start.words.items() if it["verb"] == "colour"}}
    )


def add_lamp_moves(design: Design, host: str) -> tuple[Move, ...]:
    """Offer one more lamp on a host, with a word of its own that switches it."""
    teller = told_by(design.plan, host)
    talk = next((talk for talk in design.talks.values() if talk.b == teller and talk.vocabulary.open_because is None), None)
    vocabulary = talk.vocabulary.id if talk is not None else None
    if talk is not None and talk.vocabulary.is_whole:
        lamps = [(it.label, it.noun, it.lamp) for it in LEDS if it.lamp["kind"] == "led"]
        return tuple(commanded_lamps(design, host, talk.vocabulary.id, lamps))
    is_chip = design.nodes[host].node.kind == "chip"
    return tuple(
        Move(
            label=f"Add {inner(start.label)}",
            patch=one_more_lamp(design.plan, start.lamp, start.noun, host, vocabulary=vocabulary, deeds=_own_deeds(start)),
        )
        for start in (*LEDS, *OTHERS)
        if not is_chip or start.lamp["kind"] in CHIP_KINDS
    )


def add_input_moves(design: Design, host: str) -> tuple[Move, ...]:
    """Offer buttons, knobs and the like on a host."""
    return tuple(Move(label=f"Add {inner(label)}", patch=one_more_input(design.plan, kind, host)) for kind, label in INPUTS)
