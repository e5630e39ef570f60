"""The design: a plan with every value filled in, each with its origin. Made by ``resolve``, read by all the rest."""

from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import cached_property

from oddlamp.core.design.lamps import LampDesign
from oddlamp.core.design.lines import LevelDesign, PinDesign, PinLoad, SignalDesign
from oddlamp.core.design.passages import Passage
from oddlamp.core.design.spreads import Lead, SpreadDesign, leads_of
from oddlamp.core.design.supplies import Budget, Burden, NodeDesign, RailDesign, RunTime, StripDesign
from oddlamp.core.design.talks import AirDesign, HandsetDesign, TalkDesign, VocabularyDesign, WireDesign
from oddlamp.core.electrical.preferred import Series
from oddlamp.core.parts.models import Catalog
from oddlamp.core.plan.built import BuiltDifference
from oddlamp.core.plan.edits import TakingOut
from oddlamp.core.plan.lights import LEADS, PIXEL_KINDS
from oddlamp.core.plan.model import Plan
from oddlamp.core.plan.rules import Rule
from oddlamp.core.plan.signals import PULLED_LEADS, dimmed_lamps, is_bus_link


@dataclass(frozen=True)
class Design:
    """Everything the rules, the review and the rehearsal read; ``plan`` is the plan with built lines as they were built.

    ``signals`` holds every physical line once, with its pins, the level that arrives and what its pin carries;
    ``passages`` whether something gets through it, and through each direction of each radio link; ``taking_out`` what
    goes with what is taken out.
    """

    plan: Plan
    catalog: Catalog
    rails: dict[str, RailDesign]
    budgets: dict[str, Budget]
    strips: dict[str, StripDesign]
    run_times: dict[str, RunTime]
    nodes: dict[str, NodeDesign]
    handsets: dict[str, HandsetDesign]
    airs: dict[str, AirDesign]
    wires: dict[str, WireDesign]
    talks: dict[str, TalkDesign]
    vocabularies: dict[str, VocabularyDesign]
    lamps: dict[str, LampDesign]
    signals: dict[str, SignalDesign]
    taking_out: TakingOut
    spreads: dict[str, SpreadDesign] = field(default_factory=dict)
    passages: dict[str, Passage] = field(default_factory=dict)
    built_differences: tuple[BuiltDifference, ...] = ()

    # What is asked for every lamp is looked up once for all of them.

    @cached_property
    def levels(self) -> list[LevelDesign]:
        """Every line whose level is judged, in the order of the lines."""
        return [signal.level for signal in self.signals.values() if signal.level is not None]

    @cached_property
    def pins(self) -> list[PinDesign]:
        """Every pin that a line takes, at either end."""
        return [pin for signal in self.signals.values() for pin in (signal.pin, signal.far_pin) if pin is not None]

    @cached_property
    def leads(self) -> dict[str, tuple[Lead, ...]]:
        """How long the wires to the strings of each lamp are that is laid out, m."""
        return leads_of(self.spreads)

    @cached_property
    def users(self) -> dict[tuple[str, str], list[PinDesign]]:
        """Who takes each pin of each board, by the board's id and the pin's label, in the order of the lines."""
        found: dict[tuple[str, str], list[PinDesign]] = {}
        for pin in self.pins:
            if pin.label is not None:
                found.setdefault((pin.host, pin.label), []).append(pin)
        return found

    @cached_property
    def met(self) -> set[str]:
        """The codes of all that stands in anything's way: most rules find here that they have nothing to say."""
        return {it.code for passage in self.passages.values() for it in passage.obstacles}

    @cached_property
    def dimmed(self) -> set[str]:
        """The lamps that are dimmed: pixels by themselves, other lamps where a rule or a cue says so."""
        return dimmed_lamps(self.plan) | {lamp.id for lamp in self.lamps.values() if lamp.kind in PIXEL_KINDS}

    @cached_property
    def burdens(self) -> dict[str, Burden]:
        """What each lamp takes of its rail, by its id."""
        return {it.lamp_id: it for budget in self.budgets.values() for it in budget.own if it.lamp_id}

    @cached_property
    def buses(self) -> dict[str, tuple[str, ...]]:
        """The links of each chip that its board tells it over."""
        chips = [name for name, node in self.nodes.items() if node.node.kind == "chip"]
        links = {name: it for name, it in self.plan.links.items() if is_bus_link(self.plan, name)} if chips else {}
        return {chip: tuple(name for name, it in links.items() if chip in (it.a, it.b)) for chip in chips}

    @property
    def series(self) -> Series:
        """The series of resistors the user can get."""
        return self.plan.series or "E24"

    def level(self, signal_id: str) -> LevelDesign | None:
        """Return what arrives on a line, or None where it has no level to judge."""
        signal = self.signals.get(signal_id)
        return signal.level if signal else None

    def ways(self, link_id: str) -> list[LevelDesign]:
        """Return both directions of a wire that words run on, or the lines of a bus that belong to it."""
        leads = ("a_to_b", "b_to_a", *PULLED_LEADS)
        return [way for way in map(self.level, (f"{link_id}.{lead}" for lead in leads)) if way is not None]

    def levels_at(self, stage: str) -> list[LevelDesign]:
        """Return the lines that stand at a stage."""
        return self._levels_by_stage.get(stage, [])

    @cached_property
    def _levels_by_stage(self) -> dict[str, list[LevelDesign]]:
        found: dict[str, list[LevelDesign]] = {}
        for level in self.levels:
            found.setdefault(level.stage, []).append(level)
        return found

    def lamp_signals(self, lamp: LampDesign) -> Iterator[SignalDesign]:
        """Walk the lines of a lamp."""
        return (self.signals[f"{lamp.id}.{lead}"] for lead in LEADS[lamp.kind])

    def loads(self, lamp: LampDesign) -> list[PinLoad]:
        """Return what the pins of a lamp carry."""
        return [signal.load for signal in self.lamp_signals(lamp) if signal.load is not None]

    def passages_of(self, lamp: LampDesign) -> list[Passage]:
        """Return the passages of a lamp's lines."""
        return [self.passages[signal.line.id] for signal in self.lamp_signals(lamp)]

    def rules_of(self, host: str) -> list[tuple[str, Rule]]:
        """Return the rules that run on one host, in plan order."""
        return [(name, rule) for name, rule in self.plan.rules.items() if rule.host == host]

    def targets(self, target: str | None) -> tuple[str, ...]:
        """Return the lamps a target stands for: a lamp, or the members of a group."""
        if target in self.lamps:
            return (str(target),)
        group = self.plan.groups.get(target or "")
        return group.members if group else ()

    def vocabulary_talks(self, vocabulary_id: str) -> list[TalkDesign]:
        """Return the talks that use a vocabulary."""
        return [talk for talk in self.talks.values() if talk.vocabulary.id == vocabulary_id]
