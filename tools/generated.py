"""Generated files: the front end's API types and constants, and the plan format's JSON Schema. `--check` fails when they are stale."""

from __future__ import annotations

import json
import subprocess
import sys
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from yardmeter.core import units
from yardmeter.core.edits.values import UNIT_OF_SUFFIX
from yardmeter.core.formats.plan_json import plan_schema
from yardmeter.core.plan.signals import SIGNAL_ENDS
from yardmeter.words.cautions import CAUTIONS
from yardmeter.words.fields import FIELDS
from yardmeter.words.synonyms import SAME, TOOLS

ROOT = Path(__file__).resolve().parents[1]
WEB = ROOT / "web"
TYPES = WEB / "src" / "shared" / "api" / "schema.d.ts"
CONSTANTS = WEB / "src" / "shared" / "api" / "constants.ts"
SCHEMA = ROOT / "docs" / "plan.schema.json"


def api_description() -> str:
    """The API as it stands in the code."""
    return subprocess.run(
        [sys.executable, "-m", "yardmeter.server.openapi"], cwd=ROOT, capture_output=True, text=True, check=True
    ).stdout


def constants(described: str) -> str:
    """What may be chosen, and how numbers are written, as TypeScript; types hold each list against the API's."""
    schemas: dict[str, Any] = json.loads(described)["components"]["schemas"]
    lines = [
        "/** Made by ./yard types from the API and the core: what may be chosen, and how numbers are written. Not to be edited. */",
        'import type { components } from "./schema";',
        "",
        'type Schemas = components["schemas"];',
        "type Of<T> = readonly Exclude<T, null | undefined>[];",
        "",
        "/** Values of every field that is chosen from a list, by schema and field. */",
        "export const CHOICES = {",
    ]
    for name, schema in sorted(schemas.items()):
        for field, about in sorted(schema.get("properties", {}).items()):
            values = [one for one in _choices(about) if one is not None]
            if len(values) > 1:
                kind = f'Of<Schemas["{name}"]["{field}"]>'
                lines.append(f'  "{name}.{field}": {json.dumps(values, ensure_ascii=False)} as const satisfies {kind},')
    lines += ["} as const;", "", "/** Fields that are yes, no or not said, by schema and field. */"]
    lines.append(f"export const FLAGS: readonly string[] = {json.dumps(_flags(schemas))};")
    lines += ["", "/** Units told by the end of a field's name. */"]
    suffixes = {suffix.removeprefix("_"): unit for suffix, unit in UNIT_OF_SUFFIX.items()}
    lines.append(f"export const UNIT_OF_SUFFIX: Record<string, string> = {_object(suffixes)};")
    lines += [
        "",
        "/** Prefixes a number is written with, largest first; those a unit is not spoken with; units that take none. */",
    ]
    steps = ", ".join(f'[{factor:g}, "{prefix}"]' for factor, prefix in units.STEPS)
    lines.append(f"export const STEPS: [number, string][] = [{steps}];")
    lines.append(f"export const NEVER_WITH: Record<string, string> = {_object(units.NEVER_WITH)};")
    lines.append(f"export const UNSCALED: readonly string[] = {json.dumps(units.UNSCALED, ensure_ascii=False)};")
    lines += ["", "/** Below these a value is what the arithmetic leaves over. */"]
    nothing = ", ".join(f"{unit}: {value:g}" for unit, value in units.NOTHING.items())
    lines.append(f"export const NOTHING: Record<string, number> = {{ {nothing} }};")
    lines += ["", "/** What counts in the ranking of places, how much by default, and its words. */"]
    weights = schemas["Weights"]["properties"].items()
    lines.append(f"export const WEIGHTS = {_object({name: about['default'] for name, about in weights})} as const;")
    words = _object({name: about["title"] for name, about in weights})
    lines.append(f"export const WEIGHT_WORDS: Record<keyof typeof WEIGHTS, string> = {words};")
    lines += ["", "/** Fields of a plan in the builder's words, by the last name of their path. */"]
    lines.append(f"export const FIELD_WORDS: Record<string, string> = {_object(FIELDS)};")
    ends = {kind: {"from": source, "to": sink} for kind, (source, sink) in SIGNAL_ENDS.items()}
    lines += [
        "",
        "/** What a pin has to be to drive a kind of signal, and to read it; whatever it is for any other kind. */",
    ]
    lines.append(
        f'export const SIGNAL_ENDS: Record<string, Record<"from" | "to", readonly string[]>> = {json.dumps(ends)};'
    )
    lines += ["", "/** Words that mean the same to who searches. */"]
    lines.append(f"export const SAME_WORDS: readonly (readonly string[])[] = {json.dumps(SAME, ensure_ascii=False)};")
    lines += ["", "/** Tools and answers by the words of the trade: where each stands. */"]
    lines.append("export const TOOLS: readonly { name: string; also: string; view: string; sheet?: string }[] = [")
    lines += [f"  {_object({k: v for k, v in vars(one).items() if v})}," for one in TOOLS]
    lines.append("];")
    lines += ["", "/** What is said wherever work can hurt someone. */"]
    lines.append(f"export const CAUTIONS: readonly string[] = {json.dumps(CAUTIONS, ensure_ascii=False)};")
    return "\n".join(lines) + "\n"


def _flags(schemas: Mapping[str, Any]) -> list[str]:
    return [
        f"{name}.{field}"
        for name, schema in sorted(schemas.items())
        for field, about in sorted(schema.get("properties", {}).items())
        if {"type": "boolean"} in about.get("anyOf", [])
    ]


def _choices(about: dict[str, Any]) -> list[Any]:
    if "enum" in about:
        return list(about["enum"])
    nested = [one for key in ("anyOf", "allOf", "oneOf") for one in about.get(key, [])]
    return next((found for one in nested if (found := _choices(one))), [])


def _object(values: Mapping[str, str | float]) -> str:
    return "{ " + ", ".join(f"{key}: {json.dumps(value, ensure_ascii=False)}" for key, value in values.items()) + " }"


def api_types(described: str) -> str:
    """TypeScript types of the API."""
    work = WEB / ".tmp"
    work.mkdir(exist_ok=True)
    (work / "openapi.json").write_text(described)
    subprocess.run(
        ["npx", "--no-install", "openapi-typescript", ".tmp/openapi.json", "-o", ".tmp/schema.d.ts"],
        cwd=WEB,
        capture_output=True,
        check=True,
    )
    return (work / "schema.d.ts").read_text()


def main(arguments: list[str]) -> int:
    described = api_description()
    wanted = {
        TYPES: api_types(described),
        CONSTANTS: constants(described),
        SCHEMA: json.dumps(plan_schema(), indent=1, ensure_ascii=False) + "\n",
    }
    stale = [path for path, text in wanted.items() if not path.is_file() or path.read_text() != text]
    if "--check" in arguments:
        for path in stale:
            print(f"{path.relative_to(ROOT)} is stale: run ./yard types")
        return 1 if stale else 0
    for path in stale:
        path.write_text(wanted[path])
        print(f"wrote {path.relative_to(ROOT)}")
    return 0


if __name__ == "__main__":
    raise SystemExit(main(sys.argv[1:]))
