"""Instruments and training over HTTP: connect, read, switch, hide a fault, end a round."""

from __future__ import annotations

from typing import Literal

from django.conf import settings
from django.http import HttpRequest
from ninja import Router
from pydantic import BaseModel, Field

from yardmeter.core.plan.text import CLEAN
from yardmeter.core.search import find_trial
from yardmeter.core.search.training import TrainingLevel
from yardmeter.review.training import Debrief, debrief
from yardmeter.server.api.schemas import Body
from yardmeter.server.api.session import owns_the_login
from yardmeter.server.builds.errors import ConflictError
from yardmeter.server.builds.services import bench, meters, training
from yardmeter.server.builds.services.bench_kept import known_of, ready
from yardmeter.server.builds.services.lookup import get_plan

router = Router(tags=["meter"])
plan_router = Router(tags=["meter"])


class InstrumentView(BaseModel):
    address: str
    name: str
    stands_in: bool


class RackView(BaseModel):
    """What is connected; `training` is the round whose build lies on the stand-in's bench."""

    meter: InstrumentView | None
    supply: InstrumentView | None
    laid_plan: int | None
    training: int | None
    supply_on: bool
    supply_lost: bool
    """Whether the link to a supply broke while it was on: it is sought, to be switched off."""
    may_allow: bool
    """Whether whoever asks may allow other machines' instruments."""


class AddressBody(Body):
    role: Literal["meter", "supply"]
    address: str = Field(max_length=120, pattern=CLEAN)


class RoleBody(Body):
    role: Literal["meter", "supply"]


class SampleBody(Body):
    """A step of the list, or a trial of the search after the step that failed."""

    step: str = Field(max_length=200)
    trial: str = Field(default="", max_length=300)
    training: int | None = None


class SampleView(BaseModel):
    """`steady` where it may be entered as `text`; `waits` what is waited for till then; `kept` whether it may be kept by hand."""

    state: Literal["ok", "open", "unreachable", "silent", "nonsense"]
    value: float | None
    text: str
    said: str
    steady: bool
    kept: bool
    waits: str
    instrument: str


class LayBody(Body):
    training: int | None = None


class SupplyBody(Body):
    on: bool
    volts: float = Field(default=0, ge=0, le=60)
    limit_a: float = Field(default=1, gt=0, le=10)
    who: str = Field(default="", max_length=80, pattern=CLEAN)
    training: int | None = None


class TrainingBody(Body):
    level: TrainingLevel
    who: str = Field(default="", max_length=80, pattern=CLEAN)
    seed: int | None = Field(default=None, ge=0, lt=2**31)


class TrainingView(BaseModel):
    """A round; what is hidden is told when it is over."""

    id: int
    level: str
    hidden: int
    mended: list[str]
    wrong: int
    began_at: str
    ended_at: str | None
    debrief: Debrief | None


class HostBody(Body):
    host: str = Field(min_length=1, max_length=253, pattern=r"^[A-Za-z0-9.-]+$")


REFUSED_S = 5.0
"""So long takes a refusal to somebody on another machine, whatever refused: it tells nothing of what listens here."""


def instrument_hosts() -> tuple[str, ...]:
    """Other machines whose instruments may be asked."""
    return (*settings.INSTRUMENT_HOSTS, *meters.ALLOWED)


def _rack(request: HttpRequest) -> RackView:
    rack = meters.RACK
    shown = {
        role: InstrumentView(address=one.address, name=one.name, stands_in=one.stands_in) if one else None
        for role, one in (("meter", rack.meter), ("supply", rack.supply.connection if rack.supply else None))
    }
    laid = rack.laid
    return RackView(
        meter=shown["meter"],
        supply=shown["supply"],
        laid_plan=laid.plan if laid else None,
        training=laid.training if laid else None,
        supply_on=bool(rack.supply and rack.supply.on),
        supply_lost=bool(rack.supply and rack.supply.lost),
        may_allow=owns_the_login(request),
    )


@router.get("", response=RackView)
def show_rack(request: HttpRequest) -> RackView:
    """What is connected."""
    return _rack(request)


@router.post("/connect", response=RackView)
def connect(request: HttpRequest, body: AddressBody) -> RackView:
    """Open the instrument at the address typed."""
    meters.connect(body.role, body.address, instrument_hosts(), 0.0 if settings.LOOPBACK else REFUSED_S)
    return _rack(request)


@router.post("/disconnect", response=RackView)
def disconnect(request: HttpRequest, body: RoleBody) -> RackView:
    """Let it go; a supply goes off first."""
    meters.disconnect(body.role)
    return _rack(request)


@router.post("/allow", response=RackView)
def allow(request: HttpRequest, body: HostBody) -> RackView:
    """Let instruments of another machine be asked until the server stops; for the login's owner."""
    if not owns_the_login(request):
        raise ConflictError(
            "Only the login's owner may allow another machine here.",
            where="host",
            remedy=f"Start with ./yard run --instrument {body.host}.",
        )
    meters.ALLOWED.add(body.host.lower())
    return _rack(request)


@plan_router.post("/{int:plan_id}/bench/standin", response=RackView)
def lay(request: HttpRequest, plan_id: int, body: LayBody) -> RackView:
    """Lay this plan on the stand-in's bench, sound or as a round of training has it, and connect to it."""
    plan = get_plan(plan_id)
    if body.training:
        training.lay(training.open_round(plan, body.training))
    else:
        meters.lay(plan, known_of(plan).made.solved.plan)
    return _rack(request)


@plan_router.post("/{int:plan_id}/bench/sample", response=SampleView)
def sample(request: HttpRequest, plan_id: int, body: SampleBody) -> SampleView:
    """What the instrument shows at a step or a trial, and whether it may be entered."""
    plan = get_plan(plan_id)
    meters.must_lie(plan, known_of(plan).made.solved.plan, body.training)
    if body.trial:
        known = ready(plan)
        failed = bench.step_of(known.made, body.step)
        found = meters.sample_trial(find_trial(known, body.trial, failed), failed)
    else:
        found = meters.sample_step(bench.step_of(known_of(plan).made, body.step))
    return SampleView(
        state=found.shown.state,
        value=found.shown.value,
        text=found.text,
        said=found.shown.said,
        steady=found.steady,
        kept=found.kept,
        waits=found.waits,
        instrument=found.instrument,
    )


@plan_router.post("/{int:plan_id}/bench/supply", response=RackView)
def switch(request: HttpRequest, plan_id: int, body: SupplyBody) -> RackView:
    """Set the supply and switch it on, or off. On only where what is read without power is done and has not failed."""
    bench.switch_supply(
        plan_id,
        body.on,
        body.volts,
        body.limit_a,
        instrument_hosts(),
        body.who,
        training.open_round(get_plan(plan_id), body.training) if body.training else None,
    )
    return _rack(request)


@plan_router.post("/{int:plan_id}/bench/training", response=TrainingView)
def begin(request: HttpRequest, plan_id: int, body: TrainingBody) -> TrainingView:
    """Hide a fault of this build in the stand-in."""
    return _round(training.begin(plan_id, body.level, body.who, body.seed))


@plan_router.get("/{int:plan_id}/bench/training/{int:round_id}", response=TrainingView)
def show(request: HttpRequest, plan_id: int, round_id: int) -> TrainingView:
    """How a round stands."""
    return _round(training.get_round(get_plan(plan_id), round_id))


@plan_router.post("/{int:plan_id}/bench/training/{int:round_id}/end", response=TrainingView)
def end(request: HttpRequest, plan_id: int, round_id: int) -> TrainingView:
    """Give up and be told."""
    found = training.open_round(get_plan(plan_id), round_id)
    training.give_up(found)
    return _round(found)


def _round(one: training.Round) -> TrainingView:
    return TrainingView(
        id=one.pk,
        level=one.level,
        hidden=len(one.faults),
        mended=one.mended,
        wrong=len(one.wrong),
        began_at=one.created_at.isoformat(timespec="seconds"),
        ended_at=one.ended_at.isoformat(timespec="seconds") if one.ended_at else None,
        debrief=_debriefed(one) if one.ended_at else None,
    )


def _debriefed(one: training.Round) -> Debrief:
    known = ready(one.plan)
    score, dangers = training.scored(one)
    seconds = (one.ended_at - one.created_at).total_seconds() if one.ended_at else 0.0
    return debrief(known, one.faults, score, dangers=dangers, seconds_s=seconds, wrong=len(one.wrong))
