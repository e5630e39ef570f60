"""Boards and lines drawn at random, the shipped boards among them."""

import random

from oddlamp.catalog.load import load_catalog
from oddlamp.core.parts.pins import Pin
from oddlamp.core.pins.assign import Question, questions
from oddlamp.core.pins.solve import Group, Wanted
from oddlamp.core.plan.document import Document, load_plan, merge_patch
from oddlamp.core.resolve.resolve import resolve
from tests.builders import document

KINDS = (frozenset({"digital-out"}), frozenset({"digital-in"}), frozenset({"digital-out", "pwm"}), frozenset({"analog-in"}))


def drawn(seed: int, most: int = 20) -> tuple[list[Pin], list[Wanted], list[Group]]:
    """Draw a board and lines that want its pins; many do not fit."""
    rng = random.Random(seed)
    board = rng.choice(list(load_catalog().boards.values()))
    pins = list(board.usable_pins)
    if rng.random() < 0.5:
        pins = rng.sample(pins, rng.randint(1, len(pins)))
    count = rng.randint(1, most)
    labels = [pin.label for pin in pins]
    spare = rng.sample(labels, len(labels))
    wanted = []
    for at in range(count):
        needs = rng.choices(KINDS, (3, 2, 4, 1))[0]
        it = Wanted(f"l{at}", needs, tuple(rng.choice((0, 0, 1, 2, 5, 50)) for _ in pins))
        if rng.random() < 0.15 and spare:
            it = it._replace(held=spare.pop())
        elif rng.random() < 0.4:
            it = it._replace(shown=rng.choice(labels))
        if rng.random() < 0.1:
            it = it._replace(takes=rng.choice("012"), needs=KINDS[0])
        if rng.random() < 0.2:
            it = it._replace(barred=frozenset(rng.sample(labels, len(labels) // 2)))
        wanted.append(it)
    for at in range(0, count - 1, 2):
        if rng.random() < 0.15:
            hears = {pin.label for pin in pins if pin.abilities & {"software-serial-in", "uart-rx"}}
            wanted[at] = wanted[at]._replace(needs=KINDS[0], takes=None)
            barred = frozenset(set(labels) - hears)
            wanted[at + 1] = wanted[at + 1]._replace(needs=KINDS[1], takes=None, barred=barred, mate=at)
    groups = []
    for _ in range(rng.choice((0, 0, 1, 2, 3))):
        size = min(rng.choice((2, 3)), count, len(pins))
        members = tuple(sorted(rng.sample(range(count), size)))
        blocks = tuple({tuple(labels[at : at + size]) for at in range(0, len(labels) - size + 1, rng.choice((1, 2)))})
        groups.append(Group(members, tuple(sorted(blocks)), rng.choice((1, 5, 20))))
    return pins, wanted, groups


def fifty(groups: int) -> Question:
    """Fifty lines on the 70-I/O board, so many lamps of several lines among them: what a real plan would ask."""
    catalog = load_catalog()
    lamps: Document = {"lamp": None}
    for n in range(groups):
        layout = {"layout": {"runs": [{"count": 8}]}} if n % 2 else {}
        lamps[f"c{n}"] = {"kind": "pixels-clocked" if n % 2 else "matrix", "host": "board", **layout}
    inputs: Document = {}
    for n in range(48 - sum(2 if n % 2 else 3 for n in range(groups))):
        if n % 4 > 1:
            lamps[f"l{n}"] = {"kind": "led", "host": "board", "channels": {"main": {}}}
        else:
            inputs[f"i{n}"] = {"kind": "button" if n % 4 else "knob", "host": "board"}
    board = {"nodes": {"board": {"choice": {"part": "board-5v-70io"}}}, "lamps": lamps, "inputs": inputs, "rules": None}
    plan = load_plan(merge_patch(document("smallest"), board))
    design = resolve(plan, catalog)
    lines = {name: it.line for name, it in design.signals.items()}
    return next(questions(plan, catalog, design.nodes, lines, {}))
