"""From a symptom to its causes on the terminal, as JSON."""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import Any

from yardmeter.answered import answered
from yardmeter.core.diagnosis.advice import Evidence, diagnose
from yardmeter.core.diagnosis.known import Known
from yardmeter.core.diagnosis.symptoms import asked_about, find_symptom
from yardmeter.core.diagnosis.weighing import Complaint
from yardmeter.core.errors import EditError, YardError
from yardmeter.core.plan import Plan
from yardmeter.demo import starter_parts
from yardmeter.review.diagnosis import seen_diagnosis, symptoms_of


def main(arguments: list[str] | None = None) -> int:
    parser = argparse.ArgumentParser(prog="yard diagnose", description="What may be behind a symptom, and what to try.")
    parser.add_argument("plan", type=Path, help="a plan in the open JSON format")
    parser.add_argument(
        "--symptom",
        metavar="ID",
        action="append",
        help="what was seen; again for what was seen besides; --list names all",
    )
    parser.add_argument(
        "--where", metavar="ID", help="at which device, rail, signal or part; the likeliest when left out"
    )
    parser.add_argument(
        "--at", metavar="CONDITION", help="a condition of the plan it is seen in, instead of the usual one of its kind"
    )
    parser.add_argument(
        "--evidence",
        type=Path,
        metavar="FILE",
        help='what was tried: [{"test": ID, "yes": true} or {"test": ID, "value": 4.9}]',
    )
    parser.add_argument("--list", action="store_true", help="the symptoms, and what each can be about here")
    options = parser.parse_args(arguments)
    if not options.list and not options.symptom:
        parser.error("say which --symptom, or --list them")
    return answered(
        options.plan,
        lambda plan: (
            listed(plan)
            if options.list
            else diagnosed(plan, options.symptom, options.where, options.at, options.evidence)
        ),
    )


def listed(plan: Plan) -> str:
    found = [
        {"id": one.id, "title": one.title, "about": [p.id for p in one.places], "near": list(one.near)}
        for one in symptoms_of(plan)
    ]
    return json.dumps(found, indent=1, ensure_ascii=False) + "\n"


def diagnosed(plan: Plan, symptom: list[str], where: str | None, at: str | None, evidence: Path | None) -> str:
    found = [find_symptom(one) for one in symptom]
    known = Known(plan, {found[0].looks[0].when: plan.condition(at)} if at else None)
    # Where it is is said of the first.
    complaints = [Complaint(one, asked_about(plan, one, None if k else where)) for k, one in enumerate(found)]
    said = read_evidence(evidence) if evidence else ()
    seen = seen_diagnosis(known, diagnose(known, complaints, said), said, starter_parts())
    answer: dict[str, Any] = {
        "symptom": symptom, "about": [one.where for one in complaints], "standing": seen.standing,
        "causes": [
            {"id": c.id, "title": c.title, "chance": round(c.chance, 4), "for": list(c.speaks_for), "against": list(c.speaks_against)}
            for c in seen.causes
        ],
        "unknown": round(seen.unknown, 4),
        "tests": [
            {
                "id": t.id, "title": t.title, "how": t.how, "minutes": t.minutes, "bits": round(t.bits, 3), "unit": t.unit,
                "expect": {e.cause: e.reading or round(e.yes_frac or 0.0, 3) for e in t.expect},
            }
            for t in seen.tries
        ],
        "named": seen.named, "mend": seen.mend, "fixes": [{"title": r.title, "leaves": r.leaves} for r in seen.remedies],
        "second": seen.second, "cautions": list(seen.cautions), "rests_on": list(seen.rests_on),
    }  # fmt: skip
    return json.dumps(answer, indent=1, ensure_ascii=False) + "\n"


def read_evidence(file: Path) -> tuple[Evidence, ...]:
    """Raises EditError for what is no list of answers."""
    try:
        rows = json.loads(file.read_text())
    except OSError as error:
        raise YardError(f"It cannot be read ({error.strerror}).", where=str(file)) from None
    except ValueError:
        raise EditError("It is no JSON.", where=str(file), remedy="Write a list of answers.") from None
    if not isinstance(rows, list):
        raise EditError("It is no list of answers.", where=str(file), remedy="Write [ … ].")
    return tuple(_answer(row, f"{file}, answer {k + 1}") for k, row in enumerate(rows))


def _answer(row: Any, where: str) -> Evidence:
    fits = (
        isinstance(row, dict)
        and isinstance(row.get("test"), str)
        and (isinstance(row.get("yes"), bool) != ("value" in row))
    )
    value = row.get("value") if fits else None
    if not fits or not (value is None or (isinstance(value, int | float) and not isinstance(value, bool))):
        raise EditError(
            "An answer names its test, and either yes or a value.",
            where=where,
            remedy='{"test": "again-hover", "yes": false}',
        )
    return Evidence(row["test"], yes=row.get("yes"), value=float(value) if value is not None else None)


if __name__ == "__main__":
    raise SystemExit(main())
