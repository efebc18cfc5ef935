"""What helps against a reset or a spike in a scenario: each remedy sized, tried by running the scenario again."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from typing import Literal, get_args

import numpy as np

from yardmeter.core.answers.model import Answer
from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.checks import run_rules
from yardmeter.core.checks.grounds import brought_home
from yardmeter.core.checks.relief import larger_fix, new_regulator_fix
from yardmeter.core.checks.running import RunCase, condition_like
from yardmeter.core.edits import apply_edits
from yardmeter.core.errors import YardError
from yardmeter.core.fitness import fitness_at
from yardmeter.core.fixes.dip import dip_s, missing
from yardmeter.core.graph import graph_of
from yardmeter.core.patience import go_on
from yardmeter.core.physics.preferred import next_up
from yardmeter.core.plan import CapacitorFilter, Clamp, Device, Diode, Plan, Rail, Scenario
from yardmeter.core.plan.ids import fresh_id
from yardmeter.core.plan.inline import AntiSpark
from yardmeter.core.plan.operations import Add, Edit, Move, SetValue
from yardmeter.core.plan.scenarios import PlugPack, ScenarioAct, Throttle, TurnDevice
from yardmeter.core.runs.report import DeviceLife, Report, report
from yardmeter.core.runs.run import Run, run_scenario
from yardmeter.core.runs.why import Why, whys
from yardmeter.core.solver.transient.trace import Happening
from yardmeter.core.verdict import SEVERITY_ORDER, Severity

HelpKind = Literal[
    "start order", "slower throttle", "another place", "ground", "shorter lead", "capacitor", "clamp", "anti-spark", "diode and capacitor", "own regulator",
    "larger regulator", "bulk",
]  # fmt: skip
LIGHTEST: tuple[HelpKind, ...] = get_args(HelpKind)
"""What cures is told in this order: what weighs nothing, then about as heavy as it is."""
LARGEST_F = 0.02
"""A hold-up capacitor larger than this is none a craft carries; our choice."""
TRIES = 3
DRAWN = 120
"""Stretches a line is drawn in."""
SPARE_FRAC = 1.2
"""What a sized part gets over what was worked out; our choice."""
ANTI_SPARK_A = (20.0, 5.0)
"""Inrush an anti-spark resistor is sized for: a larger one charges longer than the contact lasts; our choice."""
ANTI_SPARK_S = 1e-3
"""How long the resistor's contact comes before the other; our estimate."""
CLAMP_FRAC = 0.3
"""Where between the pack's own volts and a device's maximum a clamp breaks down; our choice."""
SLOWER_S = 0.4
"""Time a throttle is thrown in, where it is eased; our choice."""
SHORTEST_M = 0.04
"""A lead that is shorter reaches nothing; our choice."""
RATED_V = (6.3, 10.0, 16.0, 25.0, 35.0, 50.0, 63.0, 100.0)
BOARD_LEG_M = 0.005


class Help(Answer):
    """A remedy, tried. `edits` put it into the plan; `least_v`, `most_v` and `resets` are the device's with it."""

    kind: HelpKind
    edits: tuple[Edit, ...]
    value: float
    """Its size: farads, ohms, volts or seconds, by kind."""
    unit: str
    least_v: float | None
    most_v: float
    resets: int
    over_s: float
    cured: bool
    device: str
    pin_v: tuple[float, ...]
    """Volts at the device's pins with it, evenly over the scenario: the least of each stretch, the most against a spike."""
    rail: str | None = None


class HoldUp(Answer):
    """What a capacitor can do for a device: `t = C (V1² − V2²)/2P`, V1 before the dip, V2 where it resets."""

    device: str
    watts: float
    from_v: float
    to_v: float
    dip_s: float
    steady: bool
    needed_f: float | None
    """For the dip; None where it is none."""
    missing_rail: str | None
    """The rail that is asked for more than it has, where it is an overload and its conditions tell."""
    missing_a: float
    per_10uf_s: float
    """How long ten microfarads hold it."""


def hold_up(run: Run, found: Why) -> HoldUp:
    """How long a capacitor at its pins holds a device that reset, and how large it would have to be."""
    device = run.plan.device_of[found.device]
    pin, amps = run.pin_v(device.id), run.load_a(device.id)
    at = run.at(found.at_s)
    low = pin < device.reset_v
    begin = at
    while begin > 0 and low[begin - 1]:
        begin -= 1
    before = max(begin - 1, 0)
    # Before the act its volts stood higher than on the last step of their way down.
    since = run.at(max(found.at_s - max(found.below_s, 1e-3) - 0.02, 0.0))
    from_v = float(pin[since : before + 1].max()) if before >= since else float(pin[before])
    # A power stays what it was before its volts fell, its current not having followed yet; of a current the power is that of
    # the middle.
    stretch = slice(min(since, before), before + 1)
    if device.law == "power":
        watts = max(float((pin[stretch] * amps[stretch]).max()), 1e-3)
    else:
        watts = max((from_v + device.reset_v) / 2 * float(amps[before]), 1e-3)
    square = max(from_v**2 - device.reset_v**2, 1e-9)
    lasts_s = dip_s(run, found)
    needed = 2 * watts * lasts_s / square if lasts_s is not None and from_v > device.reset_v else None
    short = missing(run, found) if lasts_s is None else None
    return HoldUp(
        device=device.id,
        watts=watts,
        from_v=from_v,
        to_v=device.reset_v,
        dip_s=found.below_s if lasts_s is None else lasts_s,
        steady=lasts_s is None,
        missing_rail=short.rail if short else None,
        missing_a=short.asked_a - short.gives_a if short else 0.0,
        needed_f=needed,
        per_10uf_s=10e-6 * square / (2 * watts),
    )


def helps_for(run: Run, device_id: str) -> tuple[Help, ...]:
    """Remedies for a device that resets or is over its maximum in a scenario, each tried; those that cure come first."""
    device = run.plan.device_of[device_id]
    tried = []
    for kind, edits, value, unit, rail in _proposed(run, device):
        go_on()
        outcome = _tried(run, device, edits)
        if outcome:
            life, cured, after = outcome
            tried.append(
                Help(
                    kind=kind, edits=edits, value=value, unit=unit, device=device_id, rail=rail, cured=cured, pin_v=drawn_v(after, device),
                    least_v=life.least_v, most_v=life.most_v, resets=len(life.resets_s), over_s=life.over_s,
                )
            )  # fmt: skip
    return tuple(sorted(tried, key=lambda one: (not one.cured, LIGHTEST.index(one.kind))))


Proposal = tuple[HelpKind, tuple[Edit, ...], float, str, str | None]


def _proposed(run: Run, device: Device) -> Iterator[Proposal]:
    life = next(one for one in report(run).devices if one.id == device.id)
    if life.resets_s:
        found = next(one for one in whys(run) if one.device == device.id)
        yield from _against_dip(run, device, found)
        yield from _start_order(run, device, found)
        yield from _slower(run)
        yield from _regulators(run, device, found)
        yield from _copper(run, device, found)
    if life.over_s > 0:
        yield from _against_spike(run, device)
    yield from _elsewhere(run.plan, device)


def _against_dip(run: Run, device: Device, found: Why) -> Iterator[Proposal]:
    """A capacitor at its pins, enlarged until it holds; one behind a diode, which nobody else can drain; bulk at the pack."""
    needed = hold_up(run, found).needed_f
    plan = run.plan
    if needed is not None and needed < LARGEST_F:

        def beside(farad: float) -> tuple[Edit, ...]:
            return (_capacitor(plan, device.id, f"Hold-up at {device.name}", farad, device.max_v),)

        edits, farad, cured = _enlarged(run, device, beside, needed, 3.0)
        yield "capacitor", edits, farad, "F", None
        if device.feed and not cured:  # others drain it: behind a diode it is the device's alone
            edits, farad, _ = _enlarged(run, device, lambda farad: _behind_diode(plan, device, farad), needed, 1.5)
            yield "diode and capacitor", edits, farad, "F", None
    if any(link.kind == "pack" for link in found.chain):
        bulk = (_capacitor(plan, plan.pack.rail, "Bulk at the pack", 1e-3, plan.pack.rest_v("full")),)
        yield "bulk", bulk, 1e-3, "F", plan.pack.rail


def _enlarged(
    run: Run, device: Device, make: Callable[[float], tuple[Edit, ...]], needed_f: float, step: float
) -> tuple[tuple[Edit, ...], float, bool]:
    """A capacitor of the size worked out and some, larger by `step` until it cures; the edits, its farads, whether it does."""
    farad = next_up(SPARE_FRAC * needed_f, 12)
    for k in range(TRIES):
        edits = make(farad)
        outcome = _tried(run, device, edits)
        if (outcome and outcome[1]) or k == TRIES - 1:
            break
        farad = next_up(step * farad, 12)
    return edits, farad, bool(outcome and outcome[1])


def _capacitor(plan: Plan, at: str, name: str, farad: float, volts: float) -> Add:
    rated = next((one for one in RATED_V if one >= 1.25 * volts), RATED_V[-1])
    made = CapacitorFilter(
        kind="capacitor", id=fresh_id(plan, name), name=name[:80], at=at, farad=farad, esr_ohm=0.03, rated_v=rated,
        lead_m=BOARD_LEG_M,
    )  # fmt: skip
    return Add(kind="filter", value=made.model_dump(mode="json"))


def _behind_diode(plan: Plan, device: Device, farad: float) -> tuple[Edit, ...]:
    """A rail of its own behind an ideal diode, with the capacitor at the device."""
    assert device.feed
    old = plan.rail_of[device.feed.rail]
    rail = Rail(id=fresh_id(plan, f"{device.id} held up"), name=f"{device.name} held up"[:80], board=old.board)
    diode = Diode(
        kind="diode", id=fresh_id(plan, f"{device.id} diode"), name=f"{device.name} ideal diode"[:80], input=old.id,
        output=rail.id, board=old.board, drop_v=0.02, series_ohm=0.02, rating_a=5,
    )  # fmt: skip
    return (
        Add(kind="rail", value=rail.model_dump(mode="json")),
        Add(kind="supply", value=diode.model_dump(mode="json")),
        Move(device=device.id, rail=rail.id, with_return=False),
        _capacitor(plan, device.id, f"Hold-up at {device.name}", farad, device.max_v),
    )


def _against_spike(run: Run, device: Device) -> Iterator[Proposal]:
    """A resistor in the contact for its first moment; a clamp between the pack's own volts and what the device takes."""
    plan, scenario = run.plan, run.scenario
    full = plan.pack.rest_v("full")
    bare = any(isinstance(one, PlugPack) and one.anti_spark_ohm is None for one in scenario.acts)
    if bare and plan.pack.lead.inline is None:
        for amps in ANTI_SPARK_A:
            plug = AntiSpark(ohm=next_up(full / amps, 12), for_s=ANTI_SPARK_S)
            edit = SetValue(element="pack", field="lead.inline", value=plug.model_dump(mode="json"))
            yield "anti-spark", (edit,), plug.ohm, "Ω", None
    for at in (device.feed.rail, device.id) if device.feed and full < device.max_v else ():
        clamp = Clamp(
            id=fresh_id(plan, f"clamp at {at}"), name=f"Clamp at {plan.title(at)}"[:80], at=at, standoff_v=full,
            breakdown_v=full + CLAMP_FRAC * (device.max_v - full), dynamic_ohm=0.02, pulse_j=1.5,
        )  # fmt: skip
        yield "clamp", (Add(kind="clamp", value=clamp.model_dump(mode="json")),), clamp.breakdown_v, "V", at


def _start_order(run: Run, device: Device, found: Why) -> Iterator[Proposal]:
    """What booted just before is switched on a second later."""
    events = [one for one in run.events if one.code is Happening.BOOTS and one.element != device.id]
    near = [one for one in events if 0 <= found.at_s - one.at_s < 0.05]
    if not near:
        return
    other = max(near, key=lambda one: float(run.load_a(one.element).max())).element
    later = max(near[-1].at_s + 1.0, 1.0)
    if later >= run.scenario.duration_s:
        return
    state = run.timetable.condition.state_of(other)
    acts = (TurnDevice(at_s=0.0, device=other, state="off"), *run.scenario.acts, TurnDevice(at_s=later, device=other, state=state))  # fmt: skip
    yield "start order", (_scenario(run.plan, run.scenario, acts),), later, "s", None


def _regulators(run: Run, device: Device, found: Why) -> Iterator[Proposal]:
    """A regulator of its own for it, and a larger one in the place of what stands at its limit."""
    case, plan = solve_plan(run.plan), run.plan
    own = new_regulator_fix(case, [device]) if device.feed and not device.throttle else None
    if own:
        rail = next(one for one in own.edits if isinstance(one, Add) and one.kind == "rail")
        yield "own regulator", own.edits, float(str(rail.value["nominal_v"])), "V", None
    like = condition_like(plan, run.scenario)
    at_limit = [link.element for link in found.chain if link.kind == "limit" and link.element in plan.supply_of]
    for name in at_limit[:1] if like else ():
        for fix in larger_fix(case, plan.rail_of[plan.supply_of[name].output], like.id if like else ""):
            rated = next(float(str(e.value)) for e in fix.edits if isinstance(e, SetValue) and e.field == "rating_a")
            yield "larger regulator", fix.edits, rated, "A", plan.supply_of[name].output


def _copper(run: Run, device: Device, found: Why) -> Iterator[Proposal]:
    """Its ground at what feeds it; half the lead to the pack, where the pack's volts are part of it."""
    plan, graph = run.plan, graph_of(run.plan)
    home = graph.feeding_ground(device)
    if home and device.returns and device.returns[0].to != home:
        yield "ground", brought_home(plan, device, home).edits, 1.0, "", home
    half_m = plan.pack.lead.length_m / 2
    if any(link.kind == "pack" for link in found.chain) and half_m >= SHORTEST_M:
        yield "shorter lead", (SetValue(element="pack", field="lead.length_m", value=half_m),), half_m, "m", None


def _slower(run: Run) -> Iterator[Proposal]:
    acts = tuple(
        one.model_copy(update={"over_s": SLOWER_S}) if isinstance(one, Throttle) and one.over_s < SLOWER_S else one
        for one in run.scenario.acts
    )
    if acts != run.scenario.acts:
        yield "slower throttle", (_scenario(run.plan, run.scenario, acts),), SLOWER_S, "s", None


def _scenario(plan: Plan, scenario: Scenario, acts: tuple[ScenarioAct, ...], duration_s: float | None = None) -> Edit:
    """The scenario with other acts: the plan's own is changed, a shipped one becomes the plan's own."""
    made = scenario.model_copy(update={"acts": acts, "duration_s": duration_s or scenario.duration_s})
    value = made.model_dump(mode="json")
    if any(one.id == scenario.id for one in plan.scenarios):
        return SetValue(element=scenario.id, field="acts", value=value["acts"])
    return Add(kind="scenario", value=value)


def _elsewhere(plan: Plan, device: Device) -> Iterator[Proposal]:
    """Rails whose own volts it takes and on which it can live, nearest to its nominal first."""
    if not device.feed:
        return
    was = solve_plan(plan)
    fed = {one.output: one for one in plan.supplies if hasattr(one, "set_v")}
    rails = [
        (abs(fed[r.id].set_v - device.nominal_v), r.id) for r in plan.rails if r.id in fed and r.id != device.feed.rail
    ]
    for _, rail in sorted(rails)[:2]:
        takes = device.lives_between(fed[rail].set_v, fed[rail].set_v)
        if takes and fitness_at(plan, device.id, rail, was=was).fits:
            yield "another place", (Move(device=device.id, rail=rail),), fed[rail].set_v, "V", rail


def _tried(run: Run, device: Device, edits: tuple[Edit, ...]) -> tuple[DeviceLife, bool, Run] | None:
    """The device's life with the edits made; whether what was wrong is gone; the run. None where they cannot be made."""
    try:
        plan = apply_edits(run.plan, edits)
        scenario = next((one for one in plan.scenarios if one.id == run.scenario.id), run.scenario)
        after = run_scenario(plan, scenario)
    except YardError:
        return None
    if after.stuck_s is not None:
        return None
    seen = report(after)
    life = next(one for one in seen.devices if one.id == device.id)
    well = not life.resets_s and life.over_s == 0 and not life.never and not life.short
    return life, well and not _worse(_judged(run, report(run)), _judged(after, seen)), after


def _judged(run: Run, seen: Report) -> dict[str, Severity]:
    """What is said of one run, by what it is said of."""
    plan = run.plan
    if all(one.id != run.scenario.id for one in plan.scenarios):
        plan = plan.model_copy(update={"scenarios": (*plan.scenarios, run.scenario)})
    return {one.key: one.severity for one in run_rules(RunCase(plan, ((run.scenario, seen),)), "runs")}


def _worse(before: Mapping[str, Severity], after: Mapping[str, Severity]) -> bool:
    """Whether any device or limit of the run came out heavier than it was; notes count for nothing."""
    return any(
        SEVERITY_ORDER[now] < min(SEVERITY_ORDER[before.get(key, "note")], SEVERITY_ORDER["note"])
        for key, now in after.items()
    )


def drawn_v(run: Run, device: Device) -> tuple[float, ...]:
    """Volts at a device's pins over a scenario as a screen draws them: the least of each stretch, the most where it is over."""
    edges = np.linspace(0.0, run.scenario.duration_s, DRAWN + 1)
    pin, times = run.pin_v(device.id), run.times_s
    at = np.interp(edges, times, pin)
    over = bool((pin > device.max_v).any())
    pick = np.fmax if over else np.fmin
    found = pick(at[:-1], at[1:])
    which = np.clip(np.searchsorted(edges, times, side="right") - 1, 0, DRAWN - 1)
    pick.at(found, which, pin)
    return tuple(float(f"{one:.4g}") for one in found)
