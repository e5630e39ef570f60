"""The one place where errors become problem details (RFC 9457)."""

from typing import Any, Final

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from starlette.exceptions import HTTPException

from oddlamp.core import errors
from oddlamp.core.errors import DomainError
from oddlamp.core.plan.document import PROBLEMS_MOST

STATUS: Final[dict[type[DomainError], int]] = {
    errors.OutOfRange: 422,
    errors.PlanInvalid: 422,
    errors.BoardInvalid: 422,
    errors.PlanTooNew: 422,
    errors.EventsInvalid: 422,
    errors.UnknownPart: 422,
    errors.UnknownProject: 404,
    errors.UnknownRevision: 404,
    errors.UnknownTake: 404,
    errors.KnowledgeInvalid: 422,
    errors.UnknownEntry: 404,
    errors.StaleEntry: 409,
    errors.PhotoRefused: 422,
    errors.StaleRevision: 409,
    errors.NothingToUndo: 409,
    errors.NotKept: 507,
    errors.FileBusy: 503,
    errors.FileDamaged: 503,
    errors.Unreadable: 422,
    errors.NotPrinted: 422,
}


def problem(status: int, code: str, detail: str, **more: Any) -> JSONResponse:
    """Write a problem document."""
    return JSONResponse(
        {"type": f"/problems/{code}", "title": code, "status": status, "detail": detail, **more},
        status_code=status,
        media_type="application/problem+json",
    )


async def domain_problem(_request: Request, error: Exception) -> JSONResponse:
    """Answer a refusal of the core; ``given`` goes out as text because NaN is not JSON."""
    if not isinstance(error, DomainError):
        raise error
    first = error.problems[0]
    listed = [item.model_dump() for item in error.problems]
    stale = _stale(error) if isinstance(error, errors.StaleRevision) else {}
    return problem(
        STATUS[type(error)],
        error.code,
        error.said,
        field=first.field,
        given=first.given,
        allowed=first.allowed,
        problems=listed,
        **stale,
    )


def _stale(error: errors.StaleRevision) -> dict[str, Any]:
    return {"revision": error.revision, "clashes": [clash.model_dump(mode="json") for clash in error.clashes]}


async def request_problem(_request: Request, error: Exception) -> JSONResponse:
    """Answer a request whose own frame cannot be read, in the same shape."""
    if not isinstance(error, RequestValidationError):
        raise error
    listed = [
        {
            "field": ".".join(str(step) for step in item["loc"]),
            "given": "nothing" if item["type"] == "missing" else repr(item.get("input"))[:120],
            "allowed": item["msg"].removeprefix("Value error, "),
        }
        for item in error.errors()[:PROBLEMS_MOST]
    ]
    first = listed[0]
    return problem(
        422, "request-invalid", f"{first['field']}: given {first['given']}, allowed: {first['allowed']}", **first, problems=listed
    )


async def http_problem(_request: Request, error: Exception) -> JSONResponse:
    """Answer what the framework itself refuses, such as a body nested past what a JSON reader takes, or a wrong method."""
    if not isinstance(error, HTTPException):
        raise error
    if error.status_code == 400:
        return problem(
            400,
            "not-readable",
            "The body is no JSON that can be read.",
            field="body",
            given="bytes that cannot be read",
            allowed="a JSON document nested no deeper than a plan",
        )
    return problem(error.status_code, "refused", str(error.detail))


def add_problem_handlers(app: FastAPI) -> None:
    """Make every refusal a problem document."""
    for error in STATUS:
        app.add_exception_handler(error, domain_problem)
    app.add_exception_handler(RequestValidationError, request_problem)
    app.add_exception_handler(HTTPException, http_problem)
