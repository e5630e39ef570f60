"""The command line: serve, review, rehearse."""

import json
import signal
import socket
import time
from collections.abc import Mapping
from dataclasses import asdict
from pathlib import Path
from typing import Annotated, Any, Final, Literal

import platformdirs
import typer

from oddlamp import __version__, carrying
from oddlamp.catalog.load import DATA, load_catalog
from oddlamp.core.checks.findings import Finding
from oddlamp.core.errors import DomainError, NotPrinted
from oddlamp.core.modules.script import Route
from oddlamp.core.plan.document import at_path, edit_plan
from oddlamp.core.plan.text import shown
from oddlamp.core.rehearsal.displays import rows_of
from oddlamp.core.rehearsal.events import read_events
from oddlamp.core.rehearsal.simulate import rehearse_design
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.bench import list_files
from oddlamp.sheets.paper import sheets_markdown
from oddlamp.sheets.program import files_for, host_named
from oddlamp.sheets.review import review as work_out
from oddlamp.sheets.review import review_design
from oddlamp.sheets.setup import setup_of
from oddlamp.sheets.shown import shown_finding
from oddlamp.terminal import Database, PlanFile, read_json, read_plan, refuse, tell

app = typer.Typer(no_args_is_help=True)
AsJson = Annotated[bool, typer.Option("--json", help="The whole answer as JSON")]


def _version(is_asked: bool) -> None:
    if is_asked:
        typer.echo(f"oddlamp {__version__}, figures of {load_catalog().version}")
        raise typer.Exit


@app.callback()
def _options(
    _asked: Annotated[
        bool, typer.Option("--version", callback=_version, is_eager=True, help="Version, and of the figures")
    ] = False,
) -> None:
    """Plan, check and rehearse a light that obeys a phone."""


@app.command()
def serve(
    database: Database = None,
    port: Annotated[int, typer.Option(min=1, max=65_535, help="Port on this machine")] = 8080,
    parts: Annotated[Path, typer.Option(help="The folder of part files, such as a copy of your own")] = DATA,
    lan: Annotated[bool, typer.Option("--lan", help="Open to the local network too, with a token")] = False,
    serial_port: Annotated[
        list[str] | None, typer.Option(help="A port the console may open that is in no list; more than once")
    ] = None,
    serial_for_lan: Annotated[bool, typer.Option("--serial-for-lan", help="Let the local network open real ports too")] = False,
) -> None:
    """Serve the screens: on this machine only, or with --lan to a phone at the bench as well."""
    from oddlamp import serving  # only the server needs it, and it takes a while to load

    try:
        serving.start(
            database or own_file(),
            port=port,
            parts=parts,
            lan_hosts=own_addresses() if lan else None,
            serial_ports=serial_port or (),
            serial_for_lan=serial_for_lan,
        )
    except serving.StartRefused as error:
        tell(str(error), err=True)
        raise typer.Exit(2) from None


SECOND_ADDRESS: Final = "1A2B:3C:4D5E70"  # of a second stand-in, beside the first one's


@app.command("stand-in")
def stand_in(
    family: Annotated[str, typer.Option(help="Which family of modules talks, such as family-a")],
    version: Annotated[str | None, typer.Option(help="A version or look-alike of it")] = None,
    port: Annotated[str, typer.Option(help="Where a terminal program finds it: pty, tcp:7001, or rfc2217:7001")] = "pty",
    link: Annotated[Path | None, typer.Option(help="A name for the pseudo-terminal that stays the same")] = None,
    control: Annotated[int | None, typer.Option(help="A TCP port for its key, power and link, a line of text each")] = None,
    heard_at: Annotated[int | None, typer.Option(help="The speed the other end is set to, where that cannot be read")] = None,
    key_up: Annotated[bool, typer.Option(help="Hold its key while the power comes on")] = False,
    pair: Annotated[bool, typer.Option(help="A second one within its reach, at the next port, or at LINK-2")] = False,
    times: Annotated[float, typer.Option(help="How many times faster its clock runs", min=0.01, max=1000)] = 1.0,
) -> None:
    """Let a simulated module answer a real terminal program, until stopped."""
    from oddlamp import standing_in
    from oddlamp.core.modules.stand_in import StandIn

    dialects = load_catalog().dialects
    try:
        dialect = dialects[family].version(version)
        modules = [StandIn(dialect)]
        if pair:
            modules.append(StandIn(dialect, {"address": SECOND_ADDRESS}))
        kind, _, number = port.partition(":")
        if kind not in ("pty", "tcp", "rfc2217"):
            raise ValueError(port)
        tcp_port = None if port == "pty" else int(number)
    except KeyError as error:
        known = ", ".join([*dialects, *(it.id for dialect in dialects.values() for it in dialect.versions)])
        tell(f"There is no {error.args[0]} here: one of {known}.", err=True)
        raise typer.Exit(2) from None
    except ValueError:
        tell(f"--port is {port}: give pty, or tcp: or rfc2217: and a number such as tcp:7001.", err=True)
        raise typer.Exit(2) from None
    places: list[standing_in.Place] = []
    try:
        for at, module in enumerate(modules):
            mine = link if link is None or not at else link.with_name(f"{link.name}-{at + 1}")
            here = tcp_port + at if tcp_port else tcp_port  # port 0 is any that is free
            wire = standing_in.Wire(tcp_port=here, link=mine, heard_at_bd=heard_at, is_rfc2217=kind == "rfc2217")
            places.append(standing_in.Place(module, wire))
        holder = None if control is None else standing_in.control_at(control)
        bench = standing_in.Bench(places, holder, lambda: times * time.monotonic())
    except (OSError, OverflowError) as error:
        tell(f"It cannot stand there: {error}. Give another --port, --link or --control.", err=True)
        raise typer.Exit(2) from None
    for it in (signal.SIGINT, signal.SIGTERM):  # one started in the background would pass over Ctrl+C
        signal.signal(it, signal.default_int_handler)
    for before in ("", "2 ")[: len(places)]:
        bench.obey(before + ("key up" if key_up else "key down"))
        bench.obey(f"{before}power on")
    for place in places:
        module = place.module
        tell(f"{module.dialect.label} at {place.wire.name}, {module.mode}, {module.speed_bd} Bd  (stop with Ctrl+C)")
    try:
        while True:
            bench.turn()
    except KeyboardInterrupt:
        for place in places:
            place.wire.close()


@app.command("stand-in-broker")
def stand_in_broker(
    port: Annotated[int, typer.Option(help="Where boards and phones find it", min=0, max=65535)] = 1883,
    lan: Annotated[bool, typer.Option(help="Let others in the house's network in: anyone there may listen and speak")] = False,
) -> None:
    """Be the broker that a board's words go through, and tell each of them, until stopped."""
    import asyncio

    from oddlamp.broker import serve_broker

    def told(topic: str, content: bytes) -> None:
        tell(f"{topic}: {' '.join(map(shown, content))}")

    def begun(at: int) -> None:
        tell(f"A broker at port {at}; nothing that goes through it is kept.  (stop with Ctrl+C)")

    try:
        asyncio.run(serve_broker("0.0.0.0" if lan else "127.0.0.1", port, told, begun))
    except OSError as error:
        tell(f"It cannot stand there: {error.strerror}. Give another --port.", err=True)
        raise typer.Exit(2) from None
    except KeyboardInterrupt:
        return


@app.command("keep-copy")
def keep_copy(
    to: Annotated[Path, typer.Option(help="The file to write; there must be none of that name")], database: Database = None
) -> None:
    """Copy everything that is kept into one file, also while the server runs."""
    import sqlite3

    from oddlamp.store.database import keep_copy as copy

    kept = database or own_file()
    try:
        copy(kept, to)
    except (OSError, sqlite3.DatabaseError) as error:
        tell(f"No copy was made: {error}. {kept} is as it was.", err=True)
        raise typer.Exit(2) from None
    tell(f"Everything is in {to}, one file that stands alone. To use it: oddlamp serve --database {to}")


def own_file() -> Path:
    """Return where this user's projects are kept where nothing else is said: in the data folder their system has for it."""
    return platformdirs.user_data_path("oddlamp", appauthor=False) / "oddlamp.sqlite3"


def own_addresses() -> tuple[str, ...]:
    """Return this machine's IPv4 addresses on its networks. Nothing is sent: a datagram socket only picks its route."""
    found = []
    for far in ("192.168.255.255", "10.255.255.255", "172.31.255.255", "198.51.100.1"):
        with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
            try:
                probe.connect((far, 9))
                found.append(str(probe.getsockname()[0]))
            except OSError:
                continue
    return tuple(address for address in dict.fromkeys(found) if not address.startswith("127."))


@app.command()
def review(plan: PlanFile, as_json: AsJson = False) -> None:
    """Review a plan. Exit 0: nothing to stop for; 1: something is; 2: it cannot be read."""
    result = work_out(read_plan(plan), load_catalog())
    if as_json:
        typer.echo(
            json.dumps(
                {
                    "line": asdict(result.line),
                    "values": [asdict(it) for it in result.values],
                    "findings": [_told(it) for it in result.findings],
                },
                ensure_ascii=False,
            )
        )
    else:
        tell(f"{result.title}: {result.sentence}")
        for finding in result.findings:
            mark = f"accepted: {finding.accepted}" if finding.accepted else finding.severity
            tell(f"  {finding.code} ({mark}) {finding.message}")
        for stage, because in result.not_yet.items():
            tell(f"  {stage}: {because}")
    raise typer.Exit(1 if result.stops else 0)


def _told(finding: Finding) -> dict[str, Any]:
    """Write a finding as the plan's contract lists it: flat, with its working and ways out."""
    flat = asdict(shown_finding(finding, is_full=True))
    return {**{key: value for key, value in flat.items() if key != "ways"}, **flat["ways"], "where": finding.where}


@app.command()
def script(
    plan: PlanFile,
    node: Annotated[str, typer.Option(help="Which module of the plan, or board whose own radio is used, by its id")],
    over: Annotated[str | None, typer.Option(help="Over which radio link, where a board has several")] = None,
    route: Annotated[Route | None, typer.Option(help="What speaks to it; as the plan says where this is not given")] = None,
    secrets: Annotated[
        bool,
        typer.Option(help="Ask for network and password at the terminal, and put them into the steps; they are kept nowhere"),
    ] = False,
    as_json: AsJson = False,
) -> None:
    """Lay out the steps that set a module up. Exit 0: there they are; 1: they cannot be written; 2: it cannot be read."""
    read = read_plan(plan)
    try:
        if route is not None:
            read = edit_plan(read, at_path(("nodes", node, "setup", "route"), route)) if node in read.nodes else read
        design = resolve(read, load_catalog())
        found = setup_of(design, node, over=over)
        if secrets and found.asks:
            typed = {it: typer.prompt(f"The {it}", hide_input=it == "password", err=True) for it in found.asks}
            found = setup_of(design, node, over=over, network=typed.get("network", ""), password=typed.get("password", ""))
            if found.refused:
                tell(found.refused, err=True)
                raise typer.Exit(2)
    except DomainError as error:
        refuse(error)
    if as_json:
        typer.echo(found.model_dump_json(exclude={"keep"}))
    else:
        tell("\n\n".join(filter(None, (found.text or found.sentence, found.program))))
    raise typer.Exit(0 if found.steps else 1)


@app.command()
def rehearse(
    plan: PlanFile,
    events: Annotated[Path, typer.Argument(help="A list of timed events, or a take (JSON)")],
    as_json: AsJson = False,
) -> None:
    """Play events through a plan. Exit 0: every message arrived; 1: something was lost; 2: a file cannot be read."""
    read = read_plan(plan)
    try:
        design = resolve(read, load_catalog())
        trace = rehearse_design(design, read_events(read_json(events)))
    except DomainError as error:
        refuse(error)
    if as_json:
        rows = [event._asdict() for event in trace.events]
        typer.echo(
            json.dumps(
                {
                    "events": rows,
                    "lamps": trace.lamps,
                    "pins": trace.pins,
                    "pixels": trace.pixels,
                    "shows": trace.shows,
                    "rows": rows_of(design, trace),
                    "said": trace.said,
                    "ends_at_s": trace.ends_at_s,
                    "is_cut_short": trace.is_cut_short,
                },
                ensure_ascii=False,
            )
        )
    else:
        for event in trace.events:
            what = (
                f"lost: {event.lost_because}"
                if event.lost_because
                else event.says or (f"{event.volts:.2f} V" if event.volts is not None else "")
            )
            tell(f"{event.t_s * 1000:10.3f} ms  {event.stage:24} {event.bytes_hex:12} {what}")
    raise typer.Exit(1 if trace.lost else 0)


Form = Literal[
    "program", "wiring-test", "wiring", "cut", "parts", "bringup", "measured", "drawing", "spice", "schematics", "sheets", "log", "archive"
]  # fmt: skip


@app.command()
def export(
    to: Annotated[Path, typer.Option(help="The folder to write into; files of that name there are written over")],
    plan: Annotated[Path | None, typer.Argument(help="A plan file (JSON), or - for standard input")] = None,
    form: Annotated[
        Form,
        typer.Option(
            "--as",
            help="The program, one that tries the wiring, a list of the bench, the drawing, each circuit, all sheets, the log of a project, or the whole project",
        ),
    ] = "program",
    host: Annotated[str | None, typer.Option(help="Which board of the plan, by its id; the first where left out")] = None,
    project: Annotated[str | None, typer.Option(help="A project that is kept, by its id, instead of a plan file")] = None,
    database: Database = None,
) -> None:
    """Write the program of a board, a list of the bench, or a whole project. Exit 0: it is written; 1: it cannot be printed yet; 2: something cannot be read or written."""
    if (plan is None) == (project is None):
        tell("Give a plan file, or --project with its id.", err=True)
        raise typer.Exit(2)
    files: Mapping[str, str]
    try:
        if form == "archive" or form == "log":  # the type checker follows only this
            if project is not None:
                write = carrying.archive if form == "archive" else carrying.log
                written = write(database or own_file(), project, to)
            elif form == "archive":
                written = carrying.archive_of(read_plan(plan or Path("-")), to)
            else:
                tell("A plan has no log: give --project with its id.", err=True)
                raise typer.Exit(2)
            for file in written:
                tell(str(file))
            return
        read = carrying.plan_of(database or own_file(), project) if project is not None else read_plan(plan or Path("-"))
        design = resolve(read, load_catalog())
        if form == "program":
            files = files_for(design, host_named(design, host), "program")
        elif form == "wiring-test":
            files = files_for(design, host_named(design, host), "wiring")
        elif form == "sheets":
            files = {"sheets.md": sheets_markdown(review_design(design))}
        else:
            files = list_files(design, form)
    except NotPrinted as error:
        tell(f"It cannot be printed yet: it wants {error.allowed}.", err=True)
        raise typer.Exit(1) from None
    except DomainError as error:
        refuse(error)
    try:
        for path, content in files.items():
            (to / path).parent.mkdir(parents=True, exist_ok=True)
            (to / path).write_bytes(content.encode("utf-8"))
            tell(str(to / path))
    except OSError as error:
        tell(f"{to}: {error.strerror}", err=True)
        raise typer.Exit(2) from None


@app.command("import")
def take_in(
    file: Annotated[Path, typer.Argument(help="A whole project as export --as archive writes it, or a plan file (JSON)")],
    database: Database = None,
) -> None:
    """Take in a whole project, or start one from a plan file. Exit 0: it is kept, whole; 2: nothing of it is."""
    try:
        kept = carrying.take_in(database or own_file(), file)
    except DomainError as error:
        tell(error.said, err=True)
        raise typer.Exit(2) from None
    except OSError as error:
        tell(f"{file}: {error.strerror}", err=True)
        raise typer.Exit(2) from None
    tell(f"{kept.plan.title} is kept as project {kept.id}, with {kept.number} changes.")


if __name__ == "__main__":
    app()
