"""The search behind ``place``: branch and bound over ports, blocks and shared outputs, with a weighted matching inside.

What a group adds at least is read off the reduced costs of the matching, so that few nodes are looked into.

Source of the matching: ``scipy.optimize.linear_sum_assignment`` (D. F. Crouse, 2016, after Jonker and Volgenant).
"""

import heapq
import math
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Final, NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import linear_sum_assignment

from oddlamp.core.parts.pins import Pin
from oddlamp.core.pins.solve import Group, Placement, Wanted, can_take, drives_pwm
from oddlamp.core.plan.signals import Needs

SLACK: Final = 1.0  # floats of this size are off by hundredths; a step of a cost is hundreds of thousands
Mask = NDArray[np.bool_]


@dataclass(frozen=True)
class _Node:
    """A matching under restrictions; ``bound`` is the least level it can lead to, ``extra`` what each open group adds to it."""

    mask: Mask
    at: dict[int, int]
    bound: int
    given_up: frozenset[int]
    scaled: int
    reduced: NDArray[np.float64]
    extra: dict[int, float]


class _Ahead(NamedTuple):
    """A restriction that is not looked into yet, with the least level it can lead to."""

    bound: int
    mask: Mask
    given_up: frozenset[int]


class Search:
    """One board and its lines; pins are rows, lines are columns."""

    def __init__(self, pins: Sequence[Pin], wanted: Sequence[Wanted], groups: Sequence[Group], nodes_most: int) -> None:
        self.pins, self.wanted, self.groups, self.nodes_most = pins, wanted, groups, nodes_most
        self.row = {pin.label: at for at, pin in enumerate(pins)}
        self.held = {at: self.row[it.held] for at, it in enumerate(wanted) if it.held in self.row}
        self.timers_held = {wanted[at].takes for at in self.held if wanted[at].takes}
        self.open = [at for at, it in enumerate(wanted) if it.held is None]
        rows, lines = len(pins), len(wanted)
        most = 1 + sum(sorted((max(it.costs, default=0) for it in wanted), reverse=True)[:rows]) + sum(it.cost for it in groups)
        self.move = most
        self.drop = most * (min(rows, lines) + 1)
        self.tie = 1 + min(rows, lines) * lines * rows  # more than all ties together
        self.blocks = [self._rows(group) for group in groups]
        self.places = [self._places(at) for at in range(len(groups))]
        self.tried = 0

    def _rows(self, group: Group) -> list[tuple[int, ...]]:
        """Return the blocks of a group as rows, those that the board has and that held lines allow."""
        known = [tuple(self.row[label] for label in block) for block in group.blocks if all(it in self.row for it in block)]
        return [
            rows for rows in known if all(self.held.get(line, row) == row for line, row in zip(group.members, rows, strict=True))
        ]

    def _places(self, at: int) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
        """Return the blocks of a group as rows, and its lines, both without those that are held: to be summed all at once."""
        members = self.groups[at].members
        kept = [it for it, line in enumerate(members) if line not in self.held]
        rows = np.array(self.blocks[at], dtype=np.intp).reshape(-1, len(members))
        return rows[:, kept], np.array([members[it] for it in kept], dtype=np.intp)

    @cached_property
    def costs(self) -> NDArray[np.float64]:
        """Pins by lines: what a line costs there, its place in order as the tie; placing it at all outweighs everything."""
        out = np.zeros((len(self.pins), len(self.wanted)))
        rows, lines = out.shape
        for at, it in enumerate(self.wanted):
            stays = np.array([pin.label == it.shown for pin in self.pins])
            level = np.array(it.costs, dtype=np.float64) - stays * self.move - self.drop
            out[:, at] = level * self.tie + (lines - at) * np.arange(-rows, 0)  # the first lines first, and leftmost
        return out

    def best(self, timers: frozenset[str]) -> Placement:
        """Find the best placement while these timers are taken from PWM; lines that take another are left out."""
        self.tried = 0
        root = self._node(_Ahead(-(2**62), self._mask(timers), frozenset()))
        found, found_level = self._dive(root)
        proven, count = False, 0
        heap: list[tuple[int, int, int, _Node | _Ahead]] = [(root.bound, 0, count, root)]
        while heap:
            bound, depth, _, node = heapq.heappop(heap)
            if found_level is not None and bound >= found_level:
                proven = True
                break
            if found_level is not None and self.tried >= self.nodes_most:
                break
            if isinstance(node, _Ahead):
                node = self._node(node)
                if node.bound > bound:  # dearer than it looked: others first
                    heapq.heappush(heap, (node.bound, depth, count := count + 1, node))
                    continue
            total, children = self._split(node)
            if total is not None and (found_level is None or total < found_level):
                found, found_level = node, total
            for child in children:
                if found_level is None or child.bound < found_level:
                    heapq.heappush(heap, (child.bound, depth - 1, count := count + 1, child))
        proven = proven or not heap
        at = {**self.held, **found.at}
        labels = tuple(
            self.wanted[line].held or (self.pins[at[line]].label if line in at else None) for line in range(len(self.wanted))
        )
        return Placement(labels, self._told(found.at, found_level if found_level is not None else found.bound), proven)

    def _dive(self, node: _Node) -> tuple[_Node, int | None]:
        """Go down by the cheapest choice each time, for something good to measure all else by."""
        best, level = node, None
        while self.tried < self.nodes_most:
            total, children = self._split(node)
            if total is not None and (level is None or total < level):
                best, level = node, total
            if not children:
                break
            cheapest = min(children, key=lambda it: it.bound)
            node = self._node(cheapest) if isinstance(cheapest, _Ahead) else cheapest
        return best, level

    def _split(self, node: _Node) -> tuple[int | None, list[_Node | _Ahead]]:
        """Return the level of a node as it stands, None where two of its lines disturb each other, and what it splits into."""
        children: list[_Node | _Ahead] = [_Ahead(node.bound, mask, node.given_up) for mask in self._conflict(node)]
        if children:
            return None, children
        broken = [at for at in range(len(self.groups)) if not self._is_whole(at, node.at)]
        total = self._level(node.at) + sum(self.groups[at].cost for at in broken)
        return total, self._decide(node, [at for at in broken if at not in node.given_up])

    def _told(self, at: Mapping[int, int], level: int) -> tuple[int, int, int]:
        out = len(self.open) - len(at)
        stay = sum(self._stays(line, row) for line, row in at.items())
        moved = sum(self.wanted[line].shown in self.row for line in self.open) - stay
        return out, moved, level + self.drop * len(at) + self.move * stay

    def _stays(self, line: int, row: int) -> bool:
        return self.pins[row].label == self.wanted[line].shown

    def _level(self, at: Mapping[int, int]) -> int:
        return sum(self.wanted[line].costs[row] - self._stays(line, row) * self.move - self.drop for line, row in at.items())

    def _mask(self, timers: frozenset[str]) -> Mask:
        taken = set(self.held.values())
        outputs = {drives_pwm(self.pins[row], self.wanted[line]) for line, row in self.held.items()}
        blocked = timers | self.timers_held
        mask = np.zeros((len(self.pins), len(self.wanted)), dtype=np.bool_)
        kinds: dict[tuple[Needs, frozenset[str]], NDArray[np.bool_]] = {}
        for line in self.open:
            it = self.wanted[line]
            if it.takes is not None and it.takes not in blocked:
                continue
            if (it.needs, it.barred) not in kinds:
                kinds[it.needs, it.barred] = np.array(
                    [
                        row not in taken
                        and can_take(pin, it)
                        and ((use := drives_pwm(pin, it)) is None or (use not in outputs and use[0] not in blocked))
                        for row, pin in enumerate(self.pins)
                    ],
                    dtype=np.bool_,
                )
            mask[:, line] = kinds[it.needs, it.barred]
        return mask

    def _node(self, ahead: _Ahead) -> _Node:
        self.tried += 1
        mask, given_up = ahead.mask, ahead.given_up
        rows, lines = mask.shape
        costs = np.concatenate([np.where(mask, self.costs, self.drop * self.tie), np.zeros((rows, rows))], axis=1)
        found = linear_sum_assignment(costs)[1]
        at = {int(line): row for row, line in enumerate(found) if line < lines and mask[row, line]}
        scaled = self._level(at) * self.tie + sum((lines - line) * (row - rows) for line, row in at.items())
        reduced = _reduced(costs[:, : lines + 1], np.minimum(found, lines))[:, :lines] if self.groups else costs
        extra = self._extra(reduced, given_up)
        node = _Node(mask, at, 0, given_up, scaled, reduced, extra)
        return replace(node, bound=max(ahead.bound, self._bound(node, sum(extra.values()))))

    def _bound(self, node: _Node, extra: float) -> int:
        """Return the least level of a matching that costs so much more; ties lie between a level and the one below."""
        level = -(-(node.scaled + math.floor(extra - SLACK)) // self.tie) if extra > SLACK else self._level(node.at)
        return level + sum(self.groups[it].cost for it in node.given_up)

    def _extra(self, reduced: NDArray[np.float64], given_up: frozenset[int]) -> dict[int, float]:
        """Return what each open group adds at least: what its cheapest block adds, or what being apart costs.

        Reduced costs of different lines add up, so groups that share a line are not counted twice.
        """
        seen: set[int] = set()
        extra: dict[int, float] = {}
        for at, group in enumerate(self.groups):
            if at in given_up or not seen.isdisjoint(group.members):
                continue
            seen.update(group.members)
            apart = float(group.cost * self.tie)
            extra[at] = float(self._adds(reduced, at).min(initial=apart))
        return extra

    def _adds(self, reduced: NDArray[np.float64], at: int) -> NDArray[np.float64]:
        """Return what each block of a group adds to a matching at least."""
        rows, lines = self.places[at]
        added: NDArray[np.float64] = reduced[rows, lines].sum(axis=1)
        return added

    def _conflict(self, node: _Node) -> Iterator[Mask]:
        """Split where two lines want one timer output, or a line hears on a port that its mate does not speak on."""
        used: dict[tuple[str, str], int] = {}
        for line, row in node.at.items():
            use = drives_pwm(self.pins[row], self.wanted[line])
            if use is not None and used.setdefault(use, row) != row:
                dimmed = [at for at in self.open if "pwm" in self.wanted[at].needs]
                for barred in (row, used[use]):
                    mask = node.mask.copy()
                    mask[barred, dimmed] = False
                    yield mask
                return
        for line, row in node.at.items():
            mate, pin = self.wanted[line].mate, self.pins[row]
            if mate is None or "software-serial-in" in pin.abilities:
                continue
            sends = [at for at, it in enumerate(self.pins) if it.port == pin.port and "uart-tx" in it.abilities]
            if self.held.get(mate, node.at.get(mate)) in sends:
                continue
            mask = node.mask.copy()
            mask[row, line] = False
            yield mask
            for send in sends:
                if mate not in self.held and node.mask[send, mate]:
                    yield self._fixed(node.mask, [(line, row), (mate, send)])
            return

    def _fixed(self, mask: Mask, places: Iterable[tuple[int, int]]) -> Mask:
        mask = mask.copy()
        for line, row in places:
            mask[:, line] = False
            mask[row, :] = False
        for line, row in places:
            mask[row, line] = True
        return mask

    def _is_whole(self, number: int, at: Mapping[int, int]) -> bool:
        there = tuple(self.held.get(line, at.get(line, -1)) for line in self.groups[number].members)
        return there in self.blocks[number]

    def _decide(self, node: _Node, broken: Sequence[int]) -> list[_Node | _Ahead]:
        """Split on the first group that lies in no block: each block it may lie in, or none."""
        if not broken:
            return []
        at = broken[0]
        others = sum(node.extra.values()) - node.extra.get(at, 0.0)
        given_up = node.given_up | {at}
        apart = replace(node, given_up=given_up, extra={it: more for it, more in node.extra.items() if it != at})
        choices: list[_Node | _Ahead] = [replace(apart, bound=max(node.bound, self._bound(apart, others)))]
        rows, lines = self.places[at]
        adds = self._adds(node.reduced, at) if at in node.extra else np.zeros(len(rows))
        for block in np.flatnonzero(node.mask[rows, lines].all(axis=1)):
            bound = max(node.bound, self._bound(node, others + float(adds[block])))
            places = list(zip(lines.tolist(), rows[block].tolist(), strict=True))
            choices.append(_Ahead(bound, self._fixed(node.mask, places), node.given_up))
        return choices


def _reduced(costs: NDArray[np.float64], found: NDArray[np.intp]) -> NDArray[np.float64]:
    """Return the reduced costs of a matching: what any matching with a pair costs more, at least, than the best.

    The prices of columns are shortest paths over the matched pairs (Bellman and Ford), all at once. The last column stands
    for all pins without a line: they cost the same everywhere, so that their prices are one.
    """
    over = costs - costs[np.arange(len(found)), found][:, None]
    price = np.zeros(costs.shape[1])
    for _ in range(len(found)):
        lower = np.minimum(price, (over + price[found][:, None]).min(axis=0))
        if (lower == price).all():
            break
        price = lower
    return np.maximum(over + price[found][:, None] - price, 0.0)
