"""What rules propose for a device in the wrong place or a rail with too much on it: another rail, or a regulator of its own.

Proposals are cheap to make and go by the volts there are; `fixes` solves each before it is offered.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import lru_cache
from typing import Literal

from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.graph import graph_of
from yardmeter.core.network.build import Situation, own_cells_v
from yardmeter.core.network.loads import active_draw
from yardmeter.core.parts import Part
from yardmeter.core.parts.own_cell import may_have_its_own, own_cell
from yardmeter.core.plan import Device, EfficiencyPoint, Pack, Plan, Rail, Regulator, Return, Wire
from yardmeter.core.plan.boards import Board
from yardmeter.core.plan.devices import DeviceKind
from yardmeter.core.plan.operations import Add, Edit, Move, SetState, SetValue
from yardmeter.core.plan.sources import Cells
from yardmeter.core.verdict import Fix

STAYS: tuple[DeviceKind, ...] = ("motor", "logic")
"""What is fed where it is made: motors by their ESC, a board's own logic by its board."""
PROPOSED = 4
"""Moves proposed for one device at most."""
LEFT_OUT = 8
"""Devices switched off in one condition at most: more are a condition of its own."""
INSIDE_FRAC = 0.02
"""How far inside a window volts must be for a move to be proposed; our choice."""
RATINGS_A = (1.0, 2.0, 3.0, 5.0, 8.0)
"""Printed ratings of stand-alone regulators on the market; common practice, no source."""
OWN_SERIES = (1, 2, 3)
"""Cells of a small pack for one device."""
RESERVE_FRAC = 0.2
THETA_POWER = 0.7
"""By which power of its rating a stand-alone regulator sheds more heat; our estimate from such parts."""


def move_fixes(case: SolvedPlan, device: Device) -> tuple[Fix, ...]:
    """The rails it could move to, then a regulator of its own."""
    moves = tuple(Fix("move", (Move(device=device.id, rail=rail.id),)) for rail in rails_for(case, device))
    own = new_regulator_fix(case, [device])
    cell = cell_fix(case, device)
    return (*moves, *(one for one in (own, cell) if one))


def cell_fix(case: SolvedPlan, device: Device) -> Fix | None:
    """A small pack of its own, of as many cells as suit it from full to the lowest a condition sees."""
    if not may_have_its_own(case.plan, device):
        return None
    on = [Situation(c) for c in case.pack_conditions() if c.state_of(device.id) != "off"]
    for series in OWN_SERIES:
        made = Cells(series=series)
        least = min((own_cells_v(case.plan, made, one) for one in on), default=0.0)
        if device.lives_between(least, made.rest_v("full"), INSIDE_FRAC):
            part = Part(key=f"cell-{series}s", name=f"{series}S 0.3 Ah", kind="pack", weight_g=8.0 * series, pack=Pack(
                series=series, capacity_ah=0.3, cell_ohm=0.03, rail=case.plan.pack.rail))  # fmt: skip
            return Fix("own cell", own_cell(case.plan, device, part))
    return None


def rails_for(case: SolvedPlan, device: Device, leaving: str | None = None) -> list[Rail]:
    """Rails whose volts suit a device in every pack condition, and on a full pack, most spare amps first.

    `leaving` is a rail that is to be relieved: what hangs from it is no way out.
    """
    if device.kind in STAYS:
        return []
    graph = graph_of(case.plan)
    relieved = graph.rails_below({leaving}) if leaving else set()
    found = []
    for rail in case.plan.rails:
        stays = device.feed is not None and device.feed.rail == rail.id
        if (
            stays
            or rail.id in relieved
            or rail.id in case.plan.cell_rails
            or (device.keeps_control and graph.passed_on(rail.id))
        ):
            continue
        states = [case.rail(rail.id).states[c.id] for c in case.pack_conditions() if c.state_of(device.id) != "off"]
        volts = [state.volts_v for state in states]
        if (full := graph.full_v(rail.id)) is not None:
            volts.append(full)
        if states and device.lives_between(min(volts), max(volts), INSIDE_FRAC):
            found.append((min(state.spare_a for state in states), rail))
    return [rail for _, rail in sorted(found, key=lambda item: -item[0])[:PROPOSED]]


def relief_fixes(case: SolvedPlan, rail: Rail, condition: str) -> Iterator[Fix]:
    """A regulator of their own for the biggest consumers, and moves of single ones that are enough, to rails with room."""
    yield from larger_fix(case, rail, condition)
    own = overload_fix(case, rail, condition)
    if own:
        yield own
    state = case.rail(rail.id).states[condition]
    over = state.over
    wanted_a = state.usable_a * (1.0 if over else 1 - case.plan.policy.thin_margin_frac)
    for one in state.consumers:
        device = case.plan.device_of.get(one.id)
        if device is None or state.asked_a - one.asked_a > wanted_a:
            continue
        targets = rails_for(case, device, leaving=rail.id)
        yield from (Fix("move", (Move(device=device.id, rail=target.id),)) for target in targets[:2])
        if cell := cell_fix(case, device):
            yield cell
        if targets:
            return


def feed_fixes(case: SolvedPlan, supply: Regulator) -> Iterator[Fix]:
    """The regulator fed from the pack, or from another rail it stands, instead of from the one it hangs on."""
    plan, below = case.plan, graph_of(case.plan).rails_below({supply.output})
    found = []
    for rail in plan.rails:
        if rail.id in below or rail.id == supply.input or rail.board not in plan.board_of or rail.id in plan.cell_rails:
            continue
        volts = [case.rail(rail.id).states[c.id].volts_v for c in case.pack_conditions()]
        if volts and max(supply.start_v, supply.set_v) < min(volts) and max(volts) < supply.input_max_v:
            found.append((rail.id != plan.pack.rail, -min(volts), rail.id))
    for _, _, rail_id in sorted(found)[:PROPOSED]:
        yield Fix("feed rail", (SetValue(element=supply.id, field="input", value=rail_id),))


def source_fixes(case: SolvedPlan, device: Device) -> Iterator[Fix]:
    """A regulator into the rail a device hangs from, where that has volts of its own and nothing feeds it."""
    plan, graph = case.plan, graph_of(case.plan)
    ports = {inlet.rail for inlet in plan.inlets}
    if device.feed is None or device.feed.rail in ports:
        return
    root = plan.rail_of[[one for one in graph.climb(device.feed.rail) if one not in ports][-1]]
    inputs = [case.rail(plan.pack.rail).states[c.id].volts_v for c in case.pack_conditions()]
    if not root.nominal_v or root.id in graph.rails_below([plan.pack.rail]) or not inputs:
        return
    below = graph.rails_below([root.id])
    fed = [d for d in plan.devices if d.feed and d.feed.rail in below]
    asked_a = sum(most_asked_a(case, one, root.nominal_v) for one in fed)
    rating = next((r for r in RATINGS_A if r * plan.policy.alone_derate_frac / (1 + RESERVE_FRAC) >= asked_a), None)
    if rating is not None:
        board, _, supply = fit_regulator(plan, root.nominal_v, rating, lowest_v=min(inputs))
        wired = {"output": root.id, "lead": Wire(gauge_awg=22, length_m=0.06).model_dump(mode="json")}
        yield Fix("feed it", (board, Add(kind="supply", value={**supply.value, **wired})))


def cooler_fixes(case: SolvedPlan, supply: Regulator, condition: str) -> Iterator[Fix]:
    """Less for a hot regulator to burn: fed from fewer volts, or relieved of its biggest consumers; or a larger one."""
    rail = case.plan.rail_of.get(supply.output)
    yield from reversed(list(feed_fixes(case, supply)))
    if rail is None:
        return
    yield from larger_fix(case, rail, condition)
    devices = [
        case.plan.device_of[one.id]
        for one in case.rail(rail.id).states[condition].consumers
        if one.id in case.plan.device_of
    ]
    movable = [one for one in devices if one.kind not in STAYS and not one.keeps_control][:2]
    for device in movable:
        targets = rails_for(case, device, leaving=rail.id)
        yield from (Fix("move", (Move(device=device.id, rail=target.id),)) for target in targets[:2])
        if cell := cell_fix(case, device):
            yield cell
    for chosen in [movable[:k] for k in range(1, len(movable) + 1)]:
        if own := new_regulator_fix(case, chosen):
            yield own


def leave_out_fixes(case: SolvedPlan, rail: Rail, condition: str, limit_a: float) -> Iterator[Fix]:
    """The fewest of the biggest devices below a rail switched off in one condition, so that what it asks comes under a limit."""
    below = graph_of(case.plan).rails_below({rail.id})
    fed = [d for d in case.plan.devices if d.feed and d.feed.rail in below and not d.keeps_control and not d.throttle]
    watts = {d.id: (s := case.device(d.id).states[condition]).asked_a * s.pin_v for d in fed}
    state = case.rail(rail.id).states[condition]
    left_w, chosen = state.asked_a * state.volts_v, []
    for device in sorted(watts, key=lambda one: -watts[one]):
        if left_w <= limit_a * state.volts_v or watts[device] <= 0:
            break
        chosen.append(device)
        left_w -= watts[device]
    if chosen and len(chosen) <= LEFT_OUT:
        yield Fix("leave out", tuple(SetState(condition=condition, device=one, state="off") for one in chosen))


def larger_fix(case: SolvedPlan, rail: Rail, condition: str) -> Iterator[Fix]:
    """The next larger stand-alone regulator in the place of one that is too small."""
    feeding = [s for s in case.plan.supplies_into(rail.id) if isinstance(s, Regulator)]
    if len(feeding) != 1 or feeding[0].place != "alone":
        return
    old, asked_a = feeding[0], case.rail(rail.id).states[condition].asked_a
    for rating in RATINGS_A:
        if rating > old.rating_a and rating * case.plan.policy.alone_derate_frac >= asked_a:
            grown = (rating / old.rating_a) ** THETA_POWER
            values = {"rating_a": rating, "theta_still_k_w": old.theta_still_k_w / grown, "theta_moving_k_w": old.theta_moving_k_w / grown}  # fmt: skip
            if old.current_limit_a is not None:
                values["current_limit_a"] = old.current_limit_a * rating / old.rating_a
            yield Fix("larger", tuple(SetValue(element=old.id, field=k, value=v) for k, v in values.items()))
            return


def overload_fix(case: SolvedPlan, rail: Rail, condition: str) -> Fix | None:
    """The fewest of the biggest movable consumers whose leaving brings the rail back under its usable rating."""
    state = case.rail(rail.id).states[condition]
    target = state.usable_a * (1 - case.plan.policy.thin_margin_frac)
    left, chosen = state.asked_a, []
    on_it = [(case.plan.device_of[one.id], one.asked_a) for one in state.consumers if one.kind == "device"]
    movable = [(device, asked_a) for device, asked_a in on_it if device.kind not in STAYS]
    # What keeps control goes only where all else is not enough.
    for device, asked_a in sorted(movable, key=lambda pair: pair[0].keeps_control):
        if left > (state.usable_a if device.keeps_control else target):
            chosen.append(device)
            left -= asked_a
    if not chosen or left > state.usable_a or len(chosen) > 4:
        return None
    return new_regulator_fix(case, chosen)


def new_regulator_fix(case: SolvedPlan, devices: Sequence[Device]) -> Fix | None:
    """A stand-alone regulator on the pack rail for these devices, set to a voltage inside all their windows."""
    low, high = max(d.min_v for d in devices), min(d.max_v for d in devices)
    wanted = [d.nominal_v for d in devices if low <= d.nominal_v <= high]
    if low >= high or not wanted or any(d.kind in STAYS for d in devices):
        return None
    set_v = sold_v(low, high, max(wanted))
    asked = sum(most_asked_a(case, device, set_v) for device in devices)
    factor = case.plan.policy.alone_derate_frac / (1 + RESERVE_FRAC)
    rating = next((r for r in RATINGS_A if r * factor >= asked), None)
    source = case.rail(case.plan.pack.rail)
    inputs = [source.states[c.id].volts_v for c in case.pack_conditions()]
    if rating is None or not inputs:
        return None
    edits = fit_regulator(case.plan, set_v, rating, lowest_v=min(inputs))
    moves: list[Edit] = [Move(device=d.id, rail=str(edits[1].value["id"])) for d in devices]
    return Fix("own regulator", (*edits, *moves))


SOLD_V = (3.3, 5.0, 6.0, 7.4, 8.0, 9.0, 10.0, 12.0, 15.0, 19.0, 24.0)
"""Volts regulators are sold for; common practice, no source."""


def sold_v(low_v: float, high_v: float, wanted_v: float) -> float:
    """The volts a regulator can be bought for that lie nearest to those wanted, within a window; those wanted where none do."""
    fitting = [v for v in SOLD_V if low_v <= v <= high_v]
    return min(fitting, key=lambda v: abs(v - wanted_v), default=wanted_v)


def most_asked_a(case: SolvedPlan, device: Device, volts: float) -> float:
    """The largest current the device asks for at these volts in any pack condition [A]."""
    asked = [draw for c in case.pack_conditions() if (draw := active_draw(device, c))]
    watts = device.law == "power"
    return max(
        (d.watts_at(device.nominal_v) / volts if watts else d.amps_at(device.nominal_v) for d in asked), default=0.0
    )


def fit_regulator(
    plan: Plan, set_v: float, rating_a: float, *, lowest_v: float, feed_rail: str | None = None
) -> tuple[Add, Add, Add]:
    """Edits that add a stand-alone regulator: its board, its rail and itself."""
    number = 1
    while any(f"bec{number}{part}" in plan.elements for part in ("", "-rail", "-reg")):
        number += 1
    source = feed_rail or plan.pack.rail
    holds = lowest_v > set_v + plan.policy.thin_headroom_v + 0.3
    input_max_v = max(30.0, round(plan.pack.rest_v("full") * 1.4))
    starts, stops = max(min(4.5, lowest_v * 0.8), 0.0), max(min(4.2, lowest_v * 0.75), 0.0)
    kind: Literal["buck", "buckboost"] = "buck" if holds else "buckboost"
    home = source, plan.rail_of[source].board
    return _stand_alone(f"bec{number}", kind, home, set_v, rating_a, input_max_v, (starts, stops))


@lru_cache(maxsize=64)
def _stand_alone(
    stem: str,
    kind: Literal["buck", "buckboost"],
    home: tuple[str, str],
    set_v: float,
    rating_a: float,
    input_max_v: float,
    runs_v: tuple[float, float],
) -> tuple[Add, Add, Add]:
    """A stand-alone regulator on a rail of a board (`home`). Figures of a good small one; our choice.

    Every edit asks for the same few again, and nobody writes into what is proposed.
    """
    name = f"{set_v:.3g} V {rating_a:g} A BEC"
    source, source_board = home
    ground = Return(id=f"{stem}-gnd", to=source_board, wire=Wire(gauge_awg=22, length_m=0.06))
    board = Board(id=stem, name=name, kind="regulator", returns=(ground,), weight_g=2 + 1.5 * rating_a)
    rail = Rail(id=f"{stem}-rail", name=name, board=stem, nominal_v=set_v)
    regulator = Regulator(
        kind=kind,
        place="alone",
        id=f"{stem}-reg",
        name=name,
        input=source,
        output=rail.id,
        board=stem,
        feed=Wire(gauge_awg=22, length_m=0.06),
        set_v=set_v,
        rating_a=rating_a,
        input_max_v=input_max_v,
        start_v=runs_v[0],
        stop_v=runs_v[1],
        efficiency=(
            EfficiencyPoint(amps=rating_a * 0.3, efficiency_frac=0.91),
            EfficiencyPoint(amps=rating_a * 0.8, efficiency_frac=0.88),
        ),
        theta_still_k_w=55 / rating_a**THETA_POWER,
        theta_moving_k_w=28 / rating_a**THETA_POWER,
    )
    return (
        Add(kind="board", value=board.model_dump(mode="json")),
        Add(kind="rail", value=rail.model_dump(mode="json")),
        Add(kind="supply", value=regulator.model_dump(mode="json")),
    )
