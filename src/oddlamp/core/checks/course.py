"""Rules for what goes on over time: flashing, links that are lost unseen, cues that cannot be seen, inputs that never say it."""

from collections.abc import Iterator, Mapping
from functools import partial
from typing import Any, Final

from oddlamp.core.base import Working, si
from oddlamp.core.behaviour.compile import BLINK_MS, program_of
from oddlamp.core.behaviour.lamps import DARK, pictured
from oddlamp.core.behaviour.program import CueCode, LampSpec
from oddlamp.core.behaviour.tables import LOOP_LEAST_MS, input_spec, ms_of, pixels_of
from oddlamp.core.checks.chips import feed_of
from oddlamp.core.checks.fewer import that_clear
from oddlamp.core.checks.findings import Breach, Move, Rule
from oddlamp.core.design.design import Design
from oddlamp.core.english import inner
from oddlamp.core.modules.goals import network_of, port_of
from oddlamp.core.modules.own_radio import OWN_ADDRESS, page_at
from oddlamp.core.plan.chips import with_chips
from oddlamp.core.plan.document import at_path
from oddlamp.core.plan.lights import PIXEL_KINDS
from oddlamp.core.plan.rules import Action
from oddlamp.core.plan.signals import label_of, told_by
from oddlamp.core.resolve.passages import clock_of

CLOCK: Final = "clock-chip"
FLASHES_MOST: Final = 3  # a second, for an audience; common practice, from memory
WIDE_PIXELS: Final = 20
WIDE_LAMPS: Final = 6
NOISE_STEPS: Final = 3  # of 1023, by which a usual knob trembles; common practice, from memory
GIVES: Final = {"button": ("pressed", "released"), "contact": ("on", "off"), "turned": ("moved",)}


def flashing_is_slow(design: Design) -> Iterator[Breach]:
    """What flashes over a wide area flashes three times a second at most."""
    for name, rule in design.plan.rules.items():
        for at, action in enumerate(rule.do):
            if action.verb == "blink" and _is_wide(design, design.targets(action.target)):
                lit_ms = ms_of(action.values.on_s if action.values else None) or BLINK_MS
                dark_ms = ms_of(action.values.off_s if action.values else None) or lit_ms
                rate = 1000 / (lit_ms + dark_ms)
                if rate > FLASHES_MOST:
                    ways = partial(_slower, design, name, at)
                    yield _flash(f"rules.{name}.{at}", f"rules.{rule.host}", rate, ways)
    for host in (it.id for it in design.nodes.values() if it.node.kind == "board"):
        program = program_of(design, host)
        for name, code in program.cues.items():
            wide = [it for it in program.lamps if design.lamps[it].host == host]
            rate = _flashes(design, code, program.lamps, wide)
            if rate > FLASHES_MOST:
                yield _flash(f"cues.{name}.{host}", f"rules.{host}", rate, partial(_longer, design, name, rate))


def _flash(where: str, stage: str, rate: float, ways: Any) -> Breach:
    return Breach(
        severity="look",
        where=where,
        stage=stage,
        message=f"{rate:.2g} flashes a second over a wide area: 3 to 30 can cause seizures in some who watch. Three a second or fewer for an audience.",
        working=(Working(formula="flashes a second ≤ 3", substituted=f"{rate:.2g} > {FLASHES_MOST}", source="common-practice"),),
        ways=ways,
        numbers={"flashes": rate},
    )


def _is_wide(design: Design, lamps: tuple[str, ...]) -> bool:
    """Tell whether lamps together light much: a strip, a long chain, or many."""
    kinds = [design.plan.lamps[it] for it in lamps]
    return (
        len(lamps) >= WIDE_LAMPS
        or any(it.kind == "strip" for it in kinds)
        or any(it.kind in PIXEL_KINDS and pixels_of(it) >= WIDE_PIXELS for it in kinds)
    )


def _flashes(design: Design, code: CueCode, specs: Mapping[str, LampSpec], lamps: list[str]) -> int:
    """Return the most flashes of a wide area within one second of a cue, over two seconds and more where it loops."""
    program_lamps = dict.fromkeys(lamps, DARK)
    is_lit, now_ms = False, 0
    risen: list[int] = []
    total_ms = sum(it.after_ms for it in code.frames)
    for round_ in range(2 + 2000 // total_ms if code.loops else 1):
        for at, frame in enumerate(code.frames):
            now_ms += frame.after_ms if at or round_ or not code.loops else 0
            for picture in frame.pictures:
                for it in picture.lamps:
                    if it in program_lamps:
                        program_lamps[it] = pictured(program_lamps[it], picture, specs[it])
            lit = tuple(it for it, state in program_lamps.items() if state.bright)
            is_now = _is_wide(design, lit)
            if is_now and not is_lit:
                risen.append(now_ms)
            is_lit = is_now
    return max((sum(1 for it in risen if begun <= it < begun + 1000) for begun in risen), default=0)


def _slower(design: Design, name: str, at: int) -> Iterator[Move]:
    do = [it.model_dump(mode="json", exclude_none=True) for it in design.plan.rules[name].do]
    values = {**do[at].get("values", {}), "on_s": 0.25, "off_s": 0.25}
    do[at] = {**do[at], "values": values}
    yield Move(label="Let it flash twice a second", patch=at_path(("rules", name, "do"), do))


def _longer(design: Design, name: str, rate: float) -> Iterator[Move]:
    """Offer the cue with all its times longer, so that it flashes three times a second."""
    steps = [it.model_dump(mode="json", exclude_none=True) for it in design.plan.cues[name].steps]
    factor = max(2, -(-int(rate + 1) // FLASHES_MOST) + 1)
    longer = [{**it, "after_s": round(it["after_s"] * factor, 3)} if it.get("after_s") else it for it in steps]
    yield Move(label=f"Let it take {factor} times as long", patch=at_path(("cues", name, "steps"), longer))


def knows_time(design: Design, host: str) -> bool:
    """Tell whether a board can learn what time it is: from a chip, a network, or a phone that opens the page it serves."""
    if clock_of(design, host) is not None:
        return True
    airs = ((design.plan.links[name], it) for name, it in design.airs.items() if it.radio == "wifi")
    mine = [(link, it.transport.id) for link, it in airs if host in (link.a, link.b)]
    return any(network_of(link) == "station" or page_at(transport, port_of(link), OWN_ADDRESS) for link, transport in mine)


def times_are_known(design: Design) -> Iterator[Breach]:
    """A rule at a time of day runs on a board that can know it."""
    for name, rule in design.plan.rules.items():
        if rule.when.at is None or design.nodes[rule.host].node.kind != "board" or knows_time(design, rule.host):
            continue
        yield Breach(
            severity="look",
            where=f"rules.{name}.at",
            stage=f"rules.{rule.host}",
            message=f"A rule waits until it is {rule.when.at}, and nothing tells the {inner(design.nodes[rule.host].label)} what time it is: it never happens.",
            working=(
                Working(formula="a chip, a network or a page that tells the time", substituted="none", source="common-practice"),
            ),
            ways=partial(_without_time, design, name),
            numbers={"rules": 1},
        )


def _without_time(design: Design, name: str) -> Iterator[Move]:
    moves = [
        Move(
            label="Add a clock chip, over two wires",
            patch=with_chips(
                design.plan, design.plan.rules[name].host, CLOCK, feed_of(design, design.plan.rules[name].host), [[]]
            ),
        ),
        Move(
            label="Do it every day from when the power comes",
            patch=at_path(("rules", name, "when"), {"at": None, "every_s": 86_400}),
        ),
        Move(label="Take the rule out", patch=at_path(("rules", name), None)),
    ]
    yield from that_clear(design, "CLOCK-NONE", f"rules.{name}.at", moves)


def cues_can_be_seen(design: Design) -> Iterator[Breach]:
    """A cue that goes round takes time for it, and shows its last picture for longer than a blink of the chip."""
    for name, cue in design.plan.cues.items():
        host = next((it.id for it in design.nodes.values() if it.node.kind == "board" and _plays(design, it.id, name)), None)
        if not cue.loop or not cue.steps or host is None:
            continue
        code = program_of(design, host).cues[name]
        total_ms = sum(it.after_ms for it in code.frames)
        label = label_of(cue.label, name)
        if total_ms < LOOP_LEAST_MS:
            message = f"{label} would go round in {total_ms} ms, which no program can: it runs once."
        elif len(code.frames) > 1 and not code.frames[0].after_ms:
            message = f"The last picture of {label} is gone as soon as it is there: its first one follows at once."
        else:
            continue
        yield Breach(
            severity="look",
            where=f"cues.{name}",
            stage=f"rules.{host}",
            message=message,
            working=(
                Working(
                    formula="time before the first picture, and 20 ms a round",
                    substituted=f"{code.frames[0].after_ms} ms, {total_ms} ms",
                    source="common-practice",
                ),
            ),
            ways=partial(_timed, design, name),
            numbers={"missing_ms": max(LOOP_LEAST_MS - total_ms, 1)},
        )


def _plays(design: Design, host: str, cue: str) -> bool:
    return any(action.verb == "cue" and action.target == cue for _, rule in design.rules_of(host) for action in rule.do)


def _timed(design: Design, name: str) -> Iterator[Move]:
    steps = [it.model_dump(mode="json", exclude_none=True) for it in design.plan.cues[name].steps]
    usual = next((it["after_s"] for it in reversed(steps) if it.get("after_s")), 0.5)
    first = {**steps[0], "after_s": max(usual, 0.02)}
    moves = [
        Move(
            label=f"Wait {si(max(usual, 0.02), 's')} before it goes round",
            patch=at_path(("cues", name, "steps"), [first, *steps[1:]]),
        ),
        Move(label="Let it run once", patch=at_path(("cues", name, "loop"), None)),
    ]
    yield from that_clear(design, "CUE-ROUND", f"cues.{name}", moves)


def inputs_say_it(design: Design) -> Iterator[Breach]:
    """A rule waits for what its input can do."""
    for name, rule in design.plan.rules.items():
        when = rule.when
        if when.input is None or when.event is None or design.plan.inputs[when.input].kind == "remote-receiver":
            continue
        spec = input_spec(design.plan.inputs[when.input])
        can = GIVES[spec.kind] if spec.upper is None else GIVES["contact"]
        if when.event in can:
            continue
        label = label_of(design.plan.inputs[when.input].label, when.input)
        where = f"rules.{name}.when"
        yield Breach(
            severity="look",
            where=where,
            stage=f"inputs.{when.input}",
            message=f"A rule waits until {label} is {when.event}, which it never is: it is {' or '.join(can)}.",
            working=(
                Working(formula="an event that the input has", substituted=f"{when.event}: none", source="common-practice"),
            ),
            ways=partial(_said, design, name, can, where),
            numbers={"rules": 1},
        )


def _said(design: Design, name: str, can: tuple[str, ...], where: str) -> Iterator[Move]:
    moves = [Move(label=f"Let it wait until it is {it}", patch=at_path(("rules", name, "when", "event"), it)) for it in can]
    moves.append(Move(label="Take the rule out", patch=at_path(("rules", name), None)))
    yield from that_clear(design, "INPUT-NEVER", where, moves)


def noise_moves_nothing(design: Design) -> Iterator[Breach]:
    """What a knob trembles by moves no lamp and takes none over."""
    for name, it in design.plan.inputs.items():
        spec = input_spec(it)
        told = [rule for rule in design.plan.rules.values() if rule.when.input == name]
        if spec.kind != "turned" or not told or (spec.upper is not None and spec.upper - spec.lower >= 2 * NOISE_STEPS):
            continue
        label = label_of(it.label, name)
        if spec.upper is None and spec.play < NOISE_STEPS:
            path: tuple[str, ...] = ("inputs", name, "settings", "play_ratio")
            least = spec.play
            message = f"{label} counts as moved from {least + 1} of 1023 steps on, and a usual knob trembles by {NOISE_STEPS}: lamps flicker, and it takes them back by itself."
        elif spec.upper is not None:
            path, least = ("inputs", name, "settings"), spec.upper - spec.lower
            message = f"{label} is on and off {least} of 1023 steps apart, and trembles by {NOISE_STEPS}: at dusk it switches to and fro."
        else:
            continue
        apart = {
            "on_above_ratio": min(1.0, (spec.upper or 0) / 1023 + 0.03),
            "off_below_ratio": max(0.0, spec.lower / 1023 - 0.03),
        }
        fix: Any = None if spec.upper is None else {key: round(value, 3) for key, value in apart.items()}
        yield Breach(
            severity="look",
            where=f"inputs.{name}",
            stage=f"inputs.{name}",
            message=message,
            working=(
                Working(
                    formula="more than it trembles by",
                    substituted=f"{least} against {NOISE_STEPS} of 1023",
                    source="common-practice",
                ),
            ),
            fixes=(
                Move(label="Take what trembles for noise" if fix is None else "Put them further apart", patch=at_path(path, fix)),
            ),
            numbers={"missing": NOISE_STEPS - least + 1},
        )


def pixels_are_there(design: Design) -> Iterator[Breach]:
    """A rule or a cue speaks only of pixels that the chain has."""
    for name, rule in design.plan.rules.items():
        for at, action in enumerate(rule.do):
            if action.values is not None and action.values.first is not None:
                first, last = action.values.first, action.values.last
                if first == "input":
                    last = (design.plan.inputs[rule.when.input or ""].count or 1) - 1
                elif last is None:
                    last = first
                yield from _beyond(
                    design,
                    f"rules.{name}.{at}",
                    f"rules.{rule.host}",
                    design.targets(action.target),
                    last,
                    partial(_ends, design, name, at, action),
                )
    for name, cue in design.plan.cues.items():
        for at, step in enumerate(cue.steps):
            if step.first is not None:
                lamps, last = design.targets(step.target), step.first if step.last is None else step.last
                host = next((told_by(design.plan, design.lamps[it].host) for it in lamps), None)
                steps = [it.model_dump(mode="json", exclude_none=True) for it in cue.steps]
                fix = Move(
                    label="Take the step out",
                    patch=at_path(("cues", name, "steps"), [it for n, it in enumerate(steps) if n != at]),
                )
                yield from _beyond(design, f"cues.{name}.{at}", f"rules.{host}", lamps, last, lambda fix=fix: iter((fix,)))


def _beyond(design: Design, where: str, stage: str, lamps: tuple[str, ...], last: int, ways: Any) -> Iterator[Breach]:
    for it in lamps:
        plan = design.plan.lamps[it]
        if plan.kind not in PIXEL_KINDS or last < pixels_of(plan):
            continue
        count = pixels_of(plan)
        yield Breach(
            severity="look",
            where=f"{where}.{it}",
            stage=stage,
            message=f"{design.lamps[it].label} has the pixels 0 to {count - 1}, and pixel {last} is told to shine: nothing comes of that.",
            working=(Working(formula="pixel < how many there are", substituted=f"{last} ≥ {count}", source="common-practice"),),
            ways=ways,
            numbers={"beyond": last - count + 1},
        )


def _ends(design: Design, name: str, at: int, action: Action) -> Iterator[Move]:
    """Offer that it ends with the chain, or is left out where it begins after it."""
    least = min(
        pixels_of(design.plan.lamps[it]) for it in design.targets(action.target) if design.plan.lamps[it].kind in PIXEL_KINDS
    )
    do = [it.model_dump(mode="json", exclude_none=True) for it in design.plan.rules[name].do]
    first = action.values.first if action.values is not None else None
    if first == "input":
        name = design.plan.rules[name].when.input or ""
        label = inner(label_of(design.plan.inputs[name].label, name))
        yield Move(label=f"Have {least} of {label}", patch=at_path(("inputs", name, "count"), least))
    elif first is not None and first < least:
        do[at] = {**do[at], "values": {**do[at]["values"], "last": least - 1}}
        yield Move(label=f"Let it end at pixel {least - 1}", patch=at_path(("rules", name, "do"), do))
    else:
        yield Move(label="Take it out of the rule", patch=at_path(("rules", name, "do"), do[:at] + do[at + 1 :]))


RULES: Final = (
    Rule("FLASH-CAUTION", "words", flashing_is_slow, "", "over a wide area, more than three flashes a second", "common practice"),
    Rule("CLOCK-NONE", "words", times_are_known, "", "a rule at a time of day on a board that cannot know it", "common practice"),
    Rule(
        "CUE-ROUND",
        "words",
        cues_can_be_seen,
        "",
        "a cue goes round in under 20 ms, or its last picture is gone at once",
        "common practice",
    ),
    Rule("INPUT-NEVER", "words", inputs_say_it, "", "a rule waits for what its input never does", "common practice"),
    Rule("INPUT-NOISE", "words", noise_moves_nothing, "", "what a knob trembles by counts as moved", "common practice"),
    Rule("PIXEL-NONE", "words", pixels_are_there, "", "pixels are told to shine that the chain has not", "common practice"),
)
