"""Small-signal networks of a plan's conditions, solved together: as planned, and with filters out or new."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from yardmeter.core.answers.conditions import Solved
from yardmeter.core.answers.noise_sources import Line
from yardmeter.core.network.ac import AcNetwork, Change, Stack
from yardmeter.core.network.ac_build import Point
from yardmeter.core.network.keys import Node, feed_key
from yardmeter.core.plan import Condition, Plan, Regulator
from yardmeter.core.solver.ac import changed, ports, solve_in_place
from yardmeter.core.solver.circuit import Complex, Floats
from yardmeter.core.solver.laws import load_current

PLANNED, BARE, NEW = "as planned", "without any filter", "new and warm"
"""Keys beside filters' ids, which hold no space."""
ABREAST = 2
"""Pairs of nodes driven at once at one frequency; where there are more, the frequency is solved again: most have one."""
Changes = Mapping[str, Sequence[Change]]
"""What is changed in a network under each key."""


@dataclass(frozen=True)
class Asked:
    """A network to be solved at frequencies (f,) [Hz] for currents into its nodes (f, nodes, cases) [A]."""

    network: AcNetwork
    hertz: Floats
    driven: Complex
    changes: Changes


def operating_point(solved: Solved, condition: Condition) -> Point:
    """The row of the solution the small-signal network stands on."""
    view = solved.given[condition.id]
    op, row = view.op, view.row
    loads = op.network.circuit.loads
    one = replace(loads, value=loads.value[row : row + 1])
    slopes = load_current(one, op.load_v[row : row + 1])[1][0].tolist()
    feeds = {d.id: view.conductor_a(feed_key(d.id)) for d in solved.plan.devices if d.feed}
    feeds |= {s.id: view.supply_in_a(s) for s in solved.plan.supplies if isinstance(s, Regulator)}
    return Point(
        solved.table,
        op.network,
        row,
        [*op.volts[row].tolist()],
        slopes,
        op.solution.modes[row].tolist(),
        op.regulating[row].tolist(),
        op.at.input_v[row].tolist(),
        op.at.output_v[row].tolist(),
        op.solution.converter_a[row].tolist(),
        feeds,
    )


def bare(plan: Plan, network: AcNetwork) -> Changes:
    """What changes in the network with every filter taken out."""
    fitted = [one.id for one in plan.filters if one.fitted]
    return {BARE: network.changes(fitted)} if fitted else {}


def variants(plan: Plan, network: AcNetwork) -> Changes:
    """What changes in the network under each key but the planned one."""
    alone = {one.id: network.changes({one.id}) for one in plan.filters if one.fitted}
    return {**bare(plan, network), NEW: network.renewed(), **alone} if alone else {}


def solve_variants(asked: Sequence[Asked]) -> list[dict[str, Complex]]:
    """Of each network the node voltages (frequencies, nodes + 1, cases) as planned and with each key's changes.

    All of them come from one solution; the keys must be the same for all.
    """
    stack = Stack([one.network for one in asked], [one.hertz for one in asked])
    keys = list(asked[0].changes)
    concerned = {stack.column(c.branch): c.branch for one in asked for mine in one.changes.values() for c in mine}
    columns, branches = list(concerned), list(concerned.values())
    a, b = (np.array(ends, np.int64) for ends in ([one.a for one in branches], [one.b for one in branches]))
    ends = np.cumsum([0, *(one.hertz.size for one in asked)])
    nodes, cases = stack.circuit.nodes, max(one.driven.shape[-1] for one in asked)
    solved = np.zeros((ends[-1], nodes + 1, cases + a.size), complex)
    for one, (start, end) in zip(asked, pairwise(ends), strict=True):
        solved[start:end, :-1, : one.driven.shape[-1]] = one.driven
    solved[:, :-1, cases:] = ports(nodes, a, b)
    solve_in_place(stack.circuit, solved)
    volts, reach = solved[:, :, :cases], solved[:, :, cases:]
    found = {PLANNED: volts}
    for key in keys:
        mine = [one.changes[key] for one in asked]
        touched = {stack.column(c.branch) for m in mine for c in m}
        here = [k for k, column in enumerate(columns) if column in touched]
        siemens = stack.added([columns[k] for k in here], mine)
        own = reach if len(here) == a.size else reach[:, :, here]
        found[key] = changed(volts, own, a[here], b[here], siemens)
    return [{key: v[start:end] for key, v in found.items()} for start, end in pairwise(ends)]


def solve_lines(asked: Sequence[tuple[AcNetwork, Sequence[Line], Changes]]) -> list[dict[str, Complex]]:
    """Node voltages of each network's lines [V peak] (lines, nodes + 1), the reference last: as planned, and under each key.

    Lines of one frequency share a matrix, and those between the same nodes differ by their size alone: both are solved once.
    """
    sounding = [k for k, (_, lines, _) in enumerate(asked) if lines]
    packed = [_packed(*asked[k]) for k in sounding]
    solved = dict(zip(sounding, solve_variants([one for one, _ in packed]), strict=True)) if packed else {}
    places = dict(zip(sounding, [at for _, at in packed], strict=True))
    found = []
    for k, (network, lines, changes) in enumerate(asked):
        if lines:
            row, column = places[k]
            found.append({key: _sized(network, lines, volts[row, :, column]) for key, volts in solved[k].items()})
        else:
            found.append({key: np.zeros((0, len(network.node) + 1), complex) for key in (PLANNED, *changes)})
    return found


def _packed(network: AcNetwork, lines: Sequence[Line], changes: Changes) -> tuple[Asked, tuple[list[int], list[int]]]:
    """One ampere for each frequency and pair of nodes, and where each line's answer will stand: row and column."""
    place: dict[tuple[float, Node, Node], tuple[int, int]] = {}
    hertz: list[float] = []
    latest: dict[float, tuple[int, int]] = {}
    for line in lines:
        key = line.hz, line.p, line.n
        if key not in place:
            row, column = latest.get(line.hz, (0, ABREAST - 1))
            if column == ABREAST - 1:
                hertz.append(line.hz)
                row, column = len(hertz) - 1, -1
            latest[line.hz] = place[key] = row, column + 1
    driven = np.zeros((len(hertz), len(network.node), ABREAST), complex)
    for (_, p, n), (row, column) in place.items():
        driven[row, network.node[p], column] -= 1
        driven[row, network.node[n], column] += 1
    rows, columns = zip(*(place[line.hz, line.p, line.n] for line in lines), strict=True)
    return Asked(network, np.array(hertz), driven, changes), (list(rows), list(columns))


def _sized(network: AcNetwork, lines: Sequence[Line], unit: Complex) -> Complex:
    """Each line's voltages from those of one ampere; as large as was measured, or stated, where a line is given in volts."""
    sizes = np.array([line.peak for line in lines])
    given = [k for k, line in enumerate(lines) if line.in_volts]
    if given:
        p, n = (
            [network.node[node] for node in ends]
            for ends in zip(*((lines[k].p, lines[k].n) for k in given), strict=True)
        )
        sizes[given] /= np.maximum(np.abs(unit[given, p] - unit[given, n]), 1e-12)
    found: Complex = unit * sizes[:, None]
    return found
