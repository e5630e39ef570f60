"""Troubles that are put into a rehearsal: what is wrong at the bench though the plan is right."""

from typing import Final, NamedTuple

from oddlamp.core.behaviour.clock import xorshift
from oddlamp.core.rehearsal.events import Trouble, TroubleEvent

SEED: Final = 0x5EED_1E57
BECAUSE: Final[dict[Trouble, str]] = {
    "swapped": "RX and TX are swapped: what is sent meets the other sender, and no pin that listens",
    "no-ground": "the grounds are not joined: levels mean nothing to the other end",
}
NAMES: Final[dict[Trouble, str]] = {
    "swapped": "wires swapped",
    "no-ground": "no common ground",
    "speed": "another speed",
    "ending": "another ending",
    "packets": "packets lost",
    "noise": "trembles",
}


class Put(NamedTuple):
    """A trouble as it stands."""

    what: Trouble
    where: str


class Troubles:
    """What is wrong at the moment, and the chance by which packets are lost and knobs tremble: the same in every run."""

    def __init__(self) -> None:
        self.now: dict[Put, TroubleEvent] = {}
        self._seed = SEED

    def put(self, event: TroubleEvent) -> None:
        """Let something be wrong from now on, or right again."""
        key = Put(event.what, event.where)
        if event.is_on:
            self.now[key] = event
        else:
            self.now.pop(key, None)

    def of(self, what: Trouble, where: str) -> TroubleEvent | None:
        """Return the trouble of one kind at a place; None where there is none."""
        return self.now.get(Put(what, where)) if self.now else None

    def wire_lost(self, link_id: str) -> str | None:
        """Say why nothing comes over a wire; None where something does."""
        return next((BECAUSE[what] for what in BECAUSE if self.of(what, link_id) is not None), None)

    def loses_packet(self, link_id: str) -> bool:
        """Draw whether a packet is lost in the air."""
        trouble = self.of("packets", link_id)
        return trouble is not None and self._draw(1000) < 1000 * trouble.share

    def trembles(self, input_id: str, most: int) -> int:
        """Draw how far an input is off its place, to either side."""
        trouble = self.of("noise", input_id)
        far = round(most * trouble.share) if trouble is not None else 0
        return self._draw(2 * far + 1) - far if far else 0

    def _draw(self, below: int) -> int:
        self._seed = xorshift(self._seed)
        return (self._seed >> 8) % below
