"""Everything that can be wrong with a build, made from its own parts: what it does to the copper, and what it would do under power."""

from yardmeter.core.faults.catalogue import WEIGHT, consequence, every_fault, find_fault, powered_twin, seen_frac
from yardmeter.core.faults.effects import Consequence
from yardmeter.core.faults.model import KINDS, Fault, faulted
from yardmeter.core.faults.wires import UNWIRED, neighbours
from yardmeter.core.plan.policies import FaultKind

__all__ = [
    "KINDS", "UNWIRED", "WEIGHT", "Consequence", "Fault", "FaultKind", "consequence", "every_fault", "faulted", "find_fault",
    "neighbours", "powered_twin", "seen_frac",
]  # fmt: skip
