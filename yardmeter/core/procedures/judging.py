"""What a reading means: passed or not, and which faults would read like it here, each with its chance."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from yardmeter.core.faults import Fault, every_fault, faulted
from yardmeter.core.patience import go_on
from yardmeter.core.probing.meter import METER, Meter
from yardmeter.core.probing.passive import PassiveTable
from yardmeter.core.procedures.checklist import Checklist, Step
from yardmeter.core.solver.passive import probe

SPREAD_LN = math.log(3.0)
"""How far a reading may be from a fault's usual one and still be taken for it: a factor of three; our choice."""
SHOWN = 6
OPEN_OHM = 40e6


@dataclass(frozen=True)
class Judged:
    passed: bool
    reason: str
    """`low`, `high` or empty."""


@dataclass(frozen=True)
class Suspect:
    fault: Fault
    chance_frac: float
    usual: float
    """What the step would read with it."""


def judge(step: Step, value: float | None) -> Judged:
    """A reading, None for one where the meter shows that nothing conducts, against what passes."""
    seen = math.inf if value is None else value
    if seen < step.least:
        return Judged(False, "low")
    if step.most is not None and seen > step.most:
        return Judged(False, "high")
    return Judged(True, "")


def suspects(made: Checklist, step: Step, value: float | None, meter: Meter = METER) -> tuple[Suspect, ...]:
    """Faults that would read about so at a step without power, most likely first; the chances of those shown and not sum to one.

    A fault weighs as often as it happens, times how near its reading is on a scale of ratios.
    """
    if step.red is None or step.black is None or step.mode not in ("ohms", "beep"):
        return ()
    seen = OPEN_OHM if value is None else max(value, meter.least_ohm)
    faults = [one for one in every_fault(made.table) if one.traced]
    sound = _usual_ohm(made.table, step, meter)
    found = []
    for fault in faults:
        go_on()
        ohm = _usual_ohm(faulted(made.table, fault), step, meter)
        # What changes nothing here says nothing: it stays as likely as any that does not show.
        if abs(math.log(ohm / sound)) < 0.05:
            continue
        far = abs(math.log(max(ohm, meter.least_ohm) / seen)) / SPREAD_LN
        found.append((fault, fault.weight * math.exp(-0.5 * far**2), ohm))
    total = sum(weight for _, weight, _ in found)
    if total <= 0:
        return ()
    ranked = sorted(found, key=lambda one: -one[1])[:SHOWN]
    return tuple(Suspect(fault, weight / total, ohm) for fault, weight, ohm in ranked if weight / total > 0.01)


def _usual_ohm(table: PassiveTable, step: Step, meter: Meter) -> float:
    """The middle corner alone; a fault moves a reading by far more than tolerances do."""
    if step.red is None or step.black is None:
        return OPEN_OHM
    net = table.compiled().row(1)
    at = probe(net, step.red.node, step.black.node, meter.ohms_v, meter.ohms_v / meter.test_a)
    return float(np.clip(at.across[0] / max(float(at.amps[0]), 1e-12), 1e-3, OPEN_OHM))
