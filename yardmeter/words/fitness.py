"""What speaks against a place, in words."""

from __future__ import annotations

from yardmeter.core.answers.sources import LIVE_V
from yardmeter.core.fitness import Fitness, ShortOfAmps, TakesControlAlong, WindowMissed
from yardmeter.core.plan import Plan
from yardmeter.core.verdict import Verdict
from yardmeter.words.limits import limit_words


def refusal(plan: Plan, found: Fitness) -> str | None:
    """Why a device cannot live at a place, in a line with a number; None when it can. `plan` is the one it was tried in."""
    return None if found.fits else against(plan, found.verdicts[0])


def warning(plan: Plan, verdict: Verdict) -> str:
    """The same for whoever has the iron in hand: what would be destroyed is not to be connected."""
    return against(plan, verdict) + (": do not connect" if verdict.severity == "danger" else "")


def against(plan: Plan, verdict: Verdict) -> str:
    """One thing that speaks against a place."""
    name = plan.condition(verdict.worst).name if verdict.worst else ""
    seen, limit = verdict.compared.observed, verdict.compared.limit
    match verdict.facts:
        case WindowMissed(verdict="high"):
            volts = f"{seen:.1f}" if round(seen, 1) > limit else f"{seen:.4g}"
            return f"{volts} V {f'in {name}' if name else 'on a full pack'}, it takes {limit:g} V"
        case WindowMissed(verdict="dead"):
            return f"nothing reaches it in {name}, it needs {limit:g} V"
        case WindowMissed(verdict="reset") if seen < LIVE_V:
            return f"its rail gives up over and over in {name}, it needs {limit:g} V"
        case WindowMissed():
            return f"{seen:.2f} V in {name}, it needs {limit:g} V"
        case ShortOfAmps(limit=binds) if verdict.code == "fit.pad":
            return f"{limit_words(plan, binds)}, {seen:.2f} A in {name}"
        case ShortOfAmps():
            return f"{plan.title(verdict.elements[0])} would be {seen - limit:.2f} A short in {name}"
        case TakesControlAlong():
            return f"{plan.title(verdict.elements[1])} is passed on by another device: not for what keeps the craft up"
        case _:
            return f"{seen:.2f} A in a wire for {limit:.2f} A in {name}"
