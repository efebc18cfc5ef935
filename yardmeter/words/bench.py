"""The bench in words: why a meter reads what it reads, what a fault is, what it would do."""

from __future__ import annotations

from yardmeter.core.faults import Consequence, Fault
from yardmeter.core.plan import Plan
from yardmeter.core.probing import Reading
from yardmeter.core.units import format_si


def reading_words(plan: Plan, reading: Reading) -> str:
    """What the reading is made of, or what stands in the way."""
    if reading.copper and reading.mode in ("ohms", "beep", "diode"):
        return f"Copper alone joins them: {_names(plan, reading.copper)}."
    if reading.mode == "volts":
        same = " They are one net: what is left is the drop along it." if reading.copper else ""
        return f"From the solved condition.{same}"
    if reading.mode == "amps":
        return f"Through {_names(plan, reading.copper)}, the meter in its place."
    found = []
    if reading.carriers:
        shares = ", ".join(f"{element_name(plan, one.element)} ({one.share_frac:.0%})" for one in reading.carriers)
        found.append(f"The test current goes through {shares}; what stands in a row carries the same.")
    elif reading.between:
        found.append(f"Nothing conducts: between them stand {_names(plan, reading.between)}.")
    else:
        found.append("Nothing joins them.")
    if reading.mode == "beep" and reading.beep_high_s > 0:
        found.append(_beep_words(reading))
    return " ".join(found)


def _beep_words(reading: Reading) -> str:
    low, high = format_si(reading.beep_low_s, "s"), format_si(reading.beep_high_s, "s")
    if reading.beeps == "chirp":
        return f"Capacitors charge first: it chirps for {low} to {high} and stops."
    if reading.beeps == "no":
        return f"Capacitors charge in {low} to {high}, sooner than a meter answers."
    return "It stays."


def element_name(plan: Plan, element: str) -> str:
    if element == "fault":
        return "the fault"
    if element in plan.pin_of:
        return f"{plan.owner_of[element].name} {plan.pin_of[element].label}"
    if element in plan.return_of:
        owner, _ = plan.return_of[element]
        return f"ground of {plan.title(owner)}"
    return plan.title(element) if element == "pack" or element in plan.elements else element


def _names(plan: Plan, elements: tuple[str, ...]) -> str:
    names = list(dict.fromkeys(element_name(plan, one) for one in elements))
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"


def fault_words(plan: Plan, fault: Fault) -> str:
    """What is wrong, in one line."""
    first = element_name(plan, fault.elements[0])
    last = element_name(plan, fault.elements[-1])
    ground = _ground_words(plan, fault.elements[-1])
    return {
        "short": f"{first} shorted to the ground of {last}",
        "whisker": f"whisker between {first} and {last}",
        "open joint": f"{first}: its plus wire makes no contact",
        "poor joint": f"{first}: a poor joint in {ground if len(fault.elements) > 1 else 'its plus wire'}",
        "wrong pad": f"{first}: plus wire on {last}",
        "plus and minus swapped": f"{first}: plus and minus swapped",
        "no ground": f"{first}: {ground} makes no contact",
        "regulator open": f"{first} dead, gives nothing",
        "regulator shorted": f"{first} shorted through: its input on its output",
        "regulator low": f"{first} gives too few volts",
        "capacitor reversed": f"{first} the wrong way round",
        "capacitor shorted": f"{first} shorted",
        "capacitor forgotten": f"{first} not there",
        "device shorted": f"{first} shorted inside",
        "connector half in": f"{first}: its connector is half in",
        "wrong strap": f"{first} bridged to {last}",
        "plug reversed": "the pack's plug the wrong way round",
    }[fault.kind]


def _ground_words(plan: Plan, wire: str) -> str:
    """“its ground to Power board”: an owner may have several."""
    if wire not in plan.return_of:
        return "its ground"
    owner, back = plan.return_of[wire]
    beside = [one for one in plan.owner_of[owner].returns if one.to == back.to]
    number = f", wire {beside.index(back) + 1}" if len(beside) > 1 else ""
    return f"its ground to {plan.title(back.to)}{number}"


def consequence_words(plan: Plan, found: Consequence) -> str:
    """What it would do with the pack plugged straight in."""
    said = []
    if found.amps_a:
        said.append(f"{format_si(found.amps_a, 'A')} through it")
    if found.wire_melts:
        said.append(f"{element_name(plan, found.wire_melts)}'s wire melts")
    if found.volts_v:
        said.append(f"{format_si(found.volts_v, 'V')} where they do not belong")
    if found.lost:
        names = _names(plan, found.lost) if len(found.lost) < 4 else f"{len(found.lost)} devices"
        said.append(f"{names} lost")
    return "; ".join(said) or ("the craft does not fly" if found.dangerous else "it does not work, nothing is lost")
