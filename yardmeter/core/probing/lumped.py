"""Many faults at many places at once, for a search that cannot wait: copper is lumped into nets, parts stay between them.

Only usual values, no ranges. Between two points of one net the copper alone is solved; between two nets what joins their
points does not count. Agrees with `reading.read` within 5 % of ohms, or 5 mΩ.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from yardmeter.core.patience import go_on
from yardmeter.core.probing.meter import METER, Meter
from yardmeter.core.probing.passive import CORNERS, PassiveTable
from yardmeter.core.solver.passive import Floats, Ints, across, junction_a, push, settle, stamped

USUAL = 1
"""Corner of the bands."""
COPPER_OHM = 25.0
"""Less joins two nodes into one net: wires, poor joints, whiskers, parts that are shorted."""
OPEN_OHM = 40e6
"""What a meter shows where nothing conducts."""
BLOCK_CELLS = 4_000_000
SAME_SHARE = 0.02
"""A fault that would move so little of the test current or volts leaves a reading as it was."""


@dataclass(frozen=True)
class Lumped:
    """Variants of one build. `net` [V, n] numbers each node's net; `between_ohm` [V, n, n] is copper's resistance within one.

    `matrix` [V, m, m] holds the resistances between nets; junctions have ends [V, J] and forward volts [V, J].
    """

    net: Ints
    between_ohm: Floats
    matrix: Floats
    anode: Ints
    cathode: Ints
    forward_v: Floats

    @property
    def variants(self) -> int:
        return len(self.net)


def lumped(tables: Sequence[PassiveTable], corner: int = USUAL) -> Lumped:
    """Variants of one build, all in one corner of their bands: the same nodes and, where nothing is taken out, the same junctions.

    What joins nodes into nets is decided by usual values, so that corners have the same nets.
    """
    nets, copper, parts, joints = [], [], [], []
    for table in tables:
        go_on()
        a, b, ohm = _ends(table, corner)
        joined = np.array([one.ohm[USUAL] for one in table.resistances]) < COPPER_OHM
        label = nets_of(table.nodes, a[joined], b[joined])
        count = int(label.max(initial=-1)) + 1
        nets.append(label)
        copper.append(_within(table.nodes, label, count, a[joined], b[joined], ohm[joined]))
        parts.append((label[a[~joined]], label[b[~joined]], ohm[~joined]))
        joints.append([(label[j.anode], label[j.cathode], j.volts[corner]) for j in table.junctions])
    size = max(int(one.max()) + 1 for one in nets)
    matrix = np.concatenate(
        [stamped(size, a.astype(np.intp), b.astype(np.intp), 1 / np.maximum(ohm, 1e-6)[None, :]) for a, b, ohm in parts]
    )
    most = max((len(one) for one in joints), default=0)
    ends = np.zeros((2, len(tables), most), np.intp)
    # One that was taken out conducts nothing: both its ends are one net.
    forward = np.ones((len(tables), most))
    for v, row in enumerate(joints):
        for j, (anode, cathode, volts) in enumerate(row):
            ends[0, v, j], ends[1, v, j], forward[v, j] = anode, cathode, volts
    return Lumped(np.array(nets), np.array(copper), matrix, ends[0], ends[1], forward)


def nets_of(nodes: int, a: Ints, b: Ints) -> Ints:
    """The net of each node where `a` and `b` are joined pair by pair, nets counted by their first nodes."""
    first = np.arange(nodes)
    while True:
        nearer, before = np.minimum(first[a], first[b]), first.copy()
        np.minimum.at(first, a, nearer)
        np.minimum.at(first, b, nearer)
        first = first[first]
        if (first == before).all():
            return np.asarray(np.unique(first, return_inverse=True)[1], np.intp)


def _ends(table: PassiveTable, corner: int) -> tuple[Ints, Ints, Floats]:
    found = table.resistances
    return (
        np.array([one.a for one in found], np.intp),
        np.array([one.b for one in found], np.intp),
        np.array([one.ohm[corner] for one in found]),
    )


def _within(nodes: int, label: Ints, count: int, a: Ints, b: Ints, ohm: Floats) -> Floats:
    """Resistance of copper between any two nodes of one net [n, n]; what is asked across nets means nothing."""
    laplacian = np.zeros((nodes, nodes))
    siemens = 1 / np.maximum(ohm, 1e-6)
    for i, j, sign in ((a, a, 1.0), (b, b, 1.0), (a, b, -1.0), (b, a, -1.0)):
        np.add.at(laplacian, (i, j), sign * siemens)
    # Each net's volts sum to nothing: what a Laplacian leaves open.
    member = np.zeros((nodes, count))
    member[np.arange(nodes), label] = 1.0
    scale = member / member.sum(axis=0)
    inverse = np.linalg.inv(laplacian + scale @ member.T)
    own = np.diag(inverse)
    return np.asarray(np.maximum(own[:, None] + own[None, :] - inverse - inverse.T, 0.0), np.float64)


def usual_table(
    tables: Sequence[PassiveTable], reds: Ints, blacks: Ints, meter: Meter = METER
) -> tuple[Floats, list[Lumped]]:
    """What a meter on ohms shows, its leads left out [V, P], for each variant of a build and each pair of nodes.

    The first is the sound build, from whose readings the others start. OPEN_OHM where nothing conducts. With them the
    builds they were read from, as many variants in each as are solved side by side. Raises ArithmeticError where a network
    does not settle.
    """
    builds = [lumped(tables[:1])]
    found, volts = _readings(builds[0], reds, blacks, meter, None)
    rows = [found]
    block = max(BLOCK_CELLS // tables[0].nodes ** 2, 1)
    for start in range(1, len(tables), block):
        builds.append(lumped(tables[start : start + block]))
        rows.append(_readings(builds[-1], reds, blacks, meter, volts)[0])
    return np.asarray(np.concatenate(rows), np.float64), builds


def corner_ohms(table: PassiveTable, reds: Ints, blacks: Ints, meter: Meter = METER) -> tuple[Floats, Floats]:
    """One build at least, usual and most [3, P], the meter's leads left out, and volts of all nodes as usual [P, n]."""
    found = [_readings(lumped([table], corner), reds, blacks, meter, None) for corner in range(CORNERS)]
    return np.concatenate([ohm for ohm, _ in found]), found[USUAL][1]


def _readings(
    build: Lumped, reds: Ints, blacks: Ints, meter: Meter, sound_v: Floats | None
) -> tuple[Floats, Floats]:  # fmt: skip
    """Ohms [V, P], and volts of all nodes of the last variant [P, n], which are the sound build's where it is alone."""
    red, black = build.net[:, reds], build.net[:, blacks]
    same = red == black
    found = np.where(same, build.between_ohm[:, reds, blacks], OPEN_OHM)
    volts = np.zeros((len(reds), build.net.shape[1]))
    variant, pair = np.nonzero(~same)
    if not len(variant):
        return np.asarray(found, np.float64), volts
    size = build.matrix.shape[1]
    # Probes on the same two nets of the same variant read the same.
    key = (variant * size + red[variant, pair]) * size + black[variant, pair]
    once, first, back = np.unique(key, return_index=True, return_inverse=True)
    rows, at_red, at_black = once // (size * size), once // size % size, once % size
    read = np.empty(len(once))
    block = max(BLOCK_CELLS // size**2, 1)
    solved = np.empty((len(once), size))
    for start in range(0, len(once), block):
        go_on()
        some = slice(start, start + block)
        nodes_v = sound_v[pair[first[some]]] if sound_v is not None else None
        read[some], solved[some] = _across_nets(build, rows[some], at_red[some], at_black[some], meter, nodes_v)
    found[variant, pair] = read[back]
    volts[pair] = np.take_along_axis(solved[back], build.net[variant], 1)
    return np.asarray(np.minimum(found, OPEN_OHM), np.float64), volts


def _across_nets(
    build: Lumped, rows: Ints, red: Ints, black: Ints, meter: Meter, nodes_v: Floats | None
) -> tuple[Floats, Floats]:  # fmt: skip
    source_ohm = meter.ohms_v / meter.test_a
    at = np.arange(len(rows))
    joints = build.anode[rows], build.cathode[rows], build.forward_v[rows]
    volts = np.zeros((len(rows), build.matrix.shape[1]))
    todo = at
    if nodes_v is not None:
        np.put_along_axis(volts, build.net[rows], nodes_v, 1)
        todo = at[~_stands(build.matrix[rows], joints, red, black, volts, nodes_v, build.net[rows], meter)]
    if len(todo):
        ends = joints[0][todo], joints[1][todo], joints[2][todo]
        volts[todo] = settle(
            ends, build.matrix[rows[todo]], red[todo], black[todo], meter.ohms_v, source_ohm, volts[todo]
        )
    shown = volts[at, red] - volts[at, black]
    return np.asarray(shown / np.maximum((meter.ohms_v - shown) / source_ohm, 1e-12), np.float64), volts


def _stands(
    matrix: Floats, joints: tuple[Ints, Ints, Floats], red: Ints, black: Ints, volts: Floats, nodes_v: Floats, net: Ints,
    meter: Meter,
) -> NDArray[np.bool_]:  # fmt: skip
    """Whether the sound build's volts solve the faulted one too: nets that were joined are level, and currents balance."""
    at = np.arange(len(red))
    left = np.einsum("rij,rj->ri", matrix, volts)
    amps = junction_a(across(volts, joints[0], joints[1]), joints[2])
    for node, flow in ((joints[0], amps), (joints[1], -amps)):
        push(left, node, flow)
    probes = volts[at, red] - volts[at, black]
    drive = (meter.ohms_v - probes) * meter.test_a / meter.ohms_v
    left[at, red] -= drive
    left[at, black] += drive
    level = np.abs(nodes_v - np.take_along_axis(volts, net, 1)).max(axis=1)
    balanced = np.abs(left).max(axis=1) < SAME_SHARE * np.abs(drive)
    return np.asarray((level < SAME_SHARE * np.abs(probes)) & balanced, np.bool_)
