"""Each condition's small-signal network at its operating point, with its lines solved: as planned, and with filters out."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import numpy as np

from yardmeter.core.answers.conditions import Solved, View
from yardmeter.core.answers.noise_sources import Line, noise_lines
from yardmeter.core.network.ac import AcNetwork, Branch, Point, build_ac
from yardmeter.core.plan import Condition, Plan, Regulator
from yardmeter.core.solver.ac import Complex, changed, ports, solve_ac
from yardmeter.core.solver.circuit import Floats
from yardmeter.core.solver.elements import load_current

SHOWN = 8
"""Lines listed of a place."""
PLANNED, BARE, NEW = "as planned", "without any filter", "new and warm"
"""Keys beside filters' ids, which hold no space."""


@dataclass(frozen=True)
class Moment:
    """One condition's small-signal network with its lines and what they make of every node [V peak] (lines, nodes + 1)."""

    condition: Condition
    view: View
    network: AcNetwork
    lines: list[Line]
    volts: Complex
    others: dict[str, Complex] = field(default_factory=dict)
    """The same volts without any filter, without each one alone, and with new ones; not there where that changes nothing."""

    def without(self, key: str = BARE) -> Moment:
        """With this filter taken out, or all of them, at the same operating point; or as under another key. `network` stays the planned one."""
        return replace(self, volts=self.under(key), others={}) if self.others else self

    def across_pp_v(self, p: str, n: str) -> Floats:
        """Peak-to-peak volts of every line between two nodes (lines,)."""
        return self.between_pp_v(self.network.node[p], self.network.node[n])

    def between_pp_v(self, a: int, b: int) -> Floats:
        """The same between nodes by their numbers."""
        sizes: Floats = 2 * np.abs(self.volts[:, a] - self.volts[:, b])
        return sizes

    def under(self, key: str) -> Complex:
        return self.others.get(key, self.volts)


def rss(sizes: Floats) -> float:
    """Lines that are not in step add by root of squares."""
    return math.sqrt(float(sizes @ sizes))


def loudest(sizes: Floats, above: float) -> list[int]:
    """Places of the largest, largest first."""
    return [k for k in np.argsort(-sizes, kind="stable")[:SHOWN].tolist() if sizes[k] > above]


def operating_point(solved: Solved, condition: Condition) -> Point:
    """The row of the solution the small-signal network stands on."""
    view = solved.given[condition.id]
    op, row = view.op, view.row
    loads = op.network.circuit.loads
    one = replace(loads, value=loads.value[row : row + 1])
    slopes = load_current(one, op.load_v[row : row + 1])[1][0].tolist()
    feeds = {d.id: op.conductor_a(row, f"feed:{d.id}") for d in solved.plan.devices if d.feed}
    feeds |= {s.id: op.supply_in_a(row, s) for s in solved.plan.supplies if isinstance(s, Regulator)}
    return Point(
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


def variants(plan: Plan, network: AcNetwork) -> dict[str, list[Branch]]:
    """What changes in the network under each key but the planned one."""
    fitted = [one.id for one in plan.filters if one.fitted]
    if not fitted:
        return {}
    alone = {one: network.changes({one}) for one in fitted}
    return {BARE: network.changes(fitted), NEW: network.renewed()} | alone


def moment(solved: Solved, condition: Condition, throttle_frac: float | None = None) -> Moment:
    """A condition's lines solved, at its own throttle or another."""
    view = solved.given[condition.id]
    network = build_ac(operating_point(solved, condition))
    lines = noise_lines(solved.plan, condition, view, throttle_frac)
    found = solve_lines(network, lines, variants(solved.plan, network))
    return Moment(condition, view, network, lines, found.pop(PLANNED), found)


def moments_of(solved: Solved) -> list[Moment]:
    """One for each condition of the plan."""
    return [moment(solved, condition) for condition in solved.plan.conditions]


def solve_lines(
    network: AcNetwork, lines: list[Line], changes: Mapping[str, list[Branch]] | None = None
) -> dict[str, Complex]:
    """Node voltages of each line [V peak] (lines, nodes + 1), the reference last: as planned, and under each key with its changes.

    Lines of one frequency share a matrix, and those between the same nodes differ by their size alone: both are solved once.
    """
    if not lines:
        return {key: np.zeros((0, len(network.node) + 1), complex) for key in (PLANNED, *(changes or ()))}
    cases: dict[float, list[tuple[str, str]]] = {}
    for line in lines:
        ends = cases.setdefault(line.hz, [])
        if (line.p, line.n) not in ends:
            ends.append((line.p, line.n))
    row = {hz: k for k, hz in enumerate(cases)}
    driven = np.zeros((len(cases), len(network.node), max(len(ends) for ends in cases.values())), complex)
    for hz, ends in cases.items():
        for column, (p, n) in enumerate(ends):
            driven[row[hz], network.node[p], column] -= 1
            driven[row[hz], network.node[n], column] += 1
    at = [row[line.hz] for line in lines], [cases[line.hz].index((line.p, line.n)) for line in lines]
    solved = solve_variants(network, np.array(list(cases)), driven, changes or {})
    return {key: _sized(network, lines, volts[at[0], :, at[1]]) for key, volts in solved.items()}


def solve_variants(network: AcNetwork, hertz: Floats, driven: Complex, changes: Mapping[str, list[Branch]]) -> dict[str, Complex]:  # fmt: skip
    """Node voltages (frequencies, nodes + 1, cases) as planned and with each key's changes, from one solution."""
    concerned = list({b.name: b for change in changes.values() for b in change}.values())
    a, b = np.array([one.a for one in concerned], np.int64), np.array([one.b for one in concerned], np.int64)
    cases = driven.shape[-1]
    right = np.broadcast_to(driven, (hertz.size, *driven.shape[-2:]))
    reaching = np.broadcast_to(ports(len(network.node), a, b), (hertz.size, len(network.node), a.size))
    solved = solve_ac(network.circuit(hertz), np.concatenate([right, reaching], axis=2))
    volts, reach = solved[:, :, :cases], solved[:, :, cases:]
    place = {one.name: k for k, one in enumerate(concerned)}
    found = {PLANNED: volts}
    s = 2j * math.pi * hertz
    for key, change in changes.items():
        mine = [place[one.name] for one in change]
        siemens = np.array([one.siemens(s) for one in change]).reshape(len(change), hertz.size).T
        found[key] = changed(volts, reach[:, :, mine], a[mine], b[mine], siemens)
    return found


def _sized(network: AcNetwork, lines: list[Line], unit: Complex) -> Complex:
    """Each line's voltages from those of one ampere; as large as was measured, or stated, where a line is given in volts."""
    sizes = np.array([line.peak for line in lines])
    for k, line in enumerate(lines):
        if line.in_volts:
            sizes[k] /= max(abs(unit[k, network.node[line.p]] - unit[k, network.node[line.n]]), 1e-12)
    found: Complex = unit * sizes[:, None]
    return found
