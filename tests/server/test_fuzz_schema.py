"""Requests generated from the API's own OpenAPI schema, right and wrong: never a 500, never a partial write."""

from __future__ import annotations

import json
from typing import Any

import pytest
from django.test import Client
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from yardmeter.server.api import api
from yardmeter.server.builds.models import Build, Plan, Revision
from yardmeter.server.builds.services import demos
from yardmeter.server.shelf.models import PartRow

SCHEMA = api.get_openapi_schema()
DEFINITIONS = SCHEMA["components"]["schemas"]
JUNK = st.one_of(
    st.none(),
    st.booleans(),
    st.integers(-(10**20), 10**20),
    st.floats(allow_nan=False),
    st.text(max_size=20),
    st.lists(st.integers(), max_size=2),
    st.dictionaries(st.text(max_size=5), st.integers(), max_size=2),
)
KNOWN = st.sampled_from(
    ["digital", "floods", "rail-5v", "buck-5v", "pack", "policy", "hover", "power-board", "usb", "red-1"]
)
"""Ids that exist in the plan under test, so that requests get past the first look-up."""
DEPTH = 7
OPERATIONS = [
    (method, path, operation)
    for path, methods in SCHEMA["paths"].items()
    for method, operation in methods.items()
    if not path.endswith("/backup")  # writes files beside the data
]


def values(schema: dict[str, Any], depth: int = 0) -> st.SearchStrategy[Any]:
    """JSON values of a schema, with junk in the place of one now and then."""
    right = _right(schema, depth)
    return st.integers(0, 24).flatmap(lambda dice: JUNK if dice == 0 else right)


def _right(schema: dict[str, Any], depth: int) -> st.SearchStrategy[Any]:
    if "$ref" in schema:
        return st.deferred(lambda: _right(DEFINITIONS[schema["$ref"].rsplit("/", 1)[1]], depth + 1))
    options = schema.get("anyOf") or schema.get("oneOf") or schema.get("allOf")
    if options:
        return st.one_of([_right(one, depth) for one in options])
    if "const" in schema:
        return st.just(schema["const"])
    if "enum" in schema:
        return st.sampled_from(schema["enum"])
    match schema.get("type"):
        case "object" if "properties" in schema:
            return _record(schema, depth)
        case "object":
            inner = schema.get("additionalProperties")
            return st.dictionaries(KNOWN, values(inner, depth + 1) if isinstance(inner, dict) else JUNK, max_size=2)
        case "array":
            least, most = schema.get("minItems", 0), min(schema.get("maxItems", 3), 3)
            return st.lists(
                values(schema.get("items", {}), depth + 1),
                min_size=least,
                max_size=max(least, most if depth < DEPTH else 0),
            )
        case "string":
            return st.one_of(
                KNOWN, st.text(min_size=schema.get("minLength", 0), max_size=min(schema.get("maxLength", 20), 20))
            )
        case "integer":
            return st.integers(schema.get("minimum", -3), min(schema.get("maximum", 9), 2**40))
        case "number":
            low = schema.get("minimum", schema.get("exclusiveMinimum", -1.0))
            return st.floats(low, schema.get("maximum", schema.get("exclusiveMaximum", low + 30)), allow_nan=False)
        case "boolean":
            return st.booleans()
        case "null":
            return st.none()
    return JUNK


def _record(schema: dict[str, Any], depth: int) -> st.SearchStrategy[Any]:
    required = set(schema.get("required", ()))
    fields = {name: values(inner, depth + 1) for name, inner in schema["properties"].items()}
    optional = {k: v for k, v in fields.items() if k not in required and depth < DEPTH}
    return st.fixed_dictionaries({k: v for k, v in fields.items() if k in required}, optional=optional)


def counts() -> tuple[int, ...]:
    return tuple(model.objects.count() for model in (Build, Plan, Revision, PartRow))


@pytest.mark.django_db
@pytest.mark.parametrize(("method", "path", "operation"), OPERATIONS, ids=[f"{m} {p}" for m, p, _ in OPERATIONS])
def test_requests_of_the_schema(client: Client, method: str, path: str, operation: dict[str, Any]) -> None:
    build = demos.add_demo("culvert")
    plan = build.plans.first()
    body_schema = operation.get("requestBody", {}).get("content", {}).get("application/json", {}).get("schema")
    parameters = {p["name"]: (p["in"], p.get("schema", {})) for p in operation.get("parameters", ())}
    drawn = st.fixed_dictionaries({name: _right(schema, 0) for name, (_, schema) in parameters.items()})
    answered: set[int] = set()

    @settings(max_examples=8, deadline=None, derandomize=True, database=None, suppress_health_check=list(HealthCheck))
    @given(given_parameters=drawn, body=values(body_schema) if body_schema else st.none(), real=st.booleans())
    def ask(given_parameters: dict[str, Any], body: Any, real: bool) -> None:
        before = counts()
        url, query = path, {}
        for name, value in given_parameters.items():
            if parameters[name][0] == "path":
                known = {"plan_id": plan.pk, "build_id": build.pk}.get(name) if real else None
                url = url.replace(
                    f"{{{name}}}",
                    str(known or (abs(value) if isinstance(value, int) else value or "x")).replace("/", "-"),
                )
            elif value is not None:
                query[name] = [str(one) for one in value] if isinstance(value, list) else value
        if real and isinstance(body, dict) and "revision" in body:
            plan.refresh_from_db()
            body["revision"] = plan.head_id
        answer = client.generic(
            method.upper(),
            url,
            json.dumps(body) if body_schema else "",
            content_type="application/json",
            query_params=query,
        )
        assert answer.status_code < 500, (url, query, body)
        answered.add(answer.status_code)
        if answer.status_code >= 400:
            assert counts() == before, (url, body)

    ask()
    assert answered
