"""What docs/program.md works out by hand, pass by pass; and who wins, whatever is turned and said."""

from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from oddlamp.catalog.load import load_catalog
from oddlamp.core.behaviour.arithmetic import duty_of, scaled
from oddlamp.core.behaviour.compile import program_of
from oddlamp.core.behaviour.lamps import faded
from oddlamp.core.behaviour.machine import Machine
from oddlamp.core.behaviour.stage import Came
from oddlamp.core.plan.document import Document, edit_plan
from oddlamp.core.rehearsal.events import read_events
from oddlamp.core.rehearsal.simulate import rehearse
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.keep_alive import keep_alive_moves, keep_alive_panels
from tests.builders import plan_with
from tests.core.program.drawn import STAGE
from tests.core.program.test_machine import rule

KNOB: Document = {
    "rules": {
        "turned": {
            "host": "board",
            "when": {"input": "dial", "event": "moved"},
            "do": [{"verb": "level", "target": "far", "values": {"level": "input"}}],
        }
    }
}


def do(verb: str, target: str = "far", after_s: float = 0, **values: Any) -> Document:
    """One action."""
    wait = {"after_s": after_s} if after_s else {}
    return {"verb": verb, "target": target, **({"values": values} if values else {}), **wait}


def machine_of(*patches: Document, levels: dict[str, int] | None = None, **given: Any) -> Machine:
    machine = Machine(program_of(resolve(plan_with(*patches, base=STAGE), load_catalog()), "board"), **given)
    machine.start(levels or {}, given.get("record"))
    return machine


def course(machine: Machine, words: dict[int, str], at: list[int], lamp: str = "far") -> list[int]:
    """The light of a lamp in some passes, with words heard in others; every pass between is made."""
    seen = []
    for now in range(max(at) + 1):
        machine.run(now, [Came(("heard", words[now]))] if now in words else [])
        if now in at:
            seen.append(machine.outputs.shown[lamp][0][0])
    return seen


def test_a_fade_goes_as_worked_out_and_is_turned_round_on_its_way() -> None:
    machine = machine_of(rule(do("level", level=1, over_s=1)), rule(do("off", over_s=0.1), word="b"))
    assert course(machine, {0: "a", 505: "b"}, [0, 10, 504, 505, 514, 515, 605, 700]) == [0, 2, 127, 127, 127, 115, 0, 0]
    assert machine.states["far"].level == 255, "off keeps its level"


def test_a_pulse_and_a_blink_go_as_worked_out() -> None:
    machine = machine_of(rule(do("pulse", for_s=0.5)), rule(do("blink", on_s=0.1, off_s=0.2, times=2), word="b"))
    at = [0, 300, 799, 800, 1000, 1099, 1100, 1299, 1300, 1399, 1400, 1700]
    assert course(machine, {0: "a", 300: "a", 1000: "b"}, at) == [255, 255, 255, 0, 255, 255, 0, 0, 255, 255, 0, 0]


def test_a_light_that_stays_on_for_a_while_begins_anew_and_is_overtaken() -> None:
    """The staircase: on, off two seconds after the last press; and *on* said in between stays."""
    machine = machine_of(rule(do("on"), do("off", after_s=2)), rule(do("on"), word="b"))
    at = [0, 1999, 2000, 3499, 3500, 4000, 5999, 6000, 7000]
    assert course(machine, {0: "a", 1500: "a", 4000: "a", 5000: "b"}, at) == [255, 255, 255, 255, 0, 255, 255, 255, 255]


def test_on_late_is_dropped_by_off() -> None:
    machine = machine_of(rule(do("on", after_s=1)), rule(do("off"), word="b"))
    assert course(machine, {0: "a", 1200: "b", 1300: "a", 2000: "b"}, [999, 1000, 1200, 2299, 2300, 2600]) == [0, 255, 0, 0, 0, 0]


def test_a_cue_goes_round_is_overtaken_and_begins_anew_in_its_middle() -> None:
    steps = [{"target": "far", "level": 1, "after_s": 0.3}, {"target": "far", "level": 0, "after_s": 0.2, "fade_s": 0.1}]
    machine = machine_of({"cues": {"storm": {"steps": steps, "loop": True}}}, rule(do("cue", "storm")), rule(do("on"), word="b"))
    at = [0, 199, 200, 250, 260, 499, 500, 700, 750, 800, 900, 1099, 1100, 1200]
    found = course(machine, {0: "a", 260: "b", 900: "a"}, at)
    assert found == [255, 255, 255, 128, 255, 255, 255, 255, 128, 0, 255, 255, 255, 0]


def test_stop_said_in_the_same_pass_as_a_start_ends_it_and_the_other_way_round_does_not() -> None:
    steps = [{"target": "far", "level": 1}, {"target": "far", "level": 0, "after_s": 0.5}]
    made = ({"cues": {"storm": {"steps": steps}}}, rule(do("cue", "storm")), rule({"verb": "stop"}, word="b"))
    for words, light in ((("a", "b"), 0), (("b", "a"), 255)):
        machine = machine_of(*made)
        machine.run(0, [Came(("heard", word)) for word in words])
        machine.run(100)
        assert machine.outputs.shown["far"][0] == (light,), words


def test_nine_steps_even_to_the_eye_are_those_of_the_table() -> None:
    """CIE 1976 lightness in nine equal steps of 255, by hand: 3, 9, 20, 36, 60, 92, 135, 189, 255."""
    nine = {"lamps": {"far": {"ladder": {"steps": 9, "even_in": "eye"}}}}
    machine = machine_of(nine, rule(do("brighter")))
    words = dict.fromkeys(range(1, 10), "a")
    assert course(machine, words, list(range(1, 10))) == [3, 9, 20, 36, 60, 92, 135, 189, 255]


def test_half_is_128_of_255() -> None:
    assert duty_of(0.5) == 128
    assert scaled(50, 0, 100) == 128


@given(
    st.lists(st.integers(0, 255), min_size=2, max_size=2),
    st.integers(1, 3_600_000),
    st.lists(st.integers(0, 3_600_000), min_size=2, max_size=2),
)
def test_a_fade_never_turns_back_and_ends_where_it_should(ends: list[int], over_ms: int, moments: list[int]) -> None:
    first, last = sorted(min(it, over_ms) for it in moments)
    (a, b), sign = ends, 1 if ends[1] >= ends[0] else -1
    early, late, end = (faded((a,), (b,), it, over_ms)[0] for it in (first, last, over_ms))
    assert sign * early <= sign * late <= sign * b
    assert end == b
    assert abs(b - a) * over_ms < 2**32, "no product needs more than 32 bits"


def turn(machine: Machine, course_: list[int]) -> None:
    """Let the knob be at one place after the other, 10 ms each, and stay at the last for a second and a half: it is read every 10 ms."""
    now = machine.now_ms + 10 - machine.now_ms % 10
    for at, level in enumerate([*course_, *[course_[-1]] * 150]):
        machine.run(now + 10 * at, [], [("dial", level, 0)])
    assert abs(machine.inputs["dial"].value - course_[-1]) <= 1, "it is read as it stands"


@settings(max_examples=60, deadline=None)
@given(st.integers(30, 990), st.lists(st.integers(-5, 5), min_size=1, max_size=120))
def test_a_knob_that_trembles_under_its_threshold_never_takes_over(place: int, trembling: list[int]) -> None:
    """It stands somewhere, a word sets the lamp, and it trembles: the word stays."""
    machine = machine_of(KNOB, rule(do("level", level=0.2)), levels={"dial": place})
    machine.run(0)
    machine.run(1, [Came(("heard", "a"))])
    turn(machine, [place + it for it in trembling])
    assert machine.states["far"].bright == 51, "20 % of 255"


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 1023), st.integers(0, 1023))
def test_the_last_real_move_wins(place: int, to: int) -> None:
    """Moved by more than its threshold the knob has the lamp; then a word has it; and the knob again."""
    machine = machine_of(KNOB, rule(do("level", level=0.2)), levels={"dial": place})
    machine.run(0)
    machine.run(1, [Came(("heard", "a"))])
    turn(machine, [to] * 5)
    wanted = scaled(to, 5, 1018)
    if abs(to - place) > 40:
        assert abs(machine.states["far"].bright - wanted) <= 2
    elif abs(to - place) <= 20:
        assert machine.states["far"].bright == 51
    machine.run((machine.now_ms + 1) & 0xFFFF_FFFF, [Came(("heard", "a"))])
    assert machine.states["far"].bright == 51


def test_what_codes_move_goes_as_worked_out() -> None:
    """The table of the page; -3 in 4 bits of two's complement is 13, -2 is 14."""
    words = {
        "a": do("run", "boat", speed=3),
        "b": do("reverse", "boat"),
        "c": do("step", "boat", by_count=1),
        "d": do("stop", "boat"),
        "e": do("resume", "boat"),
    }
    machine = machine_of(*(rule(action, word=word) for word, action in words.items()))
    said = {0: "a", 1000: "b", 2000: "c", 3000: "d", 4000: "d", 5000: "e"}
    sent = []
    for now in (0, 1000, 1250, 2000, 3000, 4000, 5000):
        word = said.get(now)
        found = machine.run(now, [Came(("heard", word))] if word else [])
        sent += [(now, it.text) for it in found if it.lamp == "eye"]
        machine.run(now + 120)
    codes = (0x203, 0x200, 0x20D, 0x20E, 0x200, 0x200, 0x20E)
    assert sent == list(zip((0, 1000, 1250, 2000, 3000, 4000, 5000), map("{:08X}".format, codes), strict=True))


def test_two_commands_to_a_mover_in_a_row_keep_the_pause() -> None:
    """The table of the page, with the mover's own pause of 500 ms; and never both, whatever sets them."""
    mover = {"movers": {"curtain": {"pause_s": 0.5}}}
    machine = machine_of(
        mover,
        rule(do("on", "up")),
        rule(do("on", "down"), word="b"),
        rule(do("stop", "curtain"), word="c"),
        rule(do("reverse", "curtain"), word="d"),
    )
    words = {0: "a", 1000: "b", 1200: "b", 2000: "c", 2100: "a", 2200: "b", 3000: "d", 3400: "d"}
    at = [0, 999, 1000, 1499, 1500, 1999, 2000, 2100, 2199, 2200, 2999, 3000, 3400, 3600, 4000]
    seen = []
    for now in range(max(at) + 1):
        machine.run(now, [Came(("heard", words[now]))] if now in words else [])
        lit = tuple(machine.states[it].is_on for it in ("up", "down"))
        assert lit != (True, True), now
        if now in at:
            seen.append("ab"[lit.index(True)] if any(lit) else "-")
    # 3000 turns it round (down to up, waits until 3500); 3400 turns it round again: down ran last, and goes on at once.
    assert "".join(seen) == "aa--bb---bb-bbb"


def played(patches: tuple[Document, ...], *events: Document) -> Any:
    return rehearse(plan_with(*patches, base=STAGE), load_catalog(), read_events(list(events)))


WORD: Document = {"kind": "word", "talk": "main", "word": "a", "t_s": 1.0}
ON_A = rule(do("on"))


def last(trace: Any, pin: str = "far.main") -> int:
    """What a pin shows at the end; full is told as 1, whatever the timer's steps are."""
    return int(trace.pins[pin][-1].shows > 0)


@pytest.mark.parametrize(
    ("standing", "events", "is_lit"),
    [
        ({"power_up": "on"}, [], True),
        ({"power_up": "off"}, [], False),
        ({"link_lost": "off"}, [WORD, {"kind": "link", "t_s": 2, "link": "air", "does": "lost"}], False),
        ({"link_lost": "keep"}, [WORD, {"kind": "link", "t_s": 2, "link": "air", "does": "lost"}], True),
        ({"link_lost": "on"}, [{"kind": "link", "t_s": 2, "link": "air", "does": "lost"}], True),
        # A record is put down once all is still for 5 s: a cut before that is a power-up, one after it a power cut.
        ({"power_cut": "last"}, [WORD, {"kind": "power", "t_s": 9, "node": "board", "does": "reset"}], True),
        ({"power_cut": "last"}, [WORD, {"kind": "power", "t_s": 3, "node": "board", "does": "reset"}], False),
        ({"power_cut": "off", "power_up": "on"}, [{"kind": "power", "t_s": 9, "node": "board", "does": "reset"}], False),
        ({"power_cut": "off", "power_up": "on"}, [{"kind": "power", "t_s": 2, "node": "board", "does": "reset"}], True),
        ({"power_cut": "on"}, [{"kind": "power", "t_s": 7, "node": "board", "does": "off"}], False),
        (
            {"power_cut": "on"},
            [
                {"kind": "power", "t_s": 7, "node": "board", "does": "off"},
                {"kind": "power", "t_s": 8, "node": "board", "does": "on"},
            ],
            True,
        ),
    ],
)
def test_power_links_and_resets_do_what_was_settled(standing: Document, events: list[Document], is_lit: bool) -> None:
    trace = played(({"standing": {"far": standing}}, ON_A), *events, {"kind": "wait", "t_s": 12})
    assert bool(last(trace)) == is_lit


def test_a_link_that_is_lost_lets_go_what_words_hold() -> None:
    held = rule(do("hold"))
    lost = {"kind": "link", "t_s": 2, "link": "air", "does": "lost"}
    assert last(played((held,), WORD)) == 1
    assert last(played((held,), WORD, lost)) == 0


def test_a_board_without_power_hears_nothing() -> None:
    off = {"kind": "power", "t_s": 0.5, "node": "board", "does": "off"}
    trace = played((ON_A,), off, WORD)
    assert [it.lost_because for it in trace.lost] == ["it has no power"]
    assert last(trace) == 0


@pytest.mark.parametrize(("does", "is_lit"), [("leave", False), ("power-off", False), ("key-down", True)])
def test_a_state_pin_tells_of_whatever_ends_the_link(does: str, is_lit: bool) -> None:
    befalls = {"kind": "module", "t_s": 2, "node": "radio", "does": [does]}
    trace = played(({"standing": {"far": {"link_lost": "off"}}}, ON_A), WORD, befalls)
    assert bool(last(trace)) == is_lit


def test_nobody_tells_a_board_of_its_link_and_that_is_told() -> None:
    lost = {"kind": "link", "t_s": 2, "link": "air", "does": "lost"}
    trace = played(({"signals": {"radio.state": None}, "standing": {"far": {"link_lost": "off"}}}, ON_A), WORD, lost)
    assert last(trace) == 1
    assert [it.lost_because for it in trace.lost] == ["nothing tells the board that its link is lost"]


ALIVE: Document = {
    "signals": {"radio.state": None},
    "vocabularies": {"words": {"words": {"alive": {"sent": "L"}}}},
    "talks": {"main": {"keep_alive": {"word": "alive", "every_s": 1}}},
    "standing": {"far": {"link_lost": "off"}},
}


@pytest.mark.parametrize(("back_s", "dark_s"), [(30.0, 13.037), (11.5, None)])
def test_silence_tells_of_a_link_that_is_lost_and_a_short_one_is_not_seen(back_s: float, dark_s: float | None) -> None:
    """Said each second from the first word on, last at 10 s; three seconds without it, and the phone takes about 37 ms to be heard."""
    events: list[Document] = [
        WORD,
        {"kind": "link", "t_s": 10.5, "link": "air", "does": "lost"},
        {"kind": "link", "t_s": back_s, "link": "air", "does": "back"},
    ]
    trace = played((ALIVE, ON_A), *events)
    dark = [it.t_s for it in trace.pins["far.main"] if it.t_s > 2 and not it.shows]
    assert dark == ([] if dark_s is None else [pytest.approx(dark_s, abs=0.0021)])
    said = [it.says for it in trace.events if it.ref == "air" and it.stage == "rules.board"]
    assert said == ([] if dark_s is None else ["silent for 3000 ms: the link is lost", "heard again: the link is back"])


def test_a_keep_alive_word_goes_with_what_is_done_without_it() -> None:
    """Added and let go by pressing: the plan is as it was."""
    plan = plan_with({"signals": {"radio.state": None}}, base=STAGE)
    added = next(it for it in keep_alive_moves(resolve(plan, load_catalog()), "board"))
    alive = edit_plan(plan, added.patch)
    assert alive.talks["main"].keep_alive is not None
    panel = next(iter(keep_alive_panels(resolve(alive, load_catalog()), "board")))
    assert edit_plan(alive, panel.moves[0].patch) == plan


def test_a_feed_says_its_lines_in_turn_until_it_is_stopped() -> None:
    news: Document = {
        "nodes": {"news": {"kind": "feed", "lines": "Doors open at seven; Moonrise at nine", "every_s": 2}},
        "links": {"news_air": {"kind": "air", "a": "news", "b": "radio"}},
        "talks": {"news": {"a": "news", "b": "board", "via": ["news_air", "serial"], "vocabulary": "words"}},
        "vocabularies": {
            "words": {
                "framing": {"kind": "terminated", "terminator": "lf"},
                "words": {"told": None, "tell": {"sent": "Y{line}", "parameters": {"line": {"written": "text"}}}},
            }
        },
        "rules": {"news": {"host": "board", "when": {"heard": "tell"}, "do": [do("text", "sign", text="{line}")]}},
    }
    does = [(1, "next"), (3, "go-on"), (8, "stop"), (9, "next")]
    trace = played((news,), *({"kind": "feed", "t_s": at, "node": "news", "does": what} for at, what in does))
    assert [it.text for it in trace.shows["sign"]] == [
        "",
        *["Doors open at seven", "Moonrise at nine"] * 2,
        "Doors open at seven",
    ]
    assert [int(it.t_s) for it in trace.shows["sign"]] == [0, 1, 3, 5, 7, 9]


def test_a_clock_sets_rules_off_at_their_minute_and_never_when_it_is_set() -> None:
    at = {"rules": {"dawn": {"host": "board", "when": {"at": "19:30"}, "do": [do("on")]}}}
    for begins, is_lit in (("19:29:58", 1), ("19:30", 0), ("19:29:40", 0)):
        trace = played((at,), {"kind": "clock", "t_s": 0.5, "at": begins}, {"kind": "wait", "t_s": 1})
        assert last(trace) == is_lit, begins


def test_readings_go_out_at_their_interval() -> None:
    told = {"talk": "main", "word": "told", "fill": {"v": "{dial.value}", "w": "{far.level}"}}
    every = {"rules": {"often": {"host": "board", "when": {"every_s": 2}, "do": [{"verb": "say", "say": told}]}}}
    links = {**WORD, "t_s": 0.1}  # before anybody links, nobody hears them
    turned = {"kind": "input", "t_s": 0.5, "input": "dial", "event": "moved", "value": 1}
    heard = [(round(it.t_s), dict(it.values)) for it in played((every, ON_A), links, turned).answered]
    assert heard[:2] == [(2, {"v": 1000, "w": 1000}), (4, {"v": 1000, "w": 1000})]
