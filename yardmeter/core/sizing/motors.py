"""A motor group shared out over several ESCs."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from yardmeter.core.graph import graph_of
from yardmeter.core.plan import Device, Plan
from yardmeter.core.plan.devices import Draw
from yardmeter.core.plan.ids import fresh_id
from yardmeter.core.plan.operations import Add, Edit, SetValue


def motor_count(device: Device) -> int:
    return device.motors.count if device.motors else 1


def split_motors(plan: Plan, device: Device, boards: Sequence[str]) -> Iterator[Edit]:
    """Edits that leave a group its share and put a like group at each of `boards`; together they draw, and weigh, what it did.

    Each of `boards` has a rail that follows the pack.
    """
    count, ways = motor_count(device), len(boards) + 1
    shares = [count // ways + (k < count % ways) for k in range(ways)]
    taken: set[str] = set()
    for board, share in zip(boards, shares[1:], strict=True):
        made = _part_of(device, share / count).model_dump(mode="json")
        name = fresh_id(plan, f"{device.id}-{board}", taken)
        back = fresh_id(plan, f"{name}-gnd", {*taken, name})
        taken |= {name, back}
        made |= {"id": name, "name": f"{device.name} at {plan.title(board)}"[:80], "pins": []}
        made["motors"] = (made["motors"] or {}) | {"count": share}
        made["feed"] |= {"rail": pack_side(plan, board), "pad": None, "pin": None}
        made["returns"] = [
            {**wire.model_dump(mode="json"), "id": back, "to": board, "pin": None} for wire in device.returns[:1]
        ]
        yield Add(kind="device", value=made)
    left = _part_of(device, shares[0] / count).model_dump(mode="json")
    yield SetValue(element=device.id, field="motors.count", value=shares[0])
    for field in ("draws", "throttle", "weight_g", "input_f"):
        yield SetValue(element=device.id, field=field, value=left[field])


def pack_side(plan: Plan, board: str) -> str | None:
    """The rail of an ESC that motors hang on: one that follows the pack; None of one that nothing feeds yet."""
    fed = graph_of(plan).rails_below([plan.pack.rail])
    here = (rail for rail in plan.rails if rail.board == board)
    return next((one.id for one in here if one.id in fed and one.nominal_v is None), None)


def _part_of(device: Device, frac: float) -> Device:
    def less(one: Draw) -> Draw:
        return one.model_copy(update={"value": one.value * frac})

    throttle = tuple(one.model_copy(update={"amps": one.amps * frac}) for one in device.throttle)
    draws = device.draws.model_copy(update={n: less(draw) for n, draw in device.draws if draw is not None})
    share = {"weight_g": device.weight_g * frac, "input_f": device.input_f * frac}
    return device.model_copy(update={"draws": draws, "throttle": throttle, **share})
