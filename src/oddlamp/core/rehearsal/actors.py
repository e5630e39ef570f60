"""The modules of a plan as they stand on its line: the stand-ins that a terminal would meet, set up as the plan wants them."""

from typing import Final

from oddlamp.core.base import si
from oddlamp.core.design.design import Design
from oddlamp.core.design.supplies import NodeDesign
from oddlamp.core.modules.air import FIND_S, Air
from oddlamp.core.modules.goals import dialect_of, partner_of, role_of, setup_of_node, wanted_of_module
from oddlamp.core.modules.script import settings_of
from oddlamp.core.modules.stand_in import BOOT_S, Said, StandIn
from oddlamp.core.modules.wifi import said_at_every_start
from oddlamp.core.parts.dialect import Dialect
from oddlamp.core.parts.models import ModulePart
from oddlamp.core.resolve.start_up import key_at_start

LONG_AGO_S: Final = -60.0
ANSWERED_S: Final = 0.05  # from one line of the program to the next; from memory


class Actors:
    """Every module of a plan that talks in a known way, and the air between those that are bound."""

    def __init__(self, design: Design) -> None:
        self.design = design
        self.modules: dict[str, StandIn] = {}
        self.airs: dict[str, Air] = {}
        for node in design.nodes.values():
            dialect = dialect_of(design, node)
            if dialect is not None:
                self.modules[node.id] = StandIn(dialect, {"address": _address(node, dialect, len(self.modules))})
        for name in self.modules:
            self.modules[name].kept |= self._wanted(name)
        for link_id in design.airs:
            link = design.plan.links[link_id]
            if link.a in self.modules and link.b in self.modules:
                self.airs[link_id] = Air((self.modules[link.a], self.modules[link.b]))
        for name, module in self.modules.items():
            key = key_at_start(design, name)
            module.is_key_up = key is not None and not key.is_quiet and key.stands_v is not None
            module.power(LONG_AGO_S, is_on=True)
            module.is_key_up = False  # the program lets it go as soon as it runs
            self.start_again(name, LONG_AGO_S + BOOT_S)
        self.said_at_first = [it for name in self.airs for it in self.look(name, LONG_AGO_S)]
        self.said_at_first += [it for name in self.airs for it in self.look(name, LONG_AGO_S + 2 * FIND_S)]

    def look(self, link_id: str, at_s: float) -> list[tuple[str, Said]]:
        """Let two modules find or lose each other; what each says of it."""
        link = self.design.plan.links[link_id]
        return [((link.a, link.b)[side], said) for side, said in self.airs[link_id].until(at_s)]

    def pair_of(self, node_id: str) -> str | None:
        """Return the radio link over which a module is bound to another; None for none."""
        return next((it for it in self.airs if node_id in (self.design.plan.links[it].a, self.design.plan.links[it].b)), None)

    def undo(self, node_id: str) -> None:
        """Take back all that was set in a module: it is as the factory left it, but for its address."""
        module = self.modules[node_id]
        module.kept = {**module.dialect.settings, "address": module.kept["address"]}

    def redo(self, node_id: str) -> None:
        """Set all of it again."""
        self.modules[node_id].kept |= self._wanted(node_id)

    def _wanted(self, node_id: str) -> dict[str, str | int]:
        node, module = self.design.nodes[node_id], self.modules[node_id]
        if not isinstance(node.part, ModulePart):
            return {}
        partner = partner_of(self.design, node_id)
        wanted = settings_of(wanted_of_module(self.design, node, node.part).goal, module.dialect)
        if partner is not None and partner.id in self.modules and role_of(self.design, node) == "master":
            wanted["bound"] = self.modules[partner.id].kept["address"]
        wanted["speed"] = int(setup_of_node(node).found_bd or 0) or wanted["speed"]
        return {name: value for name, value in wanted.items() if name in module.dialect.settings}

    def why_not(self, node_id: str) -> str:
        """Say why a module passes nothing on."""
        module = self.modules[node_id]
        match module.mode:
            case "off":
                return "it has no power"
            case "setup":
                return "it is in set-up mode, where it lets nobody link and takes what comes for commands: let its key go, power off, power on"
        if self.pair_of(node_id) is not None:
            return "it has not found the other module"
        if module.dialect.enters == "always":
            board_bd = self._heard_at(node_id)
            if board_bd != module.speed_bd:
                why = self.unlike(node_id, int(board_bd)) if board_bd is not None else "the wire to it carries nothing"
                return f"it lets nobody in, for its program cannot reach it: {why}"
            return "it lets nobody in: its program has not told it to since it started"
        return "nobody is linked to it"

    def start_again(self, node_id: str, at_s: float) -> None:
        """Say to a module that has started what it has forgotten, as its board's program does where its wire and speed let it."""
        module = self.modules[node_id]
        heard_bd = self._heard_at(node_id)
        if heard_bd is None or int(heard_bd) != module.speed_bd:
            return
        for place, way in enumerate(said_at_every_start(module.dialect).values()):
            module.hear(at_s + (place + 1) * ANSWERED_S, way.sent)

    def unlike(self, node_id: str, board_bd: int) -> str:
        """Say that a module and its board are at unlike speeds."""
        return f"the board speaks at {si(board_bd, 'Bd')}, the module listens at {si(self.modules[node_id].speed_bd, 'Bd')}"

    def _heard_at(self, node_id: str) -> float | None:
        """Return the speed at which a board speaks to a module, where it is heard there."""
        for level in self.design.levels:
            if level.line.is_spoken and level.receiver.id == node_id:
                is_heard = not level.is_omitted and self.design.passages[level.id].verdict != "does not"
                return self.design.wires[level.line.owner_id].baud.known if is_heard else None
        return None


def _address(node: NodeDesign, dialect: Dialect, place: int) -> str:
    """Return the address a module was said to have, or one of its own."""
    made = str(dialect.settings.get("address", "0000:00:000000"))
    return setup_of_node(node).address or f"{made[:-2]}{(int(made[-2:], 16) + place) % 256:02X}"


def told(module: StandIn) -> str:
    """Say what a module does now, by what its LED shows."""
    what = {"off": "no power", "setup": "set-up mode", "waiting": "waits for somebody to link", "linked": "linked"}[module.mode]
    return what if module.mode == "off" else f"{what}, LED {module.blink.text}"
