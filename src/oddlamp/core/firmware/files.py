"""A printed program as the files of a folder, as the packages of boards want it: the folder and the program have one name."""

import re
from collections.abc import Mapping
from typing import Final

from oddlamp.core.design.design import Design
from oddlamp.core.firmware.printing import Printed

HEADER: Final = "board.h"
NAME_MOST: Final = 40
MADE_AT: Final = (1980, 1, 1, 0, 0, 0)  # the same program makes the same file, byte for byte


def folder_of(design: Design, host: str) -> str:
    """Return the name of the folder: the project's title in plain letters, and of several boards the board's."""
    boards = [it.id for it in design.nodes.values() if it.node.kind == "board"]
    title = design.plan.title if len(boards) == 1 else f"{design.plan.title} {host}"
    plain = re.sub(r"[^a-z0-9]+", "_", title.lower().encode("ascii", "ignore").decode()).strip("_")[:NAME_MOST].strip("_")
    return plain if plain[:1].isalpha() else f"program_{plain}".rstrip("_")


def files_of(design: Design, host: str, printed: Printed, *, is_wiring: bool = False) -> Mapping[str, str]:
    """Return the files by their paths; of a test of the wiring in a folder beside the program's."""
    folder = folder_of(design, host) + ("_wiring" if is_wiring else "")
    beside = {f"{folder}/{name}": text for name, text in printed.more.items()}
    return {f"{folder}/{folder}.ino": printed.program, f"{folder}/{HEADER}": printed.header, **beside}
