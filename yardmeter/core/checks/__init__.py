"""Rules: small functions, registered by code, that look at a solved plan and return verdicts with comparisons and fixes."""

from yardmeter.core.checks import (
    compass,
    data,
    draws,
    failure,
    grounds,
    headroom,
    heat,
    load,
    noise,
    protection,
    running,
    running_copper,
    signal_grounds,
    signals,
    source,
    window,
    wire,
)
from yardmeter.core.checks.registry import RULES, run_rules

__all__ = [
    "RULES", "compass", "data", "draws", "failure", "grounds", "headroom", "heat", "load", "noise", "protection", "run_rules", "running", "running_copper", "signal_grounds",
    "signals", "source", "window", "wire",
]  # fmt: skip
