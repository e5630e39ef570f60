"""The printed program of a host, to be read: line by line with the stage it comes from, and how it gets onto the board."""

from collections.abc import Iterator, Mapping
from typing import Final, Literal

from pydantic import Field

from oddlamp.core.base import Model
from oddlamp.core.behaviour.compile import program_of
from oddlamp.core.design.design import Design
from oddlamp.core.english import plural
from oddlamp.core.errors import NotPrinted, OutOfRange
from oddlamp.core.firmware.files import HEADER, files_of
from oddlamp.core.firmware.printing import YOURS, Printed, print_program
from oddlamp.core.firmware.radio import EXAMPLE_FILE, PAGE_FILE
from oddlamp.core.firmware.regions import PLACES, changed_lines, changed_regions, regions_in
from oddlamp.core.firmware.wiring import print_wiring_test
from oddlamp.core.modules.own_radio import OWN_ADDRESS, SECRETS_FILE, USB_BD, page_at
from oddlamp.core.plan.document import Document
from oddlamp.core.plan.programs import Region
from oddlamp.sheets.programming import programming_panel

HAS_PAGE: Final = "a page for the phone, "
NOT_OF_A_STAGE: Final = -1
OF_THE_MAKER: Final = -2


class HostShown(Model):
    """A board whose program can be printed."""

    id: str
    label: str


class RegionShown(Model):
    """A region of the maker's own: where it stands, what is in it, and whether its place is still there."""

    place: str
    told: str
    code: str
    longest_s: float
    has_place: bool


class Takes(Model):
    """What a program takes of a board: bytes of its own and of the board's package, and what there is."""

    what: str
    own: int
    package: int
    there: int


class ProgramShown(Model):
    """A printed program. ``of`` is for each line the place of its stage among ``stages``, -1 for none, -2 for the maker's own."""

    hosts: tuple[HostShown, ...]
    host: str
    sentence: str
    refused: str = Field(default="", description="Why it cannot be printed; empty where it is")
    is_wiring_tried: bool = Field(default=True, description="Whether a program that tries the wiring can be printed")
    text: str = ""
    header: str = Field(default="", description="What differs between board packages, as a file of its own")
    beside: tuple[str, ...] = Field(default=(), description="The names of the files that stand beside it")
    of: tuple[int, ...] = ()
    stages: tuple[str, ...] = ()
    regions: tuple[RegionShown, ...] = ()
    places: dict[str, str] = Field(
        default_factory=dict, description="Where a region may stand that has none yet, and what it is for"
    )
    steps: tuple[str, ...] = Field(default=(), description="How it gets onto the board")
    room: tuple[Takes, ...] = Field(
        default=(), description="What it takes of the flash, and of the memory for variables; none where it was not measured"
    )
    changed: tuple[str, ...] | None = Field(
        default=None, description="What is otherwise than when it was last taken away; none where it never was"
    )
    taken_at: str | None = None


class TakenBack(Model):
    """What a changed file brings back: the patch that keeps its regions, and what else in it is another than what would be printed."""

    sentence: str
    patch: Document | None = None
    others: tuple[str, ...] = ()


def hosts_of(design: Design) -> tuple[HostShown, ...]:
    """Return the boards of a plan."""
    return tuple(HostShown(id=it.id, label=it.label) for it in design.nodes.values() if it.node.kind == "board")


def host_named(design: Design, host: str | None) -> str:
    """Return a board by its id, the first where none is given; raises OutOfRange where there is none."""
    known = [it.id for it in hosts_of(design)]
    if not known or host not in (None, *known):
        allowed = "one of " + ", ".join(known) if known else "a plan with a board"
        raise OutOfRange(field="host", given=host or "nothing", allowed=allowed)
    return host or known[0]


def printed_of(design: Design, host: str) -> Printed:
    """Print the program of a host; raises NotPrinted."""
    return print_program(design, program_of(design, host))


def files_for(design: Design, host: str, what: Literal["program", "wiring"]) -> Mapping[str, str]:
    """Return the files of a program, or of one that tries the wiring; raises NotPrinted."""
    if what == "wiring":
        return files_of(design, host, print_wiring_test(design, program_of(design, host)), is_wiring=True)
    return files_of(design, host, printed_of(design, host))


NO_BOARD: Final = ProgramShown(
    hosts=(),
    host="",
    sentence="No board, so no program.",
    refused="Nothing of this plan runs one: a module that drives its lamps itself is set up, and not programmed.",
    is_wiring_tried=False,
)


def program_shown(design: Design, host: str, before: Design | None = None, taken_at: str | None = None) -> ProgramShown:
    """Show the program of a host, and what is otherwise than it was ``before``, when it was last taken away."""
    panel = programming_panel(design, design.nodes[host])
    steps = panel.steps if panel is not None else ()
    try:
        printed = printed_of(design, host)
    except NotPrinted as error:
        return ProgramShown(
            hosts=hosts_of(design), host=host, sentence="This program cannot be printed yet.", refused=f"It wants {error.allowed}.",
            regions=_regions(design, host, set()), steps=steps, is_wiring_tried=_is_wiring_tried(design, host),
        )  # fmt: skip
    stages = tuple(dict.fromkeys(it for it in printed.stages if it and it != YOURS))
    at = {YOURS: OF_THE_MAKER, "": NOT_OF_A_STAGE, **{it: place for place, it in enumerate(stages)}}
    there = {place for place, _ in regions_in(printed.program)}
    count = printed.program.count("\n")
    return ProgramShown(
        hosts=hosts_of(design),
        host=host,
        sentence=f"One file, {plural(count, 'line')}, {HAS_PAGE if PAGE_FILE in printed.more else ''}and no library to fetch.",
        text=printed.program,
        header=printed.header,
        beside=(HEADER, *printed.more),
        of=tuple(at[it] for it in printed.stages),
        stages=stages,
        regions=_regions(design, host, there),
        places={place: told for place, told in _places(design, host).items() if place not in there},
        steps=(*_secrets(printed), *steps, *_found(design, host, printed)),
        room=_room(printed),
        changed=None if before is None else _changed(before, host, printed),
        taken_at=taken_at,
    )


def _secrets(printed: Printed) -> Iterator[str]:
    if EXAMPLE_FILE in printed.more:
        yield f"Copy {EXAMPLE_FILE} to {SECRETS_FILE} beside it, and write in that what only you know. It stays on your computer: taken again, the program leaves it alone."


def _found(design: Design, host: str, printed: Printed) -> Iterator[str]:
    """Say where the phone finds the page that the board serves."""
    radio = printed.radio
    if radio is None or radio["page"] is None:
        return
    page = radio["page"]
    if radio["is_guest"]:
        where = page_at(page["transport"], page["port"], "(that address)")
        yield f"It joins your network, and tells a terminal at {USB_BD} Bd the address it was given. Open {where} in any browser: it serves a page with the phone's controls."
    else:
        where = page_at(page["transport"], page["port"], OWN_ADDRESS)
        yield f"Let the phone join the network {radio['found_as']}, and open {where} in any browser: it serves a page with the phone's controls."


def _is_wiring_tried(design: Design, host: str) -> bool:
    try:
        print_wiring_test(design, program_of(design, host))
    except NotPrinted:
        return False
    return True


def _room(printed: Printed) -> tuple[Takes, ...]:
    if printed.sizes is None:
        return ()
    named = zip(("flash", "memory"), printed.sizes, strict=True)
    return tuple(Takes(what=what, own=it.own, package=it.package, there=it.there) for what, it in named)


def _changed(before: Design, host: str, printed: Printed) -> tuple[str, ...]:
    try:
        return changed_lines(printed_of(before, host).program, printed.program) if host in before.nodes else ()
    except NotPrinted:
        return ()


def _places(design: Design, host: str) -> dict[str, str]:
    """Return where a region may stand, and what each place is for."""
    talks = [it for it in design.talks.values() if host in (it.a, it.b)]
    words = {
        word.id: word.label
        for it in talks
        for word in it.vocabulary.words
        if word.direction == ("out" if it.b == host else "back")
    }
    return {**PLACES, **{f"heard.{name}": f"When {label} is heard, after its rules" for name, label in words.items()}}


def _regions(design: Design, host: str, there: set[str]) -> tuple[RegionShown, ...]:
    own, places = design.plan.programs.get(host), _places(design, host)
    return tuple(
        RegionShown(
            place=place,
            told=places.get(place, f"When {place.partition('.')[2]} was heard: there is no such word any more, and it is kept"),
            code=it.code,
            longest_s=0.001 if it.longest_s is None else it.longest_s,
            has_place=place in there,
        )
        for place, it in (own.regions.items() if own is not None else ())
    )


def taken_back(design: Design, host: str, text: str) -> TakenBack:
    """Read the regions of a changed file, and list what else was changed in it.

    Raises:
        NotPrinted: there is nothing to hold it against.
    """
    printed, own = printed_of(design, host), design.plan.programs.get(host)
    known: dict[str, Region] = dict(own.regions) if own is not None else {}
    found = dict(regions_in(text))
    changed = changed_regions(known, found)
    others = changed_lines(printed.program, text)
    if not changed:
        told = "Nothing of yours in it is otherwise than it is kept here."
    else:
        told = f"{plural(len(changed), 'region')} of yours taken from it."
    if others:
        told += f" {plural(len([it for it in others if it[:1] in '+-']), 'other line')} of it differ from what is printed here, and are not taken."
    regions = {place: {"code": code} for place, code in changed.items()}
    return TakenBack(sentence=told, patch={"programs": {host: {"regions": regions}}} if changed else None, others=others)
