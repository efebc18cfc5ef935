"""Older documents brought up to today's form, a step for every version that ever landed.

A step takes plain data of one version and gives plain data of the next; it never sees today's models, which go on
changing. A new version is a new step at the end of the list, a kept document of the old one in `tests/core/kept`, and
`SCHEMA_VERSION` one higher.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from yardmeter.core.errors import PlanError
from yardmeter.core.plan.text import one_line

SCHEMA_VERSION = 3
"""Of the document as this program writes it."""

Step = Callable[[Any], Any]
SHORTEST_WIRE_M = 0.001
NOTES = ("note",)


def bring_up(data: Any, version: object) -> Any:
    """Plain data of a plan or a shelf part of that version, in today's form; what is no document is given back as it is.

    Raises PlanError for a version of a newer program, and for one that never was.
    """
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise PlanError(
            f"“{version}” is no version of a document.", where="version", remedy="It is a whole number from 1."
        )
    if version > SCHEMA_VERSION:
        raise PlanError(
            f"The document is of format version {version}; this program reads up to {SCHEMA_VERSION}.",
            where="version",
            remedy="Update the program.",
        )
    for step in STEPS[version - 1 :]:
        data = step(data)
    if isinstance(data, dict) and isinstance(data.get("devices"), list):
        data = {**data, "devices": [_in_amps(one) for one in data["devices"]]}
    if isinstance(data, dict) and "version" in data:
        data = {**data, "version": SCHEMA_VERSION}
    return data


def _in_amps(one: Any) -> Any:
    """What goes by a throttle draws amps: a document in which it was once said to draw watts or ohms is opened all the same."""
    return {**one, "law": "current"} if isinstance(one, dict) and one.get("throttle") else one


def _from_1(data: Any) -> Any:
    """Version 2: wires have a least length and can be none at all; text holds no control characters."""
    if isinstance(data, list):
        return [_from_1(one) for one in data]
    if not isinstance(data, dict):
        return data
    made = {key: _line(key, value) if isinstance(value, str) else _from_1(value) for key, value in data.items()}
    length = made.get("length_m")
    if isinstance(length, int | float) and 0 < length < SHORTEST_WIRE_M:
        made |= {"length_m": SHORTEST_WIRE_M, "joined": True}
    return made


def _line(key: str, text: str) -> str:
    if key in NOTES:
        return "\n".join(one_line(line) for line in text.split("\n"))
    cleaned = one_line(text)
    return cleaned if cleaned.strip() or not text else "unnamed"


CAPACITOR_FIELDS = {"farad", "esr_ohm", "rated_v", "dielectric", "lead_m", "ripple_a", "damping_ohm", "damping_farad"}
COIL_FIELDS = {"dcr_ohm", "saturation_a", "heating_a"}
FILTER_FIELDS = {
    "capacitor": CAPACITOR_FIELDS,
    "lc": CAPACITOR_FIELDS | COIL_FIELDS | {"henry", "resonance_hz"},
    "ferrite": COIL_FIELDS | {"ohm_100mhz"},
}
PART_VALUES = {
    "capacitor": {"farads": "farad", "volts": "rated_v", "esr_ohm": "esr_ohm", "ripple_a": "ripple_a", "dielectric": "dielectric"},
    "filter": {
        "henries": "henry", "farads": "farad", "volts": "rated_v", "esr_ohm": "esr_ohm", "dcr_ohm": "dcr_ohm",
        "sat_a": "saturation_a", "amps": "heating_a", "ohms_100mhz": "ohm_100mhz", "ripple_a": "ripple_a",
    },
    "resistor": {"watts": "watts", "ohms": "ohm"},
    "wire": {"gauge_awg": "gauge_awg"},
    "connector": {"amps": "limit_a", "ohm": "ohm", "ohms": "ohm", "inline": "inline"},
}  # fmt: skip
"""How version 2 called a shelf part's values, and version 3 does."""


OLD_COPPER_C = 20.0
"""Temperature at which every wire's resistance was taken before it could be said."""


def _from_2(data: Any) -> Any:
    """Version 3: a filter and a part have the fields of their kind alone; the temperature of copper is said, and stays what it was."""
    if not isinstance(data, dict):
        return data
    if "pack" in data and "boards" in data:
        policy = data.get("policy")
        data = {**data, "policy": {"copper_c": OLD_COPPER_C, **(policy if isinstance(policy, dict) else {})}}
    if isinstance(data.get("filters"), list):
        data = {**data, "filters": [_own_fields(one) for one in data["filters"]]}
    return _own_values(data) if "key" in data and isinstance(data.get("kind"), str) else data


def _own_fields(one: Any) -> Any:
    if not isinstance(one, dict) or one.get("kind") not in FILTER_FIELDS:
        return one
    foreign = set().union(*FILTER_FIELDS.values()) - FILTER_FIELDS[one["kind"]]
    return {key: value for key, value in one.items() if key not in foreign}


def _own_values(part: dict[str, Any]) -> dict[str, Any]:
    values = part.get("values")
    kind = part["kind"]
    if not isinstance(values, dict) or kind not in PART_VALUES:
        return {key: value for key, value in part.items() if key != "values"}
    names = PART_VALUES[kind]
    known = names | {name: name for name in names.values()}
    made = {known[key]: value for key, value in values.items() if key in known}
    if kind == "filter":
        bead = "ohm_100mhz" in made
        made["kind"] = "ferrite" if bead else "lc"
        made.setdefault("saturation_a", made.get("heating_a", 100.0))
        made = {key: value for key, value in made.items() if key == "kind" or key in FILTER_FIELDS[made["kind"]]}
    if kind == "capacitor" and "ceramic" in str(part.get("key")):
        made["dielectric"] = "x5r"
    return {**{key: value for key, value in part.items() if key != "values"}, kind: made}


STEPS: tuple[Step, ...] = (_from_1, _from_2)
if len(STEPS) != SCHEMA_VERSION - 1:
    raise RuntimeError("every version of the document but the last needs a step to the next")
