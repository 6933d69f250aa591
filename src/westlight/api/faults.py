"""What a request is answered when something is wrong: words that say what to do, never an exception, never the input."""

from __future__ import annotations

import errno
import itertools

import structlog
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from sqlalchemy.exc import DataError, InterfaceError, OperationalError
from sqlalchemy.exc import TimeoutError as PoolTimeout

from westlight.core.errors import WestlightError
from westlight.studio.errors import NotFound

log = structlog.get_logger()
NO_DATABASE = "The database does not answer just now; it is being started again. Nothing that was saved is lost."
FULL = (
    "The disk is full. Free some space (Handover › Storage), then try again; nothing was changed."
)
_faults = itertools.count(1)


def said(error: Exception) -> tuple[int, str] | None:
    """Status and words for what can be explained; None for a fault of ours."""
    if isinstance(error, WestlightError):
        return (404 if isinstance(error, NotFound) else 422), str(error)
    if _disk_full(error):
        return 507, FULL
    if isinstance(error, (OperationalError, InterfaceError, PoolTimeout)):
        return 503, NO_DATABASE
    if isinstance(error, RecursionError):
        return 422, "This is nested too deep to be read. Nothing was changed."
    if isinstance(error, DataError):
        return 422, "This holds signs or numbers that cannot be kept. Nothing was changed."
    return None


def _disk_full(error: BaseException | None) -> bool:
    """Whether a disk without space is behind an error, of ours or of the database's."""
    while error is not None:
        if isinstance(error, OSError) and error.errno in (errno.ENOSPC, errno.EDQUOT):
            return True
        if getattr(error, "sqlstate", None) == "53100":
            return True
        error = error.__cause__ or getattr(error, "orig", None)
    return False


def _writable(words: str) -> str:
    """Words without halves of signs, which names in a request may hold and no answer can."""
    return words.encode("utf-8", "replace").decode()


def fault(event: str, **more: object) -> str:
    """Log the exception at hand with its traceback; returns its number for the artist."""
    number = f"page {next(_faults)}"
    log.exception(event, fault=number, **more)
    return f"fault {number}"


def add_faults(app: FastAPI) -> None:
    """Have every error of a request answered in words."""

    async def answered(request: Request, error: Exception) -> JSONResponse:
        found = said(error)
        if found is None:
            try:
                raise error
            except Exception:
                number = fault("fault in a request", path=request.url.path)
            found = 500, f"Something went wrong here ({number}). Nothing was changed; try again."
        elif found[0] >= 500:
            log.warning("request not answered", path=request.url.path, error=repr(error)[:300])
        return JSONResponse({"detail": _writable(found[1])}, status_code=found[0])

    async def not_valid(_: Request, error: RequestValidationError) -> JSONResponse:
        first = error.errors()[0]
        place = " ".join(str(p).replace("_", " ") for p in first["loc"][1:] if isinstance(p, str))[
            :80
        ]
        words = first["msg"] if first["type"] != "json_invalid" else "this is no valid JSON"
        text = f"{place or 'Request'}: {words[:200]}. Nothing was changed."
        return JSONResponse({"detail": _writable(text)}, status_code=422)

    app.add_exception_handler(RequestValidationError, not_valid)  # type: ignore[arg-type]
    for kind in (WestlightError, OperationalError, InterfaceError, PoolTimeout, DataError, OSError,
                 RecursionError, Exception):  # fmt: skip
        app.add_exception_handler(kind, answered)
