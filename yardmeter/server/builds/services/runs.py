"""Runs of scenarios: one worker for each, its progress, a way to stop it, and results kept while nothing electrical changes."""

from __future__ import annotations

import threading
from collections import OrderedDict
from dataclasses import dataclass, field, replace
from functools import lru_cache
from typing import Literal

from yardmeter.core.checks import run_rules
from yardmeter.core.checks.running import RunCase
from yardmeter.core.errors import YardError
from yardmeter.core.fixes.helps import Help, helps_for
from yardmeter.core.patience import AbandonedError, patience
from yardmeter.core.plan import Plan as PlanDocument
from yardmeter.core.plan import Scenario
from yardmeter.core.runs import Run, find_scenario, run_scenario, scenarios_of
from yardmeter.core.runs.chance import Chances, chances
from yardmeter.core.runs.report import Report, report
from yardmeter.core.verdict import Verdict
from yardmeter.review.noise_review import electrical_key
from yardmeter.server.builds.errors import ConflictError

KEPT = 24
AT_ONCE = 1
"""Runs that work at the same time; others wait their turn."""

JobState = Literal["running", "done", "stopped", "failed"]


@dataclass
class Job:
    """A scenario being run, or run through."""

    key: str
    scenario: Scenario
    owner: int | None = None
    """The plan it was started for along with all others; None where it was asked for by itself."""
    done_s: float = 0.0
    state: JobState = "running"
    run: Run | None = None
    problem: YardError | None = None
    stop: bool = False
    ready: threading.Event = field(default_factory=threading.Event)


_jobs: OrderedDict[str, Job] = OrderedDict()
_helps: OrderedDict[tuple[str, str, tuple[str, ...]], tuple[Help, ...]] = OrderedDict()
_chances: OrderedDict[str, Chances] = OrderedDict()
_lock = threading.Lock()
_turn = threading.Semaphore(AT_ONCE)


def key_of(plan: PlanDocument) -> str:
    """Equal for plans that differ in nothing electrical, whatever scenarios they have."""
    return electrical_key(plan.model_copy(update={"scenarios": ()}))


def job_of(plan: PlanDocument, scenario_id: str, *, start: bool = True) -> Job | None:
    """The job of a scenario: kept, running, or started now; None where there is none and none is to `start`."""
    return _job(plan, key_of(plan), find_scenario(plan, scenario_id), start)


def _job(plan: PlanDocument, plan_key: str, scenario: Scenario, start: bool, owner: int | None = None) -> Job | None:
    key = f"{plan_key}\n{scenario.model_dump_json(exclude={'name', 'note'})}"
    with _lock:
        found = _jobs.get(key)
        if found and (found.state in ("running", "done") or not start):
            _jobs.move_to_end(key)
            return found
        if not start:
            return None
        made = _jobs[key] = Job(key, scenario, owner)
        _jobs.move_to_end(key)
        for old in [name for name, one in _jobs.items() if one.state != "running"][: max(len(_jobs) - KEPT, 0)]:
            del _jobs[old]
    threading.Thread(target=_work, args=(plan, made), daemon=True, name=f"run {scenario.id}").start()
    return made


def _work(plan: PlanDocument, job: Job) -> None:
    def watch(at_s: float) -> None:
        job.done_s = at_s

    try:
        with _turn, patience(lambda: job.stop):
            job.run = run_scenario(plan, job.scenario, watch=watch)
        job.state = "done"
    except AbandonedError:
        job.state = "stopped"
    except YardError as error:
        job.state, job.problem = "failed", error
    finally:
        if job.state == "running":
            job.state = "failed"
        job.ready.set()


def all_of(plan: PlanDocument, owner: int, *, start: bool) -> tuple[list[tuple[Scenario, Run]], int]:
    """Scenarios that are through, and how many are still to come; those not yet run are started where `start`.

    What was started so for an earlier step of the same plan, and is of no use any more, is broken off.
    """
    plan_key, done, waiting, wanted = key_of(plan), [], 0, set()
    for scenario in scenarios_of(plan):
        job = _job(plan, plan_key, scenario, start, owner)
        if job is None:
            continue
        wanted.add(job.key)
        if job.run is not None:
            done.append((scenario, job.run))
        elif job.state == "running":
            waiting += 1
    with _lock:
        for one in _jobs.values():
            if start and one.owner == owner and one.key not in wanted:
                one.stop = True
    return done, waiting


def verdicts_of(plan: PlanDocument, owner: int, *, start: bool) -> tuple[tuple[Verdict, ...], int]:
    """What the runs that are through show, and how many are still to come."""
    done, waiting = all_of(plan, owner, start=start)
    case = RunCase(plan, tuple((scenario, _report(run)) for scenario, run in done))
    return run_rules(case, "runs"), waiting


@lru_cache(maxsize=64)
def _report(run: Run) -> Report:
    return report(run)


def stop(plan: PlanDocument, scenario_id: str) -> None:
    """Break a run off; one that is through stays."""
    job = job_of(plan, scenario_id, start=False)
    if job and job.state == "running":
        job.stop = True


def run_of(job: Job, plan: PlanDocument) -> Run | None:
    """The run of a job with the names, notes and scenarios the plan has now; None while it is not through."""
    if job.run is None:
        return None
    table = replace(job.run.timetable, scenario=find_scenario(plan, job.scenario.id))
    return replace(job.run, plan=plan, timetable=table)


def _through(plan: PlanDocument, scenario_id: str) -> tuple[Job, Run]:
    job = job_of(plan, scenario_id, start=False)
    run = run_of(job, plan) if job else None
    if job is None or run is None:
        raise ConflictError("This scenario has not been run yet.", where=scenario_id, remedy="Run it first.")
    return job, run


def finished(plan: PlanDocument, scenario_id: str) -> Run:
    """The run of a scenario that is through; raises ConflictError where it is not."""
    return _through(plan, scenario_id)[1]


def helps_of(plan: PlanDocument, scenario_id: str, device: str) -> tuple[Help, ...]:
    """What helps a device in a scenario, kept with its run. Their edits depend on which scenarios are the plan's own."""
    job, run = _through(plan, scenario_id)
    key = job.key, device, tuple(one.id for one in plan.scenarios)
    with _lock:
        if key in _helps:
            return _helps[key]
    made = helps_for(run, device)
    with _lock:
        _helps[key] = made
        while len(_helps) > KEPT:
            _helps.popitem(last=False)
    return made


def chances_of(plan: PlanDocument, scenario_id: str, samples: int) -> Chances:
    """Chances within the bands, kept as runs are."""
    scenario = find_scenario(plan, scenario_id)
    key = f"{key_of(plan)}\n{scenario.model_dump_json()}"
    with _lock:
        if key in _chances:
            return _chances[key]
    made = chances(plan, scenario, samples)
    with _lock:
        _chances[key] = made
        while len(_chances) > KEPT:
            _chances.popitem(last=False)
    return made


def forget_runs() -> None:
    """Another data file is another bench."""
    with _lock:
        for one in _jobs.values():
            one.stop = True
        _jobs.clear()
        _helps.clear()
        _chances.clear()
