"""Drawings are measured: no thread runs through a part or a label, no label lies on another, everything is on the page."""

from collections.abc import Iterator
from dataclasses import replace
from itertools import pairwise

import pytest

from oddlamp.catalog.load import demo_plan
from oddlamp.core.bench.drawing import Box, Drawing, Text, drawing
from oddlamp.core.bench.netlist import netlist
from oddlamp.core.bench.wiring import wiring
from oddlamp.core.design.design import Design
from oddlamp.core.plan.document import load_plan
from oddlamp.core.resolve.resolve import resolve
from tests.builders import plan_with
from tests.core.bench.drawn import CATALOG, LABELS, drawn_design
from tests.core.bench.test_wiring import shipped
from tests.full import IS_PROOF

COUNT = 50 if IS_PROOF else 20
Area = tuple[float, float, float, float]
TOUCH = 0.5


def drawn_of(design: Design) -> Drawing:
    return drawing(design, wiring(design, netlist(design)))


def area_of(text: Text) -> Area:
    """The rectangle that a text takes, its line of writing being a fifth above its foot."""
    left = {"start": text.x, "middle": text.x - text.w / 2, "end": text.x - text.w}[text.anchor]
    return left, text.y - 0.8 * text.h, left + text.w, text.y + 0.2 * text.h


def body_of(box: Box) -> Area:
    return box.x, box.y, box.x + box.w, box.y + box.h


def overlap(a: Area, b: Area) -> bool:
    return a[0] + TOUCH < b[2] and b[0] + TOUCH < a[2] and a[1] + TOUCH < b[3] and b[1] + TOUCH < a[3]


def texts_of(made: Drawing) -> Iterator[Text]:
    for box in made.boxes:
        yield box.label
        yield from (pin.told for pin in box.pins if pin.told.told)
    yield from (it.label for it in made.threads if it.label is not None)


def pieces_of(made: Drawing) -> Iterator[tuple[str, Area]]:
    """Every straight piece of every thread, as a rectangle without thickness."""
    for thread in made.threads:
        for stroke in thread.strokes:
            for (ax, ay), (bx, by) in pairwise((it.x, it.y) for it in stroke):
                assert ax == bx or ay == by, "threads run straight across or down"
                yield thread.net, (min(ax, bx), min(ay, by), max(ax, bx), max(ay, by))


def crosses(piece: Area, area: Area) -> bool:
    return piece[0] < area[2] - TOUCH and area[0] + TOUCH < piece[2] + 1e-9 and piece[1] < area[3] - TOUCH and area[1] + TOUCH < piece[3] + 1e-9  # fmt: skip


def measured(made: Drawing) -> None:
    """Hold a drawing to all of it."""
    texts = [area_of(it) for it in texts_of(made)]
    bodies = [body_of(it) for it in made.boxes]
    page = (0.0, 0.0, made.width, made.height)
    for area in (*texts, *bodies, *(it for _, it in pieces_of(made))):
        assert page[0] <= area[0], area
        assert page[1] <= area[1], area
        assert area[2] <= page[2], area
        assert area[3] <= page[3], area
    for at, area in enumerate(texts):
        assert not any(overlap(area, other) for other in texts[at + 1 :]), area
    for at, area in enumerate(bodies):
        assert not any(overlap(area, other) for other in bodies[at + 1 :]), area
    strokes = list(pieces_of(made))
    for net, piece in strokes:
        assert not [it for it in (*bodies, *texts) if crosses(piece, it)], (net, piece)
    for at, (net, piece) in enumerate(strokes):
        for other, second in strokes[at + 1 :]:
            if other != net:
                assert not lies_on(piece, second), (net, other)
    joined(made)


def lies_on(a: Area, b: Area) -> bool:
    """Tell whether two straight pieces run along each other."""
    for low, high in ((0, 1), (1, 0)):
        if a[high] == a[high + 2] == b[high] == b[high + 2]:
            return max(a[low], b[low]) + TOUCH < min(a[low + 2], b[low + 2])
    return False


def joined(made: Drawing) -> None:
    """Each net's strokes hang together, and every pin of every part is the end of one."""
    ends = {(at.x, at.y) for thread in made.threads for stroke in thread.strokes for at in (stroke[0], stroke[-1])}
    assert {(pin.x, pin.y) for box in made.boxes for pin in box.pins if pin.is_wired} <= ends
    for thread in made.threads:
        parts: list[set[tuple[float, float]]] = []
        areas = [it for net, it in pieces_of(made) if net == thread.net]
        for area in areas:
            met = [it for it in parts if any(touches(area, other) for other in it)]  # type: ignore[arg-type]
            for it in met:
                parts.remove(it)
            parts.append({area}.union(*met))  # type: ignore[arg-type]
        assert len(parts) == 1, thread.net


def touches(a: Area, b: Area) -> bool:
    return a[0] <= b[2] and b[0] <= a[2] and a[1] <= b[3] and b[1] <= a[3]


@pytest.mark.parametrize("name", shipped())
def test_what_ships_is_drawn_clean(name: str) -> None:
    measured(drawn_of(resolve(load_plan(shipped()[name]), CATALOG)))


@pytest.mark.parametrize("batch", range(COUNT // 10))
def test_drawn_plans_are_drawn_clean(batch: int) -> None:
    for seed in range(1000 + batch * 10, 1010 + batch * 10):
        measured(drawn_of(drawn_design(seed)))


def test_names_of_any_length_and_script_stay_inside() -> None:
    lamps = {f"l{at}": {"kind": "led", "host": "board", "label": label * 5} for at, label in enumerate((*LABELS, "月" * 10))}
    board = {"nodes": {"board": {"choice": {"part": "board-5v-70io"}, "label": "W" * 60}}}
    measured(drawn_of(resolve(plan_with(board, {"lamps": lamps}), CATALOG)))


def test_a_boards_pins_stand_as_they_do_on_it() -> None:
    design = resolve(load_plan(demo_plan()), CATALOG)
    (board,) = [it for it in drawn_of(design).boxes if it.piece == "board"]
    part = design.nodes["board"].part
    assert part is not None
    for row, side in (("bottom", board.x), ("top", board.x + board.w)):
        order = [pin.label for pin in part.pins if pin.row == row]
        mine = [pin.told.told for pin in sorted(board.pins, key=lambda it: it.y) if pin.x == side and pin.told.told in order]
        assert mine == [it for it in order if it in mine]
        assert mine


def test_a_thread_led_through_a_part_is_found() -> None:
    """The measure itself: a part moved onto a thread, a label onto another, a stroke left out."""
    made = drawn_of(resolve(load_plan(demo_plan()), CATALOG))
    measured(made)
    first = made.boxes[0]
    for wrong in (
        replace(made, boxes=(replace(first, x=first.x + 150), *made.boxes[1:])),
        replace(made, boxes=(replace(first, label=made.boxes[1].label), *made.boxes[1:])),
        replace(made, threads=(replace(made.threads[0], strokes=made.threads[0].strokes[1:]), *made.threads[1:])),
        replace(made, width=made.width / 2),
    ):
        with pytest.raises(AssertionError):
            measured(wrong)
