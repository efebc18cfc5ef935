"""The plan's own open format: JSON, versioned, with its JSON Schema."""

from __future__ import annotations

import json
from typing import Any

from yardmeter.core.errors import FormatError
from yardmeter.core.plan import Plan, load_plan

MAX_BYTES = 4_000_000


def write_plan(plan: Plan) -> str:
    """The plan as JSON text; what equals its default is left out, so that files stay readable."""
    data = {"format": plan.format, "version": plan.version, **plan.model_dump(mode="json", exclude_defaults=True)}
    return json.dumps(data, indent=1, ensure_ascii=False) + "\n"


def read_plan(text: str | bytes) -> Plan:
    """Read plan JSON. Raises FormatError with line and column for broken JSON, PlanError with the field otherwise."""
    if len(text) > MAX_BYTES:
        raise FormatError(
            f"The file is larger than {MAX_BYTES // 1_000_000} MB.",
            remedy="A plan is far smaller; is this the right file?",
        )
    try:
        data: Any = json.loads(text, parse_constant=_refuse_constant)
    except json.JSONDecodeError as error:
        raise FormatError(
            f"Not valid JSON: {error.msg}.",
            where=f"line {error.lineno}, column {error.colno}",
            remedy="Correct the file there.",
        ) from None
    except (ValueError, RecursionError):  # not UTF-8, a number of thousands of digits, or lists without end
        raise FormatError(
            "Not readable as JSON in UTF-8.", remedy="Is this the right file? Save it as UTF-8 text."
        ) from None
    if not isinstance(data, dict) or data.get("format") != "yard-meter-plan":
        raise FormatError(
            "This is not a plan: “format” must be “yard-meter-plan”.",
            where="format",
            remedy="Open a file that was exported as a plan.",
        )
    return load_plan({"version": 1, **data})


def _refuse_constant(name: str) -> float:
    raise FormatError(f"{name} is not a number a plan can hold.", remedy="Replace it by a finite value.")


def plan_schema() -> dict[str, Any]:
    """JSON Schema of the plan format."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **Plan.model_json_schema()}
