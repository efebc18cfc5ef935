"""Who may talk to the server: this machine without a login, others only with one; never another site's page."""

from __future__ import annotations

import base64
import binascii
from collections.abc import Callable
from urllib.parse import urlsplit

from django.conf import settings
from django.contrib.auth import authenticate
from django.core.exceptions import DisallowedHost
from django.http import HttpRequest, HttpResponse, JsonResponse

SAFE_METHODS = ("GET", "HEAD", "OPTIONS")
POLICY = "default-src 'self'; img-src 'self' data: blob:; style-src 'self' 'unsafe-inline'; frame-ancestors 'none'"


class AccessMiddleware:
    """Refuses writes from foreign origins, asks for the login when the server listens beyond loopback."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        try:
            request.get_host()
        except DisallowedHost:
            return refusal(400, "The request is addressed to another host.", "Open the address that ./yard printed.")
        if request.method not in SAFE_METHODS and foreign_origin(request):
            return refusal(403, "This request comes from another site's page.", "Use the application's own page.")
        if not settings.LOOPBACK and not logged_in(request):
            refused = refusal(
                401, "A login is needed from another machine.", "Give the name and password set with ./yard login."
            )
            refused["WWW-Authenticate"] = 'Basic realm="Yard Meter"'
            return refused
        response = self.get_response(request)
        response.headers.setdefault("Content-Security-Policy", POLICY)
        return response


def foreign_origin(request: HttpRequest) -> bool:
    """A browser names the page's origin on every write; one that is not this host is foreign."""
    origin = request.headers.get("Origin")
    return bool(origin) and urlsplit(str(origin)).netloc != request.headers.get("Host", "")


def logged_in(request: HttpRequest) -> bool:
    """HTTP basic authentication against the users of the data file."""
    scheme, _, encoded = request.headers.get("Authorization", "").partition(" ")
    if scheme.lower() != "basic":
        return False
    try:
        name, _, password = base64.b64decode(encoded, validate=True).decode().partition(":")
    except (binascii.Error, UnicodeDecodeError):
        return False
    return authenticate(request, username=name, password=password) is not None


def refusal(status: int, what: str, remedy: str) -> JsonResponse:
    return JsonResponse({"what": what, "where": "", "remedy": remedy, "kind": "refused", "problems": []}, status=status)
