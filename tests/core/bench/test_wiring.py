"""The wiring list says the circuit and nothing else, and its pins are the program's."""

import csv
import io
import re
from collections import Counter, defaultdict

import pytest

from oddlamp.catalog.load import demo_names, demo_plan, start_data, start_names
from oddlamp.core.behaviour.compile import program_of
from oddlamp.core.bench.circuit import BAR, Circuit, Tap
from oddlamp.core.bench.lists import cut_list, parts_list
from oddlamp.core.bench.netlist import netlist
from oddlamp.core.bench.tables import CUTS_HEAD, PARTS_HEAD, WIRES_HEAD, as_csv, as_markdown, cut_rows, part_rows, wire_rows
from oddlamp.core.bench.wiring import Wiring, wiring
from oddlamp.core.design.design import Design
from oddlamp.core.firmware.pins import Pins
from oddlamp.core.plan.document import Document, edit_plan, load_plan
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.bench import bench_shown
from oddlamp.sheets.review import review
from tests.builders import plan_with
from tests.core.bench.drawn import CATALOG, LABELS, drawn_design
from tests.full import IS_PROOF

COUNT = 200 if IS_PROOF else 24
BATCH = 8
Place = tuple[str, str]


def listed(design: Design) -> Wiring:
    return wiring(design, netlist(design))


def shipped() -> dict[str, Document]:
    demos = {name: demo_plan(name) for name in demo_names()}
    return demos | {name: start_data(name)["plan"] for name in start_names()}


def wired_up(text: str) -> list[set[str]]:
    """Read a list back as a maker would, wire by wire: which places are joined, a part's legs among them."""
    rows = list(csv.DictReader(io.StringIO(text)))
    joined: list[set[str]] = []

    def join(*places: str) -> None:
        met = [it for it in joined if it & set(places)]
        for it in met:
            joined.remove(it)
        joined.append(set(places).union(*met))

    for row in rows:
        start, part, end = (row[it].removeprefix("'") for it in ("From", "Through", "To"))
        if part:
            name = part.split(" ", 1)[0]
            join(start, f"{name} 1")
            join(f"{name} 2", end)
        else:
            join(start, end)
    return joined


def of_circuit(circuit: Circuit, names: Wiring) -> list[set[str]]:
    """Write the nets of a circuit with the names of the list; a net's own strip is only a place to meet."""

    def called(tap: Tap) -> str:
        return (
            f"{names.designators[tap.piece]} {tap.pin}"
            if circuit.pieces[tap.piece].is_inline
            else " ".join(names.name(tap).split())
        )

    return [{called(tap) for tap in net.taps} for net in circuit.nets]


def same_nets(design: Design) -> Wiring:
    """A list read back gives the circuit's nets and nothing else."""
    made = listed(design)
    bars = {" ".join(made.names[net.id].split()) for net in made.circuit.nets if net.kind != "signal"}
    read = [it - bars for it in wired_up(as_csv(WIRES_HEAD, wire_rows(made)))]
    legs = {f"{made.designators[it.id]} {leg}" for it in made.circuit.pieces.values() if it.is_inline for leg in "12"}
    # A leg that a wire ends at, for want of a place beside it, is the other part's leg by its name on the list.
    plain = {" ".join(made.name(Tap(it.id, leg)).split()): f"{made.designators[it.id]} {leg}" for it in made.circuit.pieces.values() if it.is_inline for leg in "12"}  # fmt: skip
    read = [{plain.get(place, place) for place in it} for it in read]
    assert Counter(map(frozenset, read)) == Counter(map(frozenset, of_circuit(made.circuit, made)))
    assert legs <= set().union(*read, set())
    return made


@pytest.mark.parametrize("name", shipped())
def test_a_list_read_back_is_the_circuit(name: str) -> None:
    made = same_nets(resolve(load_plan(shipped()[name]), CATALOG))
    assert not made.circuit.open
    each_end_once(made)


def each_end_once(made: Wiring) -> None:
    """Every pin of a part with a place of its own is an end of one wire, or the place its wires meet at; every part stands in one."""
    ends: Counter[Tap] = Counter()
    through = Counter(it.through for it in made.wires if it.through is not None)
    meets: dict[str, set[Tap]] = defaultdict(set)
    for it in made.wires:
        for tap in (it.start, it.end):
            ends[tap] += 1
            if tap.pin == BAR or ends[tap] > 1:
                meets[made.circuit.net_of[tap].id if tap.pin != BAR else tap.piece].add(tap)
    assert all(len(it) == 1 for it in meets.values()), "of each net one place is met at twice"
    for net in made.circuit.nets:
        for tap in net.taps:
            piece = made.circuit.pieces[tap.piece]
            assert through[tap.piece] == 1 if piece.is_inline else ends[tap] >= 1, tap


@pytest.mark.parametrize("batch", range(COUNT // BATCH))
def test_drawn_plans_read_back_and_agree_with_their_program(batch: int) -> None:
    for seed in range(batch * BATCH, (batch + 1) * BATCH):
        design = drawn_design(seed)
        made = same_nets(design)
        each_end_once(made)
        pins_agree(design, made)


def pins_agree(design: Design, made: Wiring) -> None:
    """The pins of the list, of the printed program and of the pin view are the same, line by line."""
    on_list: dict[str, set[str]] = defaultdict(set)
    for net in made.circuit.nets:
        if net.kind == "signal":
            on_list[net.id.partition(":")[0]] |= {tap.pin for tap in net.taps if tap.piece == "board"}
    view = {
        row.id: next((option.label for option in row.pin.options if option.is_chosen), "")
        for row in review(design.plan, CATALOG).sheets["pins.board"].pins
    }
    told = {row["line"].id: row["label"] for row in Pins(design, program_of(design, "board")).told}
    assert told, "the program names its pins"
    pins_of_list = set().union(*on_list.values())
    for line, pin in told.items():
        level = design.signals[line].level
        if level is not None and level.is_omitted:
            continue
        assert view[line].startswith(pin), line
        # Lines that share a pin are one net, which has the name of the first.
        assert pin in (on_list[line] or pins_of_list), line
    for line, pins in on_list.items():
        wanted = view.get(line, "")
        assert not pins or any(wanted.startswith(it) for it in pins), line


def kinds_from(circuit: Circuit, start: Tap, *, through: tuple[str, ...]) -> list[str]:
    """Walk from a pin through parts that stand in the way, and tell what is met: the naive way to follow a wire with a finger."""
    met, tap, seen = [], start, set[str]()
    while True:
        net = circuit.net_of[tap]
        if net.kind != "signal":
            return [*met, net.kind]
        nexts = [it for it in net.taps if it.piece not in seen | {tap.piece} and circuit.pieces[it.piece].kind in through]
        if not nexts:
            return met
        seen.add(tap.piece)
        found = circuit.pieces[nexts[0].piece]
        met.append(found.kind)
        seen.add(found.id)
        others = (
            [it for it in found.pins if it != nexts[0].pin]
            if len(found.pins) == 2
            else [it for it in found.pins if it in ("common", "S", "E")]
        )
        if not others:
            return met
        tap = Tap(found.id, others[0])


def test_a_finger_on_the_wires_of_the_demo_meets_what_a_maker_would_draw() -> None:
    """By hand, from what such circuits are (common practice, no source)."""
    circuit = netlist(resolve(load_plan(demo_plan()), CATALOG))
    assert kinds_from(circuit, Tap("board", "9"), through=("resistor", "lamp")) == ["resistor", "lamp", "supply"]
    assert kinds_from(circuit, Tap("board", "5"), through=("resistor", "transistor")) == ["resistor", "transistor", "ground"]
    assert kinds_from(circuit, Tap("foot.main.switch", "D"), through=("resistor", "lamp")) == ["resistor", "lamp", "supply"]
    assert kinds_from(circuit, Tap("board", "8"), through=("resistor",)) == ["resistor", "resistor", "ground"]
    far = circuit.net_of[Tap("lantern", "RX")]
    assert Counter(circuit.pieces[it.piece].kind for it in far.taps) == {"resistor": 2, "module": 1}
    assert Counter(it.kind for it in circuit.pieces.values())["lamp"] == 1 + 6


def test_a_common_cathode_hangs_from_the_pin_and_a_straight_wire_is_told() -> None:
    rgb = {"lamps": {"lamp": {"kind": "rgb", "host": "board", "common": "cathode", "channels": {"main": None}}}}
    circuit = netlist(resolve(plan_with(rgb), CATALOG))
    pin = next(it for it in circuit.net_of if it.piece == "board" and circuit.net_of[it].id == "lamp.red")
    assert kinds_from(circuit, pin, through=("resistor", "lamp")) == ["resistor", "lamp", "ground"]
    straight = listed(resolve(plan_with({"links": {"serial": {"is_crossed": False}}}), CATALOG))
    row = next(it for it in straight.wires if it.net.id == "serial.a_to_b")
    assert {it.pin for it in (row.start, row.end) if it.piece != "board"} == {"RX"}
    assert "straight" in row.why


def test_grounds_come_first_then_supply_then_signals_and_the_upload_pins_last() -> None:
    plan = plan_with({"signals": {"serial.a_to_b": {"pin": "0"}, "serial.b_to_a": {"pin": "1"}}})
    order = [it.group for it in listed(resolve(plan, CATALOG)).wires]
    assert order == sorted(order, key=["ground", "supply", "signal", "last"].index)
    assert order.count("last") == 3, "both wires of the module, and the divider's other half"


def test_a_tick_stays_until_the_plan_moves_its_wire_and_keeps_its_colour() -> None:
    first = listed(resolve(plan_with(), CATALOG))
    row = next(it for it in first.wires if it.net.id == "lamp.main")
    tick = {"bench": {"wired": {row.id: {"joins": row.joins, "colour": "violet"}, "ground.here~gone": {"joins": "a.1|b.2"}}}}
    made = listed(resolve(plan_with(tick), CATALOG))
    same = next(it for it in made.wires if it.id == row.id)
    assert (same.is_made, same.was, same.runs.colour) == (True, "", "violet")
    assert [it.joins for it in made.gone.values()] == ["a.1|b.2"]
    moved = listed(resolve(plan_with(tick, {"signals": {"lamp.main": {"pin": "6"}}}), CATALOG))
    stale = next(it for it in moved.wires if it.id == row.id)
    assert (stale.is_made, stale.was) == (False, row.joins)
    other = listed(resolve(plan_with(tick, {"lamps": {"lamp": {"label": "Another name"}}}), CATALOG))
    assert next(it for it in other.wires if it.id == row.id).is_made, "a name moves no wire"


def test_what_is_ticked_is_settled_with_its_part_and_its_pin() -> None:
    """What is in moves with no later proposal: a taken reading, another lamp."""
    plan = plan_with({"lamps": {"lamp": {"channels": {"main": {"resistor_ohm": None}}}}})
    shown = bench_shown(resolve(plan, CATALOG))
    row = next(it for it in shown.wires if it.through.endswith("Ω") and it.end.startswith("Lamp"))
    ticked = edit_plan(plan, row.tick)
    design = resolve(ticked, CATALOG)
    (channel,) = design.lamps["lamp"].channels
    pin = design.signals["lamp.main"].pin
    assert pin is not None
    assert (channel.resistor.origin, pin.origin) == ("own", "own")
    assert next(it for it in bench_shown(design).wires if it.id == row.id).is_made
    assert edit_plan(ticked, row.untick).lamps == ticked.lamps, "taken out again, what was settled stays"


def test_what_is_counted_folds_into_one_row_of_each_kind() -> None:
    """Forty sensors, each with supply, ground and a wire of its own, are three rows to read."""
    board = {"nodes": {"board": {"choice": {"part": "board-5v-70io"}}}}
    many = {"inputs": {"eye": {"kind": "sensor", "host": "board", "count": 40, "settings": {"reads": "contact"}}}}
    made = listed(resolve(plan_with(board, many), CATALOG))
    mine = [it for it in made.wires if any(tap.piece.startswith("inputs.eye") for tap in (it.start, it.end))]
    assert Counter(it.fold for it in mine) == Counter(dict.fromkeys({it.fold for it in mine}, 40))
    assert len({it.fold for it in mine}) == 3
    assert all(it.fold for it in mine)


def test_whatever_things_are_called_the_list_reads_back() -> None:
    lamps = {f"l{at}": {"kind": "led", "host": "board", "label": label} for at, label in enumerate(LABELS)}
    alike = {f"a{at}": {"kind": "buzzer", "host": "board", "label": "Moon"} for at in range(4)}
    board = {"nodes": {"board": {"choice": {"part": "board-5v-70io"}, "label": "Moon"}}}
    made = same_nets(resolve(plan_with(board, {"lamps": lamps | alike}), CATALOG))
    assert len(set(made.names.values())) == len(made.names)
    text = as_csv(WIRES_HEAD, wire_rows(made))
    assert not [it for row in csv.reader(io.StringIO(text)) for it in row if it[:1] in ("=", "+", "@")]
    table = as_markdown("A *list*", WIRES_HEAD, wire_rows(made))
    cells = {len(re.findall(r"(?<!\\)\|", line)) for line in table.splitlines()[2:]}
    assert cells == {len(WIRES_HEAD) + 1}, "no label ends a cell"


def test_what_is_cut_and_bought_is_what_is_wired() -> None:
    design = resolve(
        plan_with({"drawer": [75, 1200], "signals": {"lamp.main": {"wire": {"length_m": 1.5, "gauge_awg": 28}}}}), CATALOG
    )
    made = listed(design)
    cuts = cut_list(design, made)
    pieces = sum(2 if it.through else 1 for it in made.wires if not it.is_bare)
    assert sum(it.count for it in cuts) == pieces
    (thin,) = [it for it in cuts if it.gauge_awg == 28]
    assert (thin.count, thin.length_m) == (2, pytest.approx(0.75 * 1.1)), "two halves at the resistor, a tenth more"
    parts = {it.what: it for it in parts_list(design, made.circuit)}
    bought = [it for it in parts.values() if not it.for_final]
    assert sum(it.count for it in bought) == sum(it.in_series for it in made.circuit.pieces.values() if it.buy)
    has = {what.replace("\u00a0", " ").split(",")[1].strip(): it.has for what, it in parts.items() if what.startswith("Resistor")}
    assert has == {"75 Ω": 1, "1.2 kΩ": 1, "2.2 kΩ": None}
    assert len(cut_rows(cuts)[0]) == len(CUTS_HEAD)
    assert len(part_rows(parts.values())[0]) == len(PARTS_HEAD)
