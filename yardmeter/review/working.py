"""The working behind a number on screen: which working answers which question."""

from __future__ import annotations

from collections.abc import Callable

from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.errors import UnknownElementError
from yardmeter.core.plan import Regulator
from yardmeter.review.workings.devices import draw_working, pin_working
from yardmeter.review.workings.grounds import ground_working, shift_working
from yardmeter.review.workings.model import Quantity, Working
from yardmeter.review.workings.rails import (
    asked_working,
    pack_working,
    spare_working,
    usable_working,
    volts_working,
)
from yardmeter.review.workings.supplies import headroom_working, loss_working, share_working, temperature_working


def working(case: SolvedPlan, element: str, quantity: Quantity, condition_id: str) -> Working:
    """The working of one number of one element in one condition; raises UnknownElementError where there is none."""
    condition = case.plan.condition(condition_id)
    plan = case.plan
    if quantity == "pack":
        return pack_working(case, condition)
    makers: dict[Quantity, Callable[[], Working]] = {}
    if element in plan.rail_of:
        makers = {
            "volts": lambda: volts_working(case, element, condition),
            "asked": lambda: asked_working(case, element, condition),
            "usable": lambda: usable_working(case, element, condition),
            "spare": lambda: spare_working(case, element, condition),
        }
    elif element in plan.device_of:
        device = plan.device_of[element]
        makers = {
            "asked": lambda: draw_working(case, device, condition),
            "pin": lambda: pin_working(case, device, condition),
            "drop": lambda: pin_working(case, device, condition),
        }
    elif element in plan.supply_of:
        supply = plan.supply_of[element]
        makers = {
            "share": lambda: share_working(case, supply, condition),
            "volts": lambda: volts_working(case, supply.output, condition),
        }
        if isinstance(supply, Regulator):
            makers |= {
                "headroom": lambda: headroom_working(case, supply, condition),
                "temperature": lambda: temperature_working(case, supply, condition),
                "loss": lambda: loss_working(case, supply, condition),
            }
    elif element in plan.signal_of:
        makers = {"shift": lambda: shift_working(case, plan.signal_of[element], condition)}
    if element in plan.board_of or element in plan.device_of:
        makers["ground"] = lambda: ground_working(case, plan.owner_of[element], condition)
    if quantity not in makers:
        raise UnknownElementError(
            f"There is no working for {quantity} of “{element}”.", where=element, remedy="Ask for one of its numbers."
        )
    return makers[quantity]()
