"""The command line: serve, review, rehearse."""

import gc
import json
import secrets
import socket
import sys
from dataclasses import asdict
from pathlib import Path
from typing import Annotated, Any, NoReturn

import typer

from oddlamp.catalog.load import DATA, CatalogBroken, load_catalog
from oddlamp.core.checks.findings import Finding
from oddlamp.core.errors import DomainError
from oddlamp.core.parts.check import check_parts
from oddlamp.core.plan.document import load_plan
from oddlamp.core.plan.model import Plan
from oddlamp.core.rehearsal.events import read_events
from oddlamp.core.rehearsal.simulate import rehearse as play
from oddlamp.sheets.review import review as work_out
from oddlamp.sheets.shown import shown_finding

app = typer.Typer(no_args_is_help=True, add_completion=False, help="Plan, check and rehearse a light that obeys a phone.")
PlanFile = Annotated[Path, typer.Argument(help="A plan file (JSON), or - for standard input")]
AsJson = Annotated[bool, typer.Option("--json", help="The whole answer as JSON")]


@app.command()
def serve(
    database: Annotated[Path, typer.Option(help="Where projects are kept")] = Path("demo-data/oddlamp.sqlite3"),
    port: Annotated[int, typer.Option(help="Port on this machine")] = 8080,
    parts: Annotated[Path, typer.Option(help="The folder of part files, such as a copy of your own")] = DATA,
    lan: Annotated[bool, typer.Option("--lan", help="Open to the local network too, with a token")] = False,
) -> None:
    """Serve the screens: on this machine only, or with --lan to a phone at the bench as well."""
    import uvicorn  # only the server needs it, and it takes a while to load

    from oddlamp.api.app import create_app
    from oddlamp.store.database import DatabaseTooNew

    hosts, token = (own_addresses(), secrets.token_urlsafe(12)) if lan else ((), None)
    try:
        server = create_app(database, parts=parts, lan_hosts=hosts, token=token)
    except DatabaseTooNew as error:
        typer.echo(f"{error}. The file is left as it is: start the newer Odd Lamp, or give another --database.", err=True)
        raise typer.Exit(2) from None
    except CatalogBroken as error:
        typer.echo(f"A part file is wrong: {error}", err=True)
        raise typer.Exit(2) from None
    gc.freeze()
    gc.set_threshold(20_000, 20, 20)  # an answer makes ten thousand small objects and drops them whole
    gc.enable()
    typer.echo(f"Odd Lamp is at http://127.0.0.1:{port}/  (stop with Ctrl+C; projects are kept in {database})")
    if lan:
        typer.echo("WARNING: everybody on your network who has this address can read and change your projects,")
        typer.echo("and what is sent is not encrypted. Use it on a network you trust, and stop it when you are done:")
        for host in hosts:
            typer.echo(f"  http://{host}:{port}/?token={token}")
    uvicorn.run(server, host="0.0.0.0" if lan else "127.0.0.1", port=port, log_level="warning", proxy_headers=False)


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
    result = work_out(_plan(plan), load_catalog())
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
        typer.echo(f"{result.title}: {result.sentence}")
        for finding in result.findings:
            mark = f"accepted: {finding.accepted}" if finding.accepted else finding.severity
            typer.echo(f"  {finding.code} ({mark}) {finding.message}")
        for stage, because in result.not_yet.items():
            typer.echo(f"  {stage}: {because}")
    raise typer.Exit(1 if result.stops else 0)


def _told(finding: Finding) -> dict[str, Any]:
    """Write a finding as the plan's contract lists it: flat, with its working and ways out."""
    flat = asdict(shown_finding(finding, is_full=True))
    return {**{key: value for key, value in flat.items() if key != "ways"}, **flat["ways"], "where": finding.where}


@app.command()
def rehearse(
    plan: PlanFile, events: Annotated[Path, typer.Argument(help="A list of timed events (JSON)")], as_json: AsJson = False
) -> None:
    """Play events through a plan. Exit 0: every message arrived; 1: something was lost; 2: a file cannot be read."""
    read = _plan(plan)
    try:
        trace = play(read, load_catalog(), read_events(_json(events)))
    except DomainError as error:
        _refuse(error)
    if as_json:
        rows = [event._asdict() for event in trace.events]
        typer.echo(
            json.dumps(
                {"events": rows, "lamps": trace.lamps, "ends_at_s": trace.ends_at_s, "is_cut_short": trace.is_cut_short},
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
            typer.echo(f"{event.t_s * 1000:10.3f} ms  {event.stage:24} {event.bytes_hex:12} {what}")
    raise typer.Exit(1 if trace.lost else 0)


def _plan(path: Path) -> Plan:
    try:
        plan = load_plan(_json(path))
        check_parts(plan, load_catalog())
    except DomainError as error:
        _refuse(error)
    return plan


def _json(path: Path) -> Any:
    try:
        return json.loads(sys.stdin.read() if str(path) == "-" else path.read_text(encoding="utf-8"))
    except OSError as error:
        typer.echo(f"{path}: {error.strerror}", err=True)
    except (ValueError, RecursionError) as error:
        typer.echo(f"{path}: not JSON: {error}", err=True)
    raise typer.Exit(2)


def _refuse(error: DomainError) -> NoReturn:
    for item in error.problems:
        typer.echo(f"{item.field}: given {item.given}; allowed: {item.allowed}", err=True)
    raise typer.Exit(2)


if __name__ == "__main__":
    app()
