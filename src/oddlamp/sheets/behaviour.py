"""The sheet of what a host does: a sentence a rule with its times, and what lamps do when nobody tells them."""

from collections.abc import Iterator, Mapping
from typing import Any, Final

from oddlamp.core.base import first_free, si
from oddlamp.core.behaviour.compile import BLINK_MS, PULSE_MS, STEP_MS, event_of
from oddlamp.core.behaviour.tables import input_spec, keeps_over_cut
from oddlamp.core.checks.course import knows_time
from oddlamp.core.checks.findings import Move
from oddlamp.core.design.design import Design
from oddlamp.core.english import and_list, inner, plural
from oddlamp.core.modules.known import HOW, links_known
from oddlamp.core.plan.document import Document, at_path, join_patches
from oddlamp.core.plan.lights import DISPLAY_KINDS, SWITCHED_KINDS
from oddlamp.core.plan.model import Board
from oddlamp.core.plan.rules import Action, Rule
from oddlamp.core.plan.signals import label_of, told_by
from oddlamp.sheets.deeds import deeds_of, describe
from oddlamp.sheets.keep_alive import keep_alive_moves, keep_alive_panels
from oddlamp.sheets.models import Choice, Entry, Option, Panel, Sheet
from oddlamp.sheets.movers import mover_moves, mover_panels
from oddlamp.sheets.score import cue_moves, scores_of, targets_of
from oddlamp.sheets.sentences import orders_of, sentences_of

OFFERED_MOST: Final = 5
MANY: Final = 60
FADING: Final = ("on", "off", "toggle", "level", "colour", "brighter", "dimmer", "add", "random", "restore")
Orders = tuple[tuple[str, str, str], ...]
STANDING: Final[tuple[tuple[str, str, str, str, Orders], ...]] = (
    (
        "power_up", "When the power comes", "off", "nothing lights by itself",
        (("off", "Off", "until something is said"), ("on", "On", "at once")),
    ),
    (
        "link_lost", "When the link is lost", "keep", "a short loss is not seen",
        (("keep", "As it is", "a short loss is not seen"), ("off", "Off", "as when the app is closed"), ("on", "On", "a light to find the way")),
    ),
    (
        "power_cut", "After a power cut", "as power_up", "the same as when the power comes: nothing need be kept",
        (("off", "Off", "until something is said"), ("on", "On", "at once"), ("last", "As it was", "kept over the cut, once still for 5 s")),
    ),
    (
        "winner", "Two that want it", "last-moved", "the last hand on it is the one that means it",
        (
            ("last-moved", "The last one wins", "what is turned once it has moved by 2 %"),
            ("phone", "The phone wins", "until its link is lost"),
            ("local", "What is here wins", "while it is on or turned up"),
        ),
    ),
)  # fmt: skip


def behaviour_sheet(design: Design, host: str) -> Sheet:
    """Build the sheet of what a host does."""
    rules = design.rules_of(host)
    open_rules = [name for name, rule in rules if event_of(rule.when) is None]
    sentence = (
        f"{plural(len(rules), 'rule')} for what lamps do." if rules else "Nothing happens yet: no rule says what a word does."
    )
    detail = (
        f"{plural(len(open_rules), 'rule')} that nothing sets off yet."
        if open_rules
        else "Each acts in the millisecond after its word is whole. Choose what a word does under Words, what a knob does at the knob."
    )
    lamps = [it.id for it in design.lamps.values() if told_by(design.plan, it.host) == host]
    said = sentences_of(design, host)
    return Sheet(
        stage=f"rules.{host}",
        kind="behaviour",
        title="Behaviour",
        sentence=sentence,
        detail=detail,
        panels=(
            *(_rule_panel(design, name, rule, said[name]) for name, rule in rules),
            *mover_panels(design, host),
            *keep_alive_panels(design, host),
            *([standing_panel(design, lamps)] if lamps else []),
            *_whose_program(design, host),
        ),
        orders=orders_of(design, host),
        targets=targets_of(design, host),
        scores=scores_of(design, host),
        moves=(
            *cue_moves(design),
            *_rule_moves(design, host, lamps),
            *_link_moves(design, host),
            *keep_alive_moves(design, host),
            *mover_moves(design, host),
        ),
    )


def _rule_panel(design: Design, name: str, rule: Rule, said: str) -> Panel:
    """Tell a rule as a sentence, with the times in it to turn."""
    do = [action.model_dump(mode="json", exclude_none=True) for action in rule.do]
    return Panel(
        title=said,
        writes=name,
        choices=tuple(_choices(design, name, rule, do)),
        entries=(*_moments(name, rule), *_times(design, name, rule, do)),
        is_folded=True,
        moves=(Move(label="Take this rule out", patch=at_path(("rules", name), None)),),
    )


def _choices(design: Design, name: str, rule: Rule, do: list[Document]) -> Iterator[Choice]:
    """Offer what a rule does that no word and no input has on its own sheet, and what it is left out for."""
    path = ("rules", name)
    if rule.when.heard is None and rule.when.input is None:
        says = [it for it in do if it["verb"] == "say"]
        current = [it for it in do if it["verb"] != "say"]
        options = [
            Option(label=label, patch=at_path((*path, "do"), [*deed, *says]), is_chosen=current == deed)
            for label, deed in deeds_of(design, rule.host, {})
        ]
        if not any(it.is_chosen for it in options):
            options.insert(0, Option(label=describe(design, rule.host, current) or "nothing", patch={}, is_chosen=True))
        yield Choice(label="It does", origin="own", options=tuple(options))
    unless, options = rule.unless, [Option(label="never", patch=at_path((*path, "unless"), None), is_chosen=rule.unless is None)]
    told = {rule.unless.lamp if rule.unless is not None else None, *(it for one in rule.do for it in design.targets(one.target))}
    here = [it for it in design.lamps.values() if told_by(design.plan, it.host) == rule.host]
    here.sort(key=lambda it: it.id not in told)  # those it speaks of first: of very many not all are offered
    lamps = [("lamp", it.id, it.label) for it in here[:OFFERED_MOST]]
    inputs = [
        ("input", key, label_of(it.label, key))
        for key, it in design.plan.inputs.items()
        if it.host == rule.host and input_spec(it).kind != "turned"
    ]
    for kind, key, label in (*lamps, *inputs):
        for state in ("on", "off"):
            given = {"lamp": None, "input": None, kind: key, "state": state}
            is_it = unless is not None and (unless.lamp or unless.input) == key and unless.state == state
            options.append(Option(label=f"{label} is {state}", patch=at_path((*path, "unless"), given), is_chosen=is_it))
    yield Choice(label="Left out when", origin="own", options=tuple(options))


def _moments(name: str, rule: Rule) -> Iterator[Entry]:
    """Offer the time of day or the interval of a rule."""
    path = ("rules", name, "when")
    if rule.when.at is not None:
        yield Entry(label="At", text=rule.when.at, path=(*path, "at"), origin="own", hint="00:00 to 23:59")
    if rule.when.every_s is not None:
        yield Entry(
            label="Every",
            text=si(rule.when.every_s, "s"),
            path=(*path, "every_s"),
            origin="own",
            hint="from 0.1 s on, such as 30 s",
        )


def _times(design: Design, name: str, rule: Rule, do: list[Document]) -> Iterator[Entry]:
    """Offer each time of a rule: how long it fades, blinks or waits."""

    def entry(at: int, label: str, place: tuple[str, ...], seconds: float | None, none: str, hint: str) -> Entry:
        return Entry(
            label=label,
            text=si(seconds, "s") if seconds else none,
            path=("rules", name, "do"),
            items=tuple(do),
            place=(at, *place),
            origin="own" if seconds else "proposed",
            because=None if seconds else f"{none}: nothing is said of it",
            hint=hint,
        )

    for at, action in enumerate(rule.do):
        values, who = action.values, _target(design, action)
        which = f"{who} " if len(rule.do) > 1 else ""
        if action.verb in FADING and _can_fade(design, action):
            yield entry(
                at,
                f"{which}fades over",
                ("values", "over_s"),
                values.over_s if values else None,
                "at once",
                "such as 0.8 s; up to an hour",
            )
        if action.verb == "blink":
            lit_s = (values.on_s if values else None) or BLINK_MS / 1000
            yield entry(
                at,
                f"{which}lit for",
                ("values", "on_s"),
                values.on_s if values else None,
                si(BLINK_MS / 1000, "s"),
                "from 20 ms on",
            )
            yield entry(
                at, f"{which}dark for", ("values", "off_s"), values.off_s if values else None, si(lit_s, "s"), "from 20 ms on"
            )
        if action.verb == "pulse":
            yield entry(
                at,
                f"{which}for",
                ("values", "for_s"),
                values.for_s if values else None,
                si(PULSE_MS / 1000, "s"),
                "from 20 ms on",
            )
        if action.verb == "tone":
            yield entry(
                at, f"{which}sounds for", ("values", "for_s"), values.for_s if values else None, "until told", "such as 0.5 s"
            )
        if action.verb == "pattern":
            step_s = values.step_s if values else None
            yield entry(at, f"{which}a step each", ("values", "step_s"), step_s, si(STEP_MS / 1000, "s"), "from 20 ms on")
        if action.verb != "remember":
            what = "Begins after" if not at else f"{who} after"
            yield entry(at, what, ("after_s",), action.after_s, "at once", "how long it waits, such as 30 s; up to a day")


def _target(design: Design, action: Action) -> str:
    target = action.target or ""
    if target in design.lamps:
        return design.lamps[target].label
    named: Mapping[str, Any] = {**design.plan.groups, **design.plan.cues}
    return (
        label_of(named[target].label, target) if target in named else "what is said" if action.say is not None else "everything"
    )


def _can_fade(design: Design, action: Action) -> bool:
    return any(design.lamps[it].kind not in (*SWITCHED_KINDS, *DISPLAY_KINDS) for it in design.targets(action.target))


def standing_panel(design: Design, lamps: list[str], *, is_folded: bool = False) -> Panel:
    """Hold what lamps do when nobody tells them; for more than one lamp all at once."""
    host = told_by(design.plan, design.lamps[lamps[0]].host) or ""
    choices, keeps = [], keeps_over_cut(design, host)
    for field, label, usual, why, orders in STANDING if len(lamps) <= MANY else STANDING[:2]:  # each names every lamp
        mine = {getattr(design.plan.standing.get(it), field, None) for it in lamps}
        settled = next(iter(mine)) if len(mine) == 1 else None
        if field == "winner" and not _is_wanted_twice(design, lamps):
            continue
        standing = {getattr(design.plan.standing.get(it), "power_up", None) or "off" for it in lamps}
        usually = usual if usual != "as power_up" else next(iter(standing)) if len(standing) == 1 else None
        options = [
            Option(
                label=told,
                detail=detail,
                patch=join_patches(at_path(("standing", it, field), key) for it in lamps),
                is_chosen=key == settled or (settled is None and len(mine) == 1 and key == usually),
            )
            for key, told, detail in orders
            if key != "last" or keeps or key in mine
        ]
        if len(mine) > 1:
            options.insert(0, Option(label="Each its own", detail="settled at each lamp", patch={}, is_chosen=True))
        is_own = mine != {None}
        choices.append(
            Choice(label=label, origin="own" if is_own else "proposed", because=None if is_own else why, options=tuple(options))
        )
    lines = tuple(_how_known(design, host))
    return Panel(
        title="When nobody tells it" if len(lamps) == 1 else "When nobody tells them",
        choices=tuple(choices),
        lines=() if is_folded else lines,
        is_folded=is_folded,
    )


def _is_wanted_twice(design: Design, lamps: list[str]) -> bool:
    """Tell whether words and inputs both set one of the lamps."""
    by: dict[str, set[bool]] = {}
    for rule in design.plan.rules.values():
        for action in rule.do:
            for it in design.targets(action.target):
                by.setdefault(it, set()).update({rule.when.input is None} if rule.when.input or rule.when.heard else set())
    return any(len(by.get(it, ())) > 1 for it in lamps)


def _how_known(design: Design, host: str) -> Iterator[str]:
    for it in links_known(design):
        if it.board == host:
            how = (
                HOW[it.by] if it.by is not None else "nothing tells the board: give its module's state pin a wire, at the hook-up"
            )
            yield f"How it knows that the link is lost: {how}."


def _rule_moves(design: Design, host: str, lamps: list[str]) -> Iterator[Move]:
    """Offer rules that nothing pressed and nothing said sets off: what each does and when is turned in it."""
    if not lamps:
        return
    known = [it.air for it in links_known(design) if it.board == host and it.by is not None]
    off, on = ([{"verb": verb, "target": it} for it in lamps] for verb in ("off", "on"))
    at_night = ("at_night", "Add a rule at a time of day", {"at": "23:00"}, off)
    offered: list[tuple[str, str, Document, list[Document]]] = [
        *([at_night] if knows_time(design, host) else []),
        ("often", "Add a rule at an interval", {"every_s": 10}, [{"verb": "toggle", "target": lamps[0]}]),
        *(("when_lost", "Add a rule for a lost link", {"event": "link-lost", "link": it}, off) for it in known[:1]),
        ("at_start", "Add a rule for when the power comes", {"event": "power-up"}, on[:1]),
    ]
    for base, label, when, do in offered:
        name = first_free(base, design.plan.rules.__contains__)
        yield Move(label=label, patch=at_path(("rules", name), {"host": host, "when": when, "do": do}))


def _link_moves(design: Design, host: str) -> Iterator[Move]:
    """Offer the wire that tells of the link, where nothing else does."""
    blind = [it for it in links_known(design) if it.board == host and it.by is None and it.module is not None]
    for it in blind:
        names = and_list([inner(design.nodes[it.module or ""].label)])
        yield Move(label=f"Wire the state pin of the {names}", patch=at_path(("signals", f"{it.module}.state"), {}))


def _whose_program(design: Design, host: str) -> Iterator[Panel]:
    """Hold who writes a board's program; of one's own, how long it takes nothing that comes in."""
    node = design.nodes[host].node
    if not isinstance(node, Board):
        return
    path, is_own = ("nodes", host), node.program == "own"
    rows = (
        ("generated", "Odd Lamp writes it", "exactly what is rehearsed here"),
        ("own", "You write it", "the rehearsal shows what it should do"),
    )
    options = tuple(
        Option(label=label, detail=detail, patch=at_path((*path, "program"), key), is_chosen=(key == "own") == is_own)
        for key, label, detail in rows
    )
    because = None if node.program else "nothing in it waits, and nothing is written twice"
    choice = Choice(label="Its program", origin="own" if node.program else "proposed", because=because, options=options)
    busy = Entry(
        label="Takes nothing in for, at most",
        text=si(node.busy_s, "s") if node.busy_s else "never",
        path=(*path, "busy_s"),
        origin="own" if node.busy_s else "proposed",
        because=None if node.busy_s else "a program that waits nowhere",
        hint="its longest pause, such as 0.5 s",
    )
    yield Panel(title="", choices=(choice,), entries=(busy,) if is_own or node.busy_s else ())
