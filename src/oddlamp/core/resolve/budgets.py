"""What each rail carries, and the volts it then has: sources, leads, converters and loads solved together."""

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import replace
from typing import Final, NamedTuple

from oddlamp.core.base import Working, si
from oddlamp.core.design.supplies import Budget, Burden, Feed, NodeDesign, RailDesign
from oddlamp.core.design.values import Slot, Value
from oddlamp.core.electrical import nodal
from oddlamp.core.electrical.nodal import GROUND, NoSolution
from oddlamp.core.parts.models import Catalog
from oddlamp.core.parts.sourced import Sourced
from oddlamp.core.plan.model import Plan
from oddlamp.core.resolve.burdens import lit_together_a
from oddlamp.core.resolve.chosen import is_fed_past_regulator
from oddlamp.core.resolve.feeds import FIVE, THREE

DRAWS_FROM: Final = 0.5  # of its rail's volts a load draws all it takes; under them less, as it stops; an estimate
BOARD_DROPOUT_V: Final = 0.3  # of the small regulator behind a board's 3.3 V pin; from memory
AVERAGE_MOST_RATIO: Final = 0.8  # of what a source gives, for hours; common practice, no source
MOVED_V: Final = 5e-4
PULSE_F: Final = 1e-4  # of it beside a radio carries its peaks, of a millisecond or two; common practice, no source
AT_WORST, AT_NOMINAL, AT_REST = "worst", "nominal", "rest"


def _drawn(it: Burden, *, is_held: bool) -> tuple[str, float, float]:
    """Return what something draws from its source: a radio's peaks come from the capacitor beside it, where there is one."""
    if is_held and not it.lamp_id:
        return it.stage, it.average_a, it.average_a
    return it.lamp_id or it.stage, it.worst_a, it.most_a


class Taken(NamedTuple):
    """What is drawn from a rail in all, A."""

    least: float
    average: float
    worst: float
    most: float


class Tree:
    """The rails of a plan with what hangs on each, and which is made from which."""

    def __init__(
        self,
        plan: Plan,
        catalog: Catalog,
        rails: Mapping[str, RailDesign],
        nodes: Mapping[str, NodeDesign],
        burdens: Iterable[Burden],
    ) -> None:
        self.plan, self.catalog, self.rails, self.nodes = plan, catalog, rails, nodes
        self.own: dict[str, list[Burden]] = {rail: [] for rail in rails}
        for it in burdens:
            self.own.setdefault(it.rail_id, []).append(it)
        self.made_of: dict[str, list[str]] = {rail: [] for rail in rails}
        for name, rail in rails.items():
            before = rail.feed.from_rail if rail.feed is not None else None
            if before in self.made_of:
                self.made_of[before].append(name)
        self.known: dict[str, Taken] = {}
        self.being: set[str] = set()

    def taken(self, rail_id: str) -> Taken:
        """Return what a rail gives in all, with what the rails made from it take of it."""
        if rail_id not in self.known:
            if rail_id in self.being:
                return Taken(0.0, 0.0, 0.0, 0.0)
            self.being.add(rail_id)
            mine = self.own.get(rail_id, ())
            worst_a, most_a = lit_together_a(self.plan, ((it.lamp_id or it.stage, it.worst_a, it.most_a) for it in mine))
            sums = [sum(it.least_a for it in mine), sum(it.average_a for it in mine), worst_a, most_a]
            for other in self.made_of.get(rail_id, ()):
                sums = [one + more for one, more in zip(sums, self.passed(rail_id, other), strict=True)]
            self.known[rail_id] = Taken(*sums)
        return self.known[rail_id]

    def passed(self, rail_id: str, other: str) -> Taken:
        """Return what a rail made from another takes of that: as much as it gives through a linear regulator, by power through one that switches."""
        gives, rail = self.taken(other), self.rails[other]
        converter = rail.feed.converter if rail.feed is not None else None
        if converter is None:
            return gives
        own_a, efficiency = converter.own_a.value, converter.efficiency_ratio
        if efficiency is None or converter.kind == "linear":
            return Taken(*(it + own_a for it in gives))
        into, out = self.rails[rail_id].voltage, rail.voltage
        if into.value is None or out.value is None or into.value <= 0:
            return gives
        nominal = out.value / (efficiency.value * into.value)
        at_most = out.high / (efficiency.low * max(into.low, 0.1 * into.value))
        return Taken(own_a + gives.least * nominal, own_a + gives.average * nominal, own_a + gives.worst * nominal, own_a + gives.most * at_most)  # fmt: skip

    def roots(self) -> Iterator[str]:
        """Walk the rails that a source feeds."""
        return (name for name, it in self.rails.items() if it.feed is not None and it.feed.kind == "source")

    def below(self, rail_id: str) -> list[str]:
        """Return a rail with all that are made from it, each after the one it is made from."""
        found = [rail_id]
        for name in found:
            found += [it for it in self.made_of[name] if it not in found]
        return found

    def solved(self, root: str, case: str) -> dict[str, float] | None:
        """Solve the volts of a source's rails in a case: all lit and little given, as usual, or all dark and most given; None where they can't be."""
        feed, rails = self.rails[root].feed, self.below(root)
        voltage = self.rails[root].voltage
        if feed is None or voltage.value is None:
            return None
        ohm = feed.source.resistance_ohm if feed.source is not None else None
        inside_ohm = 0.0 if ohm is None else ohm.low if case == AT_REST else ohm.value
        volts = {AT_WORST: voltage.low, AT_NOMINAL: voltage.value, AT_REST: voltage.high}[case]
        parts: list[nodal.Part] = [nodal.Source(root, GROUND, volts, inside_ohm + feed.lead_ohm)]
        for name in rails:
            if name != root and not self._link(parts, name, case):
                return None
            mine = self.own.get(name, ())
            draws_a = sum(it.least_a for it in mine)
            if case != AT_REST:
                held = (self.plan.rails[name].decoupling_f or 0.0) >= PULSE_F
                sums = lit_together_a(self.plan, (_drawn(it, is_held=held) for it in mine))
                draws_a = sums[1] if case == AT_WORST else sums[0]
            stands = self.rails[name].voltage
            if draws_a > 0 and stands.value is not None:
                parts.append(nodal.Load(name, GROUND, draws_a, DRAWS_FROM * stands.value))
        try:
            found = nodal.solved(parts)
        except NoSolution:
            return None
        return {name: found.volts[name] for name in rails}

    def _link(self, parts: list[nodal.Part], name: str, case: str) -> bool:
        """Put in what makes a rail from the one before it; False where its figures are not there."""
        rail = self.rails[name]
        feed = rail.feed
        before = feed.from_rail if feed is not None else None
        if feed is None or before is None or rail.voltage.value is None:
            return False
        off = {AT_WORST: -1.0, AT_NOMINAL: 0.0, AT_REST: 1.0}[case]
        if feed.converter is not None:
            it = feed.converter
            set_v = feed.set_v * (1 + off * it.tolerance_ratio.value)
            if it.efficiency_ratio is None or it.kind == "linear":
                dropout_v = it.dropout_v.value if it.dropout_v is not None else 0.0
                parts.append(nodal.Linear(before, name, GROUND, set_v, dropout_v, own_a=it.own_a.value))
            else:
                share = it.efficiency_ratio.low if case == AT_WORST else it.efficiency_ratio.value
                if it.kind == "buck" and it.dropout_v is not None:  # where too little comes in, it passes on what is left
                    set_v = min(set_v, max(0.1, self.rails[before].voltage.known - it.dropout_v.value))
                parts.append(nodal.Switching(before, name, GROUND, set_v, share, it.input_window_v.low, own_a=it.own_a.value))
            return True
        board, into = feed.board, self.rails[before].voltage.value
        if board is None or into is None:
            return False
        if feed.output == FIVE and is_fed_past_regulator(board, into):
            parts.append(nodal.Resistor(before, name, 0.0))
            return True
        made = board.supply_3v3_v if feed.output == THREE else board.regulated_v
        if made is None:
            return False
        own = board.regulator_dropout_v if feed.output == FIVE else None
        dropout_v = BOARD_DROPOUT_V if own is None else own.value
        parts.append(nodal.Linear(before, name, GROUND, (made.low, made.value, made.high)[int(off) + 1], dropout_v))
        return True


def wants_a(taken: Taken) -> float:
    """Return what a feed should give, A: the worst instant, and the average for hours with room to spare."""
    return max(taken.most, taken.average / AVERAGE_MOST_RATIO)


def is_moved(rail: RailDesign) -> bool:
    """Tell whether the volts of a source's rail follow what is drawn from it."""
    feed = rail.feed
    return feed is not None and (feed.lead_ohm > 0 or (feed.source is not None and feed.source.resistance_ohm is not None))


def loaded_rails(tree: Tree) -> tuple[dict[str, RailDesign], dict[str, float]]:
    """Return the rails with the spread of volts they have between all dark and all lit, and their volts at the worst instant.

    The volts without a load stay what they are: whatever drives a lamp reckons from these.
    """
    rails, loaded = dict(tree.rails), dict[str, float]()
    for root in tree.roots():
        if not is_moved(tree.rails[root]) and len(tree.below(root)) == 1:
            continue
        at = {case: tree.solved(root, case) for case in (AT_WORST, AT_NOMINAL, AT_REST)}
        worst, nominal, rest = at[AT_WORST], at[AT_NOMINAL], at[AT_REST]
        if worst is None or nominal is None or rest is None:
            continue
        for name in tree.below(root):
            voltage = tree.rails[name].voltage
            if voltage.value is None or voltage.origin == "measured":
                continue
            loaded[name] = nominal[name]
            low, high = min(voltage.low, worst[name]), max(voltage.value, min(voltage.high, rest[name]))
            if voltage.low - low > MOVED_V or voltage.high - high > MOVED_V:
                rails[name] = replace(tree.rails[name], voltage=_between(voltage, low, high))
    return rails, loaded


def _between(voltage: Value, low: float, high: float) -> Value:
    put_in = f"{si(low, 'V')} with all of it lit, {si(high, 'V')} with all of it dark"
    working = Working(formula="sum of currents into each rail = 0", substituted=put_in, source="horowitz-hill")
    return replace(
        voltage, min=low, max=high, spread_text=f"{si(low, 'V')} to {si(high, 'V')}", working=(*voltage.working, working)
    )


def budgets_of(tree: Tree, loaded: Mapping[str, float]) -> dict[str, Budget]:
    """Draw up what every rail carries."""
    return {name: _budget(tree, name, loaded.get(name)) for name in tree.rails}


def _budget(tree: Tree, rail_id: str, loaded_v: float | None) -> Budget:
    rail, taken = tree.rails[rail_id], tree.taken(rail_id)
    mine, others = tuple(tree.own.get(rail_id, ())), tree.made_of.get(rail_id, ())
    on = {other: (it.average, it.worst, it.most) for other in others if (it := tree.passed(rail_id, other))}

    def slot(field: str, label: str, unit: str) -> Slot:
        return Slot(id=f"rails.{rail_id}.{field}", stage=rail.stage, label=label, unit=unit)

    names = [it.label for it in mine] + [tree.rails[name].label for name in on]
    usual = _sum(list(zip(names, [*(it.average_a for it in mine), *(it[0] for it in on.values())], strict=True)))
    at_worst = _sum(list(zip(names, [*(it.worst_a for it in mine), *(it[1] for it in on.values())], strict=True)))
    put_in = f"{usual} = {si(taken.average, 'A')}"
    average_working = Working(formula="sum of what each takes on average", substituted=put_in, source="common-practice")
    put_in = f"{at_worst} = {si(taken.worst, 'A')}, {si(taken.most, 'A')} at worst"
    worst_working = Working(formula="sum over all that can be lit together", substituted=put_in, source="common-practice")
    volts = rail.voltage
    told = slot("loaded_v", "With all of it lit", "V")
    if volts.value is None:
        at_load = told.empty(volts.because or "it has no volts")
    else:
        at_load = told.filled(volts.value if loaded_v is None else loaded_v, origin="computed")
    return Budget(
        rail_id=rail_id,
        own=mine,
        on=on,
        average=slot("average_a", "On average", "A").filled(taken.average, origin="computed", working=(average_working,)),
        worst=slot("worst_a", "At its worst instant", "A").filled(
            taken.worst, origin="computed", spread=(taken.worst, taken.most), working=(worst_working,)
        ),
        gives=_gives(slot("gives_a", "Its feed gives", "A"), rail.feed),
        loaded=at_load,
        wants_a=wants_a(taken),
        heat=_heat(tree, rail_id, slot("heat_w", "Its regulator turns into heat", "W")),
    )


TOLD_MOST: Final = 6


def _sum(terms: list[tuple[str, float]]) -> str:
    counted = [it for it in terms if it[1] > 0]
    told = [f"{si(taken_a, 'A')} {name}" for name, taken_a in counted[:TOLD_MOST]]
    rest_a = sum(taken_a for _, taken_a in counted[TOLD_MOST:])
    told += [f"{si(rest_a, 'A')} of {len(counted) - TOLD_MOST} more"] if rest_a else []
    return " + ".join(told) or "nothing"


def _gives(slot: Slot, feed: Feed | None) -> Value | None:
    """Return what feeds a rail gives at most, where that is known."""
    figure: Sourced | None = None
    if feed is not None and feed.source is not None:
        figure = feed.source.current_max_a
    elif feed is not None and feed.converter is not None:
        figure = feed.converter.current_max_a
    elif feed is not None and feed.board is not None:
        figure = feed.board.supply_3v3_a if feed.output == THREE else feed.board.regulator_most_a
    return slot.stated(figure) if figure is not None else None


def _heat(tree: Tree, rail_id: str, slot: Slot) -> Value | None:
    """Return what a linear regulator that makes a rail turns into heat at its worst instant; None where none does."""
    rail = tree.rails[rail_id]
    converter = rail.feed.converter if rail.feed is not None else None
    before = tree.rails.get((rail.feed.from_rail if rail.feed is not None else None) or "")
    if converter is None or converter.kind != "linear" or before is None:
        return None
    return heat_of(slot, before.voltage, rail.voltage, tree.taken(rail_id).worst)


def heat_of(slot: Slot, into: Value, out: Value, current_a: float) -> Value | None:
    """Work out what a linear regulator turns into heat, W. Source: P = (V_in - V_out) I."""
    if into.value is None or out.value is None or current_a <= 0:
        return None
    power_w = max(0.0, into.value - out.value) * current_a
    put_in = f"({into.text} − {out.text}) · {si(current_a, 'A')} = {si(power_w, 'W')}"
    working = Working(formula="P = (V_in − V_out) I", substituted=put_in, source="horowitz-hill")
    return slot.filled(power_w, origin="computed", working=(working,))


def larger_sources(tree: Tree) -> dict[str, str]:
    """Find a supply to propose for every source that is not chosen yet and whose usual one does not carry what is drawn.

    The smallest of the same volts that carries it at worst; none where no supply does.
    """
    found = {}
    for root in tree.roots():
        feed, taken = tree.rails[root].feed, tree.taken(root)
        part = feed.source if feed is not None else None
        if feed is None or part is None or feed.picked is None or feed.picked.origin != "proposed" or part.current_max_a is None:
            continue
        if wants_a(taken) <= part.current_max_a.value:
            continue
        fits = [
            it
            for it in tree.catalog.sources.values()
            if it.kind == "adapter" and it.voltage_v.value == part.voltage_v.value and it.current_max_a is not None
            and it.current_max_a.value >= wants_a(taken)
        ]  # fmt: skip
        if fits:
            found[feed.id] = min(fits, key=lambda it: it.current_max_a.value if it.current_max_a is not None else 0.0).id
    return found
