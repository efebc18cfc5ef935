"""Whether a device can live where it is fed: its window from the full pack to the floor, and the amps of all that feeds it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from yardmeter.core.answers.limits import pad_limit, wire_bound_a, wire_weights
from yardmeter.core.answers.model import DeviceState, Limit
from yardmeter.core.answers.solved_plan import SolvedPlan, solve_plan
from yardmeter.core.elements.wire import exceeds
from yardmeter.core.graph import graph_of
from yardmeter.core.network.keys import Key, feed_key, return_key
from yardmeter.core.plan import Condition, Device, Plan, Wire, fed_from
from yardmeter.core.verdict import SEVERITY_ORDER, Comparison, Facts, Severity, Verdict, always, under

FLOOR_PACK = "pack-at-its-floor"
"""The condition added to a plan that has none like it; every pack comes there."""
SAME_V = 0.05
"""A full pack with nothing drawn is named where it is more than any condition sees by this [V]."""
MORE_A = 1e-3
"""What was over before and is asked for no more than this on top is none of this device's doing [A]."""


@dataclass(frozen=True)
class WindowMissed(Facts):
    verdict: str


@dataclass(frozen=True)
class ShortOfAmps(Facts):
    limit: Limit


@dataclass(frozen=True)
class WireTooThin(Facts):
    pass


@dataclass(frozen=True)
class TakesControlAlong(Facts):
    """What keeps the craft up would hang on what another device passes on."""


@dataclass(frozen=True)
class Fitness:
    """What speaks against a place, worst first, and the plan solved with the device there."""

    device: str
    at: SolvedPlan
    verdicts: tuple[Verdict, ...]

    @property
    def fits(self) -> bool:
        """Whether nothing as bad as a fault speaks against it."""
        return not self.heavy

    @property
    def heavy(self) -> tuple[Verdict, ...]:
        """What is a fault or a danger there."""
        return tuple(one for one in self.verdicts if one.severity in ("danger", "fault"))

    @property
    def window(self) -> Verdict | None:
        """The fault or danger by which its volts are not for it there; None where they are."""
        return next((one for one in self.heavy if isinstance(one.facts, WindowMissed)), None)


def fitness(plan: Plan, device_id: str, was: SolvedPlan | None = None) -> Fitness:
    """A device where the plan feeds it. Against what `was` before, only what is worse counts."""
    return judge(solve_plan(_to_the_floor(plan)), device_id, was)


def fitness_at(plan: Plan, device_id: str, rail_id: str, pad_id: str | None = None, was: SolvedPlan | None = None) -> Fitness:  # fmt: skip
    """A device fed from another rail, its return along with it. Raises EditError where that cannot be."""
    return fitness(fed_from(plan, device_id, rail_id, pad_id), device_id, was)


def fitness_of_all(plan: Plan, device_ids: Iterable[str], was: SolvedPlan | None = None) -> dict[str, Fitness]:
    """Several devices where the plan feeds them, solved once."""
    at = solve_plan(_to_the_floor(plan))
    return {one: judge(at, one, was) for one in device_ids}


def judge(at: SolvedPlan, device_id: str, was: SolvedPlan | None = None) -> Fitness:
    """A device in a solved plan; conditions of `was` that the plan has too tell what was so before."""
    device = at.plan.device_of[device_id]
    found = [*_window(at, device, was), *_amps(at, device, was), *_pad(at, device, was), *_wires(at, device, was)]
    if device.keeps_control and device.feed and graph_of(at.plan).passed_on(device.feed.rail):
        found.append(always("caution", (device.id, device.feed.rail), Comparison(1, 0, ""), TakesControlAlong()))
    ordered = sorted(found, key=lambda one: SEVERITY_ORDER[one.severity])
    return Fitness(device_id, at, tuple(ordered))


def _to_the_floor(plan: Plan) -> Plan:
    """The plan with a pack at its floor among its conditions; what a full one means for a device is known without."""
    flown = next((c for c in plan.conditions if c.on_pack), None)
    if flown is None or any(c.id == FLOOR_PACK for c in plan.conditions):
        return plan
    rest: dict[str, object] = {"pack_v": None, "cell_v": None, "throttle_frac": 0.0, "states": {}}
    floor = {"id": FLOOR_PACK, "name": "an empty pack", "pack_state": "floor", "default_state": "typical"}
    return plan.model_copy(update={"conditions": (*plan.conditions, flown.model_copy(update=rest | floor))})


def _window(at: SolvedPlan, device: Device, was: SolvedPlan | None) -> Iterator[Verdict]:
    over = {c.id: s.pin_v for c, s in at.device_states(device) if s.verdict == "high"}
    seen = at.most_pin_v(device)
    if over and seen <= max(over.values()) + SAME_V:
        worst = max(over, key=lambda c: (round(over[c], 1), c != FLOOR_PACK, over[c]))
        compared = Comparison(over[worst], device.max_v, "V")
        yield under(dict.fromkeys(over, "danger"), worst, (device.id,), compared, WindowMissed("high")).stamped(
            "fit.over", "at most"
        )
    elif device.at_volts(seen) == "high":  # whatever its conditions load the pack with
        compared = Comparison(seen, device.max_v, "V")
        yield always("danger", (device.id,), compared, WindowMissed("high")).stamped("fit.over", "at most")
    low = {c.id: (s, weight) for c, s in at.device_states(device) if (weight := _missed(device, c, s, was))}
    if low:
        worst = min(low, key=lambda c: (SEVERITY_ORDER[low[c][1]], low[c][0].pin_v))
        compared = Comparison(low[worst][0].pin_v, device.min_v, "V")
        weights = {c: weight for c, (_, weight) in low.items()}
        facts = WindowMissed(low[worst][0].verdict)
        yield under(weights, worst, (device.id,), compared, facts).stamped("fit.under", "at least")


def _missed(device: Device, condition: Condition, state: DeviceState, was: SolvedPlan | None) -> Severity | None:
    """How a condition speaks against a place whose volts are too low in it."""
    if state.verdict not in ("low", "reset", "dead"):
        return None
    if condition.id == FLOOR_PACK:
        return "caution"
    if condition.on_pack:
        return "fault"
    # What runs without the pack now, from USB say, should there too; what keeps no control may also be dead.
    before = was.device(device.id).states.get(condition.id) if was and device.id in was.plan.device_of else None
    runs = before is not None and before.verdict == "ok"
    return "fault" if runs and (state.verdict != "dead" or device.keeps_control) else None


def _amps(at: SolvedPlan, device: Device, was: SolvedPlan | None) -> Iterator[Verdict]:
    """Every rail on the way, down to the source, and every other whose current comes here through what joins them."""
    if device.feed is None:
        return
    way = graph_of(at.plan).climb(device.feed.rail)
    joined = {c.id: at.fed_by(device.feed.rail, c) for c in at.pack_conditions()}
    others = [r.id for r in at.plan.rails if r.id not in way and any(r.id in rails for rails in joined.values())]
    for rail_id in (*way, *others):
        states = {
            c.id: s
            for c in at.pack_conditions()
            if (rail_id in way or rail_id in joined[c.id]) and (s := at.rail(rail_id).states[c.id]).limits
        }
        known = was.rail(rail_id).states if was and rail_id in was.plan.rail_of else {}
        short = {
            c: s
            for c, s in states.items()
            if s.over and not (c in known and s.asked_a <= known[c].asked_a + MORE_A and c != FLOOR_PACK)
        }
        if short:
            worst = min(short, key=lambda c: short[c].own_spare_a)
            binds = min(short[worst].limits, key=lambda one: one.amps_a)
            compared = Comparison(short[worst].asked_a, short[worst].usable_a, "A")
            weights: dict[str, Severity] = {c: "caution" if c == FLOOR_PACK else "fault" for c in short}
            yield under(weights, worst, (rail_id,), compared, ShortOfAmps(binds)).stamped("fit.amps", "at most")


def _pad(at: SolvedPlan, device: Device, was: SolvedPlan | None) -> Iterator[Verdict]:
    pad = at.plan.pad_of.get(device.feed.pad or "") if device.feed else None
    limit = pad_limit(pad[1]) if pad else None
    if pad is None or limit is None:
        return
    sums = {c.id: _through(at, pad[1].id, c.id) for c in at.plan.conditions}
    known = {c.id: _through(was, pad[1].id, c.id) for c in was.plan.conditions} if was else {}
    over: dict[str, Severity] = {
        c: "fault" for c in sums if exceeds(sums[c], limit.amps_a) and _more(c, sums[c], known)
    }
    if over:
        worst = max(over, key=lambda c: sums[c])
        compared = Comparison(sums[worst], limit.amps_a, "A")
        yield under(over, worst, (pad[1].id,), compared, ShortOfAmps(limit)).stamped("fit.pad", "at most")


def _through(case: SolvedPlan, pad: str, condition: str) -> float:
    """What all that is soldered to a pad asks for together [A]."""
    return sum(case.device(d.id).states[condition].asked_a for d in case.plan.devices if d.feed and d.feed.pad == pad)


def _wires(at: SolvedPlan, device: Device, was: SolvedPlan | None) -> Iterator[Verdict]:
    own: list[tuple[Key, Wire]] = [(feed_key(device.id), device.feed.wire)] if device.feed else []
    own += [(return_key(one.id), one.wire) for one in device.returns]
    for key, wire in own:
        amps, known = _carried(at, key), _carried(was, key) if was else {}
        bounds = {c.id: wire_bound_a(at.plan, wire, c) for c in at.plan.conditions}
        over = {c: weight for c, weight in wire_weights(at.plan, wire, amps).items() if _more(c, amps[c], known)}
        if over:
            worst = max(over, key=lambda c: amps[c] / bounds[c])
            compared = Comparison(amps[worst], bounds[worst], "A")
            yield under(over, worst, (device.id,), compared, WireTooThin()).stamped("fit.wire", "at most")


def _carried(case: SolvedPlan, key: Key) -> dict[str, float]:
    """Amps of a wire by condition; nothing for one that is not there."""
    if key not in case.solved.table.conductor:
        return {}
    return case.solved.carried_a(key)


def _more(condition: str, amps: float, known: dict[str, float]) -> bool:
    """Whether it is more than it was before; what a condition was not asked for is taken for the most of the others."""
    return amps > known.get(condition, max(known.values(), default=0.0)) + MORE_A
