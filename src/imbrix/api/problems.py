"""Errors as answers: one problem model (RFC 9457) with a sentence. Only what Imbrix itself says becomes a 4xx."""

import errno
import logging
import sqlite3
from collections.abc import Mapping
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from pydantic import BaseModel, Field, ValidationError
from sqlalchemy.exc import OperationalError
from starlette.exceptions import HTTPException
from starlette.responses import JSONResponse

from imbrix.api import safety
from imbrix.core.errors import (
    ConflictError,
    DeviceLostError,
    ImbrixError,
    InvalidError,
    NotHereError,
    StaleError,
)

LOG = logging.getLogger("imbrix.api")
MEDIA_TYPE = "application/problem+json"
STATUS: dict[type[ImbrixError], int] = {
    StaleError: 409,
    NotHereError: 404,
    InvalidError: 422,
    DeviceLostError: 409,
    ConflictError: 409,
}
TITLES = {
    400: "The request cannot be read",
    403: "This server answers pages of its own only",
    404: "Not here",
    405: "Not done at this address",
    409: "Not now",
    413: "Too large",
    422: "This cannot be",
    500: "A fault of Imbrix",
    507: "The disk is full",
}
FULL = "the disk is full: nothing was changed. Free some room and try again"
FAULT = "something went wrong inside Imbrix: nothing half done was kept. The log of the data folder says what"


class Problem(BaseModel):
    """Why a request was refused, after RFC 9457."""

    type: str = Field(default="about:blank", description="Always `about:blank`: the status says the kind.")
    title: str = Field(description="The kind of problem in a few words.")
    status: int = Field(description="The HTTP status.")
    detail: str = Field(description="A sentence for a person: what is wrong, where, and what can be done.")
    changed: list[str] = Field(
        default=[], description="Of an edit that came too late: what was changed since the revision it was made on."
    )


REFERENCE = {"schema": {"$ref": "#/components/schemas/Problem"}}
RESPONSES: dict[int | str, dict[str, Any]] = {
    status: {"description": TITLES[status], "content": {MEDIA_TYPE: REFERENCE}}
    for status in (400, 403, 404, 409, 413, 422, 500, 507)
}
"""What every operation may answer beside what it is for. By reference: a model named at every operation would be built
anew for each, which takes the start half a second."""


def answer(
    status: int, detail: str, changed: tuple[str, ...] = (), headers: Mapping[str, str] | None = None
) -> JSONResponse:
    """A problem as an answer."""
    title = TITLES.get(status, TITLES[500] if status >= 500 else TITLES[400])
    problem = Problem(title=title, status=status, detail=detail, changed=list(changed))
    return JSONResponse(problem.model_dump(), status, dict(headers or {}), MEDIA_TYPE)


def install(app: FastAPI) -> None:
    """Let an application answer every error as a problem."""
    app.add_exception_handler(ImbrixError, _ours)
    app.add_exception_handler(RequestValidationError, _invalid)
    app.add_exception_handler(HTTPException, _http)
    app.add_exception_handler(OperationalError, _database)
    app.add_exception_handler(sqlite3.OperationalError, _database)
    app.add_exception_handler(OSError, _system)
    app.add_exception_handler(Exception, _bug)


def told(error: Exception) -> str:
    """What may be said of an error: our own words, or that it is a fault."""
    if isinstance(error, ImbrixError):
        return str(error)
    return FULL if is_full(error) else FAULT


def is_full(error: Exception) -> bool:
    """Whether an error means that the disk is full."""
    return getattr(error, "errno", None) == errno.ENOSPC or "disk is full" in str(error).lower()


async def _ours(_request: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, ImbrixError)
    status = next((status for kind, status in STATUS.items() if isinstance(error, kind)), 409)
    return answer(status, str(error), error.changed if isinstance(error, StaleError) else ())


def first_fault(error: ValidationError) -> str:
    """Where the first fault of a message lies, and what it is."""
    first = error.errors()[0]
    return f"{'.'.join(str(part) for part in first['loc'])}: {first['msg']}"


async def _invalid(_request: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, RequestValidationError)
    first = error.errors()[0]
    where = ".".join(str(part) for part in first["loc"][1:]) or "request"
    if "Expected UploadFile" in first["msg"]:
        return answer(422, f"{where}: a file with a name is needed here")
    return answer(422, f"{where}: {first['msg']}")


async def _http(request: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, HTTPException)
    words = {
        404: "there is nothing at this address",
        405: "this address does not do that",
        413: safety.too_large(request.url.path, request.headers),
    }
    return answer(error.status_code, words.get(error.status_code, str(error.detail)), headers=error.headers)


async def _database(request: Request, error: Exception) -> JSONResponse:
    return answer(507, FULL) if is_full(error) else await _bug(request, error)


_system = _database


async def _bug(request: Request, error: Exception) -> JSONResponse:
    LOG.error("%s %s failed", request.method, request.url.path, exc_info=error)
    return answer(500, FAULT)
