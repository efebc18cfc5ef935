"""The bench list of a build: gates in order, each step with its probes and what they should read."""

from yardmeter.core.procedures.checklist import Checklist, checklist, unpowered
from yardmeter.core.procedures.judging import Judged, judge
from yardmeter.core.procedures.steps import GATES, Gate, Step, powered_gate
from yardmeter.core.procedures.typed import sound_of, typed_reading

__all__ = [
    "GATES",
    "Checklist",
    "Gate",
    "Judged",
    "Step",
    "checklist",
    "judge",
    "powered_gate",
    "sound_of",
    "typed_reading",
    "unpowered",
]
