"""Ground loops: independent rings of return wires, with what a stray field would drive around each."""

from __future__ import annotations

import math
from dataclasses import dataclass

from yardmeter.core.physics.conductors import wire_diameter_m, wire_outer_m
from yardmeter.core.physics.inductance import pair_h, square_loop_h
from yardmeter.core.physics.magnetics import induced_v, pair_field_t
from yardmeter.core.plan import Condition, Plan, Return


@dataclass(frozen=True)
class Ring:
    """One independent loop: its wires and the grounds they join, in order around it."""

    wires: tuple[str, ...]
    owners: tuple[str, ...]
    ohm: float
    henry: float
    area_m2: float


def fundamental_loops(ends: dict[str, tuple[str, str]]) -> list[tuple[tuple[str, ...], tuple[str, ...]]]:
    """A cycle basis of a multigraph given as edge → its two ends: (edges, nodes) around each loop.

    Edges are joined to a forest one by one; each that closes a ring gives one loop, by the path between its ends.
    """
    tree: dict[str, list[tuple[str, str]]] = {}
    loops = []
    for edge, (a, b) in ends.items():
        path = _path(tree, a, b)
        if path is None:
            tree.setdefault(a, []).append((edge, b))
            tree.setdefault(b, []).append((edge, a))
        else:
            edges, nodes = path
            loops.append(((edge, *edges), nodes))
    return loops


def _path(
    tree: dict[str, list[tuple[str, str]]], start: str, goal: str
) -> tuple[tuple[str, ...], tuple[str, ...]] | None:
    """Edges and nodes from start to goal in a forest; None when they lie in different trees."""
    stack: list[tuple[str, tuple[str, ...], tuple[str, ...]]] = [(start, (), (start,))]
    while stack:
        at, edges, nodes = stack.pop()
        if at == goal:
            return edges, nodes
        stack += [(to, (*edges, e), (*nodes, to)) for e, to in tree.get(at, ()) if not edges or e != edges[-1]]
    return None


SMALLEST_LOOP_M = 1e-3
"""Round a loop of joints alone there is a millimetre of copper; our estimate."""


def find_rings(plan: Plan, ohm: dict[str, float]) -> list[Ring]:
    """All independent ground loops of a plan; `ohm` is the resistance of each return."""
    ends = {wire.id: (owner, wire.to) for owner, wire in plan.returns()}
    wire_of = {wire.id: wire for _, wire in plan.returns()}
    rings = []
    # Short wires make the forest, so that the rings found are short ones too.
    ordered = dict(sorted(ends.items(), key=lambda item: wire_of[item[0]].wire.run_m))
    for edges, nodes in fundamental_loops(ordered):
        wires = [wire_of[edge] for edge in edges]
        area, henry = _size(wires)
        rings.append(Ring(edges, nodes, sum(ohm[edge] for edge in edges), henry, area))
    return rings


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


def ring_emf_v(plan: Plan, ring: Ring, ripple_a: float, spacing_m: float) -> float:
    """Voltage a loop picks up from the motor leads [V rms] at the ESCs' switching frequency, at the policy's distance."""
    field = pair_field_t(ripple_a, spacing_m, plan.policy.stray_m)
    return induced_v(field, ring.area_m2, plan.policy.pwm_hz)


def ring_current_a(plan: Plan, ring: Ring, emf_v: float) -> float:
    """Current that voltage drives around the loop [A rms]."""
    return emf_v / math.hypot(ring.ohm, 2 * math.pi * plan.policy.pwm_hz * ring.henry)
