"""Generated files: the front end's API types and the plan format's JSON Schema. `--check` fails when they are stale."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

from yardmeter.core.formats.plan_json import plan_schema

ROOT = Path(__file__).resolve().parents[1]
WEB = ROOT / "web"
TYPES = WEB / "src" / "shared" / "api" / "schema.d.ts"
SCHEMA = ROOT / "docs" / "plan.schema.json"


def api_types() -> str:
    """TypeScript types of the API as it stands in the code."""
    described = subprocess.run(
        [sys.executable, "-m", "yardmeter.server.openapi"], cwd=ROOT, capture_output=True, text=True, check=True
    ).stdout
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
    wanted = {TYPES: api_types(), SCHEMA: json.dumps(plan_schema(), indent=1, ensure_ascii=False) + "\n"}
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
