"""Small plans for tests, made from as little as each needs."""

from __future__ import annotations

from typing import Any

from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.checks import run_rules
from yardmeter.core.fixes import vetted
from yardmeter.core.plan import Plan, load_plan
from yardmeter.words.told import ToldFix, tell_fixes

WIRE = {"gauge_awg": 20, "length_m": 0.1}
STILL = {"id": "bench", "name": "Bench", "pack_state": "full", "air": "still", "default_state": "typical"}
LOW = {"id": "low", "name": "Low punch", "pack_state": "low", "throttle_frac": 1, "default_state": "peak"}


def draws(amps: float, unit: str = "A", provenance: str = "measured", peak: float | None = None) -> dict[str, Any]:
    one = {"value": amps, "unit": unit, "provenance": provenance}
    return {"idle": one, "typical": one, "peak": {**one, "value": peak if peak is not None else amps}}


def device(name: str, rail: str, amps: float, *, ground: str = "main", **fields: Any) -> dict[str, Any]:
    """A device on a rail; `fields` override anything."""
    base: dict[str, Any] = {
        "id": name,
        "name": name.capitalize(),
        "nominal_v": 5,
        "min_v": 4.5,
        "max_v": 5.5,
        "draws": draws(amps, fields.pop("unit", "A"), fields.pop("provenance", "measured"), fields.pop("peak", None)),
        "feed": {"rail": rail, "wire": WIRE},
        "returns": [{"id": f"{name}-gnd", "to": ground, "wire": WIRE}],
    }
    return {**base, **fields}


def regulator(name: str, kind: str, source: str, rail: str, volts: float, **fields: Any) -> dict[str, Any]:
    base = {"id": name, "name": name, "kind": kind, "input": source, "output": rail, "board": "main", "set_v": volts}
    return {**base, "rating_a": 3, "input_max_v": 40, "derate_frac": 1.0, **fields}


def rail(name: str, volts: float | None = None, board: str = "main") -> dict[str, Any]:
    return {"id": name, "name": name, "board": board, "nominal_v": volts}


def plan(*, series: int = 4, cell_ohm: float = 0.003, **parts: Any) -> Plan:
    """A one-board plan: pack rail `pack-rail`, whatever `parts` add, conditions STILL and LOW unless given."""
    document: dict[str, Any] = {
        "name": "test",
        "pack": {
            "series": series,
            "capacity_ah": 3,
            "cell_ohm": cell_ohm,
            "rail": "pack-rail",
            "lead": {"gauge_awg": 14, "length_m": 0.1},
        },
        "boards": [
            {
                "id": "main",
                "name": "Main board",
                "returns": [{"id": "main-gnd", "to": "pack", "wire": {"gauge_awg": 14, "length_m": 0.1}}],
            },
            *parts.pop("boards", []),
        ],
        "rails": [rail("pack-rail"), *parts.pop("rails", [])],
        "conditions": parts.pop("conditions", [STILL, LOW]),
    }
    parts["policy"] = {
        "copper_c": 20,
        **parts.get("policy", {}),
    }  # hand calculations go by the tables, which are at 20 °C
    return load_plan({**document, **parts})


def fixes_of(made: Plan, code: str) -> list[ToldFix]:
    """Every fix that was tried and holds, of a rule's findings."""
    solved = solve_plan(made)
    verdicts = run_rules(solved)
    good = vetted(solved, verdicts)
    return [fix for one in verdicts if one.code == code for fix in tell_fixes(made, good.get(one.key, ()))]
