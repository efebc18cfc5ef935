"""The return network with what flows in it: in every condition the rises of the grounds, whose current each wire carries, and
what changes."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from yardmeter.core.answers.conditions import Solved
from yardmeter.core.answers.ground_net import GroundNet, edge_a, motor_edge_a
from yardmeter.core.answers.operating import View
from yardmeter.core.network.keys import return_key
from yardmeter.core.plan import Condition, Device, Motors, Plan
from yardmeter.core.solver.circuit import Floats

SHOWN_A = 1e-3
"""Current from which a device is listed among those a piece carries [A]."""


@dataclass(frozen=True, slots=True)
class Carried:
    """Whose current flows through a piece, and how much of it."""

    element: str
    amps_a: float


@dataclass(frozen=True, slots=True)
class SegmentState:
    amps_a: float
    drop_v: float
    carries: tuple[Carried, ...]


@dataclass(frozen=True)
class Flowing:
    """The steady currents of one condition: what each device draws, rises (nodes,), rises by device (nodes, devices),
    and what each return carries."""

    condition: Condition
    device_a: dict[str, float]
    rises_v: list[float]
    by_device_v: Floats
    segments: tuple[SegmentState, ...]


@dataclass(frozen=True)
class Grounded:
    """By condition what flows, in the plan's order; rises at each device's edge, and of what changes in its current [V]
    (nodes, devices)."""

    net: GroundNet
    flowing: tuple[Flowing, ...]
    steps_v: dict[str, Floats]
    changing_v: dict[str, Floats]


def grounded(solved: Solved, before: Grounded | None = None, stands: frozenset[str] = frozenset()) -> Grounded:
    """The returns of a solved plan. What flows in conditions that `stand` is as it was `before` an edit of draws; edges go by
    draws that no condition need rest on, and are always found anew."""
    plan = solved.plan
    net = before.net.drawn_again(solved.table) if before else GroundNet(solved.table)
    known = {one.condition.id: one for one in before.flowing if one.condition.id in stands} if before else {}
    flowing = tuple(known.get(c.id) or _flowing(net, c, solved.given[c.id]) for c in plan.conditions)
    edges = [edge_a(device) for device in plan.devices]
    return Grounded(
        net,
        flowing,
        {one.condition.id: net.rise_of_an_edge * np.array(_edges_a(plan, one, edges))[None, :] for one in flowing},
        {one.condition.id: one.by_device_v * np.array(_changing_frac(plan, one, edges))[None, :] for one in flowing},
    )


def _flowing(net: GroundNet, condition: Condition, view: View) -> Flowing:
    amps = {device.id: view.device_a(device.id) for device in net.plan.devices}
    rises = [view.ground_v(owner.id) for owner in net.plan.owners]
    by_device = net.by_ampere @ net.steady(view)
    return Flowing(condition, amps, rises, by_device, tuple(_segments(net, view, net.flows(by_device))))


def _segments(net: GroundNet, view: View, flows_a: Floats) -> list[SegmentState]:
    """Every return's current and whose it is, from flows (wires, devices)."""
    carried: list[list[Carried]] = [[] for _ in net.wires]
    shown = np.nonzero(np.abs(flows_a) > SHOWN_A)
    for row, column, amps in zip(*(one.tolist() for one in (*shown, flows_a[shown])), strict=True):
        carried[row].append(Carried(net.plan.devices[column].id, amps))
    found = []
    for (_, wire), ohm, own in zip(net.wires, net.ohm, carried, strict=True):
        own.sort(key=lambda one: -abs(one.amps_a))
        amps = view.conductor_a(return_key(wire.id))
        found.append(SegmentState(amps, amps * ohm, tuple(own)))
    return found


def _edges_a(plan: Plan, at: Flowing, edges: list[float]) -> list[float]:
    """Steepest step of every device's current in a condition [A]."""
    return [_edge_a(plan, at, device, edge) for device, edge in zip(plan.devices, edges, strict=True)]


def _edge_a(plan: Plan, at: Flowing, device: Device, edge: float) -> float:
    amps = at.device_a[device.id]
    if at.condition.state_of(device.id) == "off" or amps <= SHOWN_A:
        return 0.0
    return motor_edge_a(plan, device, at.condition.throttle_frac, amps) if device.throttle else edge


def _changing_frac(plan: Plan, at: Flowing, edges: list[float]) -> list[float]:
    """Peak to peak of what changes in every device's current, as a share of it: commutation, and bursts from idle to peak."""
    found = []
    for device, edge in zip(plan.devices, edges, strict=True):
        share = 0.0
        if device.throttle:
            share = 2 * (device.motors or Motors()).commutation_frac
        elif device.burst and at.condition.state_of(device.id) == "peak":
            peak = device.draws.peak.amps_at(device.nominal_v)
            share = edge / peak if peak > 0 else 0.0
        found.append(share)
    return found
