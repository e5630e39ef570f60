"""What sheets say: one sentence that is the answer, for every kind of lamp, line and input; moves that do what they say."""

from typing import Any

import pytest

from oddlamp.catalog.load import load_catalog
from oddlamp.core.plan.document import Document, edit_plan, load_plan, merge_patch
from oddlamp.core.plan.model import Plan
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.charts import ChartPicture
from oddlamp.sheets.models import Panel, Schematic, Sheet
from oddlamp.sheets.review import review
from oddlamp.sheets.shown import in_full
from tests.builders import CLEAR, document, lamp, own_drop, plan_with

FED_24V: Document = {
    "sources": {"big": {"choice": {"part": "adapter-24v-1a"}}},
    "rails": {"big": {"fed_by": "big"}},
    "lamps": {"it": {"rail": "big"}},
}
WIFI: Document = {"nodes": {"board": {"choice": {"part": "board-wifi"}}}}


def sheet(stage: str, *patches: Document) -> Sheet:
    return review(plan_with(*patches), load_catalog(), stages=[stage]).sheets[stage]


def added(kind: str, **fields: Any) -> Document:
    return {"lamps": {"it": {"kind": kind, "label": "It", "host": "board", "rail": "five", **fields}}}


def charts(shown: Sheet) -> list[ChartPicture]:
    return [it for it in shown.pictures if isinstance(it, ChartPicture)]


def plain(text: str) -> str:
    return text.replace("\u00a0", " ")


@pytest.mark.parametrize(
    ("patch", "sentence"),
    [
        (added("led", channels={"main": {"led": {"part": "led-red"}}}), "17.1 mA flows through It. Wanted: 20 mA."),
        (added("led", channels={"main": {"in_parallel": 3}}), "13.3 mA flows through each LED of It. Wanted: 20 mA."),
        (added("rgb", common="cathode"), "17.1, 15.5 and 15.5 mA flow through It. Wanted: 20 mA."),
        (added("relay"), "It takes 71.4 mA when it is on."),
        (added("relay", choice={"part": "relay-module-opto-low"}), "2 mA through the input of It when its pin is low."),
        (added("buzzer"), "It takes 2 mA when it is on."),
        (added("strip", choice={"part": "strip-5v-warm"}, length_m=2), "It takes 1.8 A when it is on."),
        (added("matrix", count=2), "It takes 660 mA when it is on."),
        (added("pixels-one-wire", layout={"runs": [{"count": 24}]}), "It takes 1.44 A when every pixel is white."),
        (added("pixels-one-wire"), "It has no current to state: no pixels are laid out yet."),
    ],
)
def test_a_lamps_sentence_is_its_answer(patch: Document, sentence: str) -> None:
    assert plain(sheet("lamps.it", patch).sentence) == sentence


@pytest.mark.parametrize(
    ("school", "detail"),
    [
        (
            "pin",
            "75 Ω on pin 8. A high pin lights it, with 5.00 V. Its resistor alone would let 18.7 mA through, the safe side it is picked by. At worst 9.29 mA to 23.2 mA.",
        ),
        ("npn", "62 Ω on pin 8. A high pin lights it through small NPN transistor, with 5.00 V."),
        ("mosfet", "75 Ω on pin 8. A high pin lights it through MOSFET specified at 2.5 V gate, with 5.00 V."),
    ],
)
def test_a_lamps_detail_tells_how_it_is_driven(school: str, detail: str) -> None:
    said = plain(sheet("lamps.lamp", {"lamps": {"lamp": {"drive": {"school": school}}}}, lamp(resistor_ohm=None)).detail)
    assert said.startswith(detail)


@pytest.mark.parametrize(
    ("school", "sentence", "how"),
    [
        ("direct", "5.00 V reaches the module. It can stand 3.60.", "A straight wire"),
        ("divider", "3.24 V reaches the module. It can stand 3.60.", "Two resistors"),
        ("gate", "3.30 V reaches the module. It can stand 3.60.", "A gate"),
        ("mosfet", "3.30 V reaches the module. It can stand 3.60.", "One MOSFET"),
        ("diode", "3.30 V reaches the module. It can stand 3.60.", "A diode"),
        ("clamp", "3.90 V reaches the module. It can stand 3.60.", "A resistor only"),
    ],
)
def test_a_hook_ups_sentence_is_what_arrives(school: str, sentence: str, how: str) -> None:
    values: Document = {"upper_ohm": 1200, "lower_ohm": 2200} if school == "divider" else {}
    shift: Document = {"signals": {"serial.b_to_a": {"shift": {"school": school, "values": values or None}}}}
    it = sheet("links.serial", shift)
    assert plain(it.sentence) == sentence
    assert how in it.detail


def test_an_input_says_what_reaches_its_pin_and_where_it_may_be_fed_from() -> None:
    knob: Document = {"inputs": {"dimmer": {"kind": "knob", "label": "Dimmer", "host": "board"}}}
    it = sheet("inputs.dimmer", WIFI, knob)
    assert plain(it.sentence) == "3.30 V at most reaches the pin of Dimmer. It can stand 3.60."
    assert [option.label for option in it.panels[1].choices[0].options] == ["The board's own supply", "Wall adapter"]
    fed = sheet("inputs.dimmer", WIFI, knob, {"inputs": {"dimmer": {"rail": "five"}}})
    assert plain(fed.sentence).startswith("5.00 V at most reaches")
    assert fed.panels[1].choices[0].origin == "own"


def panel_of(plan: Plan, stage: str, title: str) -> Panel:
    return next(it for it in review(plan, load_catalog(), stages=[stage]).sheets[stage].panels if it.title == title)


def test_the_neighbours_of_the_exact_value_say_what_they_give() -> None:
    """Ohm's law: 70 ohm exactly lies between 68 and 75 of E24; 1.4 V over them is 20.6 and 18.7 mA; what is typed has its own."""
    typed = [
        plain(move.label)
        for it in review(plan_with(lamp(resistor_ohm=100)), load_catalog()).sheets["lamps.lamp"].panels
        for move in it.moves
    ]
    assert {"Nearest above 100 Ω: 110 Ω gives 12.7 mA", "Nearest below 100 Ω: 91 Ω gives 15.4 mA"} <= set(typed)
    plan = plan_with(lamp(resistor_ohm=None))
    moves = {plain(move.label): move.patch for move in panel_of(plan, "lamps.lamp", "").moves} or {
        plain(move.label): move.patch
        for panel in review(plan, load_catalog()).sheets["lamps.lamp"].panels
        for move in panel.moves
    }
    assert set(moves) - {"Keep these figures as a part of mine"} == {
        "Nearest below 70 Ω: 68 Ω gives 20.6 mA",
        "Two of E24: 43 Ω and 27 Ω in series gives 20 mA",
    }
    after = edit_plan(plan, moves["Nearest below 70 Ω: 68 Ω gives 20.6 mA"])
    assert after.lamps["lamp"].model_dump()["channels"]["main"]["resistor_ohm"] == 68


def test_the_best_pair_is_offered_with_its_reason_and_is_clear_when_taken() -> None:
    plan = plan_with({"signals": {"serial.b_to_a": {"shift": {"values": {"upper_ohm": 2000, "lower_ohm": 4700}}}}})
    move = next(it for it in panel_of(plan, "links.serial", "Board to module").moves if it.label.startswith("Best of E24"))
    assert "from both ends at worst" in move.label
    assert review(edit_plan(plan, move.patch), load_catalog()).findings == ()


def test_little_headroom_is_told_by_the_curve() -> None:
    """With next to nothing left the constant drop says nothing; the curve still says dimly."""
    it = review(plan_with(lamp(**own_drop(4.9), resistor_ohm=100)), load_catalog())
    current = next(value for value in it.values if value.id == "lamp.main.current_a")
    assert current.because is not None
    assert "by the diode curve" in current.because
    assert current.value is not None
    assert 0 < current.value < 0.005
    assert "By its curve" in next(finding.message for finding in it.findings if finding.code == "LED-HEADROOM")


def test_the_drive_of_a_common_ground_lamp_turns_its_leg_with_it() -> None:
    plan = load_plan(merge_patch(CLEAR, added("rgb", common="cathode")))
    drive = panel_of(plan, "lamps.it", "Drive").choices[0]
    option = next(it for it in drive.options if it.label == "MOSFET")
    after = review(edit_plan(plan, option.patch), load_catalog())
    assert not [finding for finding in after.findings if finding.code == "LED-POLARITY"]
    assert "lights it through MOSFET" in after.sheets["lamps.it"].detail


@pytest.mark.parametrize("name", ["paper-moon", "foyer-star", "two-wings", "prompters-nudge"])
def test_only_the_sheets_asked_for_are_made(name: str) -> None:
    plan = load_plan(document(name))
    whole = review(plan, load_catalog())
    for stage in list(whole.sheets)[:4]:
        one = review(plan, load_catalog(), stages=[stage])
        assert one.sheets == {stage: whole.sheets[stage]}
        bare, all_of_it = (in_full(it).model_dump(exclude={"sheets"}) for it in (one, whole))
        assert bare == all_of_it


@pytest.mark.parametrize(
    ("stage", "patch", "sentence"),
    [
        ("nodes.phone", {}, "The phone sends characters and adds nothing."),
        ("nodes.phone", {"nodes": {"phone": {"appends": "cr-lf", "sends_as": "numbers"}}}, "The phone sends numbers and adds CR LF."),
        ("links.air", {}, "A message is in the air for about 35 ms."),
        ("nodes.radio", {}, "It speaks classic serial and waits to be called."),
        ("nodes.radio", {"nodes": {"radio": {"setup": {"role": "master"}}}}, "It speaks classic serial and calls another module."),
        ("rails.five", {}, "All of it lit takes 104 mA of the 1 A there are."),
        ("rails.five", {"rails": {"five": {"fed_by": None}}, "sources": {"usb": {"end": None}}}, "Five has no volts to state: nothing feeds this rail."),
        ("rules.board", {}, "2 rules for what lamps do."),
        ("rules.board", {"rules": None}, "Nothing happens yet: no rule says what a word does."),
        ("pins.board", {}, "All 3 lines have a pin."),
        ("pins.board", {"signals": {"lamp.main": {"pin": "A9"}}}, "Lamp cannot stay on pin A9."),
        ("vocabularies.words", {}, "2 words, no two alike, none that starts another."),
        ("vocabularies.words", {"vocabularies": {"words": {"words": {"off": None}}}, "rules": {"r2": None}}, "One word, and nothing it could be mistaken for."),
        ("vocabularies.words", {"vocabularies": {"words": {"words": {"on": None, "off": None}}}, "rules": None}, "Nothing can be said yet: add a word."),
    ],
)  # fmt: skip
def test_the_other_sheets_open_with_their_answer(stage: str, patch: Document, sentence: str) -> None:
    assert plain(sheet(stage, patch).sentence) == sentence


@pytest.mark.parametrize(
    ("deed", "told"),
    [
        ([{"verb": "on", "target": "lamp"}], "Lamp on"),
        ([{"verb": "toggle", "target": "lamp"}], "Lamp toggle"),
        ([{"verb": "level", "target": "lamp", "values": {"level": 0.5}}], "Lamp to half"),
        ([{"verb": "level", "target": "lamp", "values": {"level": 0.3}}], "Lamp to 30 %"),
        ([{"verb": "level", "target": "lamp", "values": {"level": "input"}}], "Lamp as bright as it is turned"),
        ([{"verb": "on", "target": "lamp"}, {"verb": "off", "target": "lamp"}], "Lamp on, Lamp off"),
    ],
)
def test_what_a_word_does_is_told_in_words(deed: list[Document], told: str) -> None:
    rows = sheet("vocabularies.words", {"rules": {"r1": {"do": deed}}}).words
    chosen = next(option for row in rows if row.id == "on" for option in row.does.options if option.is_chosen)
    assert plain(chosen.label) == told


def test_pins_that_are_used_or_busy_say_so_in_the_list() -> None:
    row = next(it for it in sheet("pins.board").pins if it.id == "lamp.main")
    remarks = {option.label: option.detail for option in row.pin.options}
    assert remarks["0"] == "USB upload"
    assert remarks["13"] == "status LED, moves at start-up"
    used = [detail for detail in remarks.values() if detail.startswith("used by ")]
    assert len(used) == 2, "both ways of the wire to the module"


RGB: Document = {"lamps": {"moon": {"kind": "rgb", "label": "Moon", "host": "board", "common": "cathode"}}}


def test_each_colour_has_its_curve_and_can_be_built_many_times() -> None:
    it = sheet("lamps.moon", RGB)
    assert [picture.title for picture in charts(it) if picture.y is not None] == ["Red", "Green", "Blue"]
    assert [panel.builds for panel in it.panels if panel.builds] == ["moon.red", "moon.green", "moon.blue"]


def test_a_colour_of_several_is_steadied_by_its_supply_and_not_by_another_colour() -> None:
    """4.10 to 5.25 V spread a green of 2.8 to 3.6 V 5.4 : 1; a port of 4.40 to 5.25 V spreads it 3.4 : 1, which is usual."""
    sagging = {"value": 5.0, "least": 4.1, "most": 5.25}
    port = {"sources": {"usb": {"choice": {"part": "usb-port-500ma", "overrides": {"voltage_v": sagging}}}}}
    plan = plan_with(RGB, port)
    found = [it for it in review(plan, load_catalog()).findings if it.where in ("moon.green", "moon.blue")]
    assert [it.code for it in found] == ["LED-HEADROOM"] * 2
    assert [[fix.label for fix in it.fixes] for it in found] == [["Take a wall adapter, 5 V 1 A, steadier"]] * 2
    after = review(edit_plan(plan, found[0].fixes[0].patch), load_catalog())
    assert not [it for it in after.findings if it.code == "LED-HEADROOM"], "clear for both colours"


@pytest.mark.parametrize(
    ("kind", "drive", "is_fed"),
    [
        ("buzzer", {"school": "pin"}, False),
        ("buzzer", {"school": "mosfet"}, True),
        ("relay", {"school": "pin"}, False),
        ("relay", {"school": "npn"}, True),
        ("strip", None, True),
        ("matrix", None, True),
        ("pixels-one-wire", None, True),
    ],
)
def test_only_what_takes_its_current_from_a_rail_is_asked_which(kind: str, drive: Document | None, is_fed: bool) -> None:
    runs = {"layout": {"runs": [{"count": 8}]}} if kind.startswith("pixels") else {}
    plan = plan_with({"lamps": {"it": {"kind": kind, "host": "board", **({"drive": drive} if drive else {}), **runs}}})
    seen = review(plan, load_catalog())
    assert any(riser.stage == "lamps.it" for riser in seen.line.risers) == is_fed
    labels = [choice.label for panel in seen.sheets["lamps.it"].panels for choice in panel.choices]
    assert ("Fed from" in labels) == is_fed


def test_a_supply_of_its_own_is_the_nearest_to_what_a_load_is_made_for() -> None:
    """A piezo disc made for 1 to 25 V, usually 5 V, stands at 5 V and not at the 12 V it could stand."""
    it = sheet("lamps.it", {"lamps": {"it": {"kind": "buzzer", "host": "board", "drive": {"school": "mosfet"}}}})
    fed = next(choice for panel in it.panels for choice in panel.choices if choice.label == "Fed from")
    assert fed.options[-1].label == "A wall adapter, 5 V 1 A of its own"


def test_only_pixels_are_offered_a_first_one_behind_a_diode() -> None:
    for kind, count in (("pixels-one-wire", 1), ("matrix", 0)):
        runs = {"layout": {"runs": [{"count": 8}]}} if kind.startswith("pixels") else {}
        it = sheet("lamps.it", {"lamps": {"it": {"kind": kind, "host": "board", **runs}}})
        offered = [option.label for panel in it.panels for choice in panel.choices for option in choice.options]
        assert offered.count("First pixel behind a diode") == count


def test_one_lamp_is_on_and_several_are_on_together() -> None:
    many = review(plan_with({"lamps": {"lamp": {"channels": {"main": {"in_parallel": 24}}}}}), load_catalog())
    told = [it.message for it in many.findings if it.code in ("CHIP-CURRENT", "PORT-CURRENT")]
    assert told
    assert all("when Lamp is on; they may" in message for message in told)


@pytest.mark.parametrize(
    ("patch", "is_told"),
    [
        (added("relay", choice={"part": "relay-module-opto-low"}), True),
        (added("relay", choice={"part": "relay-module-opto-high"}), False),
        (added("relay", choice={"part": "relay-module-opto-low"}, drive={"school": "mosfet"}), False),
        (added("rgb", common="anode"), True),
        (added("rgb", common="cathode"), False),
        (added("rgb", common="anode", drive={"school": "mosfet"}), False),
    ],
)
def test_what_a_low_pin_lights_is_held_off_before_its_pin_is_an_output(patch: Document, is_told: bool) -> None:
    """Common practice, no source: a pin that becomes an output starts low, and a low pin would light it."""
    assert ("writes that before" in sheet("lamps.it", patch).detail) == is_told


@pytest.mark.parametrize(
    ("strip", "supply"),
    [
        ("strip-9v-white", "Give it a wall adapter, 9 V 1 A of its own"),
        ("strip-12v-white", "Give it a wall adapter, 12 V 2 A of its own"),
        ("strip-24v-warm", "Give it a wall adapter, 24 V 1 A of its own"),
    ],
)
def test_a_strip_of_any_usual_volts_is_offered_its_supply_and_is_clear_on_it(strip: str, supply: str) -> None:
    plan = plan_with(added("strip", choice={"part": strip}))
    found = next(it for it in review(plan, load_catalog()).findings if it.code == "DRV-VOLTS")
    assert found.severity == "stop"
    fix = next(it for it in found.fixes if it.label == supply)
    after = review(edit_plan(plan, fix.patch), load_catalog())
    assert not [it for it in after.findings if it.code == "DRV-VOLTS"]


@pytest.mark.parametrize(
    ("patches", "part"),
    [
        ([added("strip", choice={"part": "strip-5v-warm"}, length_m=1)], "mosfet-2v5"),
        ([added("strip", choice={"part": "strip-5v-warm"}, length_m=5)], "mosfet-4v5"),
        ([added("strip", choice={"part": "strip-24v-warm"}), FED_24V], "mosfet-4v5"),
        ([added("strip", choice={"part": "strip-24v-warm"}), FED_24V, WIFI], "mosfet-2v5"),
        ([added("relay", drive={"school": "npn"})], "npn-small"),
        ([added("strip", choice={"part": "strip-5v-warm"}, length_m=0.5, drive={"school": "npn"})], "npn-medium"),
        ([added("led", drive={"school": "npn"}, channels={"main": {"in_parallel": 12}})], "npn-medium"),
    ],
)
def test_the_proposed_transistor_carries_blocks_and_is_driven(patches: list[Document], part: str) -> None:
    """3 A, 10 A and 20 V, 30 V of the MOSFETs, 0.2 and 0.8 A of the NPNs: from memory. A 3.3 V pin drives no 4.5 V gate."""
    plan = plan_with(*patches)
    lit = resolve(plan, load_catalog()).lamps["it"]
    switch = lit.switch or lit.channels[0].switch
    assert switch is not None
    assert switch.part_picked.id == part
    found = {it.code for it in review(plan, load_catalog()).findings if it.where.startswith("it.main")}
    assert ("DRV-VOLTS" in found) == (WIFI in patches), "where none is enough the usual one stands, with its verdict"
    assert not found & {"DRV-GATE-LEVEL", "DRV-BASE"}


def test_a_transistor_that_blocks_too_little_is_told_with_those_that_do() -> None:
    plan = plan_with(added("strip", choice={"part": "strip-24v-warm"}), FED_24V, WIFI)
    found = next(it for it in review(plan, load_catalog()).findings if it.where == "it.main.switch")
    assert plain(found.message) == "While It is off its transistor stands 24.0 V; this one blocks 20.0 V."
    assert [fix.label for fix in found.fixes] == ["Take a small NPN transistor", "Take a medium NPN transistor"]
    after = review(edit_plan(plan, found.fixes[1].patch), load_catalog())
    assert not [it for it in after.findings if it.where.startswith("it.main") and it.severity == "stop"]


def test_a_base_that_asks_too_much_of_its_pin_is_offered_less_or_a_mosfet() -> None:
    """0.2 A through a forced gain of 10 is 20 mA; a 3.3 V pin gives 12 mA, and 0.2 A / 12 mA is a gain of 17."""
    plan = plan_with(added("strip", choice={"part": "strip-24v-warm"}, drive={"school": "npn"}), FED_24V, WIFI)
    found = next(it for it in review(plan, load_catalog()).findings if it.code == "PIN-CURRENT")
    assert [plain(fix.label) for fix in found.fixes] == ["Fit 220 Ω in the base"], "no MOSFET is driven by 3.3 V and blocks 24 V"
    after = review(edit_plan(plan, found.fixes[0].patch), load_catalog())
    assert not [it for it in after.findings if it.code == "PIN-CURRENT"]
    assert [it.severity for it in after.findings if it.code == "DRV-BASE"] in ([], ["look"])
    low = plan_with(added("strip", choice={"part": "strip-5v-warm"}, length_m=0.5, drive={"school": "npn"}), WIFI)
    fixes = next(it for it in review(low, load_catalog()).findings if it.code == "PIN-CURRENT").fixes
    assert [fix.label for fix in fixes] == ["Take a MOSFET specified at 2.5 V gate"], "0.45 A would want a gain of 38"


def test_a_lamp_of_several_colours_names_its_resistors_and_pins() -> None:
    rgb = {"it": {"kind": "rgb", "host": "board", "common": "cathode"}}
    assert plain(sheet("lamps.it", {"lamps": rgb}).detail).startswith("150 Ω, 91 Ω and 91 Ω on pins ")
    even = {"channels": {it: {"resistor_ohm": 460} for it in ("red", "green", "blue")}}
    assert plain(sheet("lamps.it", {"lamps": {"it": {**rgb["it"], **even}}}).detail).startswith("460 Ω each on pins ")


LOW, HIGH = ({"choice": {"part": f"relay-module-opto-{level}"}} for level in ("low", "high"))


@pytest.mark.parametrize(
    ("kind", "fields", "top", "symbols", "switch", "bottom"),
    [
        ("buzzer", {"drive": {"school": "mosfet"}}, "5.00 V, 2 mA", ["buzzer"], "mosfet", "ground"),
        ("buzzer", {"choice": {"part": "buzzer-piezo"}}, "pin, 2 mA", ["buzzer"], None, "ground"),
        ("relay", {}, "5.00 V, 71.4 mA", ["coil"], "mosfet", "ground"),
        ("strip", {"choice": {"part": "strip-5v-warm"}, "drive": {"school": "npn"}}, "5.00 V, 900 mA", ["load"], "npn", "ground"),
        ("relay", LOW, "5.00 V, 2 mA", ["led", "resistor"], None, "pin"),
        ("relay", HIGH, "pin, 2 mA", ["led", "resistor"], None, "ground"),
        ("relay", {**LOW, "drive": {"school": "npn"}}, "5.00 V, 2 mA", ["led", "resistor"], "npn", "ground"),
    ],
)
def test_a_load_opens_on_its_circuit(
    kind: str, fields: Document, top: str, symbols: list[str], switch: str | None, bottom: str
) -> None:
    """From plus through the load and its switch to ground; or out of a pin; or into a pin that pulls low."""
    circuit = next(it for it in sheet("lamps.it", added(kind, **fields)).pictures if isinstance(it, Schematic))
    assert (plain(circuit.top), circuit.switch, circuit.bottom) == (top, switch, bottom)
    assert [part.symbol for part in circuit.chain] == symbols


@pytest.mark.parametrize(("kind", "lines"), [("pixels-one-wire", 1), ("pixels-clocked", 2), ("matrix", 3)])
def test_what_listens_opens_on_what_arrives(kind: str, lines: int) -> None:
    fields = {} if kind == "matrix" else {"layout": {"runs": [{"count": 8}]}}
    picture = charts(sheet("lamps.it", added(kind, **fields)))[0]
    assert len(picture.lanes) == lines
    assert all(it.label.endswith(" line") for it in picture.lanes)
    assert [(dot.lane, pytest.approx(dot.x)) for dot in picture.dots] == [(lane, 5.0) for lane in range(lines)]


def test_another_transistor_keeps_the_diode_over_the_coil() -> None:
    drive = {"school": "mosfet", "choice": {"part": "mosfet-2v5"}, "values": {"has_flyback": True, "gate_ohm": 470}}
    plan = plan_with(added("relay", drive=drive), FED_24V)
    found = next(it for it in review(plan, load_catalog()).findings if it.where == "it.main.switch")
    drives = panel_of(plan, "lamps.it", "Drive").choices[0]
    npn = next(it for it in drives.options if it.label == "NPN transistor")
    for patch in (found.fixes[-1].patch, npn.patch):
        after = edit_plan(plan, patch)
        assert not [it for it in review(after, load_catalog()).findings if it.code == "DRV-FLYBACK"]
        switch = resolve(after, load_catalog()).lamps["it"].switch
        assert switch is not None
        assert switch.part.id != "mosfet-2v5"
        assert switch.series.origin == "proposed", "its resistor is worked out anew"
