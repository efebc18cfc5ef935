"""What wires, connectors and diodes of a run have to stand: how warm they get, moment by moment, and the surge that passes."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

from yardmeter.core.physics.conductors import wire_limit_a, wire_time_constant_s
from yardmeter.core.plan import Plan, Wire
from yardmeter.core.runs.run import Run
from yardmeter.core.solver.circuit import Floats

CONTACT_RISE_K = 30.0
"""What contacts warm by at their printed amps [K]; IEC 60512-5-2 rates them so, from memory."""


@dataclass(frozen=True)
class Warmth:
    """How warm a wire, or the contacts in it, got [K], beside what is allowed; when, and how long it was over that [s]."""

    of: Literal["wire", "connector"]
    rise_k: float
    allowed_k: float
    at_s: float
    over_s: float

    @property
    def share(self) -> float:
        return self.rise_k / self.allowed_k


def warmth(run: Run, index: int) -> Warmth | None:
    """The warmer of a wire and its contacts, as a share of what each is allowed; None where neither ever carries more than it stands for
    good. A run that begins with power begins as warm as its first amps keep it."""
    wire, plan = run.moving.table.conductors[index].wire, run.plan
    if wire is None:
        return None
    amps = np.abs(run.series_a(index))
    found = [one for one in (_of_wire(run, plan, wire, amps), _of_contacts(run, plan, wire, amps)) if one]
    return max(found, key=lambda one: one.share, default=None)


def _of_wire(run: Run, plan: Plan, wire: Wire, amps: Floats) -> Warmth | None:
    if wire.joined:
        return None
    allowed = plan.policy.wire_rise_k
    steady = allowed * (amps / wire_limit_a(wire.gauge_awg, allowed)) ** 2
    return _warmed(run, "wire", steady, allowed, wire_time_constant_s(wire.gauge_awg))


def _of_contacts(run: Run, plan: Plan, wire: Wire, amps: Floats) -> Warmth | None:
    """Contacts that stand a share more for as long as a punch lasts take as long to warm as that says: `τ = −t / ln(1 − 1/f²)`."""
    burst = plan.policy.connector_burst_frac
    if not wire.connector_limit_a or wire.inline is not None or burst <= 1:
        return None
    tau_s = -plan.policy.punch_s / math.log(1 - 1 / burst**2)
    return _warmed(run, "connector", CONTACT_RISE_K * (amps / wire.connector_limit_a) ** 2, CONTACT_RISE_K, tau_s)


def _warmed(
    run: Run, of: Literal["wire", "connector"], steady_k: Floats, allowed_k: float, tau_s: float
) -> Warmth | None:
    if not steady_k.size or steady_k.max() <= allowed_k:
        return None
    rise = warming(run.times_s, steady_k, tau_s, warm=run.scenario.begins is not None)
    most, steps = int(rise.argmax()), np.diff(run.times_s, prepend=0.0)
    return Warmth(of, float(rise[most]), allowed_k, float(run.times_s[most]), float(steps[rise > allowed_k].sum()))


def warming(times_s: Floats, steady_k: Floats, tau_s: float, *, warm: bool) -> Floats:
    """Rise over the air [K] (t,) of what tends to `steady_k` [K] (t,) with one time constant [s], each step held to its end."""
    rise = np.zeros(steady_k.size)
    now, before = float(steady_k[0]) if warm else 0.0, float(times_s[0])
    for k, (at, wanted) in enumerate(zip(times_s.tolist(), steady_k.tolist(), strict=True)):
        now = wanted + (now - wanted) * math.exp((before - at) / tau_s)
        rise[k], before = now, at
    return rise


def surge_a2s(times_s: Floats, amps: Floats, rated_a: float) -> float:
    """What a part took beyond its print [A²s]: `∫ (i² − I²) dt` where it was over."""
    steps = np.diff(times_s, prepend=times_s[0] if times_s.size else 0.0)
    return float((np.maximum(amps**2 - rated_a**2, 0.0) * steps).sum())
