"""Each request in its line, and equal questions worked on once.

A question that is asked while the same one is worked on, with nothing written in between, waits for that answer.
"""

from __future__ import annotations

import re
import threading
from collections.abc import Callable
from dataclasses import dataclass, field

from django.http import HttpRequest, HttpResponse

from yardmeter.core.patience import AbandonedError, patience
from yardmeter.server.access import refusal
from yardmeter.server.urgency import URGENCY, FullError, GoneError

Answer = Callable[[HttpRequest], HttpResponse]
PLAN = r"^/api/plans/[0-9]+"
URGENT = re.compile(rf"{PLAN}$|{PLAN}/(edits|preview|undo|redo|return|led)$|^/api/sizing/led$")
"""What a builder waits for with a hand on the screen. Nothing of it waits for a lock that other work may hold meanwhile."""
QUICK = re.compile(
    rf"^/api/(health|session|openapi\.json|backup|meter)|{PLAN}/(head|history|bench/sample|bench/reading|bench/look|bench/repair|bench/trial|bench/supply|bench/record\.\w+|layouts/progress|run|run/stop|run/instant|run/chances|copy|restore)$"
    r"|^/api/shelf|^/api/builds/?[0-9]*(/restore)?$|^/api/builds/demos$"
)
"""Rows read or written, instruments and runs looked at: nothing is computed."""
AGAIN_S = 2
SHARED_S = 120.0
MOST_OTHERS = 8
"""So many wait for one answer; each holds a thread."""


@dataclass
class _Asked:
    """A question that is worked on."""

    done: threading.Event = field(default_factory=threading.Event)
    status: int = 0
    body: bytes = b""
    headers: dict[str, str] = field(default_factory=dict)
    others: int = 0


@dataclass
class _Desk:
    """What is worked on, and how often something was written."""

    asked: dict[tuple[int, str, str, str], _Asked] = field(default_factory=dict)
    written: int = 0
    lock: threading.Lock = field(default_factory=threading.Lock)


DESK = _Desk()


def lined_up(answer: Answer) -> Answer:
    """Urgent ones go through; what computes waits its turn, and makes room."""

    def lined(request: HttpRequest) -> HttpResponse:
        path = request.path
        if not path.startswith("/api/") or QUICK.match(path):
            return _noted(request, answer(request))
        if URGENT.match(path):
            with URGENCY.urgent(), patience(_gone(request)):
                return _noted(request, answer(request))
        return _shared(request, answer) if request.method == "GET" else _noted(request, _worked(request, answer))

    return lined


def _noted(request: HttpRequest, response: HttpResponse) -> HttpResponse:
    """After a write the same question may have another answer."""
    if request.method not in ("GET", "HEAD", "OPTIONS"):
        with DESK.lock:
            DESK.written += 1
    return response


def _gone(request: HttpRequest) -> Callable[[], bool]:
    left: Callable[[], bool] | None = request.META.get("waitress.client_disconnected")
    return left or (lambda: False)


def _worked(request: HttpRequest, answer: Answer) -> HttpResponse:
    gone = _gone(request)
    try:
        with URGENCY.in_line(gone), patience(gone, URGENCY.make_room):
            return answer(request)
    except FullError:
        return _asked_again()
    except (GoneError, AbandonedError):
        return HttpResponse(status=499)  # nobody reads it


def _asked_again() -> HttpResponse:
    response = refusal(
        503, "Many questions are being worked on.", "It is asked again by itself in a moment.", kind="line"
    )
    response.headers["Retry-After"] = str(AGAIN_S)
    return response


def _shared(request: HttpRequest, answer: Answer) -> HttpResponse:
    """The answer of who asks the same at the moment; else one of its own, for whoever asks the same meanwhile."""
    whose = request.META.get("HTTP_COOKIE", "")
    with DESK.lock:
        key = (DESK.written, whose, request.get_full_path(), request.META.get("HTTP_RANGE", ""))
        other = DESK.asked.get(key)
        mine = DESK.asked.setdefault(key, _Asked()) if other is None else None
        if other is not None:
            other.others += 1
    if other is not None:
        return _waited(other) or _worked(request, answer)
    try:
        response = _worked(request, answer)
        if mine is not None and not response.streaming:
            mine.status, mine.body, mine.headers = response.status_code, response.content, dict(response.headers)
        return response
    finally:
        with DESK.lock:
            DESK.asked.pop(key, None)
        if mine is not None:
            mine.done.set()


def _waited(other: _Asked) -> HttpResponse | None:
    """Another's answer when it is there; none where it had none that is good."""
    if other.others > MOST_OTHERS:
        return _asked_again()
    if other.done.wait(SHARED_S) and other.status == 200:
        return HttpResponse(other.body, status=200, headers=other.headers)
    return None
