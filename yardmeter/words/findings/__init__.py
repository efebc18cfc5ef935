"""The catalogue: for every rule its title, cause and remedy. A rule without words fails when this is imported."""

from yardmeter.core.checks import RULES
from yardmeter.words.findings import draws, grounds, load, noise, protection, running, signals, source, supplies, volts
from yardmeter.words.told import CATALOGUE

_untold = {code for code, rule in RULES.items() if CATALOGUE.get(code, (None,))[0] is not rule.facts}
if _untold or CATALOGUE.keys() - RULES.keys():
    raise RuntimeError(f"rules and words differ: {', '.join(sorted(_untold | (CATALOGUE.keys() - RULES.keys())))}")

__all__ = ["draws", "grounds", "load", "noise", "protection", "running", "signals", "source", "supplies", "volts"]
