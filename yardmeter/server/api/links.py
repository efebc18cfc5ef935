"""OpenAPI links: which answers hold what another call needs, so that a client or a fuzzer can go from one to the next."""

from __future__ import annotations

from typing import Any

Operation = dict[str, Any]
PLAN_VIEW = "#/components/schemas/PlanView"


def add_links(schema: dict[str, Any]) -> None:
    """From the list of builds, and from every answer that shows a plan, to every call about a plan at its revision."""
    operations = [one for methods in schema["paths"].values() for one in methods.values()]
    about_plans = [one for one in operations if _takes(one, "plan_id")]
    for one in operations:
        answer = one["responses"].get(200) or one["responses"].get(201)
        if _shows_plan(answer):
            answer["links"] = _links(about_plans, "$response.body#")
    listed = schema["paths"]["/api/builds"]["get"]["responses"][200]
    listed["links"] = _links(about_plans, "$response.body#/0/plans/0")


def _takes(operation: Operation, name: str) -> bool:
    return any(one["name"] == name and one["in"] == "path" for one in operation.get("parameters", ()))


def _shows_plan(answer: dict[str, Any] | None) -> bool:
    content = (answer or {}).get("content", {}).get("application/json", {})
    return bool(content.get("schema", {}).get("$ref") == PLAN_VIEW)


def _links(targets: list[Operation], at: str) -> dict[str, Any]:
    found = {}
    for one in targets:
        link: dict[str, Any] = {"operationId": one["operationId"], "parameters": {"plan_id": f"{at}/id"}}
        if "requestBody" in one:
            link["requestBody"] = {"revision": f"{at}/revision"}
        found[one["operationId"]] = link
    return found
