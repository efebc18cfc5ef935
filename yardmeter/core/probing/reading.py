"""One reading: its range over everything that is not known exactly, and what it is made of."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Literal, get_args

import numpy as np

from yardmeter.core.answers.conditions import Solved
from yardmeter.core.errors import EditError
from yardmeter.core.patience import go_on
from yardmeter.core.plan import Condition
from yardmeter.core.probing.lumped import corner_ohms
from yardmeter.core.probing.meter import METER, Meter
from yardmeter.core.probing.passive import CORNERS, PassiveTable
from yardmeter.core.probing.points import Point
from yardmeter.core.solver.junctions import DECADE_V, KNEE_A
from yardmeter.core.solver.passive import (
    Floats,
    Ints,
    PassiveNetwork,
    Probed,
    charge_until,
    probe,
)
from yardmeter.core.ways import Ways, join, lightest

Mode = Literal["ohms", "beep", "diode", "volts", "amps"]
MODES: tuple[Mode, ...] = get_args(Mode)
Beeps = Literal["no", "chirp", "steady"]
OPEN_FRAC = 0.97
"""A diode test that shows this share of its open volts shows that nothing conducts."""
TOLD_SHARE = 0.12
"""What carries less of the current is not told."""
FIRST_S = 1e-7
BLOCK_CELLS = 8_000_000
"""Cells of the matrices that are solved side by side: some 64 MB."""


@dataclass(frozen=True)
class Carrier:
    """A part the test current flows through, and its share of it."""

    element: str
    share_frac: float


@dataclass(frozen=True)
class Reading:
    """`low` to `high` in `unit`; `high` is None where the meter shows that nothing conducts.

    For a beep: how long it lasts, from `beep_low_s` to `beep_high_s`, infinite where it stays. `carriers` are the parts the
    current takes; `between` are those that stand in the way where nothing conducts.
    """

    mode: Mode
    low: float
    usual: float
    high: float | None
    unit: Literal["Ω", "V", "A"]
    beeps: Beeps = "no"
    beep_low_s: float = 0.0
    beep_high_s: float = 0.0
    carriers: tuple[Carrier, ...] = ()
    between: tuple[str, ...] = ()
    copper: tuple[str, ...] = ()
    """Wires on the way, where copper alone joins the two."""


def read(table: PassiveTable, red: Point, black: Point, mode: Mode, meter: Meter = METER) -> Reading:
    """Ohms, beep or diode test of the unpowered build. Raises EditError for a mode that needs power."""
    return read_many(table, [(red, black)], mode, meter)[0]


def read_after(table: PassiveTable, red: Point, black: Point, meter: Meter = METER) -> Reading:
    """A beep at a place whose capacitors may be empty, or charged by the same meter the other way round.

    Changing the probes over takes longer: what was charged goes down to nothing first, and up again.
    """
    empty = read(table, red, black, "beep", meter)
    if not table.storages or empty.beeps == "steady":
        return empty
    source = meter.ohms_v / meter.test_a
    reds, blacks = (np.repeat([one.node], CORNERS) for one in (black, red))
    back = _probed(table.compiled(), reds, blacks, meter.ohms_v, source)
    ohms = np.full(CORNERS, np.inf)
    beeps, _, longest = _beep(table, red, black, ohms, meter, back.volts)
    longest = max(longest, empty.beep_high_s)
    return replace(empty, beeps=beeps if empty.beeps == "no" else empty.beeps, beep_high_s=longest)


def read_many(
    table: PassiveTable,
    probes: Sequence[tuple[Point, Point]],
    mode: Mode,
    meter: Meter = METER,
    *,
    lasting: bool = True,
) -> list[Reading]:
    """One mode at many places, solved side by side; how long a beep lasts only where `lasting`."""
    if mode in ("volts", "amps"):
        raise EditError(f"{mode.capitalize()} are read with power on.", where=mode, remedy="Name a condition.")
    if not probes:
        return []
    open_v = meter.diode_v if mode == "diode" else meter.ohms_v
    reds, blacks = (np.repeat([one[k].node for one in probes], CORNERS) for k in (0, 1))
    net = table.compiled()
    # Side by side as long as the matrices fit; a large build goes in several blocks.
    block = max(BLOCK_CELLS // (CORNERS * table.nodes**2), 1)
    found: list[Reading] = []
    for start in range(0, len(probes), block):
        go_on()
        some = slice(CORNERS * start, CORNERS * (start + block))
        count = len(reds[some]) // CORNERS
        at = _probed(net, reds[some], blacks[some], open_v, open_v / meter.test_a)
        found += [
            _reading(
                table, *probes[start + k], mode, meter, at.rows(slice(CORNERS * k, CORNERS * (k + 1))), lasting=lasting
            )
            for k in range(count)
        ]
    return found


def read_list(table: PassiveTable, probes: Sequence[tuple[Point, Point]], meter: Meter = METER) -> list[Reading]:
    """Ohms at the many places of a list, copper lumped into nets (see `lumped`): how long a beep lasts is not asked."""
    if not probes:
        return []
    reds, blacks = (np.array([one[k].node for one in probes], np.intp) for k in (0, 1))
    ohms, volts = corner_ohms(table, reds, blacks, meter)
    source = meter.ohms_v / meter.test_a
    found = []
    for k, (red, black) in enumerate(probes):
        go_on()
        across = meter.ohms_v * ohms[:, k] / (source + ohms[:, k])
        at = Probed(np.repeat(volts[k][None, :], CORNERS, axis=0), across, (meter.ohms_v - across) / source)
        found.append(_reading(table, red, black, "ohms", meter, at, lasting=False))
    return found


def _probed(net: PassiveNetwork, reds: Ints, blacks: Ints, open_v: float, source_ohm: float) -> Probed:
    try:
        return probe(net, reds, blacks, open_v, source_ohm)
    except ArithmeticError:
        raise EditError(
            "What a meter reads there could not be worked out.",
            remedy="Probe nearer to the part in question, and tell us of the plan.",
        ) from None


def _reading(
    table: PassiveTable, red: Point, black: Point, mode: Mode, meter: Meter, at: Probed, *, lasting: bool
) -> Reading:
    if red.node == black.node:
        return Reading(mode, 0.0, meter.leads_low_ohm, meter.leads_high_ohm, "Ω", "steady", math.inf, math.inf)
    between: tuple[str, ...] = ()
    copper = _owners(table, red, black)
    # Where copper joins them it carries all that counts.
    carriers = () if copper else _carriers(table, at)
    if mode == "diode":
        opened = at.across > OPEN_FRAC * meter.diode_v
        if opened[1]:
            carriers, between = (), _between(table, red.node, black.node)
        low, high = float(at.across.min()), float(at.across.max())
        spread = meter.volts_frac * high + meter.least_v
        top = None if bool(opened.any()) else high + spread
        usual = float(at.across[1])
        return Reading(mode, max(low - spread, 0.0), usual, top, "V", carriers=carriers, between=between, copper=copper)
    ohms = at.across / np.maximum(at.amps, 1e-12)
    low = max(float(ohms.min()) * (1 - meter.error_frac) + meter.leads_low_ohm - meter.least_ohm, 0.0)
    high = float(ohms.max()) * (1 + meter.error_frac) + meter.leads_high_ohm + meter.least_ohm
    shown = None if high > meter.most_ohm else high
    if ohms[1] > meter.most_ohm:
        carriers, between = (), _between(table, red.node, black.node)
    usual = float(ohms[1]) + (meter.leads_low_ohm + meter.leads_high_ohm) / 2
    if mode == "ohms" or not lasting:
        steady = float(ohms.max()) + meter.leads_high_ohm < meter.beep_low_ohm
        return Reading(mode, low, usual, shown, "Ω", "steady" if steady else "no", carriers=carriers, between=between, copper=copper)  # fmt: skip
    beeps, shortest, longest = _beep(table, red, black, ohms, meter)
    return Reading(mode, low, usual, shown, "Ω", beeps, shortest, longest, carriers, between, copper)


def _beep(
    table: PassiveTable, red: Point, black: Point, ohms: Floats, meter: Meter, held_v: Floats | None = None
) -> tuple[Beeps, float, float]:
    """How long it beeps: from the moment of touching until the capacitors have charged past what it beeps below.

    `held_v` are volts of all nodes that capacitors were left at.
    """
    if float(ohms.max()) + meter.leads_high_ohm < meter.beep_low_ohm:
        return "steady", math.inf, math.inf
    if not table.storages:
        return "no", 0.0, 0.0
    source = meter.ohms_v / meter.test_a
    levels = [meter.ohms_v * limit / (source + limit) for limit in (meter.beep_low_ohm, meter.beep_high_ohm)]
    sure, never = charge_until(
        table.compiled(), red.node, black.node, meter.ohms_v, source, levels, from_s=FIRST_S, to_s=meter.patience_s,
        held_v=held_v,
    )  # fmt: skip
    shortest, longest = float(np.min(sure)), float(np.max(never))
    if math.isinf(shortest):
        return "steady", shortest, longest
    # What is over before the meter has answered is not heard.
    return ("no" if longest < meter.answers_s else "chirp"), shortest, longest


def _carriers(table: PassiveTable, at: Probed) -> tuple[Carrier, ...]:
    """Parts, no copper, that carry a good share of the test current, in the usual corner."""
    volts, total = at.volts[1], float(at.amps[1])
    if total < 1e-9:
        return ()
    share: dict[str, float] = {}
    for one in table.resistances:
        if one.key is None:
            share[one.element] = max(
                share.get(one.element, 0.0), float(abs(volts[one.a] - volts[one.b])) / one.ohm[1] / total
            )
    for joint in table.junctions:
        across = min(volts[joint.anode] - volts[joint.cathode], joint.volts[1] + DECADE_V * 6)
        amps = KNEE_A * 10 ** ((across - joint.volts[1]) / DECADE_V)
        share[joint.element] = max(share.get(joint.element, 0.0), float(amps) / total)
    # By rounding alone nobody is before another.
    told = sorted(((round(part, 6), name) for name, part in share.items() if part >= TOLD_SHARE), reverse=True)
    return tuple(Carrier(name, min(part, 1.0)) for part, name in told)


Joint = tuple[int, int, str, float, bool]
"""Its ends, the element, what it weighs on a way, whether it is copper."""


def _everything(table: PassiveTable) -> list[Joint]:
    """Whatever stands between two nodes, conducting or not; of several between the same two the last counts."""
    found: list[Joint] = [(one.a, one.b, one.element, 1e6, False) for one in table.storages]
    found += [(one.anode, one.cathode, one.element, 1e4, False) for one in table.junctions]
    return found + [(one.a, one.b, one.element, one.ohm[1], one.key is not None) for one in table.resistances]


def _owners(table: PassiveTable, red: Point, black: Point) -> tuple[str, ...]:
    """Elements whose wires lead from one point to the other; none where they are not one net."""
    return tuple(dict.fromkeys(key.element or "pack" for key in table.copper_way(red.node, black.node) or ()))


def _between(table: PassiveTable, a: int, b: int) -> tuple[str, ...]:
    """Parts on the nearest way from one node to the other: what does not conduct."""
    joints = _everything(table)
    found: Ways[int] = {}
    for one, other, _, weight, _ in joints:
        join(found, one, other, weight)
    way = lightest(found, a, b)
    last = {frozenset(joint[:2]): joint for joint in joints}
    on = [last[frozenset(pair)] for pair in pairwise(way or ())]
    return tuple(dict.fromkeys(element for _, _, element, _, copper in on if not copper))


def read_powered(
    solved: Solved,
    condition: Condition,
    table: PassiveTable,
    red: Point,
    black: Point,
    mode: Mode,
    meter: Meter = METER,
) -> Reading:
    """Volts between two points, or amps through the one wire between them, in a condition.

    Raises EditError for amps between points that no single wire joins, and for signal pins, whose volts change.
    """
    view = solved.given[condition.id]
    if not view.converged:
        raise EditError(
            f"{condition.name} has no operating point.", where=condition.id, remedy="Cure what overloads it first."
        )
    for one in (red, black):
        if one.kind == "signal pin":
            raise EditError(f"{one.name} carries a signal.", where=one.id, remedy="Probe a supply or a ground.")
    if mode == "volts":
        volts = view.node_v(red.node, table.minus) - view.node_v(black.node, table.minus)
        spread = meter.volts_frac * abs(volts) + meter.least_v
        return Reading(mode, volts - spread, volts, volts + spread, "V", copper=_owners(table, red, black))
    wires = [one for one in table.resistances if one.key and {one.a, one.b} == {red.node, black.node}]
    key = wires[0].key if len(wires) == 1 else None
    if key is None:
        raise EditError(
            f"{len(wires) or 'No'} wires join {red.name} and {black.name}.",
            where=f"{red.id}, {black.id}",
            remedy="For amps name the two ends of one wire: the meter takes its place.",
        )
    amps = view.conductor_a(key)
    along = amps if wires[0].a == red.node else -amps
    spread = meter.amps_frac * abs(along) + 1e-4
    return Reading("amps", along - spread, along, along + spread, "A", copper=(wires[0].element,))
