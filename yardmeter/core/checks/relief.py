"""Fixes that bring a stand-alone regulator: which devices it takes, how large it is, and the edits that fit it."""

from __future__ import annotations

from collections.abc import Sequence

from yardmeter.core.checks.finding import Fix
from yardmeter.core.checks.registry import Case
from yardmeter.core.plan import Device, EfficiencyPoint, Plan, Rail, Regulator, Return, Wire
from yardmeter.core.plan.boards import Board
from yardmeter.core.plan.operations import Add, Edit, Move
from yardmeter.core.plan.parts import Model

RATINGS_A = (1.0, 2.0, 3.0, 5.0, 8.0)
"""Printed ratings of stand-alone regulators on the market; common practice, no source."""
RESERVE_FRAC = 0.2


def new_regulator_fix(case: Case, devices: Sequence[Device]) -> Fix | None:
    """A stand-alone regulator on the pack rail for these devices, set to a voltage inside all their windows."""
    low, high = max(d.min_v for d in devices), min(d.max_v for d in devices)
    wanted = [d.nominal_v for d in devices if low <= d.nominal_v <= high]
    if low >= high or not wanted or any(d.kind == "motor" for d in devices):
        return None
    set_v = round(min(max(wanted) * 1.01, high * 0.98), 2)
    asked = [_asked_a(case, device, set_v) for device in devices]
    rating = next(
        (r for r in RATINGS_A if r * case.plan.policy.alone_derate_frac >= sum(asked) * (1 + RESERVE_FRAC)), None
    )
    source = case.rail(case.plan.pack.rail)
    inputs = [source.states[c.id].volts_v for c in case.pack_conditions()]
    if rating is None or not inputs:
        return None
    edits = fit_regulator(case.plan, set_v, rating, lowest_v=min(inputs))
    moves: list[Edit] = [Move(device=d.id, rail=str(edits[1].value["id"])) for d in devices]
    names = " and ".join(d.name for d in devices)
    return Fix(title=f"{names} → a new {devices[0].nominal_v:g} V {rating:g} A BEC on the pack", edits=(*edits, *moves))


def _asked_a(case: Case, device: Device, volts: float) -> float:
    """The largest current the device asks for at these volts in any pack condition [A]."""
    most = 0.0
    for condition in case.pack_conditions():
        state = condition.state_of(device.id)
        if state != "off":
            draw = {"idle": device.draws.idle, "typical": device.draws.typical, "peak": device.draws.peak}[state]
            most = max(
                most,
                draw.watts_at(device.nominal_v) / volts if device.law == "power" else draw.amps_at(device.nominal_v),
            )
    return most


def fit_regulator(
    plan: Plan, set_v: float, rating_a: float, *, lowest_v: float, feed_rail: str | None = None
) -> tuple[Add, Add, Add]:
    """Edits that add a stand-alone regulator: its board, its rail and itself. Figures of a good small one; our choice."""
    number = 1
    while any(f"bec{number}{part}" in plan.elements for part in ("", "-rail", "-reg")):
        number += 1
    stem, name = f"bec{number}", f"{set_v:.3g} V {rating_a:g} A BEC"
    source = feed_rail or plan.pack.rail
    holds = lowest_v > set_v + plan.policy.thin_headroom_v + 0.3
    full_v = plan.pack.rest_v("full")
    ground = Return(id=f"{stem}-gnd", to=plan.rail_of[source].board, wire=Wire(gauge_awg=22, length_m=0.06))
    board = Board(id=stem, name=name, kind="regulator", returns=(ground,), weight_g=2 + 1.5 * rating_a)
    rail = Rail(id=f"{stem}-rail", name=name, board=stem, nominal_v=set_v)
    regulator = Regulator(
        kind="buck" if holds else "buckboost",
        place="alone",
        id=f"{stem}-reg",
        name=name,
        input=source,
        output=rail.id,
        board=stem,
        feed=Wire(gauge_awg=22, length_m=0.06),
        set_v=set_v,
        rating_a=rating_a,
        input_max_v=max(30.0, round(full_v * 1.4)),
        start_v=min(6.0, lowest_v * 0.8),
        stop_v=min(5.5, lowest_v * 0.75),
        efficiency=(
            EfficiencyPoint(amps=rating_a * 0.3, efficiency_frac=0.91),
            EfficiencyPoint(amps=rating_a * 0.8, efficiency_frac=0.88),
        ),
        theta_still_k_w=55 / rating_a**0.7,
        theta_moving_k_w=28 / rating_a**0.7,
    )
    return (
        Add(kind="board", value=_plain(board)),
        Add(kind="rail", value=_plain(rail)),
        Add(kind="supply", value=_plain(regulator)),
    )


def _plain(element: Model) -> dict[str, object]:
    return element.model_dump(mode="json")


def overload_fix(case: Case, rail: Rail, condition_id: str) -> Fix | None:
    """The fewest of the biggest movable consumers whose leaving brings the rail back under its usable rating."""
    state = case.rail(rail.id).states[condition_id]
    target = state.usable_a * (1 - case.plan.policy.thin_margin_frac)
    left, chosen = state.asked_a, []
    for wagon in state.wagons:
        if wagon.kind == "device" and left > target and not case.plan.device_of[wagon.id].keeps_control:
            chosen.append(case.plan.device_of[wagon.id])
            left -= wagon.asked_a
    if not chosen or left > state.usable_a or len(chosen) > 4:
        return None
    return new_regulator_fix(case, chosen)
