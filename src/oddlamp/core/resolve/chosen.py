"""Which part a plan chooses, the user's own figures for it, and the window it is fed in."""

from oddlamp.core.base import Model
from oddlamp.core.design.supplies import Picked
from oddlamp.core.parts.models import Catalog, LogicPart
from oddlamp.core.parts.sourced import Sourced
from oddlamp.core.plan.fields import OwnValue, PartChoice


def pick_part(choice: PartChoice | None, *, proposal: str, catalog: Catalog) -> tuple[str, Picked]:
    """Return the part id a choice names, or the proposed one with its reason."""
    if choice is not None and choice.part is not None:
        return choice.part, Picked(id=choice.part, label="", origin="own")
    proposed = catalog.proposals[proposal]
    part = proposed.part or ""
    return part, Picked(id=part, label="", origin="proposed", why=proposed.why)


def own_figures(chooser: Model | None) -> dict[str, OwnValue]:
    """Return the user's own figures that something of a plan gives for the part it chooses."""
    choice: PartChoice | None = getattr(chooser, "choice", None)
    return choice.overrides if choice is not None else {}


def is_fed_past_regulator(part: LogicPart, fed_v: float) -> bool:
    """Tell whether volts go to the pin that a part's own pins stand at, and not through its regulator: where they are no more."""
    if part.supply_v is not None:
        return fed_v <= part.supply_v.high
    return part.logic_voltage_v is None or fed_v < part.logic_voltage_v.value


def window_of(part: LogicPart, fed_v: float) -> Sourced | None:
    """Return the window that volts have to be in: of the supply pin, or of the regulator's input; None where none is stated."""
    return part.supply_v if is_fed_past_regulator(part, fed_v) else part.input_window_v
