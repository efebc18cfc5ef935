"""What a fix does, in a line."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

from yardmeter.core.plan import Plan, Regulator
from yardmeter.core.plan.operations import Add, Edit, Move, Remove, SetState, SetValue
from yardmeter.core.units import format_si
from yardmeter.core.verdict import Fix, FixKind

E = TypeVar("E", bound=Edit)


def title(plan: Plan, fix: Fix) -> str:
    """The line on its button; `plan` is the one before the fix."""
    return TITLES[fix.kind](plan, fix)


def _all(fix: Fix, kind: type[E]) -> list[E]:
    return [one for one in fix.edits if isinstance(one, kind)]


def _set(fix: Fix) -> dict[str, Any]:
    """What is set, by the last part of the field's name."""
    return {one.field.rsplit(".", 1)[-1]: one.value for one in _all(fix, SetValue)}


def _names(plan: Plan, ids: list[str], joint: str = ", ") -> str:
    return joint.join(plan.title(one) for one in ids)


def _move(plan: Plan, fix: Fix) -> str:
    (move,) = _all(fix, Move)
    return f"{plan.title(move.device)} → {plan.title(move.rail)}"


def _own_regulator(plan: Plan, fix: Fix) -> str:
    devices = [plan.device_of[one.device] for one in _all(fix, Move)]
    made = next(one.value for one in _all(fix, Add) if one.kind == "supply")
    names = " and ".join(device.name for device in devices)
    return f"{names} → a new {made['name']} on {plan.title(str(made['input']))}"


def _own_cell(plan: Plan, fix: Fix) -> str:
    (move,) = _all(fix, Move)
    made = next(one.value for one in _all(fix, Add) if one.kind == "inlet")
    return f"{plan.title(move.device)} → a {str(made['name'])[0].lower()}{str(made['name'])[1:]}"


def _larger_pack(plan: Plan, fix: Fix) -> str:
    values = _set(fix)
    lead = [f"{values['gauge_awg']} AWG"] if "gauge_awg" in values else []
    lead += [f"a connector of {values['connector_limit_a']:g} A"] if "connector_limit_a" in values else []
    return f"Fly {values['name']} instead of {plan.pack.name}" + (
        f", its lead with {' and '.join(lead)}" if lead else ""
    )


def _feed_it(plan: Plan, fix: Fix) -> str:
    made = next(one.value for one in _all(fix, Add) if one.kind == "supply")
    return f"Feed {plan.title(str(made['output']))} by a new {made['name']} on {plan.title(str(made['input']))}"


def _pad(plan: Plan, fix: Fix) -> str:
    (move,) = _all(fix, Move)
    return f"{plan.title(move.device)} → pad {plan.pad_of[move.pad or ''][1].label}"


def _return(plan: Plan, fix: Fix) -> str:
    (moved,) = _all(fix, SetValue)
    return f"Return to {plan.title(str(moved.value))} instead of {plan.title(plan.return_of[moved.element][1].to)}"


def _own_ground(plan: Plan, fix: Fix) -> str:
    (added,) = _all(fix, Add)
    return f"Give {plan.title(str(added.owner))} a ground wire of its own to {plan.title(str(added.value['to']))}"


def _feed_rail(plan: Plan, fix: Fix) -> str:
    (one,) = _all(fix, SetValue)
    return f"Feed {plan.title(one.element)} from {plan.title(str(one.value))} instead of {plan.title(plan.supply_of[one.element].input)}"


def _leave_out(plan: Plan, fix: Fix) -> str:
    states = _all(fix, SetState)
    return f"Leave {_names(plan, [one.device for one in states], ' and ')} off in {plan.condition(states[0].condition).name}"


def _larger(plan: Plan, fix: Fix) -> str:
    first = _all(fix, SetValue)[0]
    return f"Exchange {plan.title(first.element)} for one of {_set(fix)['rating_a']:g} A"


def _resistor(plan: Plan, fix: Fix) -> str:
    (one,) = _all(fix, SetValue)
    return f"{plan.title(one.element)}: {format_si(float(str(one.value)), 'Ω')} in line with each string"


def _land_there(plan: Plan, fix: Fix) -> str:
    moved = _all(fix, SetValue)[0]
    owner, wire = plan.return_of[moved.element]
    return f"Land {plan.title(owner)}'s return at {plan.title(str(moved.value))} instead of {plan.title(wire.to)}"


def _power_pin(plan: Plan, fix: Fix) -> str:
    moved = _all(fix, SetValue)[0]
    return f"Land the plus wire of {plan.title(moved.element)} on {plan.pin_of[str(moved.value)].label}"


def _split_motors(plan: Plan, fix: Fix) -> str:
    group = _all(fix, SetValue)[0].element
    return f"{plan.title(group)}: its share on each of {len(_all(fix, Add)) + 1} ESCs"


def _set_volts(plan: Plan, fix: Fix) -> str:
    first = _all(fix, SetValue)[0]
    return f"Set {plan.title(first.element)} to {first.value:g} V"


def _buckboost(plan: Plan, fix: Fix) -> str:
    return f"Make {plan.title(_all(fix, SetValue)[0].element)} a buck-boost"


def _gauge(plan: Plan, fix: Fix) -> str:
    wires = _all(fix, SetValue)
    what = " for feed and return" if len(wires) > 1 else " feed" if wires[0].field.startswith("feed") else " return"
    return f"{plan.title(wires[0].element)}: {wires[0].value} AWG{what}"


def _connector(plan: Plan, fix: Fix) -> str:
    """“Pack: a connector of 90 A, 10 AWG”."""
    wires = _all(fix, SetValue)
    limits = [f"{one.value:g} A" for one in wires if one.field.endswith("connector_limit_a")]
    gauges = [f"{one.value} AWG" for one in wires if one.field.endswith("gauge_awg")]
    return f"{_names(plan, list(dict.fromkeys(one.element for one in wires)))}: a connector of {', '.join([*limits, *gauges])}"


def _damp(plan: Plan, fix: Fix) -> str:
    values = _set(fix)
    return f"Damp it: {format_si(values['damping_ohm'], 'Ω')} with {format_si(values['damping_farad'], 'F')}"


def _fit(plan: Plan, fix: Fix) -> str:
    return f"Fit {plan.title(_all(fix, SetValue)[0].element)}"


def _rewire(plan: Plan, fix: Fix) -> str:
    """The end that lands on another pin than it does."""
    for one in _all(fix, SetValue):
        signal = plan.signal_of[one.element]
        if one.value not in (signal.source, signal.sink):
            return f"{signal.name} → {plan.pin_of[str(one.value)].label}"
    return f"{plan.title(_all(fix, SetValue)[0].element)}: the other way round"


def _exchange(plan: Plan, fix: Fix) -> str:
    signals = list(dict.fromkeys(one.element for one in _all(fix, SetValue)))
    pin = plan.pin_of[plan.signal_of[signals[0]].sink]
    return f"Change {_names(plan, signals, ' and ')} over at {pin.port or plan.owner_of[pin.id].name}"


def _swap_ends(plan: Plan, fix: Fix) -> str:
    return "It is the other way round: swap the ends"


def _signal_ground(plan: Plan, fix: Fix) -> str:
    signals = [one.element for one in _all(fix, SetValue)]
    more = f" and {len(signals) - 1} more" if len(signals) > 1 else ""
    return f"A ground beside {plan.title(signals[0])}{more}"


def _lift(plan: Plan, fix: Fix) -> str:
    return f"Lift {_names(plan, [one.element for one in _all(fix, Remove)])}"


def _keep_one(plan: Plan, fix: Fix) -> str:
    gone = [one.element for one in _all(fix, Remove)]
    output = plan.supply_of[gone[0]].output
    kept = [s.name for s in plan.supplies_into(output) if isinstance(s, Regulator) and s.id not in gone]
    return f"Keep {', '.join(kept)}, remove {_names(plan, gone)}"


def _bridge(plan: Plan, fix: Fix) -> str:
    (chosen,) = _set(fix)["selected"]
    return f"Bridge only {plan.title(chosen)}"


def _filter(plan: Plan, fix: Fix) -> str:
    """“LC section 10 µH 470 µF, 2 A at Analogue sender”, “2 × …” where it takes so many."""

    def one(add: Add) -> str:
        count = add.value.get("count")
        many = f"{count} × " if isinstance(count, int) and count > 1 else ""
        return f"{many}{add.value['name']} at {plan.title(str(add.value['at']))}"

    return " and ".join(one(add) for add in _all(fix, Add))


def _exchange_part(plan: Plan, fix: Fix) -> str:
    values, name = _set(fix), plan.title(_all(fix, SetValue)[0].element)
    return (
        f"{values['count']} of {name} side by side" if "count" in values else f"{values['name']} in the place of {name}"
    )


TITLES: dict[FixKind, Callable[[Plan, Fix], str]] = {
    "move": _move,
    "own regulator": _own_regulator,
    "own cell": _own_cell,
    "larger pack": _larger_pack,
    "feed it": _feed_it,
    "pad": _pad,
    "return": _return,
    "own ground": _own_ground,
    "set volts": _set_volts,
    "buck-boost": _buckboost,
    "gauge": _gauge,
    "connector": _connector,
    "damp": _damp,
    "fit": _fit,
    "rewire": _rewire,
    "exchange": _exchange,
    "swap ends": _swap_ends,
    "filter": _filter,
    "exchange part": _exchange_part,
    "land there": _land_there,
    "power pin": _power_pin,
    "signal ground": _signal_ground,
    "lift": _lift,
    "keep one": _keep_one,
    "bridge": _bridge,
    "resistor": _resistor,
    "feed rail": _feed_rail,
    "leave out": _leave_out,
    "larger": _larger,
    "split motors": _split_motors,
}
