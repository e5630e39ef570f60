"""What feeds a circuit: sources, converters and boards' own outputs, the rails they make, and the nodes on these."""

from typing import Final

from oddlamp.core.base import si
from oddlamp.core.bench.circuit import Tap
from oddlamp.core.bench.making import FIVE, GND, LOGIC_V, THREE, Maker
from oddlamp.core.design.supplies import NodeDesign, RailDesign
from oddlamp.core.english import inner
from oddlamp.core.resolve.chosen import is_fed_past_regulator

PLUGGED: Final = ("usb", "bank")  # supplies with a plug that goes into a board's own
PLUG: Final = "USB"


class Fed:
    """Puts nodes and rails in."""

    def __init__(self, maker: Maker) -> None:
        self.of, self.design, self.ties = maker, maker.design, maker.ties

    def node(self, node: NodeDesign) -> None:
        kind = node.node.kind
        if kind not in ("board", "module", "chip"):
            return
        used = tuple(it.label for it in node.part.usable_pins) if node.part is not None else ()
        mine = {pin.label for pin in self.design.pins if pin.host == node.id and pin.label is not None}
        pins = tuple(it for it in used if it in mine) + tuple(sorted(mine - set(used)))
        self.of.add(node.id, kind, node.label, (*pins, GND), node.stage, node.part.label if node.part is not None else node.label)
        self.ties.tie(self.of.ground(node.end), Tap(node.id, GND))
        rail = self.design.rails.get(node.rail_id or "")
        if rail is None:
            self.ties.open.append(f"No rail feeds the {inner(node.label)}.")
            return
        pin = self._fed_pin(node, rail)
        self.of.pin(node.id, pin)
        self.ties.tie(self.of.rail(rail.id), Tap(node.id, pin))

    def _fed_pin(self, node: NodeDesign, rail: RailDesign) -> str:
        if node.node.kind != "board" or node.part is None:
            return "VCC"
        if self._plugged(rail) == node.id:
            return FIVE
        volts = rail.voltage.value
        if volts is None or not is_fed_past_regulator(node.part, volts):
            return "VIN"
        return FIVE if volts >= LOGIC_V else THREE

    def _plugged(self, rail: RailDesign) -> str | None:
        """Return the board that the plug of a rail's supply goes into; None where it has none, or nothing takes it."""
        feed = rail.feed
        if feed is None or feed.source is None or feed.source.kind not in PLUGGED:
            return None
        fed = {it.id for it in self.design.rails.values() if it.source_id == feed.id}
        return next((it.id for it in self.design.nodes.values() if it.node.kind == "board" and it.rail_id in fed), None)

    def rail(self, rail: RailDesign) -> None:
        feed, name, ground = rail.feed, self.of.rail(rail.id), self.of.ground(rail.end)
        if feed is None:
            self.ties.open.append(f"Nothing feeds {inner(rail.label)}.")
        elif feed.kind == "source":
            self._source(rail, name, ground)
        elif feed.kind == "board":
            pin = THREE if feed.output.endswith("3v3") else FIVE
            self.of.pin(feed.id, pin)
            self.ties.tie(name, Tap(feed.id, pin))
        else:
            part = feed.converter
            piece = self.of.add(f"converter.{feed.id}", "converter", part.label if part is not None else feed.id, ("IN+", "IN−", "OUT+", "OUT−"), rail.stage, feed.label)  # fmt: skip
            self.ties.tie(name, Tap(piece, "OUT+"))
            self.ties.tie(ground, Tap(piece, "OUT−"), Tap(piece, "IN−"))
            if feed.from_rail in self.design.rails:
                self.ties.tie(self.of.rail(feed.from_rail), Tap(piece, "IN+"))
        self._steadied(rail, name, ground)

    def _source(self, rail: RailDesign, name: str, ground: str) -> None:
        feed = rail.feed
        if feed is None:
            return
        plan, plugged = self.design.plan.sources[feed.id], self._plugged(rail)
        label, stage, piece = plan.label or feed.label, rail.stage, f"source.{feed.id}"
        if plugged is None:
            self.of.add(piece, "source", label, ("+", "−"), stage, feed.label)
            self.ties.tie(ground, Tap(piece, "−"))
            out, into = Tap(piece, "+"), name
        else:
            self.of.add(piece, "source", label, (PLUG,), stage, feed.label)
            self.of.pin(plugged, PLUG)
            self.of.pin(plugged, FIVE)
            self.ties.tie(name, Tap(plugged, FIVE))
            into = self.ties.net(f"plug.{feed.id}", f"{label}, plugged in", "supply", stage)
            self.ties.tie(into, Tap(plugged, PLUG))
            out = Tap(piece, PLUG)
        if plan.fuse_a is None:
            self.ties.tie(into, out)
            return
        lead = self.ties.net(f"lead.{feed.id}", f"{label} to its fuse", "supply", stage)
        self.ties.tie(lead, out)
        told, buy = si(plan.fuse_a, "A"), f"Fuse, {si(plan.fuse_a, 'A')}, with its holder"
        self.of.between(f"{piece}.fuse", "fuse", told, lead, into, stage, buy, "blows before a wire gets hot", plan.fuse_a)

    def _steadied(self, rail: RailDesign, name: str, ground: str) -> None:
        """Put in what steadies a rail: as the plan says, or the usual where a radio hangs on it."""
        own_f = self.design.plan.rails[rail.id].decoupling_f
        has_radio = any(it.rail_id == rail.id and it.part is not None and it.part.radios for it in self.design.nodes.values())
        made = own_f if own_f is not None else (self.design.catalog.proposals["decoupling"].value if has_radio else None)
        if made:
            self.of.capacitor(f"{name}.capacitor", made, name, ground, rail.stage, ("rails", rail.id, "decoupling_f"))
        if has_radio:
            self.of.capacitor(f"{name}.small", 1e-7, name, ground, rail.stage)
