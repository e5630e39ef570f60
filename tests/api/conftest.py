"""A client and a fresh project for every test of the API."""

from typing import Any

import httpx
import pytest

from tests.builders import CLEAR


@pytest.fixture
def http(server: str) -> httpx.Client:
    return httpx.Client(base_url=server)


@pytest.fixture
def project(http: httpx.Client) -> Any:
    return http.post("/api/projects/import", json=CLEAR).json()
