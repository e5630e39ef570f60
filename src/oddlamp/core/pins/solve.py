"""The best whole assignment of lines to pins, exactly: branch and bound over ports, blocks and shared outputs, a weighted matching inside.

Best in this order: as many lines placed as can be; as many left on the pin they were shown with; the least cost.
Lines of like cost take pins in their own order. The limit of the search counts nodes and never time, so that one
question always has one answer.
"""

from bisect import bisect_left
from collections.abc import Sequence
from itertools import combinations
from typing import Final, NamedTuple

from oddlamp.core.parts.pins import Pin
from oddlamp.core.plan.signals import Needs

NODES_MOST: Final = 250


class Wanted(NamedTuple):
    """A line that wants a pin.

    ``costs`` has what each pin would cost it, ``barred`` the labels it may not have for a reason of its own; ``held`` is the
    pin the user gave it, ``shown`` the one it had when it was last looked at; ``takes`` is the timer that serving it takes
    from PWM; ``mate`` is the place of the line that must be on the same serial port where this one hears on a pin that
    only the port's receiver reads.
    """

    key: str
    needs: Needs
    costs: tuple[int, ...]
    barred: frozenset[str] = frozenset()
    held: str | None = None
    shown: str | None = None
    takes: str | None = None
    mate: int | None = None


class Group(NamedTuple):
    """Lines that had better lie in one of these blocks, given as pins in the order of the lines; else it costs so much."""

    members: tuple[int, ...]
    blocks: tuple[tuple[str, ...], ...]
    cost: int


class Placement(NamedTuple):
    """A label for each line, or None; ``level`` is (left out, moved, cost); not proven where the search was cut short."""

    labels: tuple[str | None, ...]
    level: tuple[int, int, int]
    is_proven: bool


def can_take(pin: Pin, wanted: Wanted) -> bool:
    """Tell whether a pin, free and undisturbed, could serve a line."""
    return wanted.needs <= pin.abilities and pin.label not in wanted.barred


def drives_pwm(pin: Pin, wanted: Wanted) -> tuple[str, str] | None:
    """Return the timer and the output that a line would use at a pin, or None where it needs none."""
    return (pin.timer, pin.channel) if "pwm" in wanted.needs and pin.timer and pin.channel else None


def place(
    pins: Sequence[Pin], wanted: Sequence[Wanted], groups: Sequence[Group] = (), *, nodes_most: int = NODES_MOST
) -> Placement:
    """Give lines their pins.

    Args:
        pins: the pins a user may have, in the order of the board.
        wanted: the lines in their order, each with a cost for every pin.
        groups: what had better stay together.
        nodes_most: how many matchings are tried at most.
    """
    if (shown := _as_shown(pins, wanted, groups)) is not None:
        return shown
    from oddlamp.core.pins.search import Search  # half a second to import, and mostly not needed

    search = Search(pins, wanted, groups, nodes_most)
    open_timers = sorted({it.takes for it in wanted if it.takes and it.held is None} - search.timers_held)
    best = search.best(frozenset(open_timers))
    if best.level[0]:  # with a taker left out, more lines may find a pin
        for count in range(1, len(open_timers) + 1):
            for free in combinations(open_timers, count):
                other = search.best(frozenset(open_timers) - set(free))
                best = min(best, other, key=lambda it: it.level)
    return best


def _as_shown(pins: Sequence[Pin], wanted: Sequence[Wanted], groups: Sequence[Group]) -> Placement | None:
    """Return what is shown where all of it still fits: nothing left out and nothing moved leaves nothing to search."""
    by_label = {pin.label: pin for pin in pins}
    labels = tuple(it.held if it.held is not None else it.shown for it in wanted)
    on_board = [label for label in labels if label in by_label]
    if len(set(on_board)) < len(on_board):
        return None
    timers, outputs = {it.takes for it in wanted if it.takes}, set[tuple[str, str]]()
    for it, label in zip(wanted, labels, strict=True):
        pin = by_label.get(label or "")
        if pin is None:
            if it.held is None:
                return None
            continue
        use = drives_pwm(pin, it)
        if it.held is None and (not can_take(pin, it) or (use is not None and use[0] in timers)):
            return None
        if use is not None:
            if use in outputs:
                return None
            outputs.add(use)
        if it.held is None and it.mate is not None and "software-serial-in" not in pin.abilities:
            mate = by_label.get(labels[it.mate] or "")
            if mate is None or mate.port != pin.port or "uart-tx" not in mate.abilities:
                return None
    at = {pin.label: row for row, pin in enumerate(pins)}
    cost = sum(it.costs[at[str(label)]] for it, label in zip(wanted, labels, strict=True) if it.held is None)
    apart = sum(group.cost for group in groups if tuple(labels[it] for it in group.members) not in group.blocks)
    return Placement(labels, (0, 0, cost + apart), is_proven=True)


def competing(pins: Sequence[Pin], wanted: Sequence[Wanted], left_out: int) -> tuple[int, ...]:
    """Name a minimal set of lines that compete for too little: drop any one of them and the rest fit.

    Args:
        pins: the pins of the board.
        wanted: the lines, those with a pin of their own included.
        left_out: a line that is left without one.
    Returns:
        Places of lines, in order. From the alternating tree of the matching (Hall's theorem), then by leaving out one
        after the other what is not needed for it.
    """
    placed = place(pins, [it._replace(costs=(0,) * len(pins), shown=None) for it in wanted])
    at = {label: line for line, label in enumerate(placed.labels) if label is not None}
    tree, todo = {left_out}, [left_out]
    while todo:
        it = wanted[todo.pop()]
        for pin in pins:
            other = at.get(pin.label)
            if other is not None and other not in tree and can_take(pin, it):
                tree.add(other)
                todo.append(other)
    outputs = {use for line in tree for pin in pins if (use := drives_pwm(pin, wanted[line]))}
    taken = [line for line, it in enumerate(wanted) if it.takes is not None and any(it.takes == use[0] for use in outputs)]
    sharing = [line for line, it in enumerate(wanted) if any(drives_pwm(pin, it) in outputs for pin in pins)]
    chosen = sorted({*tree, *taken, *sharing})
    if fits(pins, wanted, chosen):  # ports in pairs: anything may matter
        chosen = list(range(len(wanted)))
    # What wants something else goes first, so that the lines that are left speak of one thing; the line itself goes last.
    order = sorted(chosen, key=lambda it: (it == left_out, wanted[it].needs == wanted[left_out].needs, -it))

    def rest(begun: int, count: int) -> list[int]:
        gone = set(order[begun : begun + count])
        return [it for it in chosen if it not in gone]

    begun = 0
    while begun < len(order):  # as many at once as can go; the one after them is needed
        counts = range(1, len(order) - begun + 1)
        count = bisect_left(counts, True, key=lambda it, at=begun: fits(pins, wanted, rest(at, it)))  # type: ignore[misc]
        chosen = rest(begun, count)
        begun += count + 1
    return tuple(chosen)


def fits(pins: Sequence[Pin], wanted: Sequence[Wanted], kept: Sequence[int]) -> bool:
    """Tell whether each of these lines finds a pin, were there no others."""
    at: dict[int | None, int] = {line: place for place, line in enumerate(kept)}
    plain = [wanted[it]._replace(costs=(0,) * len(pins), shown=None, mate=at.get(wanted[it].mate)) for it in kept]
    return place(pins, plain).level[0] == 0
