"""The way of the loudest line from its source to a device's pins, stage by stage, and the sweep along it."""

from __future__ import annotations

import numpy as np

from yardmeter.core.answers.conditions import Solved
from yardmeter.core.answers.filtering import Sweep, sweep
from yardmeter.core.answers.model import Answer
from yardmeter.core.answers.noise import tolerated_v
from yardmeter.core.answers.noise_solutions import noise_solution
from yardmeter.core.answers.noise_sources import Line
from yardmeter.core.errors import EditError
from yardmeter.core.graph import graph_of
from yardmeter.core.network.keys import Node, ground_node, pin_node, rail_node
from yardmeter.core.plan import Condition, Plan, rail_title


class Stage(Answer):
    """One place on the way: peak-to-peak volts of the line there, as planned and with every filter taken out."""

    element: str
    name: str
    with_v: float
    without_v: float


class NoisePath(Answer):
    device: str
    condition: str
    words: str
    hz: float
    tolerated_v: float
    stages: tuple[Stage, ...]
    sweep: Sweep


def noise_path(solved: Solved, device_id: str, condition: Condition, line_words: str | None = None) -> NoisePath:
    """The way of one line (the loudest at the device when none is named). Raises EditError for a device without a feed."""
    plan = solved.plan
    device = plan.device_of.get(device_id)
    if device is None or device.feed is None:
        raise EditError("Noise comes along a feed.", where=device_id, remedy="Choose a device that is fed from a rail.")
    at = noise_solution(solved, condition)
    node = at.network.node
    pins = node[pin_node(device_id)], node[ground_node(device_id)]
    sizes = np.abs(at.volts[:, pins[0]] - at.volts[:, pins[1]])
    named = [k for k, line in enumerate(at.lines) if line.words == line_words]
    index = named[0] if named else int(np.argmax(sizes)) if at.lines else None
    along = sweep(solved, condition, device_id)
    if index is None:
        return NoisePath(
            device=device_id, condition=condition.id, words="", hz=0.0, tolerated_v=tolerated_v(device), stages=(), sweep=along
        )  # fmt: skip
    line = at.lines[index]
    held = at.volts[index]
    bare = at.without().volts[index]
    stages = []
    for element, name, p, n in _places(plan, line, device_id):
        a, b = node[p], node[n]
        stages.append(
            Stage(
                element=element,
                name=name,
                with_v=2 * float(abs(held[a] - held[b])),
                without_v=2 * float(abs(bare[a] - bare[b])),
            )
        )
    return NoisePath(
        device=device_id, condition=condition.id, words=line.words, hz=line.hz, tolerated_v=tolerated_v(device),
        stages=tuple(stages), sweep=along,
    )  # fmt: skip


def _places(plan: Plan, line: Line, device_id: str) -> list[tuple[str, str, Node, Node]]:
    """(element, name, node, ground node) from the source's own pins over the rails between to the device's pins."""
    device = plan.device_of[device_id]
    source_rail = _rail_of_source(plan, line)
    rails = graph_of(plan).between(source_rail, device.feed.rail if device.feed else plan.pack.rail)
    places = [(line.element, f"{plan.title(line.element)}, source", line.p, line.n)]
    places += [
        (rail, rail_title(plan.rail_of[rail].name), rail_node(rail), ground_node(plan.rail_of[rail].board))
        for rail in dict.fromkeys(rails)
    ]
    places.append((device_id, f"{device.name}, pins", pin_node(device_id), ground_node(device_id)))
    return [place for k, place in enumerate(places) if k == 0 or place[2] != places[k - 1][2]]


def _rail_of_source(plan: Plan, line: Line) -> str:
    device = plan.device_of.get(line.element)
    if device and device.feed:
        return device.feed.rail
    supply = plan.supply_of[line.element]
    return supply.output if line.in_volts or supply.input not in plan.rail_of else supply.input
