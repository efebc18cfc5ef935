"""A fitted value as edits of the plan: measured, with its error as its band."""

from __future__ import annotations

from collections.abc import Iterator

from yardmeter.core.errors import EditError
from yardmeter.core.flights.fits import Fit
from yardmeter.core.plan import Plan
from yardmeter.core.plan.operations import Edit, SetValue

TAKEN = ("pack.cell_ohm", "motors.full_a")
"""Fits that are numbers of a plan."""
LEAST_BAND = 0.02
"""No band under this is taken: another day is warmer, and a pack older; our choice."""


def taken(plan: Plan, fits: list[Fit]) -> tuple[Edit, ...]:
    """Edits that put fitted values into a plan; raises EditError for what was not told, or is no number of a plan."""
    return tuple(edit for one in fits for edit in _taken(plan, one))


def _taken(plan: Plan, fit: Fit) -> Iterator[Edit]:
    if fit.key not in TAKEN or fit.fitted is None or fit.error is None:
        raise EditError(f"{fit.name} is no value that can be taken over.", where=fit.key, remedy=fit.why or "Choose one that was fitted.")  # fmt: skip
    band = min(max(fit.error / fit.fitted, LEAST_BAND), 1.0)
    if fit.key == "pack.cell_ohm":
        yield SetValue(element="pack", field="cell_ohm", value=float(f"{fit.fitted:.4g}"))
        yield SetValue(element="pack", field="resistance_tol_frac", value=float(f"{band:.3g}"))
        return
    factor = fit.fitted / fit.planned if fit.planned else 1.0
    for motor in (one for one in plan.devices if one.throttle):
        points = [
            {**point.model_dump(mode="json"), "amps": float(f"{point.amps * factor:.5g}")} for point in motor.throttle
        ]
        yield SetValue(element=motor.id, field="throttle", value=points)
        for state in ("idle", "typical", "peak"):
            yield SetValue(element=motor.id, field=f"draws.{state}.provenance", value="measured")
            yield SetValue(element=motor.id, field=f"draws.{state}.tol_frac", value=float(f"{band:.3g}"))
