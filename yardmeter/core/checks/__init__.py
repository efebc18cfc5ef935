"""Rules: small functions, registered by code, that look at a solved plan and return findings with numbers and fixes."""

from yardmeter.core.checks import data, failure, grounds, headroom, heat, load, source, window, wire
from yardmeter.core.checks.finding import Finding, Fix, Number, Severity
from yardmeter.core.checks.registry import RULES, run_rules

__all__ = [
    "RULES", "Finding", "Fix", "Number", "Severity", "data", "failure", "grounds", "headroom", "heat", "load", "run_rules",
    "source", "window", "wire",
]  # fmt: skip
