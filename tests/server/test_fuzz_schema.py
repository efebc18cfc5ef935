"""Requests made from the API's own OpenAPI schema, right and wrong, one by one and in sequences that build on each other.

Never a 500, never a status, media type or body that is not described, never a partial write.
"""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager
from functools import cache
from typing import Any

import pytest
import schemathesis
from django.db import transaction
from django.test import Client
from hypothesis import HealthCheck, Phase, given, settings
from schemathesis.checks import CHECKS, load_all_checks
from schemathesis.core.transport import Response

from yardmeter.server.api import api
from yardmeter.server.builds.models import Build, LogEntry, Plan, Revision
from yardmeter.server.builds.services import demos
from yardmeter.server.builds.services.analysis import forget_revisions
from yardmeter.server.builds.services.runs import forget_runs
from yardmeter.server.shelf.models import PartRow
from yardmeter.server.wsgi import application

load_all_checks()
CHECKED = CHECKS.get_by_names(
    ["not_a_server_error", "status_code_conformance", "content_type_conformance", "response_schema_conformance"]
)
PARTS, FEW_SAMPLES = 6, 50


@cache
def schema() -> Any:
    """Asked for by a test and not while they are collected: it takes seconds to write."""
    return schemathesis.openapi.from_wsgi("/api/openapi.json", application)


CALM = [
    HealthCheck.function_scoped_fixture,
    HealthCheck.too_slow,
    HealthCheck.data_too_large,
    HealthCheck.filter_too_much,
]


PLAIN = {"Accept-Encoding": "identity"}
"""The caller unpacks nothing: that answers go out packed where they may has its own test."""


def counts() -> tuple[int, ...]:
    return tuple(kind.objects.count() for kind in (Build, Plan, Revision, PartRow, LogEntry))


@contextmanager
def one_build() -> Iterator[None]:
    """It is there, and afterwards all is as if it had never been."""
    point = transaction.savepoint()
    try:
        demos.add_demo("culvert")
        yield
    finally:
        transaction.savepoint_rollback(point)
        forget_revisions()
        forget_runs()


def a_sample(case: Any) -> Any:
    """Thousands of random craft are no other request than hundreds."""
    if isinstance(case.body, dict) and case.path.endswith("/spread"):
        case.body.setdefault("samples", FEW_SAMPLES)
    if isinstance(case.body, dict) and type(samples := case.body.get("samples")) is int and samples <= 5000:
        case.body["samples"] = min(samples, FEW_SAMPLES)
    return case


@pytest.mark.django_db
@pytest.mark.parametrize("part", range(PARTS))
def test_fuzz_every_operation(part: int) -> None:
    every = [one.ok() for one in schema().get_all_operations() if not one.ok().path.endswith("/backup")]
    assert len(every) > 100
    for operation in every[part::PARTS]:

        @settings(max_examples=5, deadline=None, derandomize=True, phases=[Phase.generate], suppress_health_check=CALM)
        @given(case=operation.as_strategy().map(a_sample))
        def ask(case: Any) -> None:
            before = counts()
            response = case.call(headers=PLAIN)
            case.validate_response(response, checks=CHECKED)
            if response.status_code >= 400:
                assert counts() == before

        with one_build():
            ask()


@pytest.mark.django_db
def test_fuzz_sequences_of_operations() -> None:
    class Sequences(schema().as_state_machine()):  # type: ignore[misc]
        """Calls that use what earlier calls made: builds, their plans, revisions, parts. Each sequence begins with one build."""

        def setup(self) -> None:
            self.ends = ExitStack()
            self.ends.enter_context(one_build())

        def teardown(self) -> None:
            self.ends.close()

        def get_call_kwargs(self, _case: Any) -> dict[str, Any]:
            return {"headers": PLAIN}

        def validate_response(self, response: Response, case: Any, **_: Any) -> None:
            case.validate_response(response, checks=CHECKED)
            answered[case.operation.label, response.status_code] += 1

    answered: Counter[tuple[str, int]] = Counter()
    calm = settings(deadline=None, derandomize=True, suppress_health_check=CALM, phases=[Phase.generate])
    Sequences.run(settings=settings(calm, max_examples=24, stateful_step_count=8))
    # They reached what only exists because of an earlier call.
    reached = {label for (label, status) in answered if status < 300}
    assert {f"{how} /api/builds/{{build_id}}" for how in ("PATCH", "DELETE")} & reached
    assert len([label for label in reached if "{" in label]) > 5


ODD_NUMBERS = ("1e308", "1e400", "NaN", "Infinity", "-Infinity", "5e-324", "9" * 5000, "-1", "0", "null", '"²"')


@pytest.mark.django_db
@pytest.mark.parametrize("odd", ODD_NUMBERS, ids=lambda text: text[:12])
def test_fuzz_numbers_no_computer_or_craft_has(client: Client, odd: str) -> None:
    """In the place of every number of the bodies that hold the most of them."""
    plan = demos.add_demo("culvert").plans.get(name="first wiring")
    led = '{"supply_v": [%s, 12, 13], "forward_v": [2, %s, 2.2], "wanted_a": %s}'
    wire = (
        '{"revision": %s, "edits": [{"op": "set", "element": "digital", "field": "feed.wire.length_m", "value": %s}]}'
    )
    trial = '{"at": "digital", "purpose": "feed", "lead_m": %s, "wanted_db": %s}'
    bodies: list[tuple[str, str]] = [
        ("/api/sizing/led", led % (odd, 2.1, 0.02)),
        ("/api/sizing/led", led % (11, odd, 0.02)),
        ("/api/sizing/led", led % (11, 2.1, odd)),
        (f"/api/plans/{plan.pk}/edits", wire % (plan.head_id, odd)),
        (f"/api/plans/{plan.pk}/edits", wire % (odd, 0.1)),
        (f"/api/plans/{plan.pk}/noise/trials", trial % (odd, 6)),
        (f"/api/plans/{plan.pk}/noise/trials", trial % (0.01, odd)),
        (f"/api/plans/{plan.pk}/spread", f'{{"samples": {odd}}}'),
    ]
    before = counts()
    for path, body in bodies:
        answer = client.post(path, body, content_type="application/json")
        assert answer.status_code < 500, (path, body[:200])
        # A leg of no length at all, and no wish for decibels, are values of their own.
        if not (path.endswith("/trials") and odd in ("0", "5e-324", "null")):
            assert answer.status_code in (400, 404, 409, 422), (path, body[:200])
            assert answer.json()["what"]
    assert counts() == before


@cache
def _described() -> dict[str, Any]:
    """As the front end's types are made from it; it takes seconds to write."""
    described: dict[str, Any] = json.loads(json.dumps(api.get_openapi_schema()))
    return described


def test_every_operation_says_what_else_it_may_answer() -> None:
    for path, operations in _described()["paths"].items():
        for method, operation in operations.items():
            assert {"400", "404", "409", "413", "422", "503", "507"} <= set(operation["responses"]), (method, path)


@pytest.mark.django_db
@pytest.mark.parametrize(
    ("path", "media"),
    [
        ("/api/plans/{}/budget.csv", "text/csv"),
        ("/api/plans/{}/rails.svg?condition=hover", "image/svg+xml"),
        ("/api/plans/{}/netlist?condition=hover", "text/plain"),
        ("/api/shelf/csv", "text/csv"),
    ],
)
def test_downloads_are_described_by_their_own_media_type(client: Client, path: str, media: str) -> None:
    plan = demos.add_demo("culvert").plans.first()
    assert plan
    assert client.get(path.format(plan.pk)).headers["Content-Type"].startswith(media)
    described = _described()["paths"][path.format("{plan_id}").partition("?")[0]]["get"]["responses"]["200"]
    assert list(described["content"]) == [media]


@pytest.mark.django_db
@pytest.mark.parametrize(
    ("ask", "status"),
    [
        (lambda c: c.get("/api/plans/99999999999999999999999999"), 404),
        (lambda c: c.get(f"/api/builds/{10**30}"), 404),
        (lambda c: c.get(f"/api/plans/{10**30}/log/picture/1"), 404),
        (lambda c: c.get("/api/nothing/here"), 404),
        (lambda c: c.get("/api/plans/abc"), 404),
        (lambda c: c.delete("/api/health"), 405),
        (lambda c: c.post("/api/builds", "{", content_type="application/json"), 400),
        (lambda c: c.post("/api/builds", b"\xff\xfe", content_type="application/json"), 400),
        (lambda c: c.post("/api/builds", "[" * 100_000, content_type="application/json"), 400),
        (lambda c: c.post("/api/builds", '{"demo": "\\ud800"}', content_type="application/json"), 422),
        (lambda c: c.post("/api/builds", " " * 8_000_001, content_type="application/json"), 413),
    ],
)
def test_refusals_are_in_the_apis_form(client: Client, ask: Callable[[Client], Any], status: int) -> None:
    answer = ask(client)
    assert answer.status_code == status
    body = answer.json()
    assert body["what"]
    assert body["remedy"]
    assert {"kind", "where", "problems"} <= set(body)


@pytest.mark.parametrize(
    ("body", "words"),
    [("NaN", "NaN is not a number"), ("1e400", "1e400 is too large a number"), ("{", "cannot be read as JSON")],
)
def test_a_body_that_is_no_json_is_told_why(client: Client, body: str, words: str) -> None:
    assert words in client.post("/api/builds", body, content_type="application/json").json()["what"]
