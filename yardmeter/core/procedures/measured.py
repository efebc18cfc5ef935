"""From a reading of the bench to the plan: what was measured takes the place of what a sheet said."""

from __future__ import annotations

from yardmeter.core.plan import Plan, Regulator
from yardmeter.core.plan.operations import Edit, SetValue
from yardmeter.core.procedures.steps import Step

MEASURED_TOL_FRAC = 0.01
"""What is left of a set point's tolerance once it was read: the meter's error, and its drift with heat; our choice."""


def measured_edits(plan: Plan, step: Step, value: float | None) -> tuple[Edit, ...]:
    """Edits that make a reading of volts the set point of the one regulator that makes them; none where there is no such one.

    The drop that the build's own current made at that moment is added back.
    """
    if value is None or step.mode != "volts" or step.expected is None or not step.elements:
        return ()
    makers = [one for one in plan.supplies if one.output == step.elements[0]]
    if len(makers) != 1 or not isinstance(makers[0], Regulator):
        return ()
    made = makers[0]
    volts = round(value + made.set_v - step.expected.usual, 4)
    if not 0.5 < volts <= 60:
        return ()
    return (
        SetValue(element=made.id, field="set_v", value=volts),
        SetValue(element=made.id, field="set_tol_frac", value=MEASURED_TOL_FRAC),
        SetValue(element=made.id, field="provenance", value="measured"),
    )
