"""A client and a fresh project for every test of the API."""

from typing import Any

import httpx
import pytest

from tests.builders import CLEAR
from tests.conftest import caller


@pytest.fixture
def http(server: str) -> httpx.Client:
    return caller(server)


@pytest.fixture
def project(http: httpx.Client) -> Any:
    return http.post("/api/projects/import", json=CLEAR).json()
