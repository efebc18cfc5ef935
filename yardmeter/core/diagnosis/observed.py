"""What a craft would show in every situation: the chance of each thing a builder can see, hear or feel, from solved numbers."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal, get_args

import numpy as np

from yardmeter.core.answers.conditions import Solved, solve_conditions
from yardmeter.core.answers.grounded import grounded
from yardmeter.core.answers.limits import air_c, theta_k_w
from yardmeter.core.answers.noise import tolerated_v
from yardmeter.core.answers.noise_solutions import NoiseSolution, noise_solution
from yardmeter.core.answers.operating import View
from yardmeter.core.answers.pictures import VideoNoise, videos_of
from yardmeter.core.answers.pins import is_off, verdict
from yardmeter.core.answers.returns import returns
from yardmeter.core.answers.sources import trace_sources
from yardmeter.core.answers.spread import SpreadRun
from yardmeter.core.checks.noise import VISIBLE_DB
from yardmeter.core.diagnosis.situations import AIRBORNE, ROW_OF, When, situations, whens
from yardmeter.core.elements.regulator import trips
from yardmeter.core.graph import graph_of
from yardmeter.core.network.keys import ground_node, pin_node
from yardmeter.core.once import cached_property
from yardmeter.core.physics.magnetics import heading_error_deg, pair_field_t
from yardmeter.core.physics.normal import below
from yardmeter.core.physics.thermal import temperature_c, trip_time_s
from yardmeter.core.plan import Condition, Plan, Regulator
from yardmeter.core.procedures.powering import charged_f
from yardmeter.core.solver.circuit import Floats

Obs = Literal[
    "lost", "over", "black", "weak", "lines", "bars", "bad", "noisy", "hot", "low", "high", "heading", "sag", "thirst", "greedy", "loose",
    "rolls", "overlay", "burnt", "cell", "spark", "lamp", "closed", "open",
]  # fmt: skip
OBSERVED: tuple[Obs, ...] = get_args(Obs)
SubjectKind = Literal["device", "picture", "signal", "part", "rail", "craft"]
KIND_OF: dict[Obs, SubjectKind] = {
    "lost": "device", "over": "device", "noisy": "device", "loose": "device", "open": "device", "heading": "device",
    "black": "picture", "weak": "picture", "lines": "picture", "bars": "picture", "rolls": "picture", "bad": "signal", "hot": "part",
    "low": "rail", "high": "rail", "closed": "rail", "sag": "craft", "thirst": "craft", "greedy": "craft", "overlay": "craft",
    "burnt": "craft", "cell": "craft", "spark": "craft", "lamp": "craft",
}  # fmt: skip
CRAFT = "craft"

VOLTS_FRAC, VOLTS_FLOOR = 0.012, 0.03
"""How near computed volts at pins come to real ones, beside what tolerances make of them; our choice, as are the next."""
HEAT_FRAC, SHUT_IN_FRAC, SHUT_IN = 0.2, 0.5, 0.2
"""Of a temperature's rise: thermal resistances of small boards are known to a fifth, of one in five that is shut in to a half."""
SEEN_DB, WORSE_DB = 4.0, 1.0
SHARE_SD = 0.3
TOUCH_C, TOUCH_K = 65.0, 8.0
"""Where a finger calls a part hot; burn threshold of bare metal at a second's touch, ISO 13732-1, from memory."""
DESTROYS = 1.2
"""Times its maximum at which a device is no more; our choice."""
RAIL_FRAC = 0.05
SAG_FRAC, AMPS_FRAC = 0.04, 0.15
SAMPLES = 24
MUCH_SAG_FRAC = 0.18
"""Of a pack's volts lost in a punch, from which builders call it much; our choice."""
SPARK_F = 100e-6
"""Capacitance at the plug from which it cracks; from memory."""
LIT_FRAC = 0.5


def _past(value: float, limit: float, sd: float) -> float:
    """Chance that a number known to `sd` is over its limit."""
    return float(below((value - limit) / max(sd, 1e-9)))


@dataclass(frozen=True)
class Subjects:
    """What can be looked at, by kind; one order for all twins of a plan."""

    of: dict[SubjectKind, tuple[str, ...]]

    @cached_property
    def index(self) -> dict[SubjectKind, dict[str, int]]:
        return {kind: {name: k for k, name in enumerate(names)} for kind, names in self.of.items()}


def subjects_of(plan: Plan) -> Subjects:
    video = [one.id for one in plan.signals if one.kind == "video"]
    parts = [one.id for one in plan.supplies] + [one.id for one in plan.devices]
    return Subjects(
        {
            "device": tuple(one.id for one in plan.devices), "picture": tuple(video), "part": tuple(parts),
            "signal": tuple(one.id for one in plan.signals if one.kind != "video"), "rail": tuple(one.id for one in plan.rails),
            "craft": (CRAFT,),
        }
    )  # fmt: skip


@dataclass
class Observed:
    """One world: its plan solved in every situation. `chance[obs]` is [situations, subjects]; numbers beside it are told with it."""

    plan: Plan
    solved: Solved | None
    """Of the build as planned alone: of twins their numbers are enough."""
    rows: tuple[When, ...]
    subjects: Subjects
    chance: dict[Obs, Floats]
    pins_v: Floats
    """At devices [situations, devices]."""
    rails_v: Floats
    pack_a: Floats
    """What all sources give [situations]."""
    temps_c: dict[str, Floats]
    """Of regulators, settled [situations]."""
    trips_s: dict[str, float]
    """Time to the first trip of a regulator in still air, where it trips."""
    levels_db: dict[str, tuple[float, float]] = field(default_factory=dict)
    """Of a picture: what moves with throttle, what stands."""
    loudest: dict[str, tuple[str, str]] = field(default_factory=dict)
    """Of a picture: by whom."""
    worse_with: dict[str, str] = field(default_factory=dict)
    """Of a picture: a filter with which it is worse than without any."""
    shares: dict[str, Floats] = field(default_factory=dict)
    """Of a signal: shift and edge over its margin [situations]."""

    def p(self, obs: Obs, when: When, subject: str) -> float:
        return float(self.chance[obs][self.rows.index(when), self.subjects.index[KIND_OF[obs]][subject]])


@dataclass(frozen=True)
class Looks:
    """What is worked out of a twin: the rest is left at nothing. No `rows` are all situations."""

    noise: bool = True
    signals: bool = True
    rows: frozenset[When] = frozenset()


class Observer:
    """Looks at twins of one plan with the same eyes."""

    def __init__(self, plan: Plan, posed: Mapping[When, Condition] | None = None) -> None:
        self.plan = plan
        own = {ROW_OF.get(when, when): one for when, one in (posed or {}).items()}
        self.conditions = situations(plan) | {when: one.model_copy(update={"id": when}) for when, one in own.items()}
        self.rows = whens(plan)
        self.subjects = subjects_of(plan)
        self.held = {one.id: held_v(plan, one.id) for one in plan.rails}

    def posed(self, plan: Plan, rows: frozenset[When] = frozenset()) -> Plan:
        """A plan in these situations alone."""
        posed = tuple(one for when, one in self.conditions.items() if not rows or when in rows)
        return plan.model_copy(update={"conditions": posed, "scenarios": ()})

    @cached_property
    def spread_v(self) -> dict[str, Floats]:
        """By situation what tolerances make of the volts at each device's pins, standard deviations [devices]."""
        run = SpreadRun(self.posed(self.plan), seed=1)
        run.reach(SAMPLES)
        return {when: run.pins_v(when).std(axis=0) for when in self.conditions}

    @cached_property
    def planned(self) -> Observed:
        return self.look(self.plan, keep=True)

    def look(self, plan: Plan, looks: Looks | None = None, *, keep: bool = False) -> Observed:
        """The plan in every situation; without `looks` everything is worked out."""
        looks = looks or Looks()
        found = _Looking(self, plan, solve_conditions(self.posed(plan, looks.rows)), looks).observed()
        if not keep:
            found.solved = None
        return found


class _Looking:
    def __init__(self, by: Observer, plan: Plan, solved: Solved, looks: Looks) -> None:
        self.by, self.plan, self.solved, self.looks = by, plan, solved, looks
        # By its position the situations that were solved.
        self.seen = [(w, when) for w, when in enumerate(by.rows) if ROW_OF.get(when, when) in solved.given]
        count = len(by.rows)
        sizes = {kind: len(names) for kind, names in by.subjects.of.items()}
        self.chance: dict[Obs, Floats] = {obs: np.zeros((count, sizes[KIND_OF[obs]])) for obs in OBSERVED}
        self.pins_v = np.zeros((count, sizes["device"]))
        self.rails_v = np.zeros((count, sizes["rail"]))
        self.pack_a = np.zeros(count)
        self.temps: dict[str, Floats] = {}
        self.trips: dict[str, float] = {}

    def observed(self) -> Observed:
        self._electric()
        self._thermal()
        found = Observed(
            self.plan, self.solved, self.by.rows, self.by.subjects, self.chance, self.pins_v, self.rails_v, self.pack_a, self.temps, self.trips
        )  # fmt: skip
        if self.looks.noise:
            self._noise(found)
        if self.looks.signals:
            self._signals(found)
        self._heading()
        self._pictures()
        self._craft()
        return found

    def _view(self, when: When) -> View:
        return self.solved.given[ROW_OF.get(when, when)]

    def _electric(self) -> None:
        devices, rails = self.by.subjects.index["device"], self.by.subjects.index["rail"]
        for w, when in self.seen:
            if when in ROW_OF and self._copied(w, when):
                continue
            view, condition = self._view(when), self.by.conditions[ROW_OF.get(when, when)]
            self.pack_a[w] = view.pack_a if condition.on_pack else sum(view.inlet_a(i.id) for i in self.plan.inlets if i.id in condition.energy)  # fmt: skip
            if not view.converged:
                self.chance["lost"][w, :] = 1.0
                continue
            sources, trying = trace_sources(self.plan, condition, view), view.trying()
            for device in self.plan.devices:
                d = devices.get(device.id)
                if d is None:
                    continue
                pin = view.pin_v(device.id) if sources[device.id] else 0.0
                self.pins_v[w, d] = pin
                sd = max(float(self.by.spread_v[condition.id][d]), VOLTS_FRAC * pin, VOLTS_FLOOR)
                # What may start and stop has volts of two kinds; neither is more than it was set to.
                self.chance["over"][w, d] = _past(pin, device.max_v, max(VOLTS_FRAC * pin, VOLTS_FLOOR))
                if pin > DESTROYS * device.max_v:
                    self.chance["lost"][w, d] = 1.0
                    continue
                if is_off(device, condition):
                    continue
                tried = device.feed is not None and device.feed.rail in trying
                found = verdict(device, pin, off=False, fed=bool(sources[device.id]), trying=tried)
                gone = found in ("dead", "unknown") or (tried and found == "reset")
                self.chance["lost"][w, d] = 1.0 if gone else _past(device.reset_v, pin, sd)
            for name, r in rails.items():
                if name in self.plan.rail_of:
                    volts, held = view.rail_v(name), self.by.held[name]
                    self.rails_v[w, r] = volts
                    if held and condition.on_pack:
                        sd = VOLTS_FRAC * held
                        self.chance["low"][w, r] = _past(held * (1 - RAIL_FRAC), volts, sd)
                        self.chance["high"][w, r] = _past(volts, held * (1 + RAIL_FRAC), sd)

    def _copied(self, w: int, when: When) -> bool:
        """A situation that shares its row with one before it."""
        at = self.by.rows.index(ROW_OF[when])
        if at >= w:
            return False
        for array in (
            *(self.chance[obs] for obs in ("lost", "over", "low", "high")),
            self.pins_v,
            self.rails_v,
            self.pack_a,
        ):
            array[w] = array[at]
        return True

    def _thermal(self) -> None:
        """Who switches off when it has settled, and what goes with it."""
        plan, parts = self.plan, self.by.subjects.index["part"]
        for one in plan.supplies:
            if not isinstance(one, Regulator) or one.id not in parts:
                continue
            temps = np.zeros(len(self.by.rows))
            for w, when in self.seen:
                condition = self.by.conditions[ROW_OF.get(when, when)]
                air = "moving" if when == "blown" or when in AIRBORNE else condition.air
                view = self.solved.mean.get(condition.id, self._view(when))
                loss_w = view.supply_loss_w(one) if view.converged else 0.0
                base = air_c(plan, condition.model_copy(update={"air": air}))
                temps[w] = temperature_c(base, loss_w, theta_k_w(one, air))
                rise = max(temps[w] - base, 1.0)
                self.chance["hot"][w, parts[one.id]] = _past(temps[w], TOUCH_C, max(HEAT_FRAC * rise, TOUCH_K))
                if when == "warm":
                    after = trip_time_s(plan.policy.still_air_c, loss_w, one.theta_still_k_w, one.tau_s, one.trip_c)
                    if trips(float(temps[w]), one.trip_c):
                        self.trips[one.id] = after
                settles = when in ("warm", "blown", "hover", "late")
                off = trip_chance(temps[w], one.trip_c, rise) if settles else 0.0
                if off > 1e-3:
                    self._gone_with(w, one, off)
            self.temps[one.id] = temps

    def _gone_with(self, w: int, supply: Regulator, off: float) -> None:
        devices, when = self.by.subjects.index["device"], self.by.rows[w]
        condition = self.by.conditions[ROW_OF.get(when, when)]
        for name in lost_with(self.plan, supply, condition):
            if name in devices and not is_off(self.plan.device_of[name], condition):
                at = self.chance["lost"][w, devices[name]]
                self.chance["lost"][w, devices[name]] = 1 - (1 - at) * (1 - off)

    def _noise(self, found: Observed) -> None:
        pictures, devices = self.by.subjects.index["picture"], self.by.subjects.index["device"]
        posed = self.solved.plan
        solutions: dict[When, NoiseSolution] = {}
        for when in ("bench", "hover"):
            if when in self.solved.given and self.solved.given[when].converged:
                solutions[when] = noise_solution(self.solved, posed.condition(when))
        for at in solutions.values():
            for device in posed.devices:
                d = devices.get(device.id)
                if d is None or device.feed is None or device.throttle:
                    continue
                total = float(np.sqrt(np.sum(at.across_pp_v(pin_node(device.id), ground_node(device.id)) ** 2)))
                chance = _past(20 * np.log10(max(total, 1e-9) / tolerated_v(device)), 0.0, SEEN_DB)
                for w, when in enumerate(self.by.rows):
                    if solutions.get("hover" if when in AIRBORNE else "bench") is at:
                        self.chance["noisy"][w, d] = chance
        if not pictures or not solutions:
            return
        videos, bare = videos_of(posed, list(solutions.values()))
        for one, without in zip(videos, bare, strict=True):
            if one.signal in pictures:
                self._bars(found, one, without, pictures[one.signal])

    def _bars(self, found: Observed, one: VideoNoise, bare: VideoNoise, p: int) -> None:
        motors = {d.id for d in self.plan.devices if d.throttle}
        moving, by_moving = _level(one, "hover", motors, of_motors=True)
        standing, by_standing = _level(one, "bench", motors, of_motors=False)
        found.levels_db[one.signal] = moving, standing
        found.loudest[one.signal] = by_moving, by_standing
        if self.plan.filters and moving > _level(bare, "hover", motors, of_motors=True)[0] + WORSE_DB:
            near = self.plan.signal_of[one.signal]
            ends = {self.plan.owner_of[end].id for end in (near.source, near.sink)}
            rails = {d.feed.rail for d in self.plan.devices if d.id in ends and d.feed}
            fitted = [f for f in self.plan.filters if f.fitted]
            found.worse_with[one.signal] = next((f.id for f in fitted if f.at in ends | rails), fitted[0].id)
        for w, when in enumerate(self.by.rows):
            if when in AIRBORNE:
                self.chance["lines"][w, p] = _past(moving, VISIBLE_DB, SEEN_DB)
            self.chance["bars"][w, p] = _past(standing, VISIBLE_DB, SEEN_DB)

    def _signals(self, found: Observed) -> None:
        index = self.by.subjects.index["signal"]
        for one in returns(grounded(self.solved)).signals if self.plan.signals else ():
            if one.id not in index or not one.margin_v:
                continue
            shares = np.zeros(len(self.by.rows))
            for w, when in self.seen:
                shares[w] = one.states[ROW_OF.get(when, when)].share_frac
            found.shares[one.id] = shares
            self.chance["bad"][:, index[one.id]] = below((shares - 1) / SHARE_SD)

    def _heading(self) -> None:
        policy, index = self.plan.policy, self.by.subjects.index["device"]
        for device in self.plan.devices:
            if device.compass is None or device.id not in index:
                continue
            spec = device.compass
            for w in range(len(self.by.rows)):
                amps = abs(self.pack_a[w]) * spec.share_frac
                error = heading_error_deg(pair_field_t(amps, spec.spacing_m, spec.distance_m), policy.earth_field_t)
                self.chance["heading"][w, index[device.id]] = _past(error, policy.compass_limit_deg, 0.4 * max(error, 1.0))  # fmt: skip

    def _craft(self) -> None:
        """What is true of the whole craft, by its own numbers."""
        plan = self.plan
        for w, when in self.seen:
            condition = self.by.conditions[ROW_OF.get(when, when)]
            view = self._view(when)
            if not condition.on_pack or not view.converged:
                continue
            sag = 1 - view.rail_v(plan.pack.rail) / view.rest_v
            self.chance["sag"][w, 0] = _past(sag, MUCH_SAG_FRAC, SAG_FRAC)
            if when == "plug":
                self.chance["spark"][w, 0] = _past(np.log10(max(charged_f(plan), 1e-9)), np.log10(SPARK_F), 0.3)
            lamps = [one for one in plan.inlets if one.in_line]
            if lamps:
                self.chance["lamp"][w, 0] = _past(abs(self.pack_a[w]), LIT_FRAC * lamps[0].limit_a, 0.1 * lamps[0].limit_a)  # fmt: skip

    def _pictures(self) -> None:
        """A picture is gone with either of its ends; it is weak where what sends it is nearly lost."""
        devices = self.by.subjects.index["device"]
        for p, name in enumerate(self.by.subjects.of["picture"]):
            signal = self.plan.signal_of.get(name)
            if signal is None:
                continue
            ends = [self.plan.owner_of[end].id for end in (signal.source, signal.sink)]
            stays = np.ones(len(self.by.rows))
            for end in ends:
                if end in devices:
                    stays = stays * (1 - self.chance["lost"][:, devices[end]])
                    device = self.plan.device_of[end]
                    if device.kind in ("sender", "digital"):
                        low = below((device.min_v - self.pins_v[:, devices[end]]) / (VOLTS_FRAC * device.min_v))
                        self.chance["weak"][:, p] = low * stays
            self.chance["black"][:, p] = 1 - stays


def held_v(plan: Plan, rail: str) -> float | None:
    """What a rail is held at; None of one that follows the pack."""
    held = [one.set_v for one in plan.supplies_into(rail) if isinstance(one, Regulator)]
    return held[0] if held and not graph_of(plan).follows_the_pack(rail) else None


def trip_chance(temp_c: float, trip_c: float, rise_k: float) -> float:
    """Chance that a regulator which settles there switches itself off."""
    open_, shut = (_past(temp_c, trip_c, frac * rise_k) for frac in (HEAT_FRAC, SHUT_IN_FRAC))
    return (1 - SHUT_IN) * open_ + SHUT_IN * shut


def lost_with(plan: Plan, supply: Regulator, condition: Condition) -> tuple[str, ...]:
    """Devices that have nothing in a condition once this supply gives nothing."""
    without = plan.model_copy(update={"supplies": tuple(one for one in plan.supplies if one.id != supply.id)})
    gone = graph_of(plan).reachable_rails(condition) - graph_of(without).reachable_rails(condition)
    return tuple(d.id for d in plan.devices if d.feed and d.feed.rail in gone)


def _level(one: VideoNoise, when: str, motors: set[str], *, of_motors: bool) -> tuple[float, str]:
    """Level of what follows the motors or does not [dB under full picture], and whose most of it is."""
    lines = [line for line in one.lines.get(when, ()) if (line.element in motors) == of_motors]
    if not lines:
        return -200.0, ""
    total = float(np.sqrt(sum(line.pp_v**2 for line in lines)))
    return 20 * float(np.log10(max(total, 1e-12) / 0.714)), max(lines, key=lambda line: line.pp_v).element
