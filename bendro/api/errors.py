"""Errors become HTTP here and nowhere else: RFC 9457 problem details, chosen by class."""

from __future__ import annotations

import shutil
import sys
import uuid
from typing import Any

import structlog
from fastapi import FastAPI, Request
from fastapi.encoders import jsonable_encoder
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from psycopg.errors import DiskFull
from sqlalchemy.exc import IntegrityError, OperationalError, TimeoutError
from starlette.exceptions import HTTPException

from bendro.actions.errors import Clash, NotAllowed, NotSignedIn, PlanLocked, Refused, TooManyTries
from bendro.core.errors import CoreError
from bendro.settings import settings
from bendro.store.errors import NotFound

#: Less than one file of PostgreSQL's log of writes: it cannot go on.
LEAST_FREE_BYTES = 16_000_000


class Lines:
    """Where the log is written. A line that cannot be written is tried on the other stream, and given up when that fails as well: a full
    disk under the log never makes an answer fail."""

    def msg(self, message: str) -> None:
        for stream in (sys.stdout, sys.stderr):
            try:
                print(message, file=stream, flush=True)
            except (OSError, ValueError):  # no room, a reader that has gone, or a stream that was closed
                continue
            return

    log = debug = info = warn = warning = error = critical = exception = fatal = msg


def _rendered(logger: Any, name: str, event: Any) -> Any:
    """A line of the log: for people, or as JSON for a program that gathers them."""
    if settings().log_json:
        return structlog.processors.JSONRenderer()(logger, name, structlog.processors.format_exc_info(logger, name, event))
    return _FOR_PEOPLE(logger, name, event)


_FOR_PEOPLE = structlog.dev.ConsoleRenderer(colors=False, exception_formatter=structlog.dev.plain_traceback)
structlog.configure(
    logger_factory=lambda *_: Lines(),
    processors=[structlog.processors.add_log_level, structlog.processors.TimeStamper(fmt="iso"), _rendered],
)
log = structlog.get_logger()
#: First class that fits decides.
STATUS: tuple[tuple[type[CoreError], int], ...] = (
    (NotFound, 404),
    (NotSignedIn, 401),
    (NotAllowed, 403),
    (TooManyTries, 429),
    (Clash, 409),
    (PlanLocked, 409),
    (Refused, 422),
    (CoreError, 422),
)
_TITLES = {
    401: "Not signed in",
    403: "Not from this page",
    404: "Not found",
    405: "Not possible here",
    408: "Too slow",
    409: "Changed meanwhile",
    413: "Too large",
    421: "Another name",
    422: "Not understood",
    429: "Wait a little",
    500: "Something went wrong",
    503: "Not ready",
    507: "The disk is full",
}


def problem(
    status: int,
    code: str,
    says: str,
    *,
    where: str | None = None,
    errors: list[dict[str, str]] | None = None,
    facts: dict[str, Any] | None = None,
    headers: dict[str, str] | None = None,
) -> JSONResponse:
    """One problem document."""
    return JSONResponse(
        {
            "type": f"urn:bendro:{code}",
            "title": _TITLES.get(status, "Refused"),
            "status": status,
            "detail": says,
            "code": code,
            "where": where,
            "errors": errors or [],
            "facts": jsonable_encoder(facts or {}),
        },
        status,
        headers,
        media_type="application/problem+json",
    )


def _place(location: tuple[Any, ...]) -> str:
    return ".".join(str(p) for p in location if p not in ("body", "query", "path"))


def _sentence(error: dict[str, Any]) -> str:
    kind, context = error["type"], error.get("ctx", {})
    if kind == "string_too_long":
        return f"This has {len(str(error.get('input', '')))} characters; at most {context['max_length']} fit here."
    if kind == "too_long":
        return f"There are {context.get('actual_length', 'too many')} entries; at most {context['max_length']} fit here."
    if kind == "missing":
        return "This is missing."
    if kind == "extra_forbidden":
        return "This is not known here."
    if kind == "json_invalid":
        return "The message is not valid JSON."
    return f"{error['msg'].removeprefix('Value error, ').rstrip('.')}."


def install(app: FastAPI) -> None:
    """Hang the handlers on the app."""

    @app.exception_handler(CoreError)
    def _core(_: Request, error: CoreError) -> JSONResponse:
        status = next(s for kind, s in STATUS if isinstance(error, kind))
        facts = error.facts if isinstance(error, Refused) else {}
        headers = {"Retry-After": str(facts["wait_s"])} if status == 429 else None
        return problem(status, error.code, error.says, where=error.where, facts=facts, headers=headers)

    @app.exception_handler(RequestValidationError)
    def _body(_: Request, error: RequestValidationError) -> JSONResponse:
        found = [{"where": _place(e["loc"]), "says": _sentence(dict(e)), "code": e["type"]} for e in error.errors()]
        first = found[0]
        return problem(422, "body_refused", first["says"], where=first["where"], errors=found)

    @app.exception_handler(HTTPException)
    def _http(_: Request, error: HTTPException) -> JSONResponse:
        return problem(error.status_code, "http", str(error.detail), headers=dict(error.headers or {}))

    @app.exception_handler(IntegrityError)
    def _twice(_: Request, error: IntegrityError) -> JSONResponse:
        log.error("written_meanwhile", error=str(error.orig))
        return problem(409, "written_meanwhile", "Something was written here at the same moment. Look at it as it stands now, then do this again.")

    @app.exception_handler(OperationalError)
    @app.exception_handler(TimeoutError)
    def _database(_: Request, error: OperationalError | TimeoutError) -> JSONResponse:
        return database_away(error.orig if isinstance(error, OperationalError) else error)


def database_away(error: BaseException | None) -> JSONResponse:
    """The answer while the database does not work, with its reason where that is a full disk."""
    log.error("database_away", error=str(error))
    if isinstance(error, DiskFull) or disk_is_full():
        return problem(
            507,
            "disk_full",
            "The disk of the computer that runs Bendro is full, so nothing new can be kept there. What you have written waits on this device "
            "and is sent when there is room. Tell whoever looks after that computer.",
            headers={"Retry-After": "15"},
        )
    return problem(
        503, "database_away", "The database does not answer just now. Nothing is lost; it will be tried again.", headers={"Retry-After": "2"}
    )


def disk_is_full() -> bool:
    """Whether there is no room where the data lie: the database then does not always say why it stopped."""
    folder = settings().data
    try:
        return folder is not None and shutil.disk_usage(folder).free < LEAST_FREE_BYTES
    except OSError:
        return False


def unforeseen(path: str, error: Exception) -> JSONResponse:
    """The answer to an error that nobody foresaw: the log holds it under a mark, and the sentence names the mark."""
    mark = uuid.uuid4().hex[:8]
    log.error("unforeseen", id=mark, path=path, exc_info=error)
    return problem(500, "unforeseen", f"Something went wrong that was not foreseen. Tell whoever looks after Bendro the mark {mark}.")
