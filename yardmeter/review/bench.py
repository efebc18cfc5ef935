"""The bench list as a screen shows it."""

from __future__ import annotations

from yardmeter.core.answers.model import Answer
from yardmeter.core.plan import Plan
from yardmeter.core.probing.points import Point, PointKind
from yardmeter.core.procedures import Checklist, Gate, Step, powered_gate
from yardmeter.core.procedures.checklist import supply_for
from yardmeter.words.procedure import CAUTIONS, GATE_SHORT, GATE_WORDS, step_expects, step_how, step_title, step_why


class ProbeAt(Answer):
    """Where a probe is put: `board` is the platform it is on or hangs from, none for the plug and what hangs from nothing."""

    point: str
    kind: PointKind
    owner: str
    board: str | None
    rail: str | None
    name: str
    short: str


def place_of(plan: Plan, point: Point | None) -> ProbeAt | None:
    """A point as a drawing needs it."""
    if point is None:
        return None
    rail: str | None = None
    if point.kind == "rail":
        rail = point.id
    elif point.kind == "pad":
        rail = next((one.id for one in plan.rails if any(pad.id == point.id for pad in one.pads)), None)
    device = plan.device_of.get(point.owner)
    supply = plan.supply_of.get(point.owner)
    if device and device.feed:
        board: str | None = plan.rail_of[device.feed.rail].board
        rail = device.feed.rail
    else:
        board = supply.board if supply else point.owner if point.owner in plan.board_of else None
    short = point.name.rsplit(", ", 1)[-1]
    return ProbeAt(
        point=point.id, kind=point.kind, owner=point.owner, board=board, rail=rail, name=point.name, short=short
    )


class SupplySetting(Answer):
    volts_v: float
    limit_a: float


class BenchStep(Answer):
    """One step in words. `signature` changes when an edit makes it another step."""

    id: str
    signature: str
    gate: Gate
    title: str
    how: str
    expects: str
    why: str
    typed: bool
    """Whether a reading is typed, or it is only looked at."""
    unit: str
    mode: str
    red: ProbeAt | None
    black: ProbeAt | None
    condition: str
    supply: SupplySetting | None
    """For the first power from a bench supply."""
    charge_s: float
    """How long capacitors may hold that supply at its limit."""
    unforeseen: bool
    """Whether nobody can say what it reads: it is only skipped, with a reason."""
    watched: bool
    """Whether an instrument can read it: between two points, or the amps of a supply."""


class BenchGate(Answer):
    gate: Gate
    title: str
    short: str
    caution: str
    powered: bool
    count: int


def bench_steps(made: Checklist) -> tuple[BenchStep, ...]:
    plan = made.solved.plan
    return tuple(_step(plan, one) for one in made.steps)


def _step(plan: Plan, step: Step) -> BenchStep:
    return BenchStep(
        id=step.id,
        signature=step.signature,
        gate=step.gate,
        title=step_title(plan, step),
        how=step_how(plan, step),
        expects=step_expects(step),
        why=step_why(plan, step),
        typed=step.expected is not None,
        unit=step.expected.unit if step.expected else "",
        mode=step.mode or "",
        red=place_of(plan, step.red),
        black=place_of(plan, step.black),
        supply=_supply(step),
        charge_s=step.charge_s,
        unforeseen=step.unforeseen is not None,
        watched=step.mode is not None,
        condition=plan.condition(step.condition).name if step.condition else "",
    )


def _supply(step: Step) -> SupplySetting | None:
    if step.gate != "limiter":
        return None
    volts, limit = supply_for(step)
    return SupplySetting(volts_v=volts, limit_a=limit)


def bench_gates(made: Checklist) -> tuple[BenchGate, ...]:
    """Gates this build has steps for."""
    counts: dict[Gate, int] = {}
    for step in made.steps:
        counts[step.gate] = counts.get(step.gate, 0) + 1
    return tuple(
        BenchGate(
            gate=gate,
            title=GATE_WORDS[gate],
            short=GATE_SHORT[gate],
            caution=CAUTIONS.get(gate, ""),
            powered=powered_gate(gate),
            count=count,
        )
        for gate, count in counts.items()
    )
