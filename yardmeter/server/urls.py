"""The API under /api, and the front end's page for every other address (its router decides what to show)."""

from __future__ import annotations

import re

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.urls import path, re_path

from yardmeter.server.api import api

PLAN_PAGE = re.compile(r"^/plans/(\d{1,18})/")


def page(request: HttpRequest) -> HttpResponse:
    """The front end's single page; for a plan's address the browser is told to fetch the plan beside the scripts."""
    index = settings.WEB_DIST / "index.html"
    if not index.is_file():
        return HttpResponse(
            "The front end is not built. Run ./yard run, which builds it.", status=503, content_type="text/plain"
        )
    response = HttpResponse(index.read_bytes(), content_type="text/html; charset=utf-8")
    response["Cache-Control"] = "no-cache"
    plan = PLAN_PAGE.match(request.path)
    if plan:
        response["Link"] = f"</api/plans/{plan[1]}>; rel=preload; as=fetch; crossorigin"
    return response


urlpatterns = [path("api/", api.urls), re_path(r"^(?!api/|assets/).*$", page)]
