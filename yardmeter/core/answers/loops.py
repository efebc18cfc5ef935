"""Ground loops: independent rings of return wires, with what a stray field would drive around each."""

from __future__ import annotations

import math
from dataclasses import dataclass

from yardmeter.core.graph import Ring, graph_of
from yardmeter.core.physics.conductors import wire_diameter_m, wire_outer_m
from yardmeter.core.physics.inductance import pair_h, square_loop_h
from yardmeter.core.physics.magnetics import induced_v, pair_field_t
from yardmeter.core.plan import Condition, Plan, Return


@dataclass(frozen=True)
class Loop:
    """One independent loop: its wires and the grounds they join, in order around it."""

    ring: Ring
    ohm: float
    henry: float
    area_m2: float


SMALLEST_LOOP_M = 1e-3
"""Round a loop of joints alone there is a millimetre of copper; our estimate."""


def find_loops(plan: Plan, ohm: dict[str, float]) -> list[Loop]:
    """All independent ground loops of a plan; `ohm` is the resistance of each return."""
    found = []
    for ring in graph_of(plan).rings:
        area, henry = _size([plan.return_of[one][1] for one in ring.wires])
        found.append(Loop(ring, sum(ohm[one] for one in ring.wires), henry, area))
    return found


def _size(wires: list[Return]) -> tuple[float, float]:
    """Area [m²] and inductance [H] of a loop.

    Two wires laid against each other enclose the strip between them; wires of different ways are taken as a square with
    their length as its sides, the largest a builder is likely to make of them. Our estimate.
    """
    length = max(sum(wire.wire.run_m for wire in wires), SMALLEST_LOOP_M)
    radius = sum(wire_diameter_m(wire.wire.gauge_awg) for wire in wires) / len(wires) / 2
    if len(wires) == 2 and all(wire.wire.lay != "apart" for wire in wires):
        spacing = max(wire_outer_m(wire.wire.gauge_awg) for wire in wires)
        share = 0.1 if all(wire.wire.lay == "twisted" for wire in wires) else 1.0
        return length / 2 * spacing * share, pair_h(length / 2, spacing, radius)
    return (length / 4) ** 2, square_loop_h(length / 4, radius)


def motor_ripple_a(condition: Condition, amps: float) -> float:
    """Alternating part of the motor current in its leads [A rms]: `I √(D(1−D))` at the throttle as duty (textbook)."""
    duty = min(max(condition.throttle_frac, 0.0), 1.0)
    return amps * math.sqrt(duty * (1 - duty))


def loop_emf_v(plan: Plan, loop: Loop, ripple_a: float, spacing_m: float) -> float:
    """Voltage a loop picks up from the motor leads [V rms] at the ESCs' switching frequency, at the policy's distance."""
    field = pair_field_t(ripple_a, spacing_m, plan.policy.stray_m)
    return induced_v(field, loop.area_m2, plan.policy.pwm_hz)


def loop_current_a(plan: Plan, loop: Loop, emf_v: float) -> float:
    """Current that voltage drives around the loop [A rms]."""
    return emf_v / math.hypot(loop.ohm, 2 * math.pi * plan.policy.pwm_hz * loop.henry)
