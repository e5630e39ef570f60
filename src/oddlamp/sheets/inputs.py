"""What an input sets off, and how it counts: the part of its sheet that is about behaviour."""

from collections.abc import Iterator
from typing import Final

from oddlamp.core.base import first_free, si
from oddlamp.core.behaviour.tables import PLAY, SETTLE_S, input_spec
from oddlamp.core.behaviour.winners import TAKES_OVER_RATIO
from oddlamp.core.design.design import Design
from oddlamp.core.english import inner
from oddlamp.core.plan.document import at_path
from oddlamp.core.plan.model import InputSettings
from oddlamp.core.plan.signals import label_of, span_of
from oddlamp.sheets.deeds import describe, input_deeds
from oddlamp.sheets.models import Choice, Entry, Option, Panel

EVENTS: Final = {"button": ("pressed", "released"), "contact": ("on", "off"), "turned": ("moved",)}
WHEN: Final = {
    "pressed": "Pressed, it",
    "released": "Let go, it",
    "on": "Switched on, it",
    "off": "Switched off, it",
    "moved": "Turned, it",
}


def does_panel(design: Design, name: str) -> Panel:
    """Offer what each event of an input does, and the figures it counts by."""
    spec = input_spec(design.plan.inputs[name])
    events = EVENTS[spec.kind] if spec.upper is None else ("on", "off")
    return Panel(
        title="What it sets off",
        choices=(*_reads(design, name), *(_does(design, name, event) for event in events)),
        entries=tuple(_figures(design, name, spec.kind)),
    )


def _does(design: Design, name: str, event: str) -> Choice:
    """Offer what an event may do; the rule behind it is made, replaced or taken out."""
    host = design.plan.inputs[name].host
    mine = [(key, rule) for key, rule in design.rules_of(host) if (rule.when.input, rule.when.event) == (name, event)]
    told = [action.model_dump(mode="json", exclude_none=True) for _, rule in mine for action in rule.do]
    current, says = ([it for it in told if (it["verb"] == "say") == is_said] for is_said in (False, True))
    rule_id = mine[0][0] if mine else first_free(f"{name}_{event}"[:38], design.plan.rules.__contains__)
    others = {key: None for key, _ in mine[1:]}
    options = [Option(label="nothing", patch={"rules": {key: None for key, _ in mine}}, is_chosen=not told)]
    for label, do in input_deeds(design, name, event):
        rule = {"host": host, "when": {"input": name, "event": event}, "do": [*do, *says]}
        options.append(Option(label=label, patch={"rules": {rule_id: rule, **others}}, is_chosen=current == do))
    if told and not any(option.is_chosen for option in options):
        options.insert(0, Option(label=describe(design, host, told), patch={}, is_chosen=True))
    return Choice(label=WHEN[event], origin="own", options=tuple(options))


def _reads(design: Design, name: str) -> Iterator[Choice]:
    """Offer whether a sensor has two states or a value."""
    it = design.plan.inputs[name]
    if it.kind != "sensor":
        return
    reads = (it.settings or InputSettings()).reads
    path = ("inputs", name, "settings")
    rows = (
        ("contact", "Two states", "on or off, any pin"),
        ("value", "A voltage", "an analogue pin; on over one share, off under another"),
        ("temperature", "A temperature", "one line, any pin; told every two seconds as bits, \u221240 to 80 \u00b0C"),
        ("humidity", "A humidity", "the same, 0 to 100 %"),
    )
    options = tuple(
        Option(
            label=label,
            detail=detail,
            patch=at_path(
                path,
                {
                    "reads": key,
                    **(
                        {"on_above_ratio": 0.6, "off_below_ratio": 0.4}
                        if key != "contact"
                        else {"on_above_ratio": None, "off_below_ratio": None}
                    ),
                },
            ),
            is_chosen=key == (reads or "contact"),
        )
        for key, label, detail in rows
    )
    yield Choice(
        label="It gives",
        origin="own" if reads else "proposed",
        because=None if reads else "most boards with a sensor switch by themselves",
        options=options,
    )


def _figures(design: Design, name: str, kind: str) -> Iterator[Entry]:
    settings, path = design.plan.inputs[name].settings or InputSettings(), ("inputs", name, "settings")

    def entry(label: str, field: str, usual: float, unit: str, why: str) -> Entry:
        own = getattr(settings, field)
        value = usual if own is None else own
        return Entry(
            label=label,
            text=si(value, unit),
            path=(*path, field),
            origin="proposed" if own is None else "own",
            because=why if own is None else None,
            settles=usual if own is None else None,
        )

    if kind != "turned":
        yield entry("Counts once it is still for", "settle_s", SETTLE_S, "s", "contacts bounce for a few milliseconds")
        return
    if settings.on_above_ratio is not None or settings.off_below_ratio is not None:
        on, off = settings.on_above_ratio, settings.off_below_ratio
        stands = [_stands_for(design, name, ratio) for ratio in (off if on is None else on, on if off is None else off)]
        yield entry(f"On over{stands[0]}", "on_above_ratio", off or 0.0, "ratio", "the same as where it is off")
        yield entry(f"Off under{stands[1]}", "off_below_ratio", on or 0.0, "ratio", "the same as where it is on")
        return
    yield entry(
        "Less than this is noise",
        "play_ratio",
        PLAY,
        "ratio",
        "a usual knob on a short wire trembles by two or three steps of 1023",
    )
    for lamp_id in dict.fromkeys(
        it
        for rule in design.plan.rules.values()
        if rule.when.input == name
        for action in rule.do
        for it in design.targets(action.target)
    ):
        told = design.plan.standing.get(lamp_id)
        own = told.thresholds.get(name) if told is not None else None
        label = label_of(design.plan.lamps[lamp_id].label, lamp_id)
        yield Entry(
            label=f"Takes {inner(label)} over when moved by",
            text=si(TAKES_OVER_RATIO if own is None else own, "ratio"),
            path=("standing", lamp_id, "thresholds", name),
            origin="proposed" if own is None else "own",
            because="more than a knob moves when the table is knocked" if own is None else None,
            settles=TAKES_OVER_RATIO if own is None else None,
        )


def _stands_for(design: Design, name: str, ratio: float | None) -> str:
    """Say what a share of a sensor's span stands for; nothing where that is no degree or per cent of its own."""
    span = span_of(design.plan.inputs[name])
    if span is None or ratio is None or span.unit == "%":
        return ""
    return f" {span.least + ratio * (span.most - span.least):.0f} {span.unit}".replace("-", "\u2212")
