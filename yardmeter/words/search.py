"""The search in words: what to do next and how, what each outcome would leave, what to mend."""

from __future__ import annotations

from yardmeter.core.faults import Fault, FaultKind
from yardmeter.core.plan import Plan
from yardmeter.core.search import Trial
from yardmeter.core.search.levels import School
from yardmeter.core.search.seen import LEADS_OHM, OPEN_FROM_OHM, UNIT_OF
from yardmeter.core.search.trials import LIMITED_A
from yardmeter.core.units import format_si
from yardmeter.words.bench import element_name

SCHOOL_WORDS: dict[School, str] = {
    "eyes": "Eyes alone",
    "meter": "Eyes and meter",
    "meter and limiter": "Eyes, meter and limiter",
}
REPAIR_WORDS: dict[FaultKind, str] = {
    "short": "Look between the pads under a loupe; take the bridge off with wick, and look below parts that were hot.",
    "whisker": "Take the whisker off with wick or a blade, and look for more of them.",
    "open joint": "Solder both ends of the wire anew; pull at it. A plug: push it in until it clicks.",
    "poor joint": "Solder both ends anew with flux until they wet; pull at the wire.",
    "wrong pad": "Move the wire to the pad it belongs on.",
    "plus and minus swapped": "Change the two wires over at one end. Never power what was connected so before it is checked.",
    "no ground": "Solder its ground anew; ground planes need a hotter iron.",
    "regulator open": "Replace the regulator; find what killed it first.",
    "regulator shorted": "Replace the regulator, and look between its input and its output; check everything behind it.",
    "regulator low": "Set it, if it can be set; else replace it. Look at what it feeds: too much is asked of it, perhaps.",
    "capacitor reversed": "Replace it, stripe on ground. One that was charged the wrong way round is not used again.",
    "capacitor shorted": "Take it off; fit a new one.",
    "capacitor forgotten": "Fit it, stripe on ground.",
    "device shorted": "Take it off and measure it alone; it is dead, most likely.",
    "connector half in": "Push it in until it clicks; look for a bent pin.",
    "wrong strap": "Open this bridge and close the one that is meant.",
    "plug reversed": "Change the two wires of the plug over. Never plug in before.",
}


def trial_title(plan: Plan, trial: Trial) -> str:
    """What is done, in one line."""
    if trial.doing == "millivolts":
        return f"Millivolts from {trial.red.name} to {trial.black.name}"
    if trial.cut or trial.gone:
        name = element_name(plan, trial.elements[0])
        what = f"the ground wire of {name}" if trial.cut and trial.cut.role == "return" else name
        if trial.gone:
            return f"Lift {name}, read again"
        return f"{'Unplug' if trial.doing == 'unplug' else 'Lift'} {what}, read again"
    return f"{trial.red.name} to {trial.black.name}"


def trial_how(trial: Trial) -> str:
    """How it is done."""
    if trial.doing == "millivolts":
        ends = f"{trial.shorted[0].name} and {trial.shorted[1].name}" if trial.shorted else ""
        amps = format_si(LIMITED_A, "A")
        return f"Supply at 3 V, limited to {amps}, on {ends}; meter on millivolts. Where the drop stops growing, the short is."
    if trial.cut or trial.gone:
        return f"Then ohms again from {trial.red.name} to {trial.black.name}. Put it back afterwards."
    setting = {"ohms": "ohms", "volts": "volts, power on through the limiter"}.get(trial.scale, trial.scale)
    return f"Meter on {setting}, red on the first, black on the second."


def outcome_words(trial: Trial, value: float) -> str:
    """A reading as a meter would show it."""
    if value != value:  # what cannot be worked out
        return "something else"
    if trial.scale == "ohms":
        return "nothing conducts" if value >= OPEN_FROM_OHM else format_si(value + LEADS_OHM, "Ω")
    return format_si(value, UNIT_OF[trial.scale])


def repair_words(fault: Fault) -> str:
    return REPAIR_WORDS[fault.kind]
