"""The typed API: routers, schemas, and one map from errors to HTTP."""

from __future__ import annotations

from typing import Any

from ninja import NinjaAPI
from ninja.openapi.schema import OpenAPISchema

from yardmeter import __version__
from yardmeter.server.api.bench import router as bench
from yardmeter.server.api.builds import router as builds
from yardmeter.server.api.diagnosis import router as diagnosis
from yardmeter.server.api.errors import ANSWERS, ErrorBody, map_errors
from yardmeter.server.api.health import router as health
from yardmeter.server.api.layouts import router as layouts
from yardmeter.server.api.leds import router as leds
from yardmeter.server.api.links import add_links
from yardmeter.server.api.log import router as log
from yardmeter.server.api.meter import plan_router as on_bench
from yardmeter.server.api.meter import router as meter
from yardmeter.server.api.noise import router as noise
from yardmeter.server.api.parsing import StrictParser
from yardmeter.server.api.plans import router as plans
from yardmeter.server.api.runs import router as runs
from yardmeter.server.api.session import router as session
from yardmeter.server.api.shelf import router as shelf
from yardmeter.server.api.takeaway import router as takeaway


class YardApi(NinjaAPI):
    """Describes with every operation what any of them may answer, and downloads by their own media types."""

    def get_openapi_schema(self, **options: Any) -> OpenAPISchema:
        schema = super().get_openapi_schema(**options)
        schema["components"]["schemas"].update(_error_schemas())
        error = {"application/json": {"schema": {"$ref": "#/components/schemas/ErrorBody"}}}
        refusals = {f"Refusal{status}": {"description": words, "content": error} for status, words in ANSWERS.items()}
        schema["components"]["responses"] = refusals
        for operations in schema["paths"].values():
            for operation in operations.values():
                answers = operation["responses"]
                media = operation.pop("x-media", None)
                if media:
                    answers[200]["content"] = {media: {"schema": {"type": "string"}}}
                for status in ANSWERS:
                    answers.setdefault(status, {"$ref": f"#/components/responses/Refusal{status}"})
        add_links(schema)
        return schema


def _error_schemas() -> dict[str, Any]:
    made = ErrorBody.model_json_schema(ref_template="#/components/schemas/{model}")
    return {**made.pop("$defs"), "ErrorBody": made}


api = YardApi(title="Yard Meter", version=__version__, docs_url=None, urls_namespace="api", parser=StrictParser())
map_errors(api)
api.add_router("", health)
api.add_router("/session", session)
api.add_router("/builds", builds)
api.add_router("/plans", plans)
api.add_router("/plans", bench)
api.add_router("/plans", on_bench)
api.add_router("/plans", runs)
api.add_router("/plans", log)
api.add_router("/plans", diagnosis)
api.add_router("/plans", layouts)
api.add_router("/plans", takeaway)
api.add_router("/meter", meter)
api.add_router("", noise)
api.add_router("", leds)
api.add_router("/shelf", shelf)
