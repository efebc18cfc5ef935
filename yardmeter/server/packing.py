"""What a page asks for goes out packed; an answer to an edit goes as it is, since packing it takes longer than sending it here."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponseBase
from django.middleware.gzip import GZipMiddleware


class Packing(GZipMiddleware):
    def process_response(self, request: HttpRequest, response: HttpResponseBase) -> HttpResponseBase:
        return super().process_response(request, response) if request.method == "GET" else response
