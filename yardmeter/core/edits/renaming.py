"""What was named after its volts is named anew when they are set otherwise."""

from __future__ import annotations

import re
from typing import Any

from yardmeter.core.plan import Plan, Regulator
from yardmeter.core.plan.operations import SetQuantity, SetValue

LONGEST = 80


def rename_after_volts(plan: Plan, document: dict[str, Any], edit: SetValue | SetQuantity) -> None:
    """A regulator's volts in its own name, and in the name, volts and pads of the rail it alone feeds, follow a change of them."""
    supply = plan.supply_of.get(edit.element)
    if edit.field != "set_v" or not isinstance(supply, Regulator):
        return
    item = next(one for one in document["supplies"] if one["id"] == supply.id)
    volts = item["set_v"]
    if not isinstance(volts, int | float) or volts == supply.set_v:
        return
    item["name"] = _renamed(item["name"], supply.set_v, volts)
    if [one.id for one in plan.supplies_into(supply.output)] != [supply.id]:
        return
    rail = next(one for one in document["rails"] if one["id"] == supply.output)
    rail["name"] = _renamed(rail["name"], supply.set_v, volts)
    if rail["nominal_v"] == supply.set_v:
        rail["nominal_v"] = volts
    for pad in rail["pads"]:
        pad["label"] = _renamed(pad["label"], supply.set_v, volts)


def _renamed(name: str, was: float, volts: float) -> str:
    """“5 V”, “5V” and “5.0 V” as a word of their own, with the new volts."""
    number = re.escape(f"{was:g}") + (r"(?:\.0+)?" if was == int(was) else "0*")
    new = re.sub(rf"(?<![\d.]){number}(?= ?V\b)", f"{volts:g}", name)
    return new if len(new) <= LONGEST else name
