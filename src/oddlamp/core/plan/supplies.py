"""Supply as the plan knows it: where energy comes from, what makes one rail out of another, and the wires in between."""

from typing import Annotated, Literal

from pydantic import Field

from oddlamp.core.base import Model
from oddlamp.core.plan.fields import Id, Label, PartChoice
from oddlamp.core.plan.quantities import Ampere, Celsius, Farad, Metre, Ratio, Second, Volt

FeedId = Annotated[str, Field(pattern=r"^[a-z][a-z0-9_]*(\.[a-z][a-z0-9_]*)?$")]


class WireRun(Model):
    """A length of wire, with a second one beside it where it feeds something."""

    gauge_awg: Annotated[int, Field(ge=0, le=40)] | None = None
    length_m: Metre | None = None
    colour: Label | None = None
    made_of: Literal["copper", "clad", "jumper"] | None = Field(
        default=None, description="Copper where absent, or aluminium with a skin of it, or jumpers with their contacts"
    )


class Fed(Model):
    """What everything has that takes supply for light: its share of an evening, the wire that feeds it, what steadies it."""

    feed: WireRun | None = Field(default=None, description="The pair of wires from its rail")
    usage_ratio: Ratio | None = Field(default=None, description="How much of its full light it gives on average")


class Steadied(Fed):
    """What has a capacitor of its own where it is fed; none at all is told as nothing."""

    capacitor_f: Annotated[float, Field(ge=0, le=1)] | None = None


class End(Model):
    """One place with one common ground."""

    label: Label | None = None
    ambient_c: Celsius | None = None


class Source(Model):
    """Where the energy comes from."""

    label: Label | None = None
    end: Id | None = None
    choice: PartChoice | None = None
    cable: WireRun | None = Field(default=None, description="A lead beside the one it comes with")
    wanted_run_time_s: Second | None = None
    fuse_a: Ampere | None = Field(default=None, description="Of a fuse where it leaves its source, A")
    dip_v: Volt | None = Field(default=None, description="How far its rail may fall while it fails for a moment, V")


class Converter(Model):
    """Something that makes one rail out of another."""

    label: Label | None = None
    from_rail: Id
    choice: PartChoice | None = None
    set_point_v: Volt | None = None
    is_set: bool | None = Field(default=None, description="Whether its trimmer was set with a meter, and fixed")
    charges: bool | None = Field(default=None, description="Whether cells are to be charged by it")


class Rail(Model):
    """A supply rail at one end, fed by a source, a converter, or a board's own output such as ``board.supply_3v3``."""

    label: Label | None = None
    end: Id | None = None
    fed_by: FeedId | None = None
    decoupling_f: Farad | None = Field(default=None, description="All that steadies it, and holds it up, F")
