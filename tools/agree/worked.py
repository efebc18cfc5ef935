"""Every working opened: its formula with its inputs gives its number."""

from __future__ import annotations

import math
import re
from typing import get_args

from tools.agree.cases import Case
from tools.agree.statements import Told, statement
from yardmeter.core.errors import YardError
from yardmeter.review.working import working
from yardmeter.review.workings.model import Quantity, Working

ASKED: tuple[Quantity, ...] = tuple(one for one in get_args(Quantity) if one not in ("pack", "drop", "noise"))
NEAR = 2e-5
"""Of the largest number that goes in, and as many units: what the solver leaves open."""


def worked_out(made: Working) -> float | None:
    """The right side of a formula with its inputs put in; None where it is words."""
    _, _, right = made.formula.partition(" = ")
    values = {one.symbol: one.value for one in made.inputs if one.value is not None}
    if not right or not values or ";" in right:
        return None
    right = re.sub(r", (with|the|against) .*", "", right)
    many = [value for name, value in values.items() if re.fullmatch(r"I\d+", name)]
    right = right.replace("²", "**2")
    right = right.replace("min(Iₖ)", repr(min(many, default=0.0))).replace("Σ Iₖ", repr(sum(many)))
    for name in sorted(values, key=len, reverse=True):
        right = re.sub(rf"(?<![\w·]){re.escape(name)}(?!\w)", f"({values[name]!r})", right)
    right = right.replace("·", "*").replace("−", "-")
    return float(eval(right, {"__builtins__": {}}, {"min": min, "max": max}))


@statement("Every working opened gives its number by its formula from its inputs", share=0.5)
def workings_true(case: Case) -> Told:
    solved, plan = case.found.solved, case.plan
    condition = case.rng.choice(plan.conditions)
    if not solved.solved.given[condition.id].converged:
        return
    for element in [*plan.rail_of, *plan.device_of, *plan.supply_of, *plan.signal_of, *plan.board_of, "pack"]:
        for quantity in ("pack",) if element == "pack" else ASKED:
            try:
                made = working(solved, element, quantity, condition.id)
            except YardError:
                continue
            if made.result.value == 0.0 and quantity == "usable":
                continue
            found = worked_out(made)
            if found is None:
                continue
            size = max(abs(one.value or 0.0) for one in made.inputs)
            if not math.isclose(found, made.result.value, rel_tol=NEAR, abs_tol=NEAR * max(size, 1.0)):
                yield f"{quantity} of {element} in {condition.id}: {made.formula} gives {found:.6g}, it shows {made.result.value:.6g}"
