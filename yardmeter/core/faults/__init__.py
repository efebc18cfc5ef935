"""Everything that can be wrong with a build, made from its own parts: what it does to the copper, and what it would do under power."""

from yardmeter.core.faults.catalogue import every_fault, find_fault
from yardmeter.core.faults.consequence import Consequence, consequence
from yardmeter.core.faults.model import KINDS, Fault, faulted
from yardmeter.core.faults.powered import powered_twin
from yardmeter.core.plan.policies import FaultKind

__all__ = [
    "KINDS",
    "Consequence",
    "Fault",
    "FaultKind",
    "consequence",
    "every_fault",
    "faulted",
    "find_fault",
    "powered_twin",
]
