"""Instruments in use: those whose addresses the builder typed, and stand-ins that measure the plan that is open."""

from __future__ import annotations

import threading
from dataclasses import dataclass, field
from typing import Literal

from yardmeter.core.plan import Plan as PlanDocument
from yardmeter.core.probing import Mode
from yardmeter.core.procedures import Step
from yardmeter.core.procedures.handsfree import Steady, Waits, Watch
from yardmeter.core.search import Trial
from yardmeter.instruments.bench import TwinBench
from yardmeter.instruments.connection import Connection, Shown, UnreachableError
from yardmeter.instruments.listening import HOST, Listening
from yardmeter.instruments.standin import MeterStandIn, SupplyStandIn
from yardmeter.server.builds.errors import ConflictError
from yardmeter.server.builds.models import Plan
from yardmeter.server.builds.services.lookup import head_of

Role = Literal["meter", "supply"]
LEAST: dict[Mode, float] = {"ohms": 0.1, "beep": 0.1, "diode": 1e-3, "volts": 1e-3, "amps": 1e-4}


@dataclass
class StandIns:
    """Ours, on ports of this machine that are free."""

    bench: TwinBench
    meter: Listening
    supply: Listening


@dataclass(frozen=True)
class Laid:
    """What lies on the stand-ins' bench: a plan at a revision, and the round of training it has hidden faults for."""

    plan: int
    revision: int
    training: int | None


@dataclass
class Rack:
    """One bench: what is connected, and the step that is being read."""

    meter: Connection | None = None
    supply: Connection | None = None
    standins: StandIns | None = None
    laid: Laid | None = None
    watch: Watch | None = None
    steady: Steady | None = None
    placed: str = ""
    lock: threading.RLock = field(default_factory=threading.RLock)


RACK = Rack()


@dataclass(frozen=True)
class Sample:
    """What an instrument shows now; `steady` where it may be entered, `waits` what is waited for till then."""

    shown: Shown
    waits: Waits
    text: str

    @property
    def steady(self) -> bool:
        return self.shown.state in ("ok", "open") and self.waits == ""


def connect(role: Role, address: str) -> Connection:
    """Open what the builder typed, in place of what was there. Raises AddressError and UnreachableError."""
    made = Connection(address)
    with RACK.lock:
        disconnect(role)
        setattr(RACK, role, made)
        RACK.laid = None
    return made


def disconnect(role: Role) -> None:
    with RACK.lock:
        had: Connection | None = getattr(RACK, role)
        if had:
            had.close()
        setattr(RACK, role, None)
        RACK.watch, RACK.placed = None, ""


def lay(
    plan: Plan, document: PlanDocument, faults: tuple[str, ...] = (), seed: int = 0, training: int | None = None
) -> None:
    """Lay a plan on the stand-ins' bench, with its hidden faults, and connect to them."""
    with RACK.lock:
        found = stand_ins(document)
        found.bench.put(document, faults, seed)
        connect("meter", f"{HOST}:{found.meter.port}")
        connect("supply", f"{HOST}:{found.supply.port}")
        RACK.laid = Laid(plan.pk, head_of(plan).pk, training)


def must_lie(plan: Plan, document: PlanDocument, training: int | None) -> None:
    """A stand-in measures what lies on its bench: raises ConflictError for another build, and lays one that was edited anew."""
    with RACK.lock:
        laid = RACK.laid
        if laid is None or (RACK.meter and not RACK.meter.stands_in):
            return
        if (laid.plan, laid.training) != (plan.pk, training):
            raise ConflictError(
                "Another build lies on the stand-in's bench.", where="meter", remedy="Lay this one there, or type."
            )
        if laid.revision != head_of(plan).pk and training is None:
            lay(plan, document)


def stand_ins(document: PlanDocument, port: int = 0) -> StandIns:
    """Those there are, or new ones with a plan on their bench: the meter on that port, or a free one, the supply beside it."""
    with RACK.lock:
        if RACK.standins is None:
            bench = TwinBench(document)
            meter, supply = MeterStandIn(bench), SupplyStandIn(bench)
            RACK.standins = StandIns(bench, _listening(meter, port), _listening(supply, port and port + 1))
        return RACK.standins


def _listening(instrument: MeterStandIn | SupplyStandIn, port: int) -> Listening:
    try:
        return Listening(instrument, port).start()
    except OSError:  # somebody else is there
        return Listening(instrument).start()


def put_away() -> None:
    """Nothing is connected any more, and the stand-ins are gone."""
    with RACK.lock:
        disconnect("meter")
        disconnect("supply")
        if RACK.standins:
            RACK.standins.meter.stop()
            RACK.standins.supply.stop()
        RACK.standins, RACK.laid = None, None


def sample_step(step: Step) -> Sample:
    """One reading for a step of the list; raises ConflictError without an instrument for it."""
    if step.mode is None:
        raise ConflictError("Nothing is read at this step.", where=step.id, remedy="Say whether it is so.")
    with RACK.lock:
        if step.gate == "limiter":
            return _sampled(_supply().amps(), step)
        meter = _meter()
        # A beep is ohms with less said.
        mode: Mode = "ohms" if step.mode == "beep" else step.mode
        if RACK.placed != step.id or RACK.watch is None or RACK.watch.step.signature != step.signature:
            RACK.watch, RACK.placed = Watch(step, LEAST[mode]), step.id
            if step.red and step.black:
                _place(meter, step.red.id, step.black.id, step.condition)
            elif meter.stands_in:
                meter.write('ROUT:PROB "plug:minus","plug:minus"')
        return _sampled(meter.read(mode), step)


def _sampled(shown: Shown, step: Step) -> Sample:
    watch = RACK.watch
    if shown.state not in ("ok", "open"):
        return Sample(shown, "", "")
    text = shown_text(shown)
    if step.gate == "limiter" or step.gate == "meter" or watch is None or watch.step.id != step.id:
        return Sample(shown, "", text)
    return Sample(shown, watch.feed(shown.value), text)


def shown_text(shown: Shown) -> str:
    """As it is written down: four figures, which is what such a meter is good for."""
    return "OL" if shown.value is None else f"{shown.value:.4g}"


def sample_trial(trial: Trial) -> Sample:
    """One reading for a trial of the search: what is off and where the probes are is the builder's, or the stand-in's, to do."""
    with RACK.lock:
        meter = _meter()
        if RACK.placed != trial.id:
            RACK.watch, RACK.placed = None, trial.id
            RACK.steady = Steady(0.1 if trial.scale == "ohms" else 1e-4)
            if meter.stands_in and RACK.standins and RACK.laid:
                RACK.standins.bench.trials = {trial.id: trial}
                meter.write(f'SIM:TRI "{trial.id}"')
        shown = meter.read("ohms" if trial.scale == "ohms" else "volts")
        text = shown_text(shown)
        waits: Waits = "hold still"
        if RACK.steady and shown.state in ("ok", "open"):
            waits = RACK.steady.feed(shown.value)
        return Sample(shown, waits, text)


def switch_supply(on: bool, volts: float, limit_a: float) -> None:
    """Raises ConflictError without a supply, UnreachableError where it is gone."""
    with RACK.lock:
        if on:
            _supply().supply(volts, limit_a)
        else:
            _supply().supply_off()


def mend(names: tuple[str, ...]) -> None:
    """What is left of the hidden faults on the stand-in's bench."""
    with RACK.lock:
        if RACK.standins:
            RACK.standins.bench.faults(names)
            RACK.placed = ""


def _place(meter: Connection, red: str, black: str, condition: str | None) -> None:
    if meter.stands_in:
        meter.write(f'SIM:COND "{condition or ""}"')
        meter.write(f'ROUT:PROB "{red}","{black}"')


def _meter() -> Connection:
    if RACK.meter is None:
        raise ConflictError("No meter is connected.", where="meter", remedy="Connect one, or type what yours shows.")
    return RACK.meter


def _supply() -> Connection:
    if RACK.supply is None:
        raise ConflictError("No supply is connected.", where="supply", remedy="Connect one, or type what yours shows.")
    return RACK.supply


__all__ = [
    "RACK",
    "Sample",
    "UnreachableError",
    "connect",
    "disconnect",
    "lay",
    "mend",
    "put_away",
    "sample_step",
    "sample_trial",
    "switch_supply",
]
