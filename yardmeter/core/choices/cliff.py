"""Where a signal falls off its margin: shift and edge over the length of a ground wire and the motors' current."""

from __future__ import annotations

import numpy as np

from yardmeter.core.answers.conditions import Solved
from yardmeter.core.answers.ground_net import GroundNet, edge_a, motor_edge_a
from yardmeter.core.answers.grounded import SHOWN_A
from yardmeter.core.answers.model import Answer
from yardmeter.core.answers.operating import View
from yardmeter.core.answers.returns import signal_margin_v
from yardmeter.core.edits import apply_edits
from yardmeter.core.errors import EditError
from yardmeter.core.network import branch_table
from yardmeter.core.network.loads import throttle_amps
from yardmeter.core.plan import Condition, Plan, Return, Signal
from yardmeter.core.plan.operations import SetValue
from yardmeter.core.solver.circuit import Floats

LENGTHS_M = (0.01, 0.5)
LENGTHS, STEPS = 20, 16
BEYOND = 1.25
"""How far past the most the motors draw in any condition the chart goes."""


class Standing(Answer):
    """Where the craft stands in a condition."""

    condition: str
    amps_a: float
    share_frac: float


class Cliff(Answer):
    """Share of a signal's margin used, `share_frac[length][current]`, and where the craft stands on it.

    `wire` is the ground wire whose length is changed: of those between the two ends the one most motor current flows in.
    """

    signal: str
    wire: str
    length_m: float
    lengths_m: tuple[float, ...]
    amps_a: tuple[float, ...]
    share_frac: tuple[tuple[float, ...], ...]
    standing: tuple[Standing, ...]


def cliff(solved: Solved, signal_id: str) -> Cliff:
    """The chart of one signal; raises EditError where no motor current reaches its grounds, or where it has no margin."""
    plan = solved.plan
    signal = plan.signal_of[signal_id]
    margin_v = signal_margin_v(plan, signal)
    views = [(c, solved.given[c.id]) for c in plan.conditions if solved.given[c.id].converged]
    driven = [(c, v, _motors_a(plan, v)) for c, v in views]
    condition, view, most_a = max(driven, key=lambda one: one[2], default=(plan.conditions[0], views[0][1], 0.0))
    if most_a <= SHOWN_A or margin_v <= 0 or signal.kind == "video":
        raise EditError(
            f"{signal.name} has no such chart: it is drawn for logic signals of a craft whose motors run in some condition.",
            remedy="Choose a signal to an ESC, or add a condition with throttle.",
        )
    net = GroundNet(solved.table)
    wire = _wire(net, signal, view)
    lengths = sorted({*np.geomspace(*LENGTHS_M, LENGTHS).round(4).tolist(), wire.wire.run_m or LENGTHS_M[0]})
    amps = np.linspace(0, BEYOND * most_a, STEPS)
    rows = [_share(_with_length(plan, wire, one), signal, condition, view, amps) / margin_v for one in lengths]
    standing = [
        Standing(condition=c.id, amps_a=a, share_frac=float(_share(net, signal, c, v, np.array([a]))[0]) / margin_v)
        for c, v, a in driven
    ]
    return Cliff(
        signal=signal.id,
        wire=wire.id,
        length_m=wire.wire.run_m,
        lengths_m=tuple(lengths),
        amps_a=tuple(amps.tolist()),
        share_frac=tuple(tuple(row.tolist()) for row in rows),
        standing=tuple(standing),
    )


def _motors_a(plan: Plan, view: View) -> float:
    return sum(view.device_a(d.id) for d in plan.devices if d.throttle)


def _wire(net: GroundNet, signal: Signal, view: View) -> Return:
    """The return of either end in which most motor current flows."""
    plan = net.plan
    ends = {plan.owner_of[end].id for end in (signal.source, signal.sink)}
    motors = [k for k, d in enumerate(plan.devices) if d.throttle]
    flows = np.abs(net.flows(net.by_ampere @ net.steady(view))[:, motors].sum(axis=1))
    own = [k for k, (owner, _) in enumerate(net.wires) if owner in ends]
    best = max(own, key=lambda k: flows[k], default=None)
    if best is None or flows[best] <= SHOWN_A:
        raise EditError(
            f"No motor current flows in the ground wires of {signal.name}'s ends: their length does not matter to it.",
            remedy="Choose a signal to an ESC.",
        )
    return net.wires[best][1]


def _with_length(plan: Plan, wire: Return, length_m: float) -> GroundNet:
    values = {"wire.joined": False, "wire.length_m": length_m}
    longer = apply_edits(plan, [SetValue(element=wire.id, field=name, value=value) for name, value in values.items()])
    return GroundNet(branch_table(longer))


def _share(net: GroundNet, signal: Signal, condition: Condition, view: View, amps_a: Floats) -> Floats:
    """Shift and the worst edge together [V], for motors that draw `amps_a` in all and everything else as in the view."""
    plan = net.plan
    a, b = (net.node[plan.owner_of[end].id] for end in (signal.source, signal.sink))
    motors = np.array([bool(d.throttle) for d in plan.devices])
    by_device = net.by_ampere @ net.steady(view)
    apart = by_device[a] - by_device[b]
    now_a = _motors_a(plan, view)
    factor = amps_a / now_a if now_a > SHOWN_A else np.zeros_like(amps_a)
    shift = apart[~motors].sum() + factor * apart[motors].sum()
    unit = (net.by_ampere + net.by_slope / plan.policy.edge_s) @ net.sudden
    per_a = np.abs(unit[a] - unit[b])
    edges = np.zeros_like(amps_a)
    for k, device in enumerate(plan.devices):
        drawn = view.device_a(device.id)
        if condition.state_of(device.id) == "off" or drawn <= SHOWN_A:
            continue
        if device.throttle:
            throttle = _throttle_for(plan, condition, factor)
            mine = np.array([motor_edge_a(plan, device, t, drawn * f) for t, f in zip(throttle, factor, strict=True)])
        else:
            mine = np.full_like(amps_a, edge_a(device))
        edges = np.maximum(edges, per_a[k] * mine)
    found: Floats = np.abs(shift) + edges
    return found


def _throttle_for(plan: Plan, condition: Condition, factor: Floats) -> Floats:
    """Least throttle at which the motors draw `factor` times what they draw in the condition, by their own curves."""
    steps = np.linspace(0, 1, 101)
    drawn = np.array([sum(throttle_amps(d, float(t)) for d in plan.devices if d.throttle) for t in steps])
    now = float(np.interp(condition.throttle_frac, steps, drawn))
    drawn, first = np.unique(np.maximum.accumulate(drawn), return_index=True)
    found: Floats = np.interp(np.minimum(factor * now, drawn[-1]), drawn, steps[first])
    return found
