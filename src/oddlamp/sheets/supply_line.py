"""Rails under the line: what each feeds, where it lies, and the numbers that decide it."""

from dataclasses import dataclass
from typing import Annotated

from pydantic import Field

from oddlamp.core.design.design import Design
from oddlamp.core.design.supplies import RailDesign
from oddlamp.sheets.marks import Marks, State, state_at


@dataclass(frozen=True, slots=True, kw_only=True)
class Riser:
    """Supply that rises from a rail into a stage."""

    rail: str
    stage: str
    state: State


@dataclass(frozen=True, slots=True, kw_only=True)
class RailLine:
    """A rail as it lies under the line: from the first column it feeds to the last."""

    id: str
    label: str
    numbers: str
    state: State
    first_column: int
    last_column: int
    depth: Annotated[int, Field(description="0 for the uppermost rail; rails that overlap lie deeper")]


def lay_supply(
    design: Design, columns: dict[str, int], marks: Marks, opens: dict[str, str]
) -> tuple[tuple[RailLine, ...], tuple[Riser, ...]]:
    """Lay each rail under what it feeds; rails that share columns, or stand side by side, lie one below the other."""
    risers: list[Riser] = []
    for node in design.nodes.values():
        if node.rail_id in design.rails and node.stage in columns:
            risers.append(
                Riser(rail=f"rails.{node.rail_id}", stage=node.stage, state=state_at(f"rails.{node.rail_id}", marks, opens))
            )
    for lamp in design.lamps.values():
        if lamp.rail_id in design.rails and lamp.takes_rail:
            risers.append(
                Riser(rail=f"rails.{lamp.rail_id}", stage=lamp.stage, state=state_at(f"rails.{lamp.rail_id}", marks, opens))
            )
    rails: list[RailLine] = []
    last = max(columns.values(), default=0)
    for rail in design.rails.values():
        fed = [columns[riser.stage] for riser in risers if riser.rail == rail.stage]
        ends = [
            columns[node.stage]
            for node in design.nodes.values()
            if node.end == rail.end and node.end is not None and node.stage in columns
        ]
        span = (min(fed or ends or [0]), max(fed or ends or [last]))
        depth = next(
            level
            for level in range(len(design.rails) + 1)
            # A rail reaches past its stages to either side, so that two beside each other would run into one.
            if not any(it.depth == level and it.first_column <= span[1] + 1 and span[0] <= it.last_column + 1 for it in rails)
        )
        numbers = _rail_numbers(design, rail)
        rails.append(
            RailLine(
                id=rail.stage,
                label=rail.label,
                numbers=numbers,
                state=state_at(rail.stage, marks, opens),
                first_column=span[0],
                last_column=span[1],
                depth=depth,
            )
        )
    return tuple(rails), tuple(risers)


def _rail_numbers(design: Design, rail: RailDesign) -> str:
    """Write what decides a rail: its volts, what it carries at its worst instant, and what feeds it gives."""
    budget = design.budgets[rail.id]
    if rail.voltage.value is None:
        return rail.voltage.text
    gives = f" of {budget.gives.text}" if budget.gives is not None else ""
    return f"{rail.voltage.text}, {budget.worst.text}{gives}"
