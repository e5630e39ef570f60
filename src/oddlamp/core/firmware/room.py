"""What a printed program takes of its board: its own part, and that of the board's package."""

from collections.abc import Mapping
from typing import Final, NamedTuple

from oddlamp.core.design.design import Design
from oddlamp.core.firmware.sizes import sizes_of
from oddlamp.core.parts.models import BoardPart

SMALL_MOST_BYTES: Final = 16_384  # boards with less memory have 8-bit chips: only those were measured


class Taken(NamedTuple):
    """Bytes that the program and the package take, and that there are."""

    own: int
    package: int
    there: int

    @property
    def taken(self) -> int:
        """All that is taken."""
        return self.own + self.package


class Room(NamedTuple):
    """What is taken of the flash and of the memory for variables."""

    flash: Taken
    memory: Taken


def room_of(design: Design, host: str, program: str, has: Mapping[str, bool]) -> Room | None:
    """Return what a program takes of an 8-bit board, as it was estimated from many that were compiled; None for other boards."""
    part = design.nodes[host].part
    if not isinstance(part, BoardPart) or part.ram_bytes >= SMALL_MOST_BYTES or part.flash_bytes is None:
        return None
    sizes, share = sizes_of(program, design.catalog.code_weights), design.catalog.packages.share
    takes = [share["all"], *(share[it] for it in ("port", "software_serial", "tone", "bus") if _has(has, it))]
    return Room(
        Taken(sizes.flash, sum(it for it, _ in takes), part.flash_bytes),
        Taken(sizes.variables, sum(it for _, it in takes), part.ram_bytes),
    )


def _has(has: Mapping[str, bool], what: str) -> bool:
    return has[{"software_serial": "software", "tone": "tones", "bus": "bus", "port": "ports"}[what]]
