"""Whole projects over HTTP: away and in again without loss; what is no project is refused and nothing of it kept."""

import asyncio
import socket
from typing import Any

import httpx
import pytest
from fastapi import Request

from oddlamp.api.receiving import received
from oddlamp.core.errors import OutOfRange
from oddlamp.store.archive import FILE_MOST_BYTES


def test_a_project_goes_and_comes_back_whole(http: httpx.Client, project: Any) -> None:
    path = f"/api/projects/{project['id']}"
    edit = {"base_revision": project["revision"], "patch": {"notes": "lit"}, "summary": "Noted"}
    assert http.post(f"{path}/edits", json=edit).status_code == 200
    file = http.get(f"{path}/archive")
    assert file.headers["content-type"] == "application/zip"
    came = http.post("/api/projects/import/archive", content=file.content)
    assert came.status_code == 201
    there = came.json()
    assert there["id"] != project["id"]
    assert there["undo"] == "Noted"
    assert http.get(f"/api/projects/{there['id']}/archive").content == file.content


def test_what_is_no_project_is_refused_and_nothing_is_kept(http: httpx.Client, project: Any) -> None:
    count = len(http.get("/api/projects").json())
    whole = http.get(f"/api/projects/{project['id']}/archive").content
    for content in (b"", b"{}", whole[:-20], b"PK" + whole[4:], whole + b"\n"):
        refused = http.post("/api/projects/import/archive", content=content)
        assert refused.status_code == 422, refused.text
        assert "archive" in refused.json()["field"]
    assert (
        http.post("/api/projects/import/archive", content=whole, headers={"origin": "http://elsewhere.invalid"}).status_code
        == 403
    )
    where = ("127.0.0.1", int(str(http.base_url).rstrip("/").rpartition(":")[2]))
    with socket.create_connection(where) as sender:  # one that is too long is refused by what it says of itself
        head = f"POST /api/projects/import/archive HTTP/1.1\r\nHost: 127.0.0.1:{where[1]}\r\nContent-Length: {FILE_MOST_BYTES + 1}\r\n\r\n"
        sender.sendall(head.encode())
        assert b" 422 " in sender.recv(100)
    with socket.create_connection(where) as sender:
        head = f"POST /api/projects/import/archive HTTP/1.1\r\nHost: 127.0.0.1:{where[1]}\r\nContent-Length: {len(whole)}\r\n\r\n"
        sender.sendall(head.encode() + whole[: len(whole) // 2])
    assert len(http.get("/api/projects").json()) == count
    assert http.get("/api/projects/nobody/archive").status_code == 404


def test_a_body_that_says_nothing_of_its_length_is_taken_no_further_than_its_bound() -> None:
    """In pieces without an end, as a request may send them: it ends with the first piece too many."""
    taken: list[int] = []

    async def receive() -> dict[str, Any]:
        taken.append(1)
        return {"type": "http.request", "body": bytes(2**20), "more_body": True}

    async def send_it() -> None:
        async with received(Request({"type": "http", "headers": []}, receive), 3 * 2**20, "archive"):
            raise AssertionError("it was taken")

    with pytest.raises(OutOfRange, match="at most 3 MB"):
        asyncio.run(send_it())
    assert len(taken) == 4
