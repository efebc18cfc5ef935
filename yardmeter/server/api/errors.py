"""The one place where errors become HTTP: every body says what, where and what to do."""

from __future__ import annotations

import errno
import logging
import sqlite3

from django.db import DatabaseError
from django.http import Http404, HttpRequest, HttpResponse
from ninja import NinjaAPI
from ninja.errors import HttpError, ValidationError
from pydantic import BaseModel

from yardmeter.core.errors import PlanError, UnknownElementError, YardError
from yardmeter.core.patience import AbandonedError
from yardmeter.core.plan.text import plain_message
from yardmeter.server.builds.errors import (
    ConflictError,
    NotFoundError,
    RefusedLoginError,
    StaleError,
    TooOftenError,
)

log = logging.getLogger(__name__)


class Problem(BaseModel):
    what: str
    where: str
    remedy: str


class ErrorBody(BaseModel):
    """What every error answers. `kind` is for the program, the rest for the builder."""

    kind: str
    what: str
    where: str
    remedy: str
    problems: list[Problem] = []
    current_revision: int | None = None
    steps: list[str] = []


ANSWERS: dict[int, str] = {
    400: "The body is not JSON, or the request is addressed to another host.",
    401: "A login is needed, or name and password do not open.",
    403: "The request comes from another site's page.",
    404: "What was asked for does not exist (any more).",
    409: "The plan, build or part has moved on since, or the step does not go with how things stand.",
    413: "The request is larger than 8 MB, or a recorder's table larger than 80 MB.",
    422: "A value is not acceptable; `problems` names each.",
    429: "Too many wrong logins.",
    503: "The data file is gone, or busy for too long.",
    507: "The disk is full.",
}
"""What any operation may answer besides what it is for, each with an ErrorBody."""

STORAGE: tuple[tuple[str, int, str, str, str], ...] = (
    (
        "full",
        507,
        "full",
        "The disk is full; nothing was stored.",
        "What you typed stays here. Free some space, then try again.",
    ),
    (
        "disk I/O",
        507,
        "full",
        "The disk does not take the data; nothing was stored.",
        "What you typed stays here. Look at the disk, then try again.",
    ),
    ("locked", 503, "busy", "The data file is busy; nothing was stored.", "Try again in a moment."),
    (
        "readonly",
        503,
        "data-file",
        "The data file cannot be written; nothing was stored.",
        "Make it writable, then try again.",
    ),
    (
        "unable to open",
        503,
        "data-file",
        "The data file cannot be opened; nothing was stored.",
        "Put it back, then start ./yard again.",
    ),
)
"""By a word of the database's own complaint: status, kind, what, remedy."""


def map_errors(api: NinjaAPI) -> None:
    def answer(request: HttpRequest, status: int, body: ErrorBody) -> HttpResponse:
        return api.create_response(request, body.model_dump(), status=status)

    def yard_error(request: HttpRequest, error: YardError) -> HttpResponse:
        body = ErrorBody(kind="input", what=error.what, where=error.where, remedy=error.remedy)
        if isinstance(error, StaleError):
            return answer(
                request,
                409,
                body.model_copy(update={"kind": "stale", "current_revision": error.current, "steps": error.steps}),
            )
        if isinstance(error, ConflictError):
            return answer(request, 409, body.model_copy(update={"kind": "conflict"}))
        if isinstance(error, RefusedLoginError):
            return answer(request, 401, body.model_copy(update={"kind": "login"}))
        if isinstance(error, TooOftenError):
            response = answer(request, 429, body.model_copy(update={"kind": "wait"}))
            response.headers["Retry-After"] = str(error.wait_s)
            return response
        if isinstance(error, NotFoundError | UnknownElementError):
            return answer(request, 404, body.model_copy(update={"kind": "missing"}))
        if isinstance(error, PlanError):
            problems = [Problem(what=one.what, where=one.where, remedy=one.remedy) for one in error.problems]
            return answer(request, 422, body.model_copy(update={"problems": problems}))
        return answer(request, 422, body)

    def validation_error(request: HttpRequest, error: ValidationError) -> HttpResponse:
        problems = []
        for item in error.errors:
            where = ".".join(str(part) for part in item.get("loc", ()) if part != "body")
            told = str(item.get("msg", "is not valid"))
            message = plain_message(str(item.get("type")), told, item.get("ctx") or {}, item.get("loc", ()))
            problems.append(Problem(what=message, where=where, remedy="Correct this field."))
        first = problems[0] if problems else Problem(what="The request is not valid.", where="", remedy="Correct it.")
        return answer(
            request,
            422,
            ErrorBody(kind="input", what=first.what, where=first.where, remedy=first.remedy, problems=problems),
        )

    def http_error(request: HttpRequest, error: HttpError) -> HttpResponse:
        # What the framework itself refuses: above all a body that is not JSON, with the parser's own words for it.
        said = error.__cause__ if isinstance(error.__cause__, HttpError) else error
        return answer(
            request,
            error.status_code,
            ErrorBody(kind="input", what=str(said), where="request", remedy="Send valid JSON."),
        )

    def storage_error(request: HttpRequest, error: Exception) -> HttpResponse:
        # A full disk or a file taken away is nothing the program can mend, and no defect of it.
        for word, status, kind, what, remedy in STORAGE:
            if word in str(error):
                log.error("%s: %s", what, error)
                return answer(request, status, ErrorBody(kind=kind, what=what, where="", remedy=remedy))
        if isinstance(error, OSError) and error.errno == errno.ENOSPC:
            return storage_error(request, OSError("full"))
        return unexpected(request, error)

    def nobody_waits(_request: HttpRequest, _error: AbandonedError) -> HttpResponse:
        return HttpResponse(status=499)  # nobody reads it

    def not_found(request: HttpRequest, _error: Http404) -> HttpResponse:
        return answer(
            request,
            404,
            ErrorBody(
                kind="missing",
                what="There is nothing at this address.",
                where=request.path,
                remedy="Go back to the list of builds.",
            ),
        )

    def unexpected(request: HttpRequest, error: Exception) -> HttpResponse:
        log.exception("unexpected error at %s %s", request.method, request.path, exc_info=error)
        body = ErrorBody(
            kind="defect",
            what="Something went wrong inside the program.",
            where=request.path,
            remedy="Nothing was stored. Reload; if it comes again, export the plan and report it.",
        )
        return answer(request, 500, body)

    api.exception_handler(YardError)(yard_error)
    api.exception_handler(ValidationError)(validation_error)
    api.exception_handler(HttpError)(http_error)
    api.exception_handler(Http404)(not_found)
    for kind in (DatabaseError, sqlite3.Error, OSError):
        api.exception_handler(kind)(storage_error)
    api.exception_handler(AbandonedError)(nobody_waits)
    api.exception_handler(Exception)(unexpected)
