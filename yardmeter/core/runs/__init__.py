"""The plan in time: scenarios run, and what is read off a run."""

from yardmeter.core.runs.recording import read_recording
from yardmeter.core.runs.run import Run, RunEvent, run_scenario
from yardmeter.core.runs.shipped import find_scenario, scenarios_of

__all__ = ["Run", "RunEvent", "find_scenario", "read_recording", "run_scenario", "scenarios_of"]
