"""Rules: small functions, registered by code, that look at a solved plan and return findings with numbers and fixes."""

from yardmeter.core.checks import (
    compass,
    data,
    failure,
    grounds,
    headroom,
    heat,
    load,
    noise,
    signals,
    source,
    window,
    wire,
)
from yardmeter.core.checks.finding import Finding, Fix, Number, Severity
from yardmeter.core.checks.registry import RULES, run_rules

__all__ = [
    "RULES", "Finding", "Fix", "Number", "Severity", "compass", "data", "failure", "grounds", "headroom", "heat", "load",
    "noise", "run_rules", "signals", "source", "window", "wire",
]  # fmt: skip
