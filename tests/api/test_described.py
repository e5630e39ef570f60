"""Schemathesis plays the API's own description against a real server: nothing it thinks of may break it."""

from collections.abc import Iterator
from typing import Any

import pytest
import schemathesis
from hypothesis import HealthCheck, given, seed, settings

from oddlamp.api.app import create_app
from tests.builders import CLEAR
from tests.conftest import CALL, PATIENCE_S, start_server
from tests.full import IS_PROOF

EXAMPLES = 100 if IS_PROOF else 4  # make proof: what is too long for a test run
ROUTES = [(path, method) for path, item in create_app().openapi()["paths"].items() for method in item]


@pytest.fixture(scope="module")
def described(tmp_path_factory: pytest.TempPathFactory) -> Iterator[tuple[Any, str, str]]:
    process, address = start_server(tmp_path_factory.mktemp("described") / "oddlamp.sqlite3")
    project = CALL.post(f"{address}/api/projects/import", json=CLEAR).json()["id"]
    yield schemathesis.openapi.from_url(f"{address}/api/openapi.json"), address, project
    process.terminate()
    process.wait()


@pytest.mark.parametrize(("path", "method"), ROUTES)
def test_no_request_breaks_the_server(described: tuple[Any, str, str], path: str, method: str) -> None:
    schema, address, project = described

    @seed(20260101)
    @settings(max_examples=EXAMPLES, deadline=None, derandomize=True, database=None, suppress_health_check=list(HealthCheck))
    @given(case=schema[path][method].as_strategy())
    def play(case: Any) -> None:
        if "project_id" in (case.path_parameters or {}):
            case.path_parameters["project_id"] = project  # with made-up ids every answer is 404
            if isinstance(case.body, dict) and isinstance(case.body.get("base_revision"), int):
                case.body["base_revision"] = CALL.get(f"{address}/api/projects/{project}").json()["revision"]
        answer = case.call(timeout=PATIENCE_S)
        assert answer.status_code < 500, answer.text
        if answer.status_code >= 400:
            kind = answer.headers["content-type"][0]
            assert kind.startswith(("application/problem+json", "text/plain")), kind

    play()
