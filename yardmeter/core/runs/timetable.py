"""A scenario as what the solver runs: the circuit it needs, its start, and every act as switches of that circuit."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import assert_never

import numpy as np

from yardmeter.core.elements.load import LoadKind
from yardmeter.core.errors import YardError
from yardmeter.core.network import Network, Situation, branch_table, build_network
from yardmeter.core.network.in_time import Moving, dead_start, moving, start_at
from yardmeter.core.network.keys import LIMITER_KEY, Key, feed_key, inlet_key, link_key, supply_key
from yardmeter.core.network.loads import load_value, scaled_by, throttle_amps
from yardmeter.core.plan import Condition, Device, Link, Plan, Scenario, Strap, Supply
from yardmeter.core.plan.devices import DrawState
from yardmeter.core.plan.scenarios import (
    Brake,
    ConnectInlet,
    DisconnectInlet,
    PartFails,
    PlugPack,
    ScenarioAct,
    StepOfCurrent,
    SwitchStrap,
    Throttle,
    TurnDevice,
    UnplugPack,
)
from yardmeter.core.solver.circuit import Floats
from yardmeter.core.solver.dc import solve_as_given
from yardmeter.core.solver.rows import only_found
from yardmeter.core.solver.transient import Start
from yardmeter.core.solver.transient.acts import Act, Ask, Contact, Enable, Fail, Turn
from yardmeter.core.solver.transient.machines import ARC_OHM, ARC_S

SHORT_OHM = 0.05
"""Of a part that has failed short; our estimate."""
STEPPED_BURSTS = 60
"""Bursts that are stepped through; where there would be more, a device draws its average."""


@dataclass(frozen=True)
class Timetable:
    """What a scenario asks of the solver; `of[k]` is the scenario's act that solver act k belongs to."""

    scenario: Scenario
    condition: Condition
    moving: Moving
    start: Start
    acts: tuple[Act, ...]
    of: tuple[int, ...]


def beginning(plan: Plan, scenario: Scenario) -> Condition:
    """The condition a scenario begins in; with nothing plugged where it names none."""
    if scenario.begins is not None:
        update: dict[str, object] = {}
        if scenario.pack_state is not None or scenario.cell_v is not None:
            update = {"pack_v": None, "cell_v": scenario.cell_v, "pack_state": scenario.pack_state or "nominal"}
        if scenario.air is not None:
            update["air"] = scenario.air
        return plan.condition(scenario.begins).model_copy(update=update)
    return Condition(
        id="nothing-plugged",
        name="Nothing plugged",
        energy=(),
        pack_state=scenario.pack_state or "full",
        cell_v=scenario.cell_v,
        air=scenario.air or "still",
        default_state=scenario.runs_at,
    )


def _joining(scenario: Scenario) -> frozenset[str]:
    """The sources a scenario brings in."""
    ports = {act.inlet for act in scenario.acts if isinstance(act, ConnectInlet)}
    return frozenset(ports | ({"pack"} if any(isinstance(act, PlugPack) for act in scenario.acts) else set()))


@dataclass(frozen=True)
class Spread:
    """What tolerance makes of a plan's numbers, a factor for each run (B,): draws by device, set points, pack resistance."""

    draws: dict[str, Floats]
    set_points: dict[Key, Floats]
    pack: Floats


def timetable(
    plan: Plan, scenario: Scenario, situations: Sequence[Situation] | None = None, spread: Spread | None = None
) -> Timetable:
    """Set a scenario up, for one run or for one of each situation (all of the scenario's condition), within `spread`.

    Raises YardError where it begins in a condition without an operating point.
    """
    condition = beginning(plan, scenario)
    wired = _with_every_strap(plan, scenario)
    rows = [replace(one, joins=_joining(scenario)) for one in situations or [Situation(condition)]]
    network = build_network(branch_table(wired), rows)
    if spread:
        network = _spread_out(network, spread)
    made = moving(network)
    scale = np.ones((len(rows), made.circuit.sizes[1]))
    if spread:
        series = made.circuit.series
        series.ohm[:, made.pack] *= spread.pack
        series.lag_ohm[:, made.pack] *= spread.pack
        for drawn, factors in spread.draws.items():
            scale[:, made.consumer[drawn]] = scaled_by(plan.device_of[drawn], factors)
    for name, at in _bridges(plan, wired, {}).items():
        made.circuit.series.closed[:, made.series[name]] = at
    consumers = made.circuit.consumers
    acts: list[tuple[int, Act]] = []
    for device in plan.devices:
        k = made.consumer[device.id]
        boot: DrawState = "boot" if condition.state_of(device.id) != "off" else "off"
        consumers.boot[:, k] = load_value(device, _with(condition, device, boot)) * scale[:, k]
        consumers.off[:, k] = load_value(device, _with(condition, device, "off"))
    if scenario.begins is None:
        start = dead_start(made)
    else:
        solution = solve_as_given(network.circuit, network.assembly)
        if not solution.converged[0]:
            raise YardError(
                f"Nothing can begin in {condition.name}: no operating point was found there.",
                where=scenario.name,
                remedy="Begin with nothing plugged and plug the pack in, or take load off first.",
            )
        # A sample of the bands without a point begins with nothing up: its craft has failed.
        start = start_at(made, only_found(solution))
    start.scale = scale
    teller = _Teller(plan, made, scenario, condition)
    for index, act in enumerate(scenario.acts):
        until_s = _hand_is_back(scenario, act)
        acts += [(index, one) for one in teller.told(act) if one.at_s < until_s]
    acts += [(-1, one) for one in teller.bursts()]
    acts.sort(key=lambda one: one[1].at_s)
    return Timetable(scenario, condition, made, start, tuple(one for _, one in acts), tuple(k for k, _ in acts))


def _hand_is_back(scenario: Scenario, act: ScenarioAct) -> float:
    """When somebody is at the pack's plug again [s]: what bounces, resistor and arc had still to do does not come to pass."""
    if not isinstance(act, PlugPack | UnplugPack):
        return np.inf
    hands = (one.at_s for one in scenario.acts if isinstance(one, PlugPack | UnplugPack))
    return min((at for at in hands if at > act.at_s), default=np.inf)


def _spread_out(network: Network, spread: Spread) -> Network:
    """The network with each row's own draws, set points and pack resistance."""
    circuit, table = network.circuit, network.table
    value, set_v = circuit.loads.value.copy(), circuit.converters.set_v.copy()
    for k, load in enumerate(table.loads):
        if load.device and load.device.id in spread.draws:
            value[:, k] *= scaled_by(load.device, spread.draws[load.device.id])
    for k, converter in enumerate(table.converters):
        set_v[:, k] *= spread.set_points.get(converter.key, 1.0)
    return replace(
        network,
        circuit=replace(
            circuit,
            loads=replace(circuit.loads, value=value),
            converters=replace(circuit.converters, set_v=set_v),
            emfs=replace(circuit.emfs, siemens=circuit.emfs.siemens / spread.pack[:, None]),
        ),
    )


def _with(condition: Condition, device: Device, state: DrawState) -> Condition:
    return condition.model_copy(update={"states": {**condition.states, device.id: state}})


def _with_every_strap(plan: Plan, scenario: Scenario) -> Plan:
    """The plan with every bridge that is ever closed in it."""
    wanted: dict[str, list[str]] = {}
    for act in scenario.acts:
        if isinstance(act, SwitchStrap):
            wanted.setdefault(act.supply, []).extend(act.selected)
    if not wanted:
        return plan

    def bridged(one: Supply) -> Supply:
        if not isinstance(one, Strap) or one.id not in wanted:
            return one
        return one.model_copy(update={"selected": tuple(dict.fromkeys([*one.selected, *wanted[one.id]]))})

    return plan.model_copy(update={"supplies": tuple(bridged(one) for one in plan.supplies)})


def _bridges(plan: Plan, wired: Plan, chosen: dict[str, tuple[str, ...]]) -> dict[Key, bool]:
    """Which bridges of straps are closed, with these selected otherwise than in the plan."""
    found = {}
    for one in wired.supplies:
        if isinstance(one, Strap):
            original = plan.supply_of[one.id]
            selected = chosen.get(one.id, original.selected if isinstance(original, Strap) else ())
            for part, name in enumerate(one.selected):
                found[link_key(one, part)] = name in selected
    return found


def _in_its_law(device: Device, value: float) -> float:
    """A step of current as the value of the device's law: amps, watts, or the ohms that draw the amps at its nominal volts."""
    if device.law not in ("resistance", "led"):
        return value
    over_v = device.led.forward_v * device.led.series if device.law == "led" and device.led else 0.0
    return max(device.nominal_v - over_v, 1e-3) / value if value > 0 else np.inf


class _Teller:
    """Tells the solver what each act means."""

    def __init__(self, plan: Plan, made: Moving, scenario: Scenario, condition: Condition) -> None:
        self.plan, self.made, self.scenario, self.condition = plan, made, scenario, condition
        self.throttle_frac = condition.throttle_frac
        self.peaks: list[tuple[Device, float, float]] = [
            (one, 0.0, scenario.duration_s)
            for one in plan.devices
            if one.burst and condition.state_of(one.id) == "peak"
        ]

    def told(self, act: ScenarioAct) -> Iterator[Act]:
        made = self.made
        match act:
            case PlugPack():
                yield from self._plug(act)
            case UnplugPack():
                yield from self._opens(act.at_s, made.pack)
                yield from self._cells(act.at_s, plugged=False)
            case ConnectInlet() | DisconnectInlet():
                yield from self._inlet(act, isinstance(act, ConnectInlet))
            case Throttle():
                self.throttle_frac = act.to_frac
                for device in self.plan.devices:
                    if device.throttle:
                        yield Ask(act.at_s, made.consumer[device.id], throttle_amps(device, act.to_frac), act.over_s)
            case Brake():
                for device in self.plan.devices:
                    if device.throttle:
                        k = made.consumer[device.id]
                        yield Ask(act.at_s, k, -act.share_frac * throttle_amps(device, 1.0))
                        yield Ask(act.at_s + act.for_s, k, throttle_amps(device, self.throttle_frac))
            case TurnDevice():
                yield from self._turn(act)
            case StepOfCurrent():
                value = _in_its_law(self.plan.device_of[act.device], act.value)
                yield Ask(act.at_s, made.consumer[act.device], value, act.over_s)
            case SwitchStrap():
                for key, closed in _bridges(self.plan, made.plan, {act.supply: act.selected}).items():
                    if key.element == act.supply:
                        k = made.series[key]
                        yield from [Contact(act.at_s, k, closed=True)] if closed else self._opens(act.at_s, k)
            case PartFails():
                yield from self._fail(act)
            case _:
                assert_never(act)

    def _opens(self, at_s: float, branch: int) -> Iterator[Act]:
        """A contact that opens under current draws an arc: its resistance rises until next to nothing flows, then it is open."""
        for k, ohm in enumerate(ARC_OHM):
            yield Contact(at_s + k * ARC_S, branch, closed=True, ohm=ohm, parts=True)
        yield Contact(at_s + len(ARC_OHM) * ARC_S, branch, closed=False)

    def _plug(self, act: PlugPack) -> Iterator[Act]:
        pack, at, own = self.made.pack, act.at_s, self.plan.pack.lead.inline
        ohm, for_s = act.anti_spark_ohm, act.anti_spark_s
        if ohm is None:
            ohm, for_s = (own.ohm, own.for_s) if own and own.kind == "spark" else (0.0, 0.0)
        if self._in_already(act):  # what is in can come loose for a moment, and has its resistor behind it
            ohm = 0.0
        else:
            yield Contact(at, pack, closed=True, ohm=ohm)
        yield from self._cells(at, plugged=True)
        for _ in range(act.bounces):
            yield from self._opens(at + act.bounce_s, pack)
            at += 2 * act.bounce_s
            yield Contact(at, pack, closed=True, ohm=ohm)
        if ohm:
            yield Contact(max(at, act.at_s + for_s), pack, closed=True, parts=True)

    def _in_already(self, act: PlugPack) -> bool:
        """Whether the pack is in when it is to go in."""
        hands = [(one.at_s, k) for k, one in enumerate(self.scenario.acts) if isinstance(one, PlugPack | UnplugPack)]
        mine = next(k for k, one in enumerate(self.scenario.acts) if one is act)
        last = max((one for one in hands if one < (act.at_s, mine)), default=None)
        return self.condition.on_pack if last is None else isinstance(self.scenario.acts[last[1]], PlugPack)

    def _cells(self, at_s: float, *, plugged: bool) -> Iterator[Act]:
        """Cells of their own are plugged and pulled with the pack."""
        for inlet in self.plan.inlets:
            if inlet.kind == "cell":
                yield Enable(at_s, self.made.converter[inlet_key(inlet.id)], plugged)

    def _inlet(self, act: ConnectInlet | DisconnectInlet, goes_in: bool) -> Iterator[Act]:
        made = self.made
        inlet = self.plan.inlet_of[act.inlet]
        if inlet.in_line:
            yield Contact(act.at_s, made.series[LIMITER_KEY], closed=not goes_in)
        if inlet.kind == "lamp":
            yield Ask(act.at_s, made.consumer[inlet.id], inlet.limit_a if goes_in else 0.0)
        else:
            yield Enable(act.at_s, made.converter[inlet_key(inlet.id)], goes_in)

    def _turn(self, act: TurnDevice) -> Iterator[Act]:
        device = self.plan.device_of[act.device]
        k = self.made.consumer[device.id]
        if act.state != "off":
            value = load_value(device, _with(self.condition, device, act.state))
            if device.throttle:
                value = throttle_amps(device, self.throttle_frac)
            yield Ask(act.at_s, k, value)
        else:
            yield Ask(act.at_s, k, float(self.made.circuit.consumers.off[0, k]))
        yield Turn(act.at_s, k, act.state != "off")
        self.peaks = [(d, begun, min(end, act.at_s) if d is device else end) for d, begun, end in self.peaks]
        if device.burst and act.state == "peak":
            self.peaks.append((device, act.at_s, self.scenario.duration_s))

    def _fail(self, act: PartFails) -> Iterator[Act]:
        made, plan = self.made, self.plan
        if act.element in plan.device_of:
            k = made.consumer[act.element]
            law = made.circuit.consumers.law
            if act.how == "short":
                knee = float(law.knee_v[k])
                by_law = {int(LoadKind.CURRENT): knee / SHORT_OHM, int(LoadKind.POWER): knee**2 / SHORT_OHM}
                yield Turn(act.at_s, k, on=True)
                yield Ask(act.at_s, k, by_law.get(int(law.law[k]), SHORT_OHM))
            elif feed_key(act.element) in made.series:
                yield from self._opens(act.at_s, made.series[feed_key(act.element)])
            return
        supply = plan.supply_of[act.element]
        if isinstance(supply, Link | Strap):
            for key, k in made.series.items():
                if key.role == "link" and key.element == supply.id and act.how == "open":
                    yield from self._opens(act.at_s, k)
            return
        yield Fail(act.at_s, made.converter[supply_key(supply.id)], act.how)

    def bursts(self) -> Iterator[Act]:
        """Edges of what pulses at its peak; averaged where the edges would be too many."""
        for device, begun, end in self.peaks:
            if not device.burst or end <= begun:
                continue
            k = self.made.consumer[device.id]
            peak, idle = (load_value(device, _with(self.condition, device, one)) for one in ("peak", "idle"))
            count = (end - begun) / device.burst.period_s
            if count > STEPPED_BURSTS:
                share = device.burst.duty_frac
                yield Ask(begun, k, share * peak + (1 - share) * idle if np.isfinite(idle) else peak)
                continue
            at = begun
            while at < end:
                yield Ask(at, k, peak)
                if at + device.burst.duty_frac * device.burst.period_s < end:
                    yield Ask(at + device.burst.duty_frac * device.burst.period_s, k, idle)
                at += device.burst.period_s
