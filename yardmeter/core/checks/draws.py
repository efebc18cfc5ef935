"""`load.` rules of one device: what its maker asks the supply to be able to give, what a LED stands, whose motors hang where."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.checks.registry import rule
from yardmeter.core.physics.preferred import next_up
from yardmeter.core.plan import Device, Plan
from yardmeter.core.plan.operations import SetValue
from yardmeter.core.sizing.led import SERIES
from yardmeter.core.sizing.motors import motor_count, pack_side, split_motors
from yardmeter.core.verdict import Comparison, Facts, Fix, Verdict, always, under


@dataclass(frozen=True)
class DemandUnmet(Facts):
    rail: str
    asked_a: float
    """What it really draws."""


@rule("load.demand", DemandUnmet, sense="at least")
def demand_unmet(case: SolvedPlan) -> Iterator[Verdict]:
    """A supply that carries the device, and cannot give what its maker asks for."""
    for device in case.plan.devices:
        if device.demand_a is None or device.feed is None:
            continue
        rail = case.rail(device.feed.rail)
        left = {c.id: rail.states[c.id].spare_a + s.asked_a for c, s in case.device_states(device) if s.sources and c.on_pack}  # fmt: skip
        short = {c: a for c, a in left.items() if 0 < a < device.demand_a}
        if short:
            worst = min(short, key=lambda c: short[c])
            facts = DemandUnmet(rail.id, case.device(device.id).states[worst].asked_a)
            compared = Comparison(short[worst], device.demand_a, "A")
            yield under(dict.fromkeys(short, "caution"), worst, (device.id,), compared, facts)


@dataclass(frozen=True)
class LedOver(Facts):
    volts_v: float
    resistor_ohm: float


@rule("load.led", LedOver, sense="at most")
def led_over(case: SolvedPlan) -> Iterator[Verdict]:
    """A string of LEDs that carries more than they stand."""
    for device in case.plan.devices:
        led = device.led
        if led is None or device.law != "led":
            continue
        amps = {c.id: s.asked_a / led.strings for c, s in case.device_states(device)}
        over = {c: a for c, a in amps.items() if a > led.max_a}
        if over:
            worst = max(over, key=lambda c: over[c])
            volts = case.solved.asked[worst].pin_v(device.id)
            ohm = next_up((volts - led.series * led.forward_v) / led.max_a, SERIES)
            fix = Fix("resistor", (SetValue(element=device.id, field="led.resistor_ohm", value=ohm),))
            compared = Comparison(over[worst], led.max_a, "A")
            yield under(
                dict.fromkeys(over, "fault"), worst, (device.id,), compared, LedOver(volts, led.resistor_ohm), (fix,)
            )


@dataclass(frozen=True)
class MotorsTogether(Facts):
    board: str
    escs: int


@rule("load.motors", MotorsTogether, sense="at most")
def motors_together(case: SolvedPlan) -> Iterator[Verdict]:
    """More motors on one ESC than its share of all, while others stand idle: their amps run in one pair of leads.

    An ESC that the pack does not reach yet drives nothing.
    """
    plan = case.plan
    escs = [board.id for board in plan.boards if board.kind == "esc" and pack_side(plan, board.id)]
    groups = {d.id: board for d in plan.devices if d.motors and d.feed and (board := _esc_of(plan, d)) in escs}
    idle = [board for board in escs if board not in groups.values()]
    for name, board in groups.items():
        device = plan.device_of[name]
        count = motor_count(device)
        if count > 1 and idle:
            share = -(-count // (len(idle) + 1))
            facts = MotorsTogether(board, len(escs))
            fix = Fix("split motors", tuple(split_motors(plan, device, idle[: count - 1])))
            yield always("caution", (name, board), Comparison(count, share, ""), facts, (fix,))


def _esc_of(plan: Plan, device: Device) -> str:
    return plan.rail_of[device.feed.rail].board if device.feed else ""
