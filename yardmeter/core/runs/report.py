"""What a run comes to: each device's line of life, each rail's least and most, what supplies, wires, clamps and the pack did."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise
from typing import Literal

import numpy as np

from yardmeter.core.answers.model import Answer
from yardmeter.core.elements.inline import is_lit
from yardmeter.core.network.keys import Role
from yardmeter.core.physics.pack import charge_left_frac
from yardmeter.core.plan import CapacitorFilter, Device, Diode, LcFilter, Plan, Regulator, Supply
from yardmeter.core.runs.copper import surge_a2s, warmth
from yardmeter.core.runs.run import STATES, Run
from yardmeter.core.solver.circuit import Bools, Floats
from yardmeter.core.solver.transient.trace import Happening

LifeState = Literal["off", "boot", "run"]
LimiterState = Literal["lit", "dark", "opened"]
NEVER_S = 0.1
"""A scenario that ends sooner says nothing of what never starts; our choice."""
SPIKE_S = 1e-7
"""A pin over its maximum for less than this is not told: no builder's meter, and few chips, see it."""


class Span(Answer):
    """A stretch of a device's life."""

    state: LifeState
    from_s: float
    to_s: float


class DeviceLife(Answer):
    """A device in a scenario. Volts are at its pins; `least_v` while it was on, and `None` where it never was."""

    id: str
    spans: tuple[Span, ...]
    least_v: float | None
    least_at_s: float | None
    most_v: float
    most_at_s: float
    over_s: float
    """How long its pins were above its maximum."""
    under_s: float
    """How long they were under its brown-out volts while it was on."""
    resets_s: tuple[float, ...]
    """When it reset, loops counted once."""
    loop_s: float | None
    """Period of a reboot loop it is caught in."""
    wanted: bool
    """Whether it was to run at the end."""
    ran: bool
    never: bool
    """It was to run and never even began to boot, though there was time to."""
    end_v: float
    short: bool
    """It is to run at the end and has not the volts for it, where the craft is powered and had time to come up."""


class RailLife(Answer):
    id: str
    least_v: float
    least_at_s: float
    most_v: float
    most_at_s: float
    end_v: float


class SupplyLife(Answer):
    """A regulator, diode, port or limiter in a scenario."""

    id: str
    most_a: float
    limits_s: float
    """How long it stood at its limit."""
    hottest_c: float | None
    trip_c: float | None
    trips_s: tuple[float, ...]
    gives_up_s: tuple[float, ...]
    """When it hiccuped or latched, loops counted once."""
    loop_s: float | None
    latched: bool
    stops_s: tuple[float, ...]
    chatter_s: float | None
    """Period in which it starts and stops over and over, for its own draw takes its input down."""
    least_in_v: float | None
    """The least input volts a regulator ran at."""
    most_in_v: float | None
    """The most it had at its input, running or not, and when."""
    most_in_at_s: float | None
    over_in_s: float
    """How long that was more than it takes."""
    surge_a2s: float
    """What a diode took beyond its print."""


class ClampLife(Answer):
    id: str
    most_v: float
    most_a: float
    energy_j: float


class CapacitorLife(Answer):
    """A fitted capacitor, its plus to its ground."""

    id: str
    most_v: float
    most_at_s: float
    over_s: float
    """How long that was more than is printed on it."""


class Melted(Answer):
    """A fuse that melted, in the wire of an element, and the amps it carried by then."""

    element: str
    at_s: float
    amps: float
    rated_a: float


class WireMost(Answer):
    """The most a wire carried; `role`, `element` and, of a strap's several contacts, `part` name it as in the network."""

    role: Role
    element: str
    part: int
    amps: float
    warm: Warm | None
    """Where it ever carried more than it stands for good."""


class Warm(Answer):
    """How warm a wire, or the contacts in it, got beside what is allowed; when, and how long it was over that."""

    of: Literal["wire", "connector"]
    rise_k: float
    allowed_k: float
    at_s: float
    over_s: float


class Report(Answer):
    """A scenario's outcome. `stuck_s` is where the run found no way on, `None` where it came to its end."""

    scenario: str
    duration_s: float
    stuck_s: float | None
    devices: tuple[DeviceLife, ...]
    rails: tuple[RailLife, ...]
    supplies: tuple[SupplyLife, ...]
    clamps: tuple[ClampLife, ...]
    capacitors: tuple[CapacitorLife, ...]
    wires: tuple[WireMost, ...]
    melted: tuple[Melted, ...]
    inrush_a: float
    inrush_at_s: float
    charge_ah: float
    left_min: float | None
    """Minutes the charge that is there at the end lasts at the mean current; None where no more was drawn than leaks."""
    limiter: LimiterState | None
    """What a lamp or electronic limiter in the pack's lead does in the end."""


DRAWN_A = 1e-3
"""A mean current below this empties no pack that anybody waits for [A]; as in a condition's minutes."""


def report(run: Run) -> Report:
    """Read a run."""
    plan = run.plan
    peak = int(run.pack_a.argmax()) if run.times_s.size else 0
    used_c = float(run.charge_c[-1]) if run.times_s.size else 0.0
    mean_a = used_c / run.scenario.duration_s
    cell_v = run.rest_v(-1) / plan.pack.series if run.times_s.size else 0.0
    left_c = charge_left_frac(plan.pack.chemistry, cell_v) * plan.pack.charge_ah * 3600
    return Report(
        scenario=run.scenario.id,
        duration_s=run.scenario.duration_s,
        stuck_s=run.stuck_s,
        devices=tuple(_device(run, one) for one in plan.devices),
        rails=tuple(_rail(run, one.id) for one in plan.rails),
        supplies=tuple(_supplies(run)),
        clamps=tuple(_clamps(run)),
        capacitors=tuple(_capacitors(run)),
        wires=tuple(
            WireMost(role=key.role, element=key.element or "pack", part=key.part, amps=amps, warm=_warm(run, k))
            for k, (key, amps) in enumerate(run.wire_a().items())
        ),
        melted=tuple(melted(run)),
        inrush_a=float(run.pack_a[peak]) if run.times_s.size else 0.0,
        inrush_at_s=float(run.times_s[peak]) if run.times_s.size else 0.0,
        charge_ah=used_c / 3600,
        left_min=left_c / mean_a / 60 if mean_a > DRAWN_A else None,
        limiter=_limiter(run, plan),
    )


def _warm(run: Run, index: int) -> Warm | None:
    found = warmth(run, index)
    return (
        Warm(of=found.of, rise_k=found.rise_k, allowed_k=found.allowed_k, at_s=found.at_s, over_s=found.over_s)
        if found
        else None
    )


def lasting(times_s: Floats, where: Bools) -> float:
    """How long something held, from steps: a step counts where it ends so [s]."""
    steps = np.diff(times_s, prepend=0.0)
    return float(steps[where].sum())


def _device(run: Run, device: Device) -> DeviceLife:
    pin, mode, times = run.pin_v(device.id), run.mode(device.id), run.times_s
    machine = bool(run.moving.circuit.consumers.machine[run.moving.consumer[device.id]])
    on = (mode > 0) if machine else np.ones(mode.shape, bool)
    most = int(pin.argmax())
    least = int(np.where(on, pin, np.inf).argmin()) if on.any() else None
    events = [one for one in run.events if one.element == device.id]
    over = lasting(times, pin > device.max_v)
    wanted = _wanted(run, device)
    return DeviceLife(
        id=device.id,
        spans=tuple(_spans(run, device)) if machine else (),
        least_v=float(pin[least]) if least is not None else None,
        least_at_s=float(times[least]) if least is not None else None,
        most_v=float(pin[most]),
        most_at_s=float(times[most]),
        over_s=over if over >= SPIKE_S else 0.0,
        under_s=lasting(times, on & (pin < device.reset_v)) if machine else 0.0,
        resets_s=tuple(one.at_s for one in events if one.code is Happening.RESET),
        loop_s=next((one.period_s for one in events if one.code is Happening.LOOPS), None),
        wanted=wanted,
        never=wanted and machine and not (mode > 0).any() and run.scenario.duration_s > NEVER_S,
        ran=bool((mode == 2).any()) if machine else bool((pin > device.reset_v).any()),
        end_v=float(pin[-1]) if pin.size else 0.0,
        short=wanted and _held_down(run, device, pin),
    )


def _held_down(run: Run, device: Device, pin: Floats) -> bool:
    """Whether its volts end too low, and not for a moment: through the last tenth of the time, on a pack that is in."""
    times = run.times_s
    if not times.size or run.scenario.duration_s <= NEVER_S or not run.ends_on_pack:
        return False
    last = pin[run.at(0.9 * float(times[-1])) :]
    return device.at_volts(float(last.max())) == "reset" and (not device.throttle or run.ends_with_throttle)


def _wanted(run: Run, device: Device) -> bool:
    """Whether a device is to run at the end of a scenario."""
    wanted = run.timetable.condition.state_of(device.id) != "off"
    for act in run.scenario.acts:
        if act.act == "state" and act.device == device.id:
            wanted = act.state != "off"
    return wanted


def _spans(run: Run, device: Device) -> Iterator[Span]:
    """Stretches between the device's own switches; the steps' states are what they were after each."""
    mode, times = run.mode(device.id), run.times_s
    if not times.size:
        return
    cuts = [0, *(np.flatnonzero(np.diff(mode)) + 1).tolist(), times.size]
    for a, b in pairwise(cuts):
        begin = float(times[a]) if a else 0.0
        end = float(times[b]) if b < times.size else float(times[-1])
        yield Span(state=STATES[int(mode[a])], from_s=begin, to_s=end)


def _rail(run: Run, rail_id: str) -> RailLife:
    volts, times = run.rail_v(rail_id), run.times_s
    up = _since_up(volts)
    least, most = up + int(volts[up:].argmin()), int(volts.argmax())
    return RailLife(
        id=rail_id,
        least_v=float(volts[least]),
        least_at_s=float(times[least]),
        most_v=float(volts[most]),
        most_at_s=float(times[most]),
        end_v=float(volts[-1]),
    )


def _since_up(volts: Floats) -> int:
    """The step at which a rail first came up; what was before it is no dip."""
    above = volts >= 0.9 * volts.max()
    return int(above.argmax())


def _supplies(run: Run) -> Iterator[SupplyLife]:
    plan = run.plan
    every = [one.id for one in plan.supplies if isinstance(one, Regulator | Diode)] + [one.id for one in plan.inlets]
    for name in every:
        if run.converter(name) is None:
            continue
        events = [one for one in run.events if one.element == name]
        amps = run.supply_a(name)
        own = plan.supply_of.get(name)
        regulator = isinstance(own, Regulator)
        most_in_v, most_in_at_s, over_in_s = _most_in(run, plan.supply_of.get(name))
        yield SupplyLife(
            id=name,
            most_a=float(amps.max()),
            limits_s=_limiting_s(run, name),
            hottest_c=float(run.temp_c(name).max()) if regulator else None,
            trip_c=own.trip_c if isinstance(own, Regulator) else None,
            trips_s=tuple(one.at_s for one in events if one.code is Happening.TRIPS),
            gives_up_s=tuple(one.at_s for one in events if one.code in (Happening.HICCUPS, Happening.LATCHES)),
            loop_s=next((one.period_s for one in events if one.code is Happening.RETRIES), None),
            latched=any(one.code is Happening.LATCHES for one in events),
            stops_s=tuple(one.at_s for one in events if one.code is Happening.STOPS),
            chatter_s=next((one.period_s for one in events if one.code is Happening.CHATTERS), None),
            least_in_v=_least_in_v(run, name) if regulator else None,
            most_in_v=most_in_v,
            most_in_at_s=most_in_at_s,
            over_in_s=over_in_s,
            surge_a2s=surge_a2s(run.times_s, amps, own.rating_a) if isinstance(own, Diode) and own.rating_a else 0.0,
        )


def _most_in(run: Run, supply: Supply | None) -> tuple[float | None, float | None, float]:
    """The most a regulator has at its input, when, and how long it is over what it takes."""
    if not isinstance(supply, Regulator):
        return None, None, 0.0
    volts = run.supply_in_v(supply.id)
    most = int(volts.argmax())
    over = lasting(run.times_s, volts > supply.input_max_v)
    return float(volts[most]), float(run.times_s[most]), over if over >= SPIKE_S else 0.0


def _least_in_v(run: Run, name: str) -> float | None:
    on = run.runs(name) > 0
    return float(run.supply_in_v(name)[on].min()) if on.any() else None


def _limiting_s(run: Run, name: str) -> float:
    total, since = 0.0, None
    for one in run.events:
        if one.element != name:
            continue
        if one.code is Happening.LIMITS and since is None:
            since = one.at_s
        elif since is not None and one.code in (Happening.FREE, Happening.HICCUPS, Happening.LATCHES, Happening.STOPS, Happening.TRIPS):  # fmt: skip
            total += one.at_s - since
            since = None
    return total + (float(run.times_s[-1]) - since if since is not None and run.times_s.size else 0.0)


def _clamps(run: Run) -> Iterator[ClampLife]:
    for one in run.plan.clamps:
        if one.fitted:
            k = run.moving.consumer[one.id]
            yield ClampLife(
                id=one.id,
                most_v=float(run.pin_v(one.id).max()),
                most_a=float(run.load_a(one.id).max()),
                energy_j=float(run.trace.energy_j[0, k]),
            )


def _capacitors(run: Run) -> Iterator[CapacitorLife]:
    plan = run.plan
    for one in plan.filters:
        if not one.fitted or not isinstance(one, CapacitorFilter | LcFilter):
            continue
        if one.at in plan.rail_of:
            volts = run.rail_v(one.at)
        elif one.at in plan.device_of:
            volts = run.pin_v(one.at)
        else:
            volts = run.supply_in_v(one.at)
        most = int(volts.argmax())
        over = lasting(run.times_s, volts > one.rated_v)
        yield CapacitorLife(
            id=one.id,
            most_v=float(volts[most]),
            most_at_s=float(run.times_s[most]),
            over_s=over if over >= SPIKE_S else 0.0,
        )


def melted(run: Run) -> Iterator[Melted]:
    for one in run.trace.events:
        if one.row == 0 and one.what is Happening.MELTS:
            wire = run.moving.table.conductors[one.index].wire
            amps = abs(float(run.series_a(one.index)[run.at(one.at_s)]))
            rated = wire.connector_limit_a if wire and wire.connector_limit_a else 0.0
            yield Melted(element=run.owner_of(one.index), at_s=one.at_s, amps=amps, rated_a=rated)


def _limiter(run: Run, plan: Plan) -> LimiterState | None:
    used = {act.inlet for act in run.scenario.acts if act.act == "connect"} | set(run.timetable.condition.energy)
    inlet = next((one for one in plan.inlets if one.in_line and one.id in used), None)
    if inlet is None or not run.times_s.size:
        return None
    if inlet.kind == "fuse":
        events = [one for one in run.events if one.element == inlet.id]
        return "opened" if any(one.code is Happening.LATCHES for one in events) else "dark"
    across = run.pin_v(inlet.id)[-1]
    return "lit" if is_lit(float(across), inlet.volts) else "dark"
