"""Who may talk to the server, and what every answer carries: one small function each, in the order of the settings.

This machine needs no login, others do; never does another site's page get a word in.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from urllib.parse import urlsplit

from django.conf import settings
from django.core.exceptions import DisallowedHost
from django.http import HttpRequest, HttpResponse, JsonResponse
from ninja.utils import check_csrf

from yardmeter.server.datafile import identity

Answer = Callable[[HttpRequest], HttpResponse]

SAFE_METHODS = ("GET", "HEAD", "OPTIONS")
POLICY = "default-src 'self'; img-src 'self' data: blob:; style-src 'self' 'unsafe-inline'; frame-ancestors 'none'; base-uri 'none'; form-action 'self'"
OPEN_TO_ALL = ("/api/health", "/api/session", "/api/openapi.json")
"""Addresses that need no login, besides the front end's own files."""


def seal(answer: Answer) -> Answer:
    """Headers of every answer, refusals and files included."""

    def sealed(request: HttpRequest) -> HttpResponse:
        response = answer(request)
        response.headers.setdefault("Content-Security-Policy", POLICY)
        response.headers.setdefault("Cross-Origin-Resource-Policy", "same-origin")
        return response

    return sealed


FLIGHTS = re.compile(r"^/api/plans/\d+/log/flights(/look)?$")
"""Where a recorder's table is sent to."""


def door(answer: Answer) -> Answer:
    """Refuses what is addressed to another host, comes from another site's page, or is too large to be read."""

    def at_the_door(request: HttpRequest) -> HttpResponse:
        try:
            request.get_host()
        except DisallowedHost:
            return refusal(
                400,
                "The request is addressed to another host.",
                "Open the address that ./yard printed, or allow the name with --name.",
            )
        if foreign_page(request):
            return refusal(403, "This request comes from another site's page.", "Use the application's own page.")
        most = settings.LARGEST_FLIGHT if FLIGHTS.search(request.path) else settings.LARGEST_REQUEST
        if _length(request) > most:
            return refusal(
                413,
                f"What was sent is larger than {most // 1_000_000} MB.",
                "Nothing here is so large; is this the right file?",
            )
        return answer(request)

    return at_the_door


def _length(request: HttpRequest) -> int:
    try:
        return int(request.META.get("CONTENT_LENGTH") or 0)
    except ValueError:
        return 0


def foreign_page(request: HttpRequest) -> bool:
    """Whether another site's page asks: it may neither write nor set work going, not even by a picture's address."""
    if request.path.startswith("/api/") and request.headers.get("Sec-Fetch-Site") in ("cross-site", "same-site"):
        return True
    return request.method not in SAFE_METHODS and foreign_origin(request)


def foreign_origin(request: HttpRequest) -> bool:
    """A browser names the page's origin on every write; one that is not this host is foreign."""
    origin = request.headers.get("Origin")
    try:
        return bool(origin) and urlsplit(str(origin)).netloc != request.headers.get("Host", "")
    except ValueError:
        return True


def login_asked(answer: Answer) -> Answer:
    """Beyond the machine's own loop the API asks for the login's cookie, and for its cross-site token on writes."""

    def asked(request: HttpRequest) -> HttpResponse:
        if settings.LOOPBACK or not request.path.startswith("/api/") or request.path in OPEN_TO_ALL:
            return answer(request)
        if not request.user.is_authenticated:
            return refusal(
                401,
                "A login is needed from another machine.",
                "Give the name and password set with ./yard login.",
                kind="login",
            )
        if request.method not in SAFE_METHODS and check_csrf(request):
            return refusal(
                403, "The request lacks the page's token.", "Reload the page and try again; nothing was stored."
            )
        return answer(request)

    return asked


def data_file_guarded(answer: Answer) -> Answer:
    """No answer out of a data file that was moved or removed under the server: what it confirmed would go nowhere."""

    def guarded(request: HttpRequest) -> HttpResponse:
        if not request.path.startswith("/api/") or request.path == "/api/health":
            return answer(request)
        if not data_file_is_there():
            return data_file_gone()
        response = answer(request)
        # Once more behind a write: nothing is confirmed that was written into a file nobody will find.
        return response if request.method in SAFE_METHODS or data_file_is_there() else data_file_gone()

    return guarded


def data_file_is_there() -> bool:
    """Whether the file the server was started on still stands under its name."""
    return settings.DATA_IDENTITY is None or identity(settings.DATA_FILE) == settings.DATA_IDENTITY


def data_file_gone() -> HttpResponse:
    return refusal(
        503,
        f"The data file {settings.DATA_FILE.name} was moved or removed while the server ran; nothing is stored any more.",
        "Put it back or restore one from the folder backups, then start ./yard again. What you typed stays on this page.",
        kind="data-file",
    )


def in_the_apis_form(answer: Answer) -> Answer:
    """What the framework itself refuses under /api, in the form of every other error there."""

    def formed(request: HttpRequest) -> HttpResponse:
        response = answer(request)
        if not request.path.startswith("/api/") or response.headers.get("Content-Type", "").startswith(
            "application/json"
        ):
            return response
        if response.status_code == 404:
            return refusal(
                404, "There is nothing at this address of the API.", "Look at /api/openapi.json.", kind="missing"
            )
        if response.status_code == 405:
            allowed = response.headers.get("Allow", "")
            made = refusal(
                405, f"{request.method} does nothing here.", f"This address takes {allowed}.", kind="missing"
            )
            made.headers["Allow"] = allowed
            return made
        return response

    return formed


def refusal(status: int, what: str, remedy: str, *, kind: str = "refused") -> JsonResponse:
    """An error in the API's form from outside it."""
    body: dict[str, object] = {
        "what": what,
        "where": "",
        "remedy": remedy,
        "kind": kind,
        "problems": [],
        "current_revision": None,
        "steps": [],
    }
    return JsonResponse(body, status=status)
