"""Pins given by an integer programme, written from the words of the spec alone: placed, then moved, then cost.

Solved by HiGHS through ``scipy.optimize.milp``, which shares nothing with the matching of the product.
"""

from collections.abc import Sequence
from typing import Any

import numpy as np
from scipy.optimize import Bounds, LinearConstraint, milp
from scipy.sparse import csr_matrix

from oddlamp.core.parts.pins import Pin
from oddlamp.core.pins.solve import Group, Wanted

Row = dict[int, float]


def best_level(pins: Sequence[Pin], wanted: Sequence[Wanted], groups: Sequence[Group]) -> tuple[int, int, int]:
    """Return how many lines are left out, how many moved, and the least cost."""
    index: dict[Any, int] = {}

    def at(*name: Any) -> int:
        return index.setdefault(name, len(index))

    rows: list[tuple[Row, float]] = []  # each at most so much
    equal: list[tuple[Row, float]] = []
    held = {line: it.held for line, it in enumerate(wanted) if it.held is not None}
    uses: dict[tuple[str, str], list[int]] = {}
    for line, it in enumerate(wanted):
        places = []
        for pin in pins:
            may = pin.label == it.held if it.held is not None else it.needs <= set(pin.can) and pin.label not in it.barred
            if not may:
                continue
            x = at("x", line, pin.label)
            places.append(x)
            if "pwm" in it.needs and pin.timer is not None:
                uses.setdefault((pin.timer, str(pin.channel)), []).append(x)
                if it.held is None:
                    for other, its in enumerate(wanted):
                        if its.takes == pin.timer:
                            rows.append(({x: 1, at("on", other): 1}, 1))
        if it.held is not None:
            equal.append((dict.fromkeys(places, 1), 1))
        on = at("on", line)
        equal.append(({**dict.fromkeys(places, 1), on: -1}, 0))
    for pin in pins:
        rows.append(({at("x", line, pin.label): 1 for line in range(len(wanted)) if ("x", line, pin.label) in index}, 1))
    for same in uses.values():
        rows.append((dict.fromkeys(same, 1), 1))
    for line, it in enumerate(wanted):
        if it.mate is None or line in held:
            continue
        for pin in pins:
            if "software-serial-in" in pin.can or ("x", line, pin.label) not in index:
                continue
            sends = [other.label for other in pins if other.port == pin.port and "uart-tx" in other.can]
            mates = {at("x", it.mate, label): -1.0 for label in sends if ("x", it.mate, label) in index}
            rows.append(({at("x", line, pin.label): 1, **mates}, 0))
    for number, group in enumerate(groups):
        whole: Row = {}
        for place, block in enumerate(group.blocks):
            names = [("x", line, label) for line, label in zip(group.members, block, strict=True)]
            if all(name in index for name in names):
                y = at("y", number, place)
                whole[y] = 1
                for name in names:
                    rows.append(({y: 1, index[name]: -1}, 0))
        if whole:
            rows.append((whole, 1))
    count = len(index)
    left_out, moved, cost = np.zeros(count), np.zeros(count), np.zeros(count)
    for name, x in index.items():
        if name[0] == "x" and wanted[name[1]].held is None:
            it = wanted[name[1]]
            left_out[x] = -1
            moved[x] = -(it.shown == name[2])
            cost[x] = it.costs[[pin.label for pin in pins].index(name[2])]
        elif name[0] == "y":
            cost[x] = -groups[name[1]].cost
    limits = [_limits(rows, count, -np.inf), _limits(equal, count, None)]
    found: list[int] = []
    for aim in (left_out, moved, cost):
        answer = milp(aim, constraints=limits, integrality=np.ones(count), bounds=Bounds(0, 1), options={"mip_rel_gap": 0})
        if answer.x is None:
            raise ValueError(f"no answer: {answer.message}")
        best = round(float(aim @ np.round(answer.x)))
        found.append(best)
        limits.append(LinearConstraint(csr_matrix(aim), -np.inf, best + 0.5))
    open_lines = sum(it.held is None for it in wanted)
    shown = sum(it.held is None and it.shown in {pin.label for pin in pins} for it in wanted)
    return open_lines + found[0], shown + found[1], found[2] + sum(group.cost for group in groups)


def _limits(rows: list[tuple[Row, float]], count: int, least: float | None) -> LinearConstraint:
    at = [(row, x, factor) for row, (factors, _) in enumerate(rows) for x, factor in factors.items()]
    matrix = csr_matrix(([it[2] for it in at], ([it[0] for it in at], [it[1] for it in at])), shape=(len(rows), count))
    most = np.array([it[1] for it in rows])
    return LinearConstraint(matrix, most if least is None else np.full(len(rows), least), most)
