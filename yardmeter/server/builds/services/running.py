"""Runs that are worked on: a few side by side, those a builder looks at first, and what nobody waits for ends at once."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Literal

from yardmeter.core.errors import YardError
from yardmeter.core.patience import AbandonedError, patience
from yardmeter.core.plan import Scenario
from yardmeter.core.runs import Run
from yardmeter.core.runs.chance import Chances
from yardmeter.server.urgency import URGENCY

AT_ONCE = 2
"""Runs side by side: the march leaves the interpreter to others while it works."""
WAITED_S = 90.0
"""So long after somebody asked for it last a run is still wanted: a page behind others asks only once a minute."""

Work = Callable[[Callable[[float], None]], "Run | Chances"]
"""What is worked on, telling how far it is [s]."""
JobState = Literal["waiting", "running", "done", "stopped", "failed"]


@dataclass
class Job:
    """A scenario being run, once or many times over, or run through. `plans` are the plans whose builders want it."""

    key: str
    plan_key: str
    scenario: Scenario
    work: Work
    looked_at: bool
    """Whether it was asked for by itself, and not along with all others."""
    plans: set[int] = field(default_factory=set)
    asked_s: float = field(default_factory=time.monotonic)
    done_s: float = 0.0
    state: JobState = "waiting"
    result: Run | Chances | None = None
    problem: YardError | None = None
    stop: bool = False
    ready: threading.Event = field(default_factory=threading.Event)

    @property
    def run(self) -> Run | None:
        return self.result if isinstance(self.result, Run) else None

    @property
    def chances(self) -> Chances | None:
        return self.result if isinstance(self.result, Chances) else None

    @property
    def done_frac(self) -> float:
        return 1.0 if self.result else min(self.done_s / self.scenario.duration_s, 1.0)

    @property
    def over(self) -> bool:
        return self.state in ("done", "stopped", "failed")

    @property
    def wanted(self) -> bool:
        return not self.stop and not self.forgotten

    @property
    def forgotten(self) -> bool:
        """Whether nobody has asked for it for long. One that was stopped is remembered till then, or looking at it would start it anew."""
        return time.monotonic() - self.asked_s >= WAITED_S


class Track:
    """The runs that wait and those that move, each in a thread of its own while it does."""

    def __init__(self) -> None:
        self._told = threading.Condition()
        self._waiting: list[Job] = []
        self._moving: list[Job] = []

    def add(self, job: Job) -> None:
        with self._told:
            self._waiting.append(job)
            self._start_some()

    def look(self, job: Job) -> None:
        """Somebody looks at it now, who did not: it waits behind none that nobody does."""
        with self._told:
            job.looked_at = True
            self._start_some()

    def before(self, job: Job) -> int:
        """Runs it has to wait for."""
        with self._told:
            if job not in self._waiting:
                return 0
            return len(self._moving) + sorted(self._waiting, key=_rank).index(job)

    def stop(self, job: Job) -> None:
        """Break it off, whether it waits or moves."""
        with self._told:
            job.stop = True
            if job in self._waiting:
                self._waiting.remove(job)
                _ended(job, "stopped")

    def _start_some(self) -> None:
        for job in [one for one in self._waiting if not one.wanted]:
            self._waiting.remove(job)
            _ended(job, "stopped")
        while self._waiting and len(self._moving) < AT_ONCE:
            job = min(self._waiting, key=_rank)
            if not job.looked_at and any(not one.looked_at for one in self._moving):
                break  # of what nobody looks at one is enough
            self._waiting.remove(job)
            self._moving.append(job)
            job.state = "running"
            threading.Thread(target=self._work, args=(job,), daemon=True, name=f"run {job.scenario.id}"[:40]).start()

    def _work(self, job: Job) -> None:
        def watch(at_s: float) -> None:
            job.done_s = at_s

        state: JobState = "failed"
        try:
            with patience(lambda: not job.wanted, lambda: URGENCY.make_room() if job.looked_at else URGENCY.give_way()):
                job.result = job.work(watch)
            state = "done"
        except AbandonedError:
            state = "stopped"
        except YardError as error:
            job.problem = error
        except Exception:
            job.problem = YardError(
                "This run broke off inside the program.",
                where=job.scenario.name,
                remedy="Export the plan and report it; all else goes on.",
            )
            raise
        finally:
            with self._told:
                self._moving.remove(job)
                _ended(job, state)
                self._start_some()


def _rank(job: Job) -> tuple[bool, float]:
    """What is looked at goes first."""
    return not job.looked_at, 0.0


def _ended(job: Job, state: JobState) -> None:
    job.state = state
    job.ready.set()


TRACK = Track()
"""One for the process."""
