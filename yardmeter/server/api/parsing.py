"""Reading request bodies: JSON with numbers a computer can hold, and nothing that only looks like it."""

from __future__ import annotations

import json
import math
from typing import Any

from django.http import HttpRequest
from ninja.errors import HttpError
from ninja.parser import Parser


class StrictParser(Parser):
    """Refuses NaN, Infinity and what overflows to it, at the border, for every number of every body."""

    def parse_body(self, request: HttpRequest) -> Any:
        try:
            return json.loads(request.body, parse_constant=_refused, parse_float=_finite)
        except RecursionError:
            raise HttpError(400, "The body is nested too deeply.") from None
        except ValueError as error:  # no JSON, no UTF-8, or a whole number of thousands of digits
            raise HttpError(400, f"The body cannot be read as JSON: {error}.") from None


def _refused(name: str) -> float:
    raise ValueError(f"{name} is not a number")


def _finite(text: str) -> float:
    value = float(text)
    if not math.isfinite(value):
        raise ValueError(f"{text[:20]} is too large a number")
    return value
