"""The plan in time: scenarios, runs, an instant of one, what helps."""

from __future__ import annotations

from typing import Literal

from django.http import HttpRequest, HttpResponse
from ninja import Query, Router
from pydantic import BaseModel, Field

from yardmeter.core.choices.instants import Instant
from yardmeter.core.fixes.helps import drawn_v
from yardmeter.core.formats.run_csv import write_run_csv
from yardmeter.core.formats.run_netlist import write_run_netlist
from yardmeter.core.formats.timetable_svg import write_timetable_svg
from yardmeter.core.plan import Plan, Scenario
from yardmeter.core.runs import read_recording
from yardmeter.core.runs.chance import Chances
from yardmeter.review.instant import named_instant
from yardmeter.review.run_helps import HelpSeen, HoldUpSeen, helps_seen, hold_up_seen
from yardmeter.review.running import RunSeen, ScenarioSeen, run_seen, seen_scenarios
from yardmeter.server.api.schemas import Body, as_json
from yardmeter.server.builds.errors import NotFoundError
from yardmeter.server.builds.services import runs
from yardmeter.server.builds.services.analysis import reviewed
from yardmeter.server.builds.services.lookup import get_plan, head_of
from yardmeter.server.builds.services.running import TRACK
from yardmeter.words.told import Finding, tell

router = Router(tags=["runs"])
SHORT_WAIT_S = 0.25
"""How long an answer waits for a run that may be through at once."""
INSTANT_WAIT_S = 10.0
"""How long an instant waits for its run: after a reload it may have to be run first."""


class RunState(BaseModel):
    """How far a run is; `seen` once it is through. One that waits says for how many others."""

    state: Literal["waiting", "running", "done", "stopped", "failed"]
    waits_for: int = 0
    done_frac: float
    problem: str
    seen: RunSeen | None = None


def _plan(plan_id: int) -> Plan:
    return reviewed(head_of(get_plan(plan_id))).plan


@router.get("/{int:plan_id}/scenarios", response=list[ScenarioSeen])
def list_scenarios(request: HttpRequest, plan_id: int) -> list[ScenarioSeen]:
    """The shipped scenarios and the builder's own."""
    return list(seen_scenarios(_plan(plan_id)))


class RecordingBody(Body):
    """A recorded flight as text: a table with a heading, a column of time, one of throttle or amps."""

    name: str = Field(default="Recording", max_length=80)
    text: str = Field(max_length=8_000_000)
    use: Literal["throttle", "amps"] | None = None


@router.post("/{int:plan_id}/scenarios/recording", response=Scenario)
def read_flight(request: HttpRequest, plan_id: int, body: RecordingBody) -> HttpResponse:
    """A recorded flight as a scenario of this plan; nothing is kept until it is added."""
    return as_json(read_recording(_plan(plan_id), body.text, body.name, body.use))


class RunQuery(Body):
    scenario: str = Field(max_length=64)
    from_s: float = Field(default=0.0, ge=0)
    to_s: float | None = Field(default=None, gt=0)
    start: bool = Field(default=True, description="Whether to start it where it was not run yet.")
    again: bool = Field(default=False, description="Whether to start it where it was stopped, or failed.")


@router.get("/{int:plan_id}/run", response=RunState)
def show_run(request: HttpRequest, plan_id: int, asked: Query[RunQuery]) -> HttpResponse:
    """A scenario run through, or how far it is: asked for the first time it is started."""
    plan = _plan(plan_id)
    job = runs.job_of(plan, asked.scenario, plan_id, start=asked.start, again=asked.again)
    if job is None:
        return as_json(RunState(state="stopped", done_frac=0.0, problem=""))
    job.ready.wait(SHORT_WAIT_S)
    run = runs.run_of(job, plan)
    seen = run_seen(run, asked.from_s, asked.to_s) if run else None
    waits_for = TRACK.before(job)
    return as_json(
        RunState(
            state=job.state, waits_for=waits_for, done_frac=job.done_frac, problem=str(job.problem or ""), seen=seen
        )
    )


class ScenarioBody(Body):
    scenario: str = Field(max_length=64)


@router.post("/{int:plan_id}/run/stop", response=RunState)
def stop_run(request: HttpRequest, plan_id: int, body: ScenarioBody) -> RunState:
    """Break a run off; one that is through stays."""
    runs.stop(_plan(plan_id), body.scenario)
    return RunState(state="stopped", done_frac=0.0, problem="")


class RunFindings(BaseModel):
    """Findings of the runs that are through, worst first, and how many scenarios are still to be run."""

    findings: tuple[Finding, ...]
    waiting: int


@router.get("/{int:plan_id}/run/findings", response=RunFindings)
def show_findings(request: HttpRequest, plan_id: int, start: bool = False) -> HttpResponse:
    """What the runs show; with `start` every scenario that was not run yet is."""
    found = reviewed(head_of(get_plan(plan_id)))
    verdicts, waiting = runs.verdicts_of(found, plan_id, start=start)
    return as_json(RunFindings(findings=tuple(tell(found.plan, one) for one in verdicts), waiting=waiting))


class InstantQuery(Body):
    scenario: str = Field(max_length=64)
    at_s: float = Field(ge=0)


@router.get("/{int:plan_id}/run/instant", response=Instant)
def show_instant(request: HttpRequest, plan_id: int, asked: Query[InstantQuery]) -> HttpResponse:
    """Every element at one time of a run, in the shapes a condition has; the run is started where it is not there yet."""
    found = reviewed(head_of(get_plan(plan_id)))
    job = runs.job_of(found.plan, asked.scenario, plan_id)
    if job:
        job.ready.wait(INSTANT_WAIT_S)
    return as_json(named_instant(runs.finished(found.plan, asked.scenario), found.solved, asked.at_s))


CHANCE_RUNS = 200


class ChanceQuery(Body):
    scenario: str = Field(max_length=64)
    again: bool = False


class ChancesState(BaseModel):
    """How far the many runs are; `chances` once they are through."""

    state: Literal["waiting", "running", "done", "stopped", "failed"]
    waits_for: int
    done_frac: float
    problem: str
    chances: Chances | None


@router.get("/{int:plan_id}/run/chances", response=ChancesState)
def show_chances(request: HttpRequest, plan_id: int, asked: Query[ChanceQuery]) -> HttpResponse:
    """How likely each device resets within the bands of its numbers: as many runs as one batch, followed as a run is."""
    job = runs.chances_of(_plan(plan_id), asked.scenario, plan_id, CHANCE_RUNS, again=asked.again)
    job.ready.wait(SHORT_WAIT_S)
    return as_json(
        ChancesState(state=job.state, waits_for=TRACK.before(job), done_frac=job.done_frac, problem=str(job.problem or ""), chances=job.chances)
    )  # fmt: skip


class HelpQuery(Body):
    scenario: str = Field(max_length=64)
    device: str = Field(max_length=64)


class HelpsView(BaseModel):
    """What a capacitor could do for a device, and every remedy tried."""

    hold_up: HoldUpSeen | None
    before_v: tuple[float, ...]
    """Volts at its pins as they are, in the stretches of `pin_v`."""
    reset_v: float
    max_v: float
    helps: tuple[HelpSeen, ...]


@router.get("/{int:plan_id}/run/helps", response=HelpsView)
def show_helps(request: HttpRequest, plan_id: int, asked: Query[HelpQuery]) -> HttpResponse:
    """Remedies for a device, each sized and run again."""
    plan = _plan(plan_id)
    if asked.device not in plan.device_of:
        raise NotFoundError("This plan has no such device.", where=asked.device, remedy="Reload the plan.")
    run = runs.finished(plan, asked.scenario)
    helps = helps_seen(plan, runs.helps_of(plan, asked.scenario, asked.device))
    device = plan.device_of[asked.device]
    view = HelpsView(
        hold_up=hold_up_seen(run, asked.device),
        before_v=drawn_v(run, device),
        reset_v=device.reset_v,
        max_v=device.max_v,
        helps=helps,
    )
    return as_json(view)


@router.get("/{int:plan_id}/run/table.csv")
def table_csv(request: HttpRequest, plan_id: int, scenario: str) -> HttpResponse:
    """Every step of a run, in columns a builder reads."""
    run = runs.finished(_plan(plan_id), scenario)
    return HttpResponse(write_run_csv(run, names=True), content_type="text/csv; charset=utf-8")


@router.get("/{int:plan_id}/run/netlist.cir")
def run_netlist(request: HttpRequest, plan_id: int, scenario: str) -> HttpResponse:
    """The scenario as a SPICE netlist, from its own start to its end."""
    run = runs.finished(_plan(plan_id), scenario)
    return HttpResponse(write_run_netlist(run), content_type="text/plain; charset=utf-8")


@router.get("/{int:plan_id}/run/timetable.svg")
def timetable_svg(request: HttpRequest, plan_id: int, scenario: str) -> HttpResponse:
    """The graphic timetable of a run as a picture."""
    run = runs.finished(_plan(plan_id), scenario)
    return HttpResponse(write_timetable_svg(run), content_type="image/svg+xml")
