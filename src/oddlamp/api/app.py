"""The server: routes, guards, problem documents, and the built pages."""

import shutil
import tempfile
from collections.abc import AsyncIterator, Sequence
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Any, Final

from fastapi import FastAPI
from fastapi.responses import FileResponse, JSONResponse, Response
from fastapi.staticfiles import StaticFiles
from starlette.background import BackgroundTask
from starlette.middleware.trustedhost import TrustedHostMiddleware

from oddlamp import __version__
from oddlamp.api import archives, bench, composing, consoles, finding, logs, modules, programs, projects, rehearsals
from oddlamp.api import lan as ways_in
from oddlamp.api.guards import Guards
from oddlamp.api.lan import Lan
from oddlamp.api.problems import add_problem_handlers, problem
from oddlamp.api.workshop import Workshop
from oddlamp.catalog.load import DATA, demo_plan, load_catalog
from oddlamp.core.base import Model
from oddlamp.core.errors import NotKept
from oddlamp.core.plan.document import load_plan
from oddlamp.core.plan.model import Plan
from oddlamp.store.database import open_database, opening
from oddlamp.store.projects import ProjectStore

STATIC: Final = Path(__file__).parent / "static"


def create_app(
    database: Path | None = None,
    *,
    parts: Path = DATA,
    lan: Lan | None = None,
    serial_ports: Sequence[str] = (),
    serial_for_lan: bool = False,
) -> FastAPI:
    """Make the server.

    Args:
        database: the file to keep projects in; None only to read the API's description.
        parts: the folder of part files.
        lan: the way in from the local network, where it is open to it.
        serial_ports: ports of this machine that its own list does not tell of.
        serial_for_lan: whether the local network may open real ports too.
    Raises:
        DatabaseTooNew: a later version wrote the file.
        CannotOpen, NotOurs, FileDamaged: the file is no database that can be used.
        CatalogBroken: a part file is wrong.
    """
    store = None
    if database is not None:
        engine = open_database(database)
        with opening(database):  # what is damaged inside is found with the first look
            store = ProjectStore(engine)

    @asynccontextmanager
    async def lifespan(_app: FastAPI) -> AsyncIterator[None]:
        yield
        if store is not None:
            store.close()

    app = FastAPI(
        title="Odd Lamp", version=__version__, docs_url=None, redoc_url=None, openapi_url="/api/openapi.json", lifespan=lifespan
    )
    if store is not None:
        app.state.workshop = Workshop(store, load_catalog(parts))
        if not store.names():
            store.create(load_plan(demo_plan()), summary="Started from the demo")
    add_problem_handlers(app)
    app.include_router(composing.router)  # before what takes any name for a project's
    app.include_router(bench.router)
    app.include_router(modules.router)
    app.include_router(consoles.router)
    app.state.consoles = {}  # who talks, and to which port
    app.state.serial_ports = tuple(serial_ports)
    app.state.serial_for_lan = serial_for_lan
    app.include_router(programs.router)
    app.include_router(archives.router)
    app.include_router(logs.router)
    app.include_router(finding.router)
    app.include_router(projects.router)
    app.include_router(rehearsals.router)
    app.state.lan = lan
    app.include_router(ways_in.router)

    @app.get("/api/plan-schema.json")
    def plan_schema() -> dict[str, Any]:
        """Give the JSON Schema of plan files."""
        return published_schema()

    @app.get("/api/copy")
    def copy_everything() -> FileResponse:
        """Give all projects with their history as one file that stands alone."""
        folder = Path(tempfile.mkdtemp(prefix="oddlamp-"))
        try:
            app.state.workshop.store.copy_to(folder / "copy.sqlite3")
        except NotKept:
            shutil.rmtree(folder, ignore_errors=True)
            raise
        return FileResponse(
            folder / "copy.sqlite3",
            filename="oddlamp.sqlite3",
            background=BackgroundTask(shutil.rmtree, folder, ignore_errors=True),
        )

    @app.get("/api/{rest:path}", include_in_schema=False)
    def no_such_route(rest: str) -> JSONResponse:
        return problem(404, "no-such-route", f"There is nothing at /api/{rest}.")

    if (STATIC / "index.html").is_file():
        app.mount("/assets", StaticFiles(directory=STATIC / "assets"))

        @app.get("/notice.txt", include_in_schema=False)
        def notice() -> FileResponse:
            return FileResponse(STATIC / "notice.txt", media_type="text/plain; charset=utf-8")

        @app.get("/{rest:path}", include_in_schema=False)
        def page(rest: str) -> Response:
            return FileResponse(STATIC / "index.html", headers={"cache-control": "no-cache"})

    app.add_middleware(Guards, lan=lan)
    hosts = ["127.0.0.1", "localhost", "[::1]", *(lan.hosts if lan else ())]
    app.add_middleware(TrustedHostMiddleware, allowed_hosts=hosts)
    return app


def published_schema(of: type[Model] = Plan, title: str = "Odd Lamp plan") -> dict[str, Any]:
    """Return the JSON Schema of a document, draft 2020-12: of a plan, or of a whole project."""
    return {**of.model_json_schema(), "$schema": "https://json-schema.org/draft/2020-12/schema", "title": title}
