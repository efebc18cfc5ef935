"""Everything that can be behind a symptom: what the plan itself foresees, faults, parts that aged or never were as planned, settings."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Literal

from yardmeter.core.diagnosis.observed import CRAFT, Obs
from yardmeter.core.diagnosis.settings import Setting, settings_of
from yardmeter.core.errors import EditError
from yardmeter.core.faults import Fault, every_fault
from yardmeter.core.faults.record import RECORDS
from yardmeter.core.plan import FerriteFilter, Plan, Regulator
from yardmeter.core.plan.operations import Edit, SetValue
from yardmeter.core.probing.passive import PassiveTable

CauseKind = Literal[
    "trip", "overload", "dropout", "volts", "limit", "shift", "level", "moving noise", "standing noise", "resonance", "field", "as planned",
    "hot", "over", "plug",
    "fault", "aged pack", "lost cell", "dried", "draws more", "gives less", "part", "signal open", "signal crossed", "thin wire", "setting",
]  # fmt: skip
FORESEEN: frozenset[CauseKind] = frozenset(
    ("trip", "overload", "dropout", "volts", "limit", "shift", "level", "moving noise", "standing noise", "resonance", "field", "as planned", "hot", "over", "plug")
)  # fmt: skip
"""What the plan's own numbers say."""

BUILT_WRONG = 0.3
"""Share of builds that have some fault of the catalogue in them when something is wrong; this and what follows: common practice, no source."""
AGED_PACK, LOST_CELL, DRIED = 0.06, 0.03, 0.03
MORE_BY = {"measured": 0.005, "sheet": 0.015, "reported": 0.03, "guess": 0.06}
"""How often a device draws far more than the plan says, by what that number is."""
GIVES_LESS, BROKEN_PART, OPEN_SIGNAL, CROSSED, THIN_WIRE = 0.03, 0.02, 0.02, 0.02, 0.01
AGED_TIMES = 2.5
"""Of a cell's resistance when it is worn; from memory."""
MORE_TIMES = 1.8
LESS_FRAC = 0.6
"""Of its print that a regulator sold for more gives."""
DRIED_TIMES, DRIED_FRAC = 10.0, 0.2
"""Resistance and capacitance of an electrolytic that has dried; from memory."""
THINNER_AWG = 8
LEAST_A = 0.05


@dataclass(frozen=True)
class Cause:
    """`prior` is how often it is there beside the others. `edits` make the craft it becomes; `forced` is what it makes of things
    no plan models, by what is observed and of which subject. `repair` is the same for causes that the same work mends."""

    id: str
    kind: CauseKind
    elements: tuple[str, ...]
    prior: float
    edits: tuple[Edit, ...] | None = None
    forced: dict[tuple[Obs, str], float] = field(default_factory=dict)
    fault: Fault | None = None
    setting: Setting | None = None
    repair: tuple[str, ...] = ()
    grounds: bool = False
    """Whether it moves what returns and noise are."""

    @property
    def foreseen(self) -> bool:
        return self.kind in FORESEEN

    @property
    def mended_by(self) -> tuple[str, ...]:
        return self.repair or (self.kind, *self.elements)


SAME_REPAIR = {"connector half in": "open joint", "device shorted": "replace", "regulator low": "replace"}
NOISE_KINDS = ("no ground", "capacitor forgotten", "capacitor reversed", "capacitor shorted")


def added(plan: Plan, table: PassiveTable) -> tuple[Cause, ...]:
    """All that is not foreseen by the plan's own numbers."""
    return (*_faults(plan, table), *_worn(plan), *_parts(plan), *_signals(plan), *_settings(plan))


def _faults(plan: Plan, table: PassiveTable) -> Iterator[Cause]:
    found = every_fault(table)
    total = sum(one.weight for one in found) or 1.0
    for one in found:
        edits = _edits(plan, one)
        back = one.kind == "poor joint" and one.elements[-1] in plan.return_of
        yield Cause(
            one.id, "fault", one.elements, BUILT_WRONG * one.weight / total, edits, dict(_forced(plan, one)), one,
            repair=_repair(one), grounds=back or one.kind in NOISE_KINDS,
        )  # fmt: skip


def _edits(plan: Plan, fault: Fault) -> tuple[Edit, ...] | None:
    """What makes the craft with the fault; nothing where it changes nothing, None where power destroys what is connected."""
    powered = RECORDS[fault.kind].powered
    if powered is None:
        return None
    try:
        return tuple(powered(plan, fault))
    except EditError:  # what is fed from nothing is not the worse for it
        return ()


def _repair(fault: Fault) -> tuple[str, ...]:
    return (SAME_REPAIR.get(fault.kind, fault.kind), *fault.elements)


def _forced(plan: Plan, fault: Fault) -> Iterator[tuple[tuple[Obs, str], float]]:
    """What a fault shows beside the volts of its twin: a joint comes and goes, what is destroyed smells, what is shorted is hot."""
    devices = [one for one in fault.elements if one in plan.device_of]
    match fault.kind:
        case "poor joint" | "connector half in" | "open joint" | "no ground":
            often = {"poor joint": 0.7, "connector half in": 0.6}.get(fault.kind, 0.25)
            for one in devices:
                yield ("loose", one), often
            if fault.kind == "no ground":
                for signal in plan.signals:
                    if signal.kind == "video" and {plan.owner_of[end].id for end in (signal.source, signal.sink)} & set(devices):  # fmt: skip
                        yield ("rolls", signal.id), 0.6
            if fault.kind == "poor joint":
                for one in devices:
                    yield ("hot", one), 0.1
        case "plus and minus swapped":
            for one in devices:
                yield ("lost", one), 0.97
                yield ("burnt", CRAFT), 0.6
        case "plug reversed":
            yield from ((("lost", one.id), 0.97) for one in plan.devices)
            yield ("burnt", CRAFT), 0.95
        case "device shorted" | "capacitor shorted" | "short" | "whisker":
            yield ("burnt", CRAFT), 0.4
            yield ("lamp", CRAFT), 0.9
            for one in devices:
                yield ("hot", one), 0.7
                yield ("lost", one), 0.9 if fault.kind == "device shorted" else 0.3
        case "capacitor reversed":
            yield ("burnt", CRAFT), 0.5
            yield ("lamp", CRAFT), 0.3
        case "regulator shorted":
            yield ("burnt", CRAFT), 0.5
        case _:
            pass


def _worn(plan: Plan) -> Iterator[Cause]:
    pack = plan.pack
    ohm = min(pack.cell_ohm * AGED_TIMES, 1.0)
    aged = SetValue(element="pack", field="cell_ohm", value=ohm)
    yield Cause("aged-pack", "aged pack", ("pack",), AGED_PACK, (aged,), {("thirst", CRAFT): 0.8, ("sag", CRAFT): 0.8})
    if pack.series > 1:
        yield Cause("lost-cell", "lost cell", ("pack",), LOST_CELL, (aged,), {("cell", CRAFT): 0.95, ("thirst", CRAFT): 0.6})  # fmt: skip
    for one in plan.filters:
        if one.fitted and not isinstance(one, FerriteFilter) and one.dielectric == "electrolytic":
            dried = (
                SetValue(element=one.id, field="esr_ohm", value=min(one.esr_ohm * DRIED_TIMES, 100.0)),
                SetValue(element=one.id, field="farad", value=one.farad * DRIED_FRAC),
            )
            yield Cause(f"dried-{one.id}", "dried", (one.id,), DRIED, dried, grounds=True)
    for device in plan.devices:
        if device.throttle or device.law == "led" or device.draws.typical.amps_at(device.nominal_v) < LEAST_A:
            continue
        edits = tuple(
            SetValue(
                element=device.id, field=f"draws.{state}.value", value=getattr(device.draws, state).value * MORE_TIMES
            )
            for state in ("idle", "typical", "peak")
        )
        often = MORE_BY[device.draws.typical.provenance]
        yield Cause(f"draws-more-{device.id}", "draws more", (device.id,), often, edits)
    for supply in plan.supplies:
        if isinstance(supply, Regulator):
            less = SetValue(element=supply.id, field="current_limit_a", value=supply.rating_a * LESS_FRAC)
            yield Cause(
                f"gives-less-{supply.id}",
                "gives less",
                (supply.id,),
                GIVES_LESS,
                (less,),
                repair=("replace", supply.id),
            )


def _parts(plan: Plan) -> Iterator[Cause]:
    """A device that is broken itself: its volts are as they should be."""
    for device in plan.devices:
        forced: dict[tuple[Obs, str], float] = {
            ("lost", device.id): 0.9,
            ("loose", device.id): 0.2,
            ("noisy", device.id): 0.4,
        }
        for signal in plan.signals:
            if device.id in {plan.owner_of[end].id for end in (signal.source, signal.sink)}:
                forced |= {("bad", signal.id): 0.7} if signal.kind != "video" else {("weak", signal.id): 0.3}
        if device.compass:
            forced[("heading", device.id)] = 0.5
        yield Cause(
            f"broken-{device.id}", "part", (device.id,), BROKEN_PART, None, forced, repair=("replace", device.id)
        )
    for device in plan.devices:
        wire = device.feed.wire if device.feed else None
        if wire and not wire.joined and not device.throttle and wire.gauge_awg + THINNER_AWG <= 36:
            thin = SetValue(element=device.id, field="feed.wire.gauge_awg", value=wire.gauge_awg + THINNER_AWG)
            yield Cause(f"thin-wire-{device.id}", "thin wire", (device.id,), THIN_WIRE, (thin,))


def _signals(plan: Plan) -> Iterator[Cause]:
    for one in plan.signals:
        video = one.kind == "video"
        gone: dict[tuple[Obs, str], float] = {("black" if video else "bad", one.id): 0.97}
        if video and any(board.id == plan.owner_of[one.sink].id and board.osd for board in plan.boards):
            gone[("overlay", CRAFT)] = 0.3
        yield Cause(
            f"signal-open-{one.id}", "signal open", (one.id,), OPEN_SIGNAL, None, gone, repair=("signal", one.id)
        )
        if one.kind in ("serial", "receiver", "i2c", "video"):
            yield Cause(
                f"signal-crossed-{one.id}",
                "signal crossed",
                (one.id,),
                CROSSED,
                None,
                dict(gone),
                repair=("signal", one.id),
            )


def _settings(plan: Plan) -> Iterator[Cause]:
    for one in settings_of(plan):
        yield Cause(f"setting-{one.id.replace(' ', '-')}", "setting", (), one.often, None, {}, None, one)
