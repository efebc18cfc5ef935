"""The one place where errors become HTTP: every body says what, where and what to do."""

from __future__ import annotations

import logging

from django.http import Http404, HttpRequest, HttpResponse
from ninja import NinjaAPI
from ninja.errors import HttpError, ValidationError
from pydantic import BaseModel

from yardmeter.core.errors import PlanError, UnknownElementError, YardError
from yardmeter.server.builds.errors import NotFoundError, StaleError

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


ERROR_RESPONSES = {404: ErrorBody, 409: ErrorBody, 422: ErrorBody}


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
            message = str(item.get("msg", "is not valid"))
            problems.append(Problem(what=message, where=where, remedy="Correct this field."))
        first = problems[0] if problems else Problem(what="The request is not valid.", where="", remedy="Correct it.")
        return answer(
            request,
            422,
            ErrorBody(kind="input", what=first.what, where=first.where, remedy=first.remedy, problems=problems),
        )

    def http_error(request: HttpRequest, error: HttpError) -> HttpResponse:
        # What the framework itself refuses: above all a body that is not JSON.
        return answer(
            request,
            error.status_code,
            ErrorBody(kind="input", what=str(error), where="request", remedy="Send valid JSON."),
        )

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
    api.exception_handler(Exception)(unexpected)
