"""The bench list in words: what to do at each step, what should be seen, what to mind."""

from __future__ import annotations

from yardmeter.core.plan import Plan
from yardmeter.core.procedures import Gate, Step
from yardmeter.core.units import format_si
from yardmeter.words.bench import reading_words

GATE_WORDS: dict[Gate, str] = {
    "eyes": "Eyes and loupe",
    "meter": "The meter proves itself",
    "plug": "Plus to minus at the plug",
    "rails": "Rails to ground and to each other",
    "branches": "Plus to the end of every branch",
    "grounds": "Ground to every board and device",
    "cross": "No plus on a minus",
    "pins": "No signal on a supply",
    "states": "Antennas on, propellers off",
    "limiter": "First power through a limiter",
    "volts": "Volts of each rail",
    "usb": "From USB alone",
    "function": "Functions, one by one",
    "load": "Under load",
}
GATE_SHORT: dict[Gate, str] = {
    "eyes": "Eyes", "meter": "Meter", "plug": "Plug", "rails": "Rails", "branches": "Branches", "grounds": "Grounds",
    "cross": "Cross", "pins": "Pins", "states": "States", "limiter": "Limiter", "volts": "Volts", "usb": "USB",
    "function": "Functions", "load": "Load",
}  # fmt: skip
CAUTIONS: dict[Gate, str] = {
    "eyes": "Pack unplugged, propellers off.",
    "plug": "Pack unplugged; let capacitors discharge first.",
    "states": "A transmitter without its antenna destroys itself; propellers cut.",
    "limiter": "Propellers off, nothing that burns nearby, one hand on the plug. A pack that is shorted burns.",
    "volts": "Power is on: one slip of the probe is a short. Keep the limiter in.",
    "load": "Only outdoors, away from people, by the rules of your place. Work on certified or customers' craft belongs to who is licensed for it.",
}
LOOKS: dict[str, tuple[str, str]] = {
    "props": ("Propellers are off and the pack is unplugged", "Nothing else begins before."),
    "neighbours": ("{names}: no bridge between neighbours", "Look across each pair of pads under a loupe: balls, whiskers, strands."),
    "polarity": ("{names}: plus on plus, minus on minus", "Compare both ends of the lead; write down a donor plug's colours before it is cut."),
    "capacitor": ("{names}: its stripe is on ground", "The marked side of the can is minus."),
    "leads touch": ("Probes together", "It has to beep at once: else the battery, a lead or the range is wrong."),
    "antenna": ("{names}: antenna on", "And low power set, where it can be."),
    "limiter": ("Plug in through the limiter", "A lamp flashes while capacitors charge and goes dark; one that stays bright is a short: unplug."),
    "signal": ("{names} works", "Alone, with settings that look like a wiring fault ruled out first: port, protocol, inversion."),
    "hover": ("A hover", "A minute, then feel every regulator and plug."),
    "punch": ("A punch on a low pack", "Watch for a picture that tears and for anything that starts again."),
    "still": ("Ten minutes on the bench in still air", "Then the temperatures: more than a finger bears is told by the plan."),
}  # fmt: skip


def step_title(plan: Plan, step: Step) -> str:
    """What is done, in one line."""
    if step.look:
        return LOOKS[step.look][0].format(names=_names(plan, step))
    if step.gate == "plug":
        return "The plug, plus to minus" if step.id == "plug-forward" else "The plug, minus to plus"
    if step.red and step.black:
        return f"{step.red.name} to {step.black.name}"
    return GATE_WORDS[step.gate]


def step_how(step: Step) -> str:
    """How it is done."""
    if step.look:
        return LOOKS[step.look][1]
    setting = {"ohms": "ohms", "beep": "continuity", "diode": "diode test", "volts": "volts", "amps": "amps"}[
        step.mode or "ohms"
    ]
    return f"Meter on {setting}, red on the first, black on the second."


def step_expects(step: Step) -> str:
    """What passes."""
    found = step.expected
    if found is None:
        return "as it says"
    unit = found.unit
    if found.mode == "amps":
        return f"about {format_si(found.usual, unit)}, at most {format_si(step.most or 0.0, unit)}"
    if found.mode == "volts":
        return f"{format_si(step.least, unit)} to {format_si(step.most or 0.0, unit)}"
    if found.beeps == "steady":
        return f"it beeps, {format_si(step.most or 0.0, unit)} at most"
    least = format_si(step.least, unit)
    if found.mode == "beep":
        chirp = (
            f"; a chirp of up to {format_si(found.beep_high_s, 's')} is capacitors charging"
            if found.beeps == "chirp"
            else ""
        )
        return f"no steady beep, over {least}{chirp}"
    usual = "nothing conducts" if found.high is None and found.usual > 1e7 else f"about {format_si(found.usual, unit)}"
    return f"over {least}; {usual} here"


def step_why(plan: Plan, step: Step) -> str:
    """What the reading is made of in this build."""
    return reading_words(plan, step.expected) if step.expected and step.red else ""


def _names(plan: Plan, step: Step) -> str:
    return ", ".join(plan.title(one) for one in step.elements[: 1 if step.look in ("neighbours", "capacitor") else 4])
