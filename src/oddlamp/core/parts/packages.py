"""What the packages of boards call things that a printed program needs."""

from typing import Literal

from pydantic import Field

from oddlamp.core.base import Model
from oddlamp.core.plan.fields import PartId


class PackageNames(Model):
    """What the packages of boards call things that a printed program needs; in one place, for others may call them otherwise."""

    header: str
    usb: str
    port: str = Field(description="With its number in braces")
    software_serial_header: str
    software_serial: str
    bus_header: str
    bus: str
    store_header: str
    store: str
    chips: dict[PartId, str] = Field(description="What the compiler of 8-bit chips calls that of a board")
    share: dict[Literal["all", "port", "software_serial", "tone", "bus"], tuple[int, int]] = Field(
        description="What a package itself takes of an 8-bit chip, bytes in flash and in memory; from memory"
    )
