"""Runs of scenarios as a plan asks for them: kept while nothing electrical changes, started, followed, stopped."""

from __future__ import annotations

import threading
import time
from dataclasses import replace

import numpy as np

from yardmeter.core.checks import run_rules
from yardmeter.core.checks.running import RunCase
from yardmeter.core.checks.steady import Steady
from yardmeter.core.fixes.helps import Help, helps_for
from yardmeter.core.plan import Plan as PlanDocument
from yardmeter.core.plan import Scenario
from yardmeter.core.runs import Run, find_scenario, run_scenario, scenarios_of
from yardmeter.core.runs.chance import chances
from yardmeter.core.runs.report import Report, report
from yardmeter.core.verdict import Verdict
from yardmeter.review import Reviewed
from yardmeter.review.noise_review import electrical_key
from yardmeter.server.builds.errors import ConflictError
from yardmeter.server.builds.services.running import TRACK, Job, Work
from yardmeter.server.kept import Kept


def size_of(job: Job) -> int:
    """Bytes a run that is through holds."""
    trace = job.run.trace if job.run else None
    if trace is None:
        return 0
    held = [
        value
        for value in vars(trace).values()
        if isinstance(value, list) and value and isinstance(value[0], np.ndarray)
    ]
    return sum(len(rows) * rows[0].nbytes for rows in held)


_through: Kept[Job] = Kept("runs", size_of)
_open: dict[str, Job] = {}
"""Those that wait or move, and those that were stopped or failed and not asked for again."""
_helps: Kept[tuple[Help, ...]] = Kept("remedies", lambda all_of: sum(len(repr(one)) for one in all_of))
_reports: Kept[Report] = Kept("reports", lambda one: 4 * len(one.model_dump_json()))
_lock = threading.RLock()


def key_of(plan: PlanDocument) -> str:
    """Equal for plans that differ in nothing electrical, whatever scenarios they have."""
    return electrical_key(plan.model_copy(update={"scenarios": ()}))


def _scenario_key(plan_key: str, scenario: Scenario) -> str:
    return f"{plan_key}\n{scenario.model_dump_json(exclude={'name', 'note'})}"


def job_of(plan: PlanDocument, scenario_id: str, asker: int, *, start: bool = True, again: bool = False) -> Job | None:
    """The job of a scenario: kept, on its way, or started now; None where there is none and none is to `start`.

    One that was stopped, or failed, stays so until it is to be done `again`. `asker` is the plan whose builder looks at it.
    """
    scenario, plan_key = find_scenario(plan, scenario_id), key_of(plan)
    return _job(
        _scenario_key(plan_key, scenario),
        plan_key,
        scenario,
        _once(plan, scenario),
        asker,
        start=start,
        again=again,
        looked_at=True,
    )


def _once(plan: PlanDocument, scenario: Scenario) -> Work:
    return lambda watch: run_scenario(plan, scenario, watch=watch)


def chances_of(plan: PlanDocument, scenario_id: str, asker: int, samples: int, *, again: bool = False) -> Job:
    """How likely resets are within the bands, as a job like a run: many at once take their time."""
    scenario, plan_key = find_scenario(plan, scenario_id), key_of(plan)
    key = f"{_scenario_key(plan_key, scenario)}\n{samples} times"
    found = _job(key, plan_key, scenario, lambda watch: chances(plan, scenario, samples, watch=watch), asker, start=True, again=again, looked_at=True)  # fmt: skip
    if found is None:
        raise RuntimeError("a job that is to start was not")
    return found


def _job(
    key: str, plan_key: str, scenario: Scenario, work: Work, asker: int, *, start: bool, again: bool = False, looked_at: bool
) -> Job | None:  # fmt: skip
    with _lock:
        _put_away()
        found = _through.get(key) or _open.get(key)
        if found and not (again and found.state in ("stopped", "failed")):
            found.asked_s = time.monotonic()
            found.plans.add(asker)
        elif start:
            found = None
            made = _open[key] = Job(key, plan_key, scenario, work, looked_at, {asker})
        else:
            return None
    if found is None:
        TRACK.add(made)
        return made
    if looked_at and not found.looked_at:
        TRACK.look(found)
    return found


def _put_away() -> None:
    """What is through goes where it is kept; what was stopped and nobody asks for any more goes."""
    for key, job in list(_open.items()):
        if job.state == "done":
            _through.put(key, _open.pop(key))
        elif job.over and job.forgotten:
            del _open[key]


def overtaken(plan_id: int, plan: PlanDocument) -> None:
    """An edit has made it another plan: whatever is on its way for it alone, as it was before, ends at once."""
    with _lock:
        its = [one for one in _open.values() if plan_id in one.plans and not one.over]
        now = key_of(plan) if its else ""  # dear, and mostly nothing runs
        old = [one for one in its if one.plan_key != now]
        for job in old:
            job.plans.discard(plan_id)
    for job in old:
        if not job.plans:
            TRACK.stop(job)
            with _lock:
                _open.pop(job.key, None)


def all_of(plan: PlanDocument, asker: int, *, start: bool) -> tuple[list[tuple[Scenario, Run]], int]:
    """Scenarios that are through, and how many are still to come; those not yet run are started where `start`."""
    plan_key, done, waiting = key_of(plan), [], 0
    for scenario in scenarios_of(plan):
        key = _scenario_key(plan_key, scenario)
        job = _job(key, plan_key, scenario, _once(plan, scenario), asker, start=start, looked_at=False)
        if job is None:
            continue
        if job.run is not None:
            done.append((scenario, job.run))
        elif not job.over:
            waiting += 1
    return done, waiting


def verdicts_of(found: Reviewed, asker: int, *, start: bool) -> tuple[tuple[Verdict, ...], int]:
    """What the runs that are through show beside what a plan's own rules tell, and how many are still to come."""
    plan, plan_key = found.plan, key_of(found.plan)
    done, waiting = all_of(plan, asker, start=start)
    told = [(scenario, _reported(_scenario_key(plan_key, scenario), run)) for scenario, run in done]
    return run_rules(RunCase(plan, tuple(told), Steady(found.solved)), "runs"), waiting


def _reported(key: str, run: Run) -> Report:
    return _reports.get((key, id(run))) or _reports.put((key, id(run)), report(run))


def stop(plan: PlanDocument, scenario_id: str) -> None:
    """Break a run off, and the many of it; what is through stays."""
    key = _scenario_key(key_of(plan), find_scenario(plan, scenario_id))
    with _lock:
        found = [one for name, one in _open.items() if name.startswith(key) and not one.over]
    for job in found:
        TRACK.stop(job)


def run_of(job: Job, plan: PlanDocument) -> Run | None:
    """The run of a job with the names, notes and scenarios the plan has now; None while it is not through."""
    if job.run is None:
        return None
    table = replace(job.run.timetable, scenario=find_scenario(plan, job.scenario.id))
    return replace(job.run, plan=plan, timetable=table)


def _finished(plan: PlanDocument, scenario_id: str) -> tuple[Job, Run]:
    key = _scenario_key(key_of(plan), find_scenario(plan, scenario_id))
    with _lock:
        _put_away()
        job = _through.get(key)
    run = run_of(job, plan) if job else None
    if job is None or run is None:
        raise ConflictError("This scenario has not been run yet.", where=scenario_id, remedy="Run it first.")
    return job, run


def finished(plan: PlanDocument, scenario_id: str) -> Run:
    """The run of a scenario that is through; raises ConflictError where it is not."""
    return _finished(plan, scenario_id)[1]


def helps_of(plan: PlanDocument, scenario_id: str, device: str) -> tuple[Help, ...]:
    """What helps a device in a scenario, kept with its run. Their edits depend on which scenarios are the plan's own."""
    job, run = _finished(plan, scenario_id)
    key = job.key, device, tuple(one.id for one in plan.scenarios)
    found = _helps.get(key)
    return found if found is not None else _helps.put(key, helps_for(run, device))


def forget_runs() -> None:
    """Another data file is another bench."""
    with _lock:
        for one in list(_open.values()):
            TRACK.stop(one)
        _open.clear()
    for kept in (_through, _helps, _reports):
        kept.clear()
