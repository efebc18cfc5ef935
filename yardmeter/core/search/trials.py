"""What can be done next: put the probes elsewhere, pull a plug, lift a wire or a capacitor, read volts, follow millivolts."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np

from yardmeter.core.errors import UnknownElementError
from yardmeter.core.faults import UNWIRED, neighbours
from yardmeter.core.network.keys import Key, feed_key, return_key
from yardmeter.core.plan import FerriteFilter, Plan, Wire
from yardmeter.core.probing.points import Point, points
from yardmeter.core.procedures import Step
from yardmeter.core.search.seen import Scale
from yardmeter.core.search.signatures import UNPOWERED, Signatures
from yardmeter.core.solver.passive import Floats

Doing = Literal["probe", "unplug", "lift", "volts", "millivolts", "amps"]

PROBE_S = 6.0
"""Both probes on, a look, written down; this and what follows are ours, by a watch at the bench."""
VOLTS_S = 10.0
UNPLUG_S = 12.0
LIFT_S = 60.0
"""A wire off its pad, read, and back on again; thick copper takes as long again."""
THICK_AWG = 18
MILLIVOLTS_S = 20.0
LIMITED_A = 1.0
"""The supply's current limit for a drop along copper: no wire and no trace minds it."""
SHORT_OHM = 25.0
BRIDGE_FRAC = 1e-6
PARTS_OHM = 5e3
"""Between two rails with nothing wrong, whatever the board."""


@dataclass(frozen=True)
class Trial:
    """One thing to do, and where it is read. `cut` is the wire, `gone` the part that is off meanwhile.

    `read` is the name of the step or place in the record; the reading is judged by the search, not by a bound.
    """

    id: str
    doing: Doing
    scale: Scale
    elements: tuple[str, ...]
    red: Point
    black: Point
    seconds_s: float
    step: str | None = None
    condition: str | None = None
    cut: Key | None = None
    gone: str | None = None
    shorted: tuple[Point, Point] | None = None
    """Where the limited supply is connected, for a drop."""


def of_step(step: Step) -> Trial | None:
    """A step of the list as a trial; None for one that is looked at or that no fault is known to move."""
    if step.red is None or step.black is None:
        return None
    if step.gate in UNPOWERED:
        return Trial(f"probe|{step.id}", "probe", "ohms", step.elements, step.red, step.black, PROBE_S, step.id)
    if step.mode == "volts" and step.elements == ("pack",):
        return None  # what stands in for the pack may be anything
    if step.mode == "volts":
        return Trial(f"volts|{step.id}", "volts", "volts", step.elements, step.red, step.black, VOLTS_S, step.id, step.condition)  # fmt: skip
    if step.gate == "limiter":
        return Trial(f"amps|{step.id}", "amps", "amps", step.elements, step.red, step.black, VOLTS_S, step.id, step.condition)  # fmt: skip
    return None


def trials(known: Signatures, failed: Step | None, *, shorted: bool, powered: bool, supply: bool) -> Iterator[Trial]:
    """Everything that can be done after a failed step: `shorted` where it reads as copper, `powered` where power may be on,
    `supply` where there is one with a current limit."""
    for step in known.made.steps:
        trial = of_step(step)
        if trial and (trial.doing == "probe" or (trial.doing == "volts" and powered)):
            yield trial
    yield from _astray(known)
    if powered:
        yield from _more_volts(known, failed)
    if shorted and failed and failed.red and failed.black:
        yield from _off(known, failed, failed.red, failed.black)
        if supply:
            yield from _drops(known, failed.red, failed.black)


def find_trial(known: Signatures, name: str, failed: Step | None) -> Trial:
    """The trial of that id; raises UnknownElementError."""
    for one in trials(known, failed, shorted=True, powered=True, supply=True):
        if one.id == name:
            return one
    raise UnknownElementError("This is not to be done here.", where=name, remedy="Ask again what to do next.")


def _astray(known: Signatures) -> Iterator[Trial]:
    """A wire's far end to the neighbours of the pad it belongs on."""
    plan = known.made.solved.plan
    at = known.made.point
    for device in plan.devices:
        if device.feed and device.kind not in UNWIRED:
            for rail in neighbours(plan, device):
                name = f"probe|{device.id}-{rail}"
                yield Trial(name, "probe", "ohms", (device.id, rail), at[f"{device.id}:plus"], at[rail], PROBE_S)


def _more_volts(known: Signatures, failed: Step | None) -> Iterator[Trial]:
    """Volts at every device's own pins and behind every regulator's wire: where missing volts are followed to."""
    plan = known.made.solved.plan
    condition = (
        failed.condition if failed and failed.condition else next((c.id for c in plan.conditions if c.on_pack), None)
    )
    if condition is None:
        return
    at = known.made.point
    minus = at["plug:minus"]
    for name, point in at.items():
        if point.kind in ("supply pin", "input") and plan.elements.get(point.owner) is not None:
            yield Trial(f"volts|{name}", "volts", "volts", (point.owner,), point, minus, VOLTS_S, None, condition)


def _off(known: Signatures, failed: Step, red: Point, black: Point) -> Iterator[Trial]:
    """The same place read again with a wire or a part off."""
    plan = known.made.solved.plan
    for key, wire, owner in wires_that_lift(plan):
        doing: Doing = "unplug" if wire.connector else "lift"
        seconds = UNPLUG_S if wire.connector else LIFT_S * (2 if wire.gauge_awg < THICK_AWG else 1)
        yield Trial(
            f"{doing}|{key.role}-{key.element}|{failed.id}", doing, "ohms", (owner,), red, black, seconds, cut=key
        )
    for one in plan.filters:
        if one.fitted and not isinstance(one, FerriteFilter):
            yield Trial(f"lift|{one.id}|{failed.id}", "lift", "ohms", (one.id,), red, black, LIFT_S, gone=one.id)


def wires_that_lift(plan: Plan) -> Iterator[tuple[Key, Wire, str]]:
    """Wires that can be taken off without another coming with them: the plus of devices and supplies, and grounds."""
    for device in plan.devices:
        if device.feed and device.kind not in UNWIRED and not device.feed.wire.joined:
            yield feed_key(device.id), device.feed.wire, device.id
    for supply in plan.supplies:
        if supply.feed and not supply.feed.joined:
            yield feed_key(supply.id), supply.feed, supply.id
    for owner, back in plan.returns():
        soldered = owner in plan.board_of or plan.device_of[owner].kind not in UNWIRED
        if soldered and not back.wire.joined:
            yield return_key(back.id), back.wire, owner


def _drops(known: Signatures, red: Point, black: Point) -> Iterator[Trial]:
    """With a limited current into the short: what is lost between the supply's clip and other points of the same copper."""
    table = known.made.table
    for end, sign in ((red, "plus"), (black, "minus")):
        seen = {end.node}
        for point in points(table):
            if point.node in seen or table.copper_way(end.node, point.node) is None:
                continue
            seen.add(point.node)
            ends = (end, point) if sign == "plus" else (point, end)
            yield Trial(
                f"millivolts|{sign}-{point.id}|{red.id}|{black.id}", "millivolts", "drop", (point.owner,), *ends, MILLIVOLTS_S,
                shorted=(red, black),
            )  # fmt: skip


def predicted(known: Signatures, trial: Trial, which: list[int]) -> Floats:
    """What some hypotheses make of a trial [len(which)], in its unit; NaN where that cannot be said."""
    if trial.doing == "millivolts":
        return np.array([_drop_v(known, trial, one) for one in which])
    if trial.cut or trial.gone:
        return np.array([_off_ohm(known, trial, one) for one in which])
    if trial.doing == "volts":
        return np.array([known.volts(one, trial.condition or "", trial.red, trial.black) for one in which])
    if trial.step is None:
        return np.array([_beside_ohm(known, trial, one) for one in which])
    return known.stepped(known.made.step[trial.step], which)


def _beside_ohm(known: Signatures, trial: Trial, hypothesis: int) -> float:
    """Copper between two points that should have none; where there is none, what parts leave there on any board."""
    net, ohm = known.copper(hypothesis)
    a, b = trial.red.node, trial.black.node
    return float(ohm[a, b]) if net[a] == net[b] else PARTS_OHM


def _drop_v(known: Signatures, trial: Trial, hypothesis: int) -> float:
    """From a limited current through the short: for one net of copper half of R_ac + R_ad − R_bc …, the usual superposition."""
    if trial.shorted is None:
        return float("nan")
    net, ohm = known.copper(hypothesis)
    a, b, x, y = (one.node for one in (*trial.shorted, trial.red, trial.black))
    if len({int(net[one]) for one in (a, b, x, y)}) > 1:
        return float("nan")
    return LIMITED_A * float(ohm[a, y] - ohm[a, x] + ohm[b, x] - ohm[b, y]) / 2


def _off_ohm(known: Signatures, trial: Trial, hypothesis: int) -> float:
    """The failed place again, with a wire or a part off: one resistance taken out of the copper that was solved."""
    net, ohm = known.copper(hypothesis)
    a, b = trial.red.node, trial.black.node
    column = _column(known, trial)
    sound = float(known.ohms[0, column]) if column is not None else np.inf
    whole = (
        float(ohm[a, b]) if net[a] == net[b] else float(known.ohms[hypothesis, column]) if column is not None else sound
    )
    if trial.gone:
        own = hypothesis and trial.gone in known.faults[hypothesis - 1].elements
        return sound if own and known.faults[hypothesis - 1].kind.startswith("capacitor") else whole
    wire = next((one for one in known.made.table.resistances if one.key == trial.cut), None)
    if wire is None or net[a] != net[b] or net[wire.a] != net[a] or net[wire.b] != net[a]:
        return whole
    own_ohm = wire.ohm[1]
    along = float(ohm[a, wire.b] - ohm[a, wire.a] + ohm[b, wire.a] - ohm[b, wire.b]) / 2
    left = 1 - float(ohm[wire.a, wire.b]) / own_ohm
    if left < BRIDGE_FRAC:  # nothing else joins its ends: the short goes with it, or has nothing to do with it
        return sound if abs(along) > own_ohm / 2 else whole
    return whole + along**2 / own_ohm / left


def _column(known: Signatures, trial: Trial) -> int | None:
    steps = known.made.step
    return next(
        (k for name, k in known.steps.items() if (steps[name].red, steps[name].black) == (trial.red, trial.black)), None
    )
