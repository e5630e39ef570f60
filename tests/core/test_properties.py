"""What has to hold whatever a maker does: openings are clear, what is built stays, what is taken out leaves nothing behind."""

import random
from collections.abc import Iterator

import pytest

from oddlamp.catalog.load import demo_plan, load_catalog
from oddlamp.core.base import Working
from oddlamp.core.checks.registry import run_rules
from oddlamp.core.design.design import Design
from oddlamp.core.design.passages import state_of
from oddlamp.core.design.values import Value
from oddlamp.core.design.walk import standing
from oddlamp.core.plan.document import Document, at_path, dump_plan, edit_plan, load_plan
from oddlamp.core.plan.edits import TakingOut
from oddlamp.core.plan.model import Plan
from oddlamp.core.resolve.judge_levels import Scene, judge_level
from oddlamp.core.resolve.resolve import resolve
from oddlamp.core.resolve.schools import SCHOOLS
from oddlamp.sheets.opening import CAUTIONS, INPUTS, LEDS, OTHERS, SMALL_PINS, add_input_moves, add_lamp_moves
from oddlamp.sheets.review import Review, review
from tests.builders import EMPTY, PLANS, codes, document, findings_of, plan_with
from tests.full import IS_PROOF, some

CATALOG = load_catalog()
RADIOS = [*CATALOG.modules, None]
NEXT_OF = 6  # of so many openings one is tried with each other radio, one followed by every second thing; make proof has all


def started(board: str, module: str | None, at: int) -> Plan | None:
    """Press the opening's choices one after the other; None where the board has no radio to go without a module."""
    plan = load_plan(EMPTY)

    def press(wanted: str, label: str) -> bool:
        nonlocal plan
        opening = review(plan, CATALOG).opening
        assert opening is not None
        for choice in opening.choices:
            for option in choice.options:
                if choice.label == wanted and option.label == label:
                    plan = edit_plan(plan, option.patch)
                    return True
        return False

    assert press("Driven by", CATALOG.boards[board].label)
    if not press("Words come in through", CATALOG.modules[module].label if module else "The board's own radio"):
        return None
    opening = review(plan, CATALOG).opening
    assert opening is not None
    option = [*opening.lamps, *opening.others][at]
    if option.state == "stop":
        assert option.detail.startswith("not with this board: ")
        return None
    return edit_plan(plan, option.patch)


@pytest.mark.parametrize("at", range(len(LEDS) + len(OTHERS)), ids=[it.label for it in (*LEDS, *OTHERS)])
@pytest.mark.parametrize("board", some(CATALOG.boards, 4))
def test_every_opening_is_clear(board: str, at: int) -> None:
    """Our own proposals bring no verdict but cautions, whatever is picked first, and whatever is put beside it next."""
    drawn = list(CATALOG.boards).index(board) + at
    for number, module in enumerate(RADIOS):
        if number and not IS_PROOF and (drawn + number) % NEXT_OF:
            continue
        plan = started(board, module, at)
        if plan is None:
            continue
        assert codes(findings_of(plan)) <= {(it, "look") for it in CAUTIONS}, (module, [it.message for it in findings_of(plan)])
        if number or (not IS_PROOF and drawn % NEXT_OF):
            continue
        for move in (*add_lamp_moves(resolve(plan, CATALOG), "board"), *add_input_moves(resolve(plan, CATALOG), "board")):
            more = edit_plan(plan, move.patch)
            # The smaller board has eight calm pins: when they are all taken, the upload's are the next best.
            is_small = len(CATALOG.boards[board].usable_pins) <= SMALL_PINS
            full = {
                ("PIN-NO-FIT", "stop"),
                ("PIN-UPLOAD", "look"),
                ("PIN-BOOT-TWITCH", "look"),
                ("CHIP-CURRENT", "look"),
                ("CHIP-CURRENT", "stop"),
            }
            left = codes(findings_of(more)) - {(it, "look") for it in CAUTIONS} - (full if is_small else set())
            assert not left, (move.label, [it.message for it in findings_of(more)])


def test_an_empty_project_opened_at_once_is_clear_too() -> None:
    for option in (*review(load_plan(EMPTY), CATALOG).opening.lamps, *review(load_plan(EMPTY), CATALOG).opening.others):  # type: ignore[union-attr]
        assert codes(findings_of(edit_plan(load_plan(EMPTY), option.patch))) <= {(it, "look") for it in CAUTIONS}


ALL = {**{name: document(name) for name in PLANS}, "demo": demo_plan()}


@pytest.mark.parametrize("name", ALL)
def test_what_is_added_and_taken_out_leaves_the_plan_as_it_was(name: str) -> None:
    """Measurements, accepted risks, words and supplies of its own go too: what is added later starts afresh."""
    plan = load_plan(ALL[name])
    design = resolve(plan, CATALOG)
    hosts = [node.id for node in design.nodes.values() if node.node.kind == "board"]
    for host in hosts:
        for move in add_lamp_moves(design, host):
            added = edit_plan(plan, move.patch)
            lamp = next(it for it in added.lamps if it not in plan.lamps)
            assert gone(added, lamp, TakingOut(lived_in(added, lamp)).without_lamps({lamp})) == bare(dump_plan(plan)), move.label
        for move in add_input_moves(design, host):
            added = edit_plan(plan, move.patch)
            name_ = next(it for it in added.inputs if it not in plan.inputs)
            assert gone(added, name_, TakingOut(lived_in(added, name_)).without_input(name_)) == bare(dump_plan(plan)), move.label


def lived_in(plan: Plan, owner: str) -> Plan:
    """Measure, accept and settle things of a lamp or an input."""
    moment = "2026-01-01T10:00:00Z"
    lines = [signal.line for signal in resolve(plan, CATALOG).signals.values() if signal.line.owner_id == owner]
    risk = {"reason": "tried", "taken_at": moment, "numbers": {}}
    return edit_plan(
        plan,
        {
            "measured": {f"{lines[0].id}.forward_voltage_v": {"value": 3.1, "unit": "V", "taken_at": moment}},
            "accepted": {f"LED-OVER@{lines[0].id}": risk, f"PIX-ORDER@{owner}": risk},
            "signals": {line.id: {"pin": "7"} for line in lines},
        },
    )


def gone(plan: Plan, owner: str, patch: Document) -> Document:
    return bare(dump_plan(edit_plan(lived_in(plan, owner), patch)))


def bare(document: Document) -> Document:
    """Leave empty maps out: they say the same as none."""
    kept = {key: bare(value) if isinstance(value, dict) else value for key, value in document.items()}
    return {key: value for key, value in kept.items() if value != {}}


@pytest.mark.parametrize("name", ALL)
def test_whatever_is_taken_out_the_plan_still_stands(name: str) -> None:
    plan = load_plan(ALL[name])
    taking = TakingOut(plan)
    patches = [taking.without_lamps({it}) for it in plan.lamps] + [taking.without_input(it) for it in plan.inputs]
    patches += [taking.without_word(key, word) for key, it in plan.vocabularies.items() for word in it.words]
    patches.append(taking.without_lamps(plan.lamps))
    for patch in patches:
        after = edit_plan(plan, patch)
        review(after, CATALOG)
        assert not {name for name in after.signals if name.partition(".")[0] in set(plan.lamps) - set(after.lamps)}


def test_a_new_lamp_of_an_old_name_starts_afresh() -> None:
    moment = "2026-01-01T10:00:00Z"
    used: Document = {
        "measured": {"lamp.main.forward_voltage_v": {"value": 3.1, "unit": "V", "taken_at": moment}},
        "accepted": {"LED-OVER@lamp.main": {"reason": "bright", "taken_at": moment, "numbers": {}}},
    }
    after = edit_plan(plan_with(used), TakingOut(plan_with(used)).without_lamps({"lamp"}))
    assert not after.measured
    assert not after.accepted
    assert not after.vocabularies["words"].words, "nothing obeys them any more"


def lines_of(plan: Plan) -> Iterator[str]:
    return (name for name, signal in resolve(plan, CATALOG).signals.items() if standing(resolve(plan, CATALOG), name))


def built(plan: Plan, line: str) -> Plan:
    """Mark one line as built, by what its sheet would send."""
    from oddlamp.core.plan.built import freeze_patch

    return edit_plan(plan, freeze_patch(line, standing(resolve(plan, CATALOG), line)))


def of_line(design: Design, line: str) -> dict[str, tuple[float | None, float | None, float | None]]:
    """Every number of a line's parts, and what flows or arrives; what is only wanted of it apart."""
    from oddlamp.core.design.walk import AIMS, values_of

    signal = design.signals[line]
    lamp = design.lamps.get(signal.line.owner_id) if signal.line.owner[0] == "lamps" else None
    channel = next((it for it in lamp.channels if it.signal_id == line), None) if lamp else None
    held = (signal.level, channel, lamp.switch if lamp else None, lamp.load if lamp else None)
    skipped = (*AIMS, "exact_ohm")
    return {it.id: (it.value, it.min, it.max) for it in values_of(held) if it.id.rpartition(".")[2] not in skipped and it.stage}


TYPED = {"_ohm": ("100", "3k3", "47k"), "_v": ("0.3", "2.2"), "_ratio": ("1 %",), "_a": ("5m",), "_w": ("2",)}


@pytest.mark.parametrize("name", some(["paper-moon", "foyer-star", "two-wings", "demo", "driven"], 5))
def test_built_lines_never_move(name: str) -> None:
    """For every line and kind: nothing of a built line moves by any field or choice of its own sheet."""
    driven: Document = {
        "lamps": {
            "relay": {"kind": "relay", "host": "board"},
            "buzz": {"kind": "buzzer", "host": "board", "drive": {"school": "npn"}},
            "px": {"kind": "pixels-one-wire", "host": "board", "layout": {"runs": [{"count": 4}]}},
            "glow": {"kind": "strip", "host": "board", "choice": {"part": "strip-5v-warm"}},
            "rgb": {"kind": "rgb", "host": "board", "common": "anode", "drive": {"school": "mosfet"}},
        }
    }
    plan = plan_with(driven) if name == "driven" else load_plan(ALL[name])
    for line in list(lines_of(plan)):
        stands = built(plan, line)
        before, pins = of_line(resolve(stands, CATALOG), line), resolve(stands, CATALOG).signals[line].pin
        for patch in touches(stands, line):
            after = resolve(edit_plan(stands, patch), CATALOG)
            now = of_line(after, line)
            assert {key: now.get(key) for key in before} == before, (line, patch)
            assert (after.signals[line].pin.label if pins else None) == (pins.label if pins else None)  # type: ignore[union-attr]


def touches(plan: Plan, line: str) -> Iterator[Document]:
    """Everything that can be typed or chosen for a line, but for what feeds it; a figure of a part told better moves nothing."""
    owner = line.partition(".")[0]
    sheet_of = resolve(plan, CATALOG).signals[line].line
    sheet = review(plan, CATALOG, stages=[sheet_of.stage]).sheets[sheet_of.stage]
    for panel in sheet.panels:
        for entry in panel.entries:
            mine = entry.path[:2] in (("signals", line), ("lamps", owner)) and not {"label", "overrides"} & set(entry.path)
            if mine and entry.value is not None:
                ending = next((it for it in TYPED if entry.path[-1].endswith(it)), None)
                yield from (at_path(entry.path, text) for text in TYPED.get(ending or "", ()))
        for choice in panel.choices:
            if choice.label in ("Fed from", "Its upper end stands at"):
                continue
            for option in choice.options:
                if set(option.patch) <= {"signals", "lamps"} and set(option.patch.get("signals", {line: 0})) == {line}:
                    yield option.patch


@pytest.mark.parametrize("school", list(SCHOOLS))
def test_every_part_of_a_built_shift_is_kept(school: str) -> None:
    """The zener's resistor, the shifter's pull-up, the diode's drop: of every school, every part."""
    shift = {"school": school, "values": None}
    plan = plan_with({"signals": {"serial.b_to_a": {"shift": shift}}})
    stands = built(plan, "serial.b_to_a")
    before = of_line(resolve(stands, CATALOG), "serial.b_to_a")
    others = {"upper_ohm": 3300, "lower_ohm": 6800, "series_ohm": 2200, "pull_ohm": 2200, "diode_v": 0.4, "tolerance_ratio": 0.01}
    for field, value in others.items():
        moved = edit_plan(stands, at_path(("signals", "serial.b_to_a", "shift", "values", field), value))
        now = of_line(resolve(moved, CATALOG), "serial.b_to_a")
        assert {key: now.get(key) for key in before} == before, field


def with_school(school: str, base: Plan, line: str) -> Plan:
    return edit_plan(base, {"signals": {line: {"is_omitted": None, "shift": {"school": school, "values": None}}}})


@pytest.mark.parametrize("seed", range(12 if IS_PROOF else 4))
def test_a_schools_state_beside_the_choice_is_the_state_after_choosing_it(seed: int) -> None:
    """On drawn lines: either board, either way, any speed, pulls, lengths and supplies."""
    chance = random.Random(seed)
    for _ in range(6):
        plan = drawn_line(chance)
        shown = review(plan, CATALOG)
        for stage in shown.sheets:
            for panel in shown.sheets[stage].panels:
                for choice in panel.choices:
                    if choice.label != "How it crosses":
                        continue
                    for option in choice.options:
                        if option.label == "Left out":
                            continue
                        line = next(iter(option.patch["signals"]))
                        after = edit_plan(plan, option.patch)
                        design = resolve(after, CATALOG)
                        level = design.level(line)
                        assert level is not None
                        if level.received.value is None:
                            continue
                        by_passage = state_of(judge_level(Scene(design.plan, design.rails), level))
                        found = run_rules(design)
                        levels = ("PIN-CURRENT", "PIX-DATA-LEVEL")
                        here = [it for it in found if it.where == line and (not it.code.startswith("PI") or it.code in levels)]
                        told = {it.severity for it in here}
                        assert option.state == by_passage, (option.label, line)
                        if all(it.code != "LVL-GROUND" for it in found):
                            assert by_passage == ("stop" if "stop" in told else "look" if told else "clear"), option.label


def drawn_line(chance: random.Random) -> Plan:
    pull = {"pull_ohm": chance.choice([1000, 4700, 10_000, 47_000]), "pull_to": chance.choice(["five", "ground"])}
    signal = {**(pull if chance.random() < 0.5 else {}), "wire": {"length_m": chance.choice([0.1, 1.0, 4.0])}}
    parts: Document = {
        "nodes": {
            "board": {"choice": {"part": chance.choice(list(CATALOG.boards))}},
            "radio": {"choice": {"part": chance.choice(list(CATALOG.modules))}},
        },
        "sources": {"usb": {"choice": {"part": chance.choice(["usb-port-500ma", "adapter-5v-1a", "aaa-3"])}}},
        "links": {"serial": {"baud_rate_bd": chance.choice([9600, 57_600, 115_200])}},
        "signals": {
            "serial.b_to_a": {
                **signal,
                "shift": {"school": chance.choice(["direct", "divider", "zener", "mosfet"]), "values": None},
            }
        },
        "lamps": {
            "px": {"kind": chance.choice(["pixels-one-wire", "pixels-clocked", "matrix"]), "host": "board", "rail": "five"}
        },
        "inputs": {"knob": {"kind": chance.choice(["knob", "button"]), "host": "board", "rail": "five"}},
    }
    return plan_with(parts)


@pytest.mark.parametrize("name", ALL)
def test_every_value_of_the_design_is_in_the_review(name: str) -> None:
    """Found by another road: every attribute of every record, whatever it is called."""
    design = resolve(load_plan(ALL[name]), CATALOG)
    seen: Review = review(load_plan(ALL[name]), CATALOG)
    shown = {value.id for value in seen.values}
    assert {value.id for value in hunted(design, set())} <= shown
    assert len(shown) == len(seen.values), "each once"


def hunted(thing: object, met: set[int]) -> Iterator[Value]:
    if id(thing) in met or isinstance(thing, str | int | float | bool | Working | type(None)):
        return
    met.add(id(thing))
    if isinstance(thing, Value):
        yield thing
        return
    inner = list(thing.values()) if isinstance(thing, dict) else list(thing) if isinstance(thing, tuple | list) else []
    if type(thing).__module__.startswith("oddlamp.core.design"):
        inner += [getattr(thing, name) for name in getattr(type(thing), "__slots__", ())]
    for it in inner:
        yield from hunted(it, met)


def test_every_input_is_offered() -> None:
    assert {kind for kind, _ in INPUTS} == {"button", "switch", "knob", "sensor", "remote-receiver"}
