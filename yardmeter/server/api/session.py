"""The login from another machine: a signed cookie for name and password."""

from __future__ import annotations

from django.conf import settings
from django.contrib.auth import authenticate, get_user_model, login, logout
from django.http import HttpRequest
from django.middleware.csrf import get_token
from ninja import Router
from pydantic import BaseModel, Field

from yardmeter.server.api.schemas import Body
from yardmeter.server.builds.errors import RefusedLoginError
from yardmeter.server.throttle import Throttle

router = Router(tags=["session"])
attempts = Throttle()
"""One for the process: the failures of every address."""


class Session(BaseModel):
    """`needed` where the server listens to other machines; `name` when logged in."""

    needed: bool
    name: str | None


class LoginBody(Body):
    name: str = Field(max_length=150)
    password: str = Field(max_length=1000)


def _session(request: HttpRequest) -> Session:
    user = None if settings.LOOPBACK else request.user
    return Session(needed=not settings.LOOPBACK, name=user.get_username() if user and user.is_authenticated else None)


def owns_the_login(request: HttpRequest) -> bool:
    """Whether this is the login that was set first: who set up the server."""
    first = get_user_model().objects.order_by("pk").first()
    return not settings.LOOPBACK and first is not None and request.user.pk == first.pk


@router.get("", response=Session)
def show_session(request: HttpRequest) -> Session:
    """Whether a login is needed and given; sets the cross-site token."""
    if not settings.LOOPBACK:
        get_token(request)
    return _session(request)


@router.post("", response=Session)
def log_in(request: HttpRequest, body: LoginBody) -> Session:
    """Wrong ones are slowed down, each address by itself and longer each time."""
    if settings.LOOPBACK:
        return _session(request)
    address = request.META.get("REMOTE_ADDR", "")
    with attempts.attempt(address) as attempt:
        user = authenticate(request, username=body.name, password=body.password)
        if user is None:
            raise RefusedLoginError(
                "Name or password is wrong.",
                where="name",
                remedy="Look at both again; ./yard login NAME sets a new password.",
            )
        attempt.succeeded()
    login(request, user)
    return _session(request)


@router.delete("", response=Session)
def log_out(request: HttpRequest) -> Session:
    if not settings.LOOPBACK:
        logout(request)
    return _session(request)
