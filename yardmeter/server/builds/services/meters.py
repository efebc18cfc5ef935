"""Instruments in use: those whose addresses the builder typed, and stand-ins that measure the plan that is open.

Nobody waits for an instrument: each is read by a thread of its own, and whoever asks gets the last reading.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Collection
from dataclasses import dataclass, field
from typing import Literal

from yardmeter.core.plan import Plan as PlanDocument
from yardmeter.core.probing import Mode
from yardmeter.core.procedures import Step
from yardmeter.core.procedures.handsfree import LimiterWatch, Steady, Waits, Watch
from yardmeter.core.search import Trial
from yardmeter.instruments.connection import Connection, Shown, UnreachableError
from yardmeter.instruments.listening import HOST, Listening
from yardmeter.instruments.reader import Reader
from yardmeter.instruments.specimen import TwinBench
from yardmeter.instruments.standin import MeterStandIn, SupplyStandIn
from yardmeter.instruments.supply import Supply, SupplyError
from yardmeter.instruments.watchman import Watchman
from yardmeter.server.builds.errors import ConflictError
from yardmeter.server.builds.models import Plan
from yardmeter.server.builds.services.lookup import head_of

Role = Literal["meter", "supply"]
LEAST: dict[Mode, float] = {"ohms": 0.1, "beep": 0.1, "diode": 1e-3, "volts": 1e-3, "amps": 1e-4}
FIRST_S = 0.3
"""How long the first reading of a place is waited for."""
AMPS: Literal["amps"] = "amps"
SETTLED: tuple[Waits, ...] = ("", "at its limit: a short")
"""What amps of the first power are waited for till they say something."""


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
class Follows:
    """The place that is read: its readings since `from_s`, each weighed once."""

    place: str
    what: Watch | Steady | LimiterWatch
    from_s: float
    seen_s: float = 0.0
    waits: Waits = "hold still"


@dataclass
class Rack:
    """One bench: what is connected, and the place that is being read. `lock` guards these fields, never an instrument."""

    meter: Connection | None = None
    supply: Supply | None = None
    meter_reader: Reader[Mode] | None = None
    supply_reader: Reader[Literal["amps"]] | None = None
    watchman: Watchman | None = None
    standins: StandIns | None = None
    laid: Laid | None = None
    follows: Follows | None = None
    lock: threading.RLock = field(default_factory=threading.RLock)


RACK = Rack()
ALLOWED: set[str] = set()
"""Other machines the login's owner has allowed since the server started."""
_connecting = threading.Lock()


@dataclass(frozen=True)
class Sample:
    """What an instrument shows now; `steady` where it may be entered by itself, `waits` what is waited for till then.

    `kept` says whether it may be kept by hand as this place's. `instrument` is the one that measured.
    """

    shown: Shown
    waits: Waits
    text: str
    instrument: str
    kept: bool = False

    @property
    def steady(self) -> bool:
        return self.shown.state in ("ok", "open") and self.waits == ""


def connect(role: Role, address: str, allowed: Collection[str] = (), refused_s: float = 0.0) -> None:
    """Open what the builder typed, in place of what was there; a refusal takes no less than `refused_s`, whatever refused.

    Raises AddressError, UnreachableError, and ConflictError while another address is being tried.
    """
    if not _connecting.acquire(blocking=False):
        raise ConflictError("Another address is being tried.", where="address", remedy="Wait a moment and try again.")
    began = time.monotonic()
    try:
        made = Connection(address, allowed)
    except UnreachableError:
        time.sleep(max(began + refused_s - time.monotonic(), 0.0))
        raise
    finally:
        _connecting.release()
    disconnect(role)
    with RACK.lock:
        if role == "meter":
            RACK.meter, RACK.meter_reader = made, Reader(made.read, "a meter")
        else:
            supply = Supply(made, lambda: Connection(address, allowed))
            RACK.supply, RACK.supply_reader = supply, Reader(lambda _: supply.amps(), "a supply")
        RACK.laid = None


def disconnect(role: Role) -> None:
    """Let it go; a supply is switched off first."""
    with RACK.lock:
        meter, supply = RACK.meter, RACK.supply
        reader = RACK.meter_reader if role == "meter" else RACK.supply_reader
        RACK.follows = None
        if role == "meter":
            RACK.meter = RACK.meter_reader = None
        else:
            RACK.supply = RACK.supply_reader = None
    if reader:
        reader.end()
    if role == "meter" and meter:
        meter.close()
    if role == "supply" and supply:
        supply.let_go()
        _told_off(supply)


def lay(
    plan: Plan, document: PlanDocument, faults: tuple[str, ...] = (), seed: int = 0, training: int | None = None
) -> None:
    """Lay a plan on the stand-ins' bench, with its hidden faults, and connect to them."""
    found = stand_ins(document)
    found.bench.put(document, faults, seed)
    found.bench.warm()
    connect("meter", f"{HOST}:{found.meter.port}")
    connect("supply", f"{HOST}:{found.supply.port}")
    with RACK.lock:
        RACK.laid = Laid(plan.pk, head_of(plan).pk, training)


def must_lie(plan: Plan, document: PlanDocument, training: int | None) -> None:
    """A stand-in measures what lies on its bench: raises ConflictError for another build, and lays one that was edited anew.

    One that somebody started elsewhere measures what it was started with.
    """
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
    """Nothing is connected any more, every supply is off, and the stand-ins are gone."""
    disconnect("meter")
    disconnect("supply")
    with RACK.lock:
        standins, watchman = RACK.standins, RACK.watchman
        RACK.standins, RACK.laid, RACK.watchman = None, None, None
    if watchman:
        watchman.stop()
    if standins:
        standins.meter.stop()
        standins.supply.stop()


def sample_step(step: Step) -> Sample:
    """One reading for a step of the list; raises ConflictError without an instrument for it."""
    if step.mode is None:
        raise ConflictError("Nothing is read at this step.", where=step.id, remedy="Say whether it is so.")
    if step.gate == "limiter":
        return _sample_amps(step)
    meter = _meter()
    # A beep is ohms with less said.
    mode: Mode = "ohms" if step.mode == "beep" else step.mode
    place = f"{step.id} {step.signature}"
    with RACK.lock:
        new = RACK.follows is None or RACK.follows.place != place
    if new:
        if step.red and step.black:
            _place(meter, step.red.id, step.black.id, step.condition)
        elif meter.stands_in:
            meter.write('ROUT:PROB "plug:minus","plug:minus"')
        with RACK.lock:
            RACK.follows = Follows(place, Watch(step, LEAST[mode]), time.monotonic())
    return _read_meter(meter, mode, always=step.gate == "meter")


def sample_trial(trial: Trial, failed: Step) -> Sample:
    """One reading for a trial of the search: what is off and where the probes are is the builder's, or the stand-in's, to do."""
    meter = _meter()
    with RACK.lock:
        new = RACK.follows is None or RACK.follows.place != trial.id
    if new:
        if meter.stands_in:
            meter.write("*CLS")
            meter.write(f'SIM:TRI "{trial.id}","{failed.id}"')
            _must_know(meter)
        with RACK.lock:
            RACK.follows = Follows(trial.id, Steady(0.1 if trial.scale == "ohms" else 1e-4), time.monotonic())
    return _read_meter(meter, "ohms" if trial.scale == "ohms" else "volts")


def _read_meter(meter: Connection, mode: Mode, *, always: bool = False) -> Sample:
    """The last reading of the place that is followed; `always` where nothing has to be seen before it counts."""
    with RACK.lock:
        follows, reader = RACK.follows, RACK.meter_reader
    if follows is None or reader is None:
        raise ConflictError("The meter was let go.", where="meter", remedy="Connect it again, or type.")
    taken = reader.look(mode, follows.from_s, FIRST_S)
    if not taken:
        return Sample(Shown("silent", None, ""), "", "", meter.name)
    with RACK.lock:
        for one in taken:
            if (
                one.at_s > follows.seen_s
                and one.shown.state in ("ok", "open")
                and not isinstance(follows.what, LimiterWatch)
            ):
                follows.seen_s = one.at_s
                follows.waits = follows.what.feed(one.shown.value, one.at_s, one.began_s - meter.changed_s)
        last = taken[-1].shown
        good = last.state in ("ok", "open")
        waits: Waits = "" if always or not good else follows.waits
        kept = good and (
            always
            or (not isinstance(follows.what, LimiterWatch) and follows.what.probed)
            or waits.startswith("keep it")
        )
    return Sample(last, waits, shown_text(last) if good else "", meter.name, kept)


def _sample_amps(step: Step) -> Sample:
    """The amps of the first power: followed from the moment the supply is on. One that stays at its limit goes off."""
    supply, place = _supply(), f"{step.id} {step.signature}"
    with RACK.lock:
        if RACK.follows is None or RACK.follows.place != place:
            watch = LimiterWatch(step, supply.limit_a or step.limit_a or 0.0, step.charge_s)
            RACK.follows = Follows(place, watch, time.monotonic())
        follows, reader = RACK.follows, RACK.supply_reader
    taken = reader.look(AMPS, follows.from_s, FIRST_S) if reader else []
    name = supply.connection.name
    if not taken:
        return Sample(Shown("silent", None, ""), "", "", name)
    with RACK.lock:
        for one in taken:
            if one.at_s > follows.seen_s and isinstance(follows.what, LimiterWatch):
                follows.seen_s = one.at_s
                follows.what.limit_a = supply.limit_a or follows.what.limit_a
                follows.waits = follows.what.feed(one.shown.value, one.at_s, on=supply.on)
    last, waits = taken[-1].shown, follows.waits
    if waits == "at its limit: a short" and supply.on:
        switch_off()
    good = last.state == "ok"
    kept = good and waits in SETTLED
    return Sample(last, waits if good else "", shown_text(last) if good else "", name, kept)


def named(place: str, text: str) -> str:
    """The instrument whose reading of a step or trial is being written down. Raises ConflictError for one that is not this
    place's: the probes have not been there since it was opened, or something else is shown by now."""
    with RACK.lock:
        follows, meter, supply = RACK.follows, RACK.meter, RACK.supply
    if follows is not None and (follows.place == place or follows.place.startswith(f"{place} ")):
        amps = isinstance(follows.what, LimiterWatch)
        allowed = follows.waits in SETTLED if amps else follows.what.probed
        if allowed or follows.waits.startswith("keep it") or place == "meter-itself":
            name = supply.connection.name if amps and supply else meter.name if meter else ""
            if name:
                return name
    raise ConflictError(
        f"“{text}” is not this step's reading: the instrument has not been seen there since the step was opened.",
        where=place.split(" ")[0],
        remedy="Put the probes on, hold still, and keep it then; or type what you read.",
    )


def shown_text(shown: Shown) -> str:
    """As it is written down: four figures, which is what such a meter is good for."""
    return "OL" if shown.value is None else f"{shown.value:.4g}"


def switch_on(volts: float, limit_a: float, allowed: Collection[str] = ()) -> str:
    """Set the supply, have it say so, switch it on; its name. Raises ConflictError without one, SupplyError and
    UnreachableError where it does not do as it is told: it is off then."""
    supply = _supply()
    watchman = _watchman()
    try:
        watchman.told_on(supply.connection.address, allowed)
    except OSError:
        raise ConflictError(
            "What switches the supply off when this program ends could not be started.",
            where="supply",
            remedy="Switch the supply by hand, and type what it shows.",
        ) from None
    with RACK.lock:
        RACK.follows = None
    try:
        supply.switch_on(volts, limit_a)
    except (SupplyError, UnreachableError):
        if not supply.on:
            watchman.told_off()
        raise
    return supply.connection.name


def switch_off() -> str:
    """Off, whatever else is going on. Raises ConflictError without a supply, UnreachableError where it is gone."""
    supply = _supply()
    supply.switch_off()
    _told_off(supply)
    return supply.connection.name


def _told_off(supply: Supply) -> None:
    with RACK.lock:
        watchman = RACK.watchman
    if watchman and not supply.on:
        watchman.told_off()


def _watchman() -> Watchman:
    with RACK.lock:
        if RACK.watchman is None:
            RACK.watchman = Watchman()
        return RACK.watchman


def mend(names: tuple[str, ...]) -> None:
    """What is left of the hidden faults on the stand-in's bench."""
    with RACK.lock:
        standins, RACK.follows = RACK.standins, None
    if standins:
        standins.bench.faults(names)


def _place(meter: Connection, red: str, black: str, condition: str | None) -> None:
    if meter.stands_in:
        meter.write("*CLS")
        meter.write(f'SIM:COND "{condition or ""}"')
        meter.write(f'ROUT:PROB "{red}","{black}"')
        _must_know(meter)


def _must_know(meter: Connection) -> None:
    """A stand-in that was started elsewhere may measure another build: what it does not know it must not be taken to read."""
    if not meter.ask("SYST:ERR?").startswith("0"):
        raise ConflictError(
            "This stand-in measures another build: it has no such place.",
            where="meter",
            remedy="Start it with this plan (./yard meter PLAN.json), or practise with the one here.",
        )


def _meter() -> Connection:
    meter = RACK.meter
    if meter is None:
        raise ConflictError("No meter is connected.", where="meter", remedy="Connect one, or type what yours shows.")
    return meter


def _supply() -> Supply:
    supply = RACK.supply
    if supply is None:
        raise ConflictError("No supply is connected.", where="supply", remedy="Connect one, or type what yours shows.")
    return supply
