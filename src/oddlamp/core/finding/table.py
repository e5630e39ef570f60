"""The table of every fault that can be put into a build, by the cause of the knowledge file that it is, and by what carries it."""

from typing import Final

from oddlamp.core.finding.broken import (
    Broken,
    Part,
    Put,
    air_stage,
    at_contact,
    at_divider,
    at_led,
    at_resistor,
    at_switch,
    colours,
    common_off,
    divider_turned,
    has_serial,
    has_set_up,
    has_terminal,
    hung,
    input_stage,
    is_bound,
    is_ended,
    is_linked_by_phone,
    is_lit_by_resistor,
    is_paired,
    lamp_stage,
    lamp_wire,
    loose,
    marked,
    module_stage,
    phone_stage,
    pin_dead,
    program_stage,
    serial_wire,
    strip_thin,
    swapped,
    turned_led,
)
from oddlamp.core.finding.feeding import (
    BRIDGED_V,
    FLAT_RATIO,
    GONE_V,
    TURNED_V,
    at_rail,
    at_source,
    is_fed,
    is_on_cells,
    is_plugged,
    is_set,
    supply_off,
    weak,
)
from oddlamp.core.finding.way import Way

_BOARD_SUPPLY: Final = supply_off("supply", of_module=False)
_TO_BOARD: Final = serial_wire(to_module=False)
_BY_PART: Final[dict[Part, dict[str, Put]]] = {
    "lamp": {
        "led-turned": turned_led,
        "led-open": at_led("lamp open"),
        "led-short": at_led("lamp short"),
        "pixel-order": marked(lamp_stage, "chain.is_in_order", lambda way: way.is_pixels),
        "pixel-end": marked(lamp_stage, "chain.is_forward", lambda way: way.is_pixels),
        "pixel-first": marked(lamp_stage, "chain.passes_on", lambda way: way.is_chain),
    },
    "resistor": {
        "resistor-open": at_resistor("resistor open"),
        "resistor-tenfold": at_resistor("resistor tenfold"),
        "resistor-tenth": at_resistor("resistor tenth"),
    },
    "switch": {
        "switch-open": at_switch("switch open"),
        "switch-short": at_switch("switch short"),
        "switch-turned": at_switch("switch turned"),
    },
    "pin": {"pin-dead": pin_dead},
    "supply": {
        "supply-off": at_source("supply off", lambda _: GONE_V, is_fed),
        "supply-turned": at_source("supply turned", lambda _: TURNED_V, lambda way: is_fed(way) and not is_plugged(way)),
        "supply-set": at_rail("other volts", lambda v: FLAT_RATIO * v, is_set),
        "cells-flat": at_source("flat cells", lambda v: FLAT_RATIO * v, is_on_cells),
        "supply-weak": weak,
    },
    "wire": {
        "lamp-wire": lamp_wire,
        "lamp-common": common_off,
        "lamp-ground": lambda way: hung("ground")(way) if way.is_pixels else None,
        "lamp-supply": lambda way: hung("supply")(way) if not is_lit_by_resistor(way) else None,
        "lamp-loose": loose(lamp_wire),
        "colours-swapped": colours,
        "strip-thin": strip_thin,
        "supply-short": at_rail("bridge", lambda _: BRIDGED_V, is_fed, "rest.is_apart"),
        "board-supply": _BOARD_SUPPLY,
        "board-ground": supply_off("ground", of_module=False),
        "supply-loose": loose(_BOARD_SUPPLY),
        "serial-swapped": swapped,
        "serial-to-module": serial_wire(to_module=True),
        "serial-to-board": _TO_BOARD,
        "serial-loose": loose(_TO_BOARD),
        "divider-upper": at_divider("resistor open", "upper"),
        "divider-lower": at_divider("resistor open", "lower"),
        "divider-turned": divider_turned,
        "module-supply": supply_off("supply", of_module=True),
        "module-ground": supply_off("ground", of_module=True),
        "module-set-up": marked(module_stage, "module.is_key_low", lambda way: has_serial(way) and has_set_up(way)),
    },
    "module": {
        "speed-differs": marked(module_stage, "module.is_at_speed", has_serial),
        "module-dead": marked(module_stage, "module.is_alive", lambda way: way.module is not None and way.module is not way.host),
        "module-deaf": marked(module_stage, "module.hears", lambda way: bool(way.to_module)),
        "module-mute": marked(module_stage, "module.says", lambda way: bool(way.to_board)),
        "module-code": marked(module_stage, "module.has_code", is_paired),
        "module-taken": marked(module_stage, "module.is_free", lambda way: way.module is not None and is_linked_by_phone(way)),
        "module-bound": marked(module_stage, "module.is_bound", is_bound),
    },
    "phone": {
        "phone-not-linked": marked(phone_stage, "app.is_linked", is_linked_by_phone),
        "phone-text": marked(phone_stage, "app.has_text", lambda way: way.has_words),
        "phone-ending": marked(phone_stage, "app.has_ending", is_ended),
    },
    "air": {"air-far": marked(air_stage, "rest.is_near", lambda way: bool(way.air))},
    "program": {
        "program-none": marked(program_stage, "program.is_there", lambda way: way.is_board),
        "program-words": marked(program_stage, "program.has_words", lambda way: way.has_words),
        "program-waits": marked(program_stage, "program.is_prompt", lambda way: way.is_board),
    },
    "rule": {
        "program-pin": marked(program_stage, "program.is_on_pin", lambda way: way.is_board),
        "program-inverted": marked(program_stage, "program.is_upright", lambda way: way.is_board and not way.is_pixels),
    },
    "input": {
        "knob-trembles": marked(input_stage, "rest.is_still", lambda way: way.has_knob),
        "input-open": at_contact("contact open"),
        "input-shut": at_contact("contact shorted"),
    },
    "terminal": {
        "terminal-ending": marked(module_stage, "terminal.has_ending", has_terminal),
        "terminal-speed": marked(module_stage, "terminal.is_at_speed", has_terminal),
        "terminal-key": marked(module_stage, "terminal.is_key_up", lambda way: has_terminal(way) and has_set_up(way)),
    },
}


def _named(cause: str, part: Part, put: Put) -> Put:
    def put_named(way: Way) -> Broken | None:
        found = put(way)
        return None if found is None else found._replace(cause=cause, part=part)

    return put_named


BROKEN: Final[dict[str, Put]] = {
    cause: _named(cause, part, put) for part, causes in _BY_PART.items() for cause, put in causes.items()
}
