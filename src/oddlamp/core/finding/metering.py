"""The tests of the knowledge file that are steps of the bring-up: which step each is on a way, what it shows, and what a reading is called."""

from typing import Final

from oddlamp.core.bench.judge import OPEN_OHM
from oddlamp.core.bench.step import Step
from oddlamp.core.finding.build import Build
from oddlamp.core.finding.way import Way

NOTHING_V: Final = 0.3
LIT: Final = frozenset({"lit-volts", "led-drop"})
BRIDGED_OHM: Final = 0.3
UNBRIDGED_OHM: Final = 1e4  # what a build shows from plus to ground, power off; from memory


def reading_class(step: Step, value: float) -> str:
    """Say what a reading of a bring-up step is, in the words of the knowledge file: within, nothing, reversed, open, low or high."""
    least, most = step.slack
    if least <= value <= most:
        return "within"
    if step.unit == "ohm" and value >= OPEN_OHM:
        return "open"
    if step.unit == "V" and abs(value) < NOTHING_V and value < least:
        return "nothing"
    if step.unit == "V" and value < -NOTHING_V:
        return "reversed"
    return "low" if value < least else "high"


def step_ids(way: Way) -> dict[str, str]:
    """Return which bring-up step each measuring test of the knowledge file is on this way, by the test's id."""
    steps = {it.id: it for it in way.steps}
    rail, module, line = way.rail, way.module, way.line
    resistor = next((it.id for it in way.pieces(line) if it.kind == "resistor" and it.id.startswith(f"{line}.resistor")), "")
    entry = way.entry if way.has_contact else ""
    found = {
        "rail-volts": next((it for it in (f"rail.{rail.id}", f"set.{rail.id}") if it in steps), "") if rail else "",
        "load-volts": f"load.{rail.id}" if rail else "",
        "source-volts": f"rail.{rail.feed.from_rail}" if rail and rail.feed and rail.feed.kind == "converter" else "",
        "short-ohms": f"short.rail.{rail.id}" if rail else "",
        "board-volts": f"fed.{way.lamp.host}",
        "module-volts": f"fed.{module.id}" if module and module is not way.host else "",
        "idle-module": f"idle.{way.to_module}",
        "idle-board": f"idle.{way.to_board}",
        "lit-volts": next((it for it in (f"lit.{line}", f"on.{line}") if it in steps), ""),
        "led-drop": f"drop.{line}",
        "dark-volts": next((it for it in (f"dark.{line}", f"still.{line}") if it in steps), ""),
        "resistor-ohms": f"ohms.{resistor}",
        "divider-upper-ohms": f"ohms.{way.to_module}.upper",
        "divider-lower-ohms": f"ohms.{way.to_module}.lower",
        "data-way": f"joined.{line}",
        "pixels-volts": f"fed.{way.lamp.id}",
        "strip-lost": f"lost.{way.lamp.id}",
        "input-high": f"high.{entry}",
        "input-low": f"low.{entry}",
    }
    return {name: it for name, it in found.items() if it in steps and (name not in LIT or _can_tell(way, steps[it]))}


def _can_tell(way: Way, step: Step) -> bool:
    """Tell whether a reading at a lamp tells anything: next to nothing is not right there, nor all that the board has."""
    least, most = step.slack
    has_v = way.host.logic.value if way.host.logic is not None else None
    is_all_right = step.id.startswith("drop.") and has_v is not None and least <= has_v <= most
    return least > NOTHING_V and not is_all_right


MEASURED: Final = (
    "rail-volts", "load-volts", "source-volts", "short-ohms", "board-volts", "module-volts", "idle-module", "idle-board", "lit-volts", "led-drop", "dark-volts",
    "resistor-ohms", "divider-upper-ohms", "divider-lower-ohms", "data-way", "pixels-volts", "strip-lost", "input-high", "input-low",
)  # fmt: skip


def step_reading(build: Build, test: str, step: Step) -> float | None:
    """Return what a meter shows at a bring-up step of this build; None where it does not tell."""
    match test:
        case "rail-volts":
            return build.rail_v(is_lit=False)
        case "load-volts":
            return build.rail_v(is_lit=True)
        case "source-volts":
            return build.way.finder.model.devices.rail_v(step.id, build.fault)
        case "short-ohms":
            return UNBRIDGED_OHM if build.states.rest.is_apart else BRIDGED_OHM
        case "strip-lost":
            return build.strip_lost_v()
        case "board-volts" | "module-volts" | "pixels-volts":
            shown = build.way.finder.model.reading(step, build.fault)
            return shown if not build.broken.source_ohm else min(shown or 0.0, build.rail_v(is_lit=False))
        case _:
            is_lit = step.id.startswith(("lit.", "drop.", "on."))
            return build.way.finder.model.reading(step, build.fault_while(is_lit=is_lit))
