"""The bench list in words: what to do at each step, what should be seen, what to mind."""

from __future__ import annotations

from yardmeter.core.plan import Plan, Signal
from yardmeter.core.plan.signals import SignalKind
from yardmeter.core.procedures import Gate, Step
from yardmeter.core.procedures.steps import Look, Unforeseen
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
    "pack": "Limiter out, pack in",
    "still": "Ten minutes on the bench",
    "load": "In the air",
}
GATE_SHORT: dict[Gate, str] = {
    "eyes": "Eyes", "meter": "Meter", "plug": "Plug", "rails": "Rails", "branches": "Branches", "grounds": "Grounds",
    "cross": "Cross", "pins": "Pins", "states": "States", "limiter": "Limiter", "volts": "Volts", "usb": "USB",
    "function": "Functions", "pack": "Pack", "still": "Still",
    "load": "Air",
}  # fmt: skip
CAUTIONS: dict[Gate, str] = {
    "eyes": "Pack unplugged, propellers off.",
    "plug": "Pack unplugged; let capacitors discharge first.",
    "states": "A transmitter without its antenna destroys itself; propellers cut.",
    "limiter": "Propellers off, nothing that burns nearby, one hand on the plug. A pack that is shorted burns.",
    "volts": "Power is on: one slip of the probe is a short. Keep the limiter in.",
    "function": "Propellers off. What moves may pinch.",
    "pack": "Propellers off. Nothing limits any more: a short burns.",
    "still": "Propellers off. Regulators and senders get hot enough to burn.",
    "load": "Only outdoors, away from people, by the rules of your place. Work on certified or customers' craft belongs to who is licensed for it.",
}
LOOKS: dict[Look, tuple[str, str]] = {
    "props": ("Propellers are off and the pack is unplugged", "Nothing else begins before."),
    "heat": ("{names}: heat-sensitive parts off before thick leads and ground planes are soldered", "Cameras, receivers and plugs of plastic come off, or go on last; a ground plane drinks heat, so a large tip and little time."),
    "neighbours": ("{names}: no bridge between neighbours", "Look across each pair of pads under a loupe: balls, whiskers, strands."),
    "polarity": ("{names}: plus on plus, minus on minus", "Compare both ends of the lead; write down which colour is plus before a donor plug is cut or unsoldered."),
    "capacitor": ("{names}: its stripe is on ground", "The marked side of the can is minus."),
    "tantalum": ("{names}: its bar is on plus", "A tantalum marks its plus, an electrolytic its minus: the wrong way round it burns."),
    "coil": ("{names}: in the plus lead, on the side of what it keeps quiet", "Not across plus and ground, and nothing solid shorts it out."),
    "clamp": ("{names}: its band is on plus", "Turned round it is a short as soon as the pack is in."),
    "diode": ("{names}: its band points to {to}", "Current leaves at the band."),
    "bridges": ("{names}: only the chosen pads are bridged", "As it is written beside them on the board; solder across two of them joins two supplies."),
    "resistor": ("{names}: its resistor is in the plus lead", "Read its colours or measure it before it is covered; without it the LEDs burn."),
    "red wire": ("{names}: its red wire is lifted and insulated", "It is live as soon as power is on: heat-shrink over its end, and the end tied away."),
    "motor wires": ("{names}: three wires on three pads each, no strand across", "Which goes where only turns the motor round; two that touch burn the ESC."),
    "leads touch": ("Probes together", "It has to beep at once, with 1 Ω at most: else the battery, a lead or the range is wrong. What they read is taken off every reading of ohms after it."),
    "antenna": ("{names}: antenna on", "And low power set, where it can be."),
    "limiter": ("Plug in through the limiter", "A lamp flashes while capacitors charge and goes dark; one that stays bright is a short: unplug."),
    "unplugged": ("{names}: read first without what is expensive", ""),
    "overlay": ("{names}: the overlay shows the pack's volts", "Beside the meter on the plug: more than 2 % apart is a scale to be set, nothing at all a missing link or a missing pack wire."),
    "signal": ("{names} works", ""),
    "fail-safe": ("{names}: transmitter off, motors stop", "Propellers off. Arm, a little throttle, then switch the transmitter off: the motors have to stop within a second or two, and stay off."),
    "pack in": ("Limiter out, the pack straight in", "Only after everything before this passed. Unplug at once at any smell, smoke or sound."),
    "still": ("Ten minutes on the bench in still air, propellers off", "Then the temperatures: more than a finger bears is told by the plan."),
    "props on": ("Propellers on", "Now, and not before: pack out while they are put on, each the right way up and round, nuts tight, nobody near."),
    "hover": ("A hover, or a level circle", "A minute, then feel every regulator and plug."),
    "punch": ("A punch on a low pack", "Watch for a picture that tears and for anything that starts again."),
}  # fmt: skip


def step_title(plan: Plan, step: Step) -> str:
    """What is done, in one line."""
    if step.look:
        return LOOKS[step.look][0].format(names=_names(plan, step), to=_goes_to(plan, step))
    if step.id in SOURCES:
        return SOURCES[step.id][0]
    if step.gate == "plug":
        return "The plug, plus to minus" if step.id == "plug-forward" else "The plug, minus to plus"
    if step.red and step.black:
        return f"{step.red.name} to {step.black.name}"
    return GATE_WORDS[step.gate]


SOURCES: dict[str, tuple[str, str]] = {
    "volts-source": (
        "What stands in for the pack: volts at the plug",
        "A bench supply, or the pack behind its limiter: what it reads is what the steps after this count with.",
    ),
    "pack-volts": ("The pack's own volts at the plug", "Charged or half empty: write down what it really has."),
}
UNFORESEEN: dict[Unforeseen, str] = {
    "no point": "it cannot be foreseen: more is asked there than can be given. Mend what overloads it (see its findings), or skip it with a reason",
    "dead": "it cannot be foreseen: by the plan nothing comes out here, since too few volts or amps get to it. Mend that (see its findings), or skip it with a reason",
}


SETTINGS: dict[SignalKind, str] = {
    "video": "First the settings that look like a broken wire: both ends on the same standard, {sink} chosen as input{default}. Then: a picture.",
    "serial": "First the settings: {port} set to what the other end talks, the same speed at both ends{inverted}. Then: its data on the screen.",
    "receiver": "First the settings: {port} set to the receiver's protocol{inverted}, receiver bound. Then: sticks move on the screen.",
    "servo": "First the settings: {source} mapped to this servo and switched on, centre set. Then: it moves the right way, alone.",
    "esc": "Propellers off. First the settings: the protocol both ends talk, the order of motors. Then: it spins, and the right way round.",
    "one-wire": "First the settings: {port} set to half duplex and to this protocol. Then: its data on the screen.",
    "led": "First the settings: {source} given to the lights, as many pixels as there are, their order of colours. Then: the first and the last one in their colours.",
    "buzzer": "First the settings: the buzzer's output switched on, and which way round it is driven. Then: it sounds when it is asked to.",
    "camera": "First the settings: the camera's control line switched on. Then: its menu opens and moves by the sticks.",
    "i2c": "First the settings: the bus switched on, the address of the part. Then: it is found at start.",
    "other": "First the settings at both ends. Then: it does what it should, alone.",
}


def _signal_how(plan: Plan, signal: Signal) -> str:
    source, sink = plan.pin_of.get(signal.source), plan.pin_of.get(signal.sink)
    owner = plan.owner_of[signal.sink].name
    # The port that is set is the board's, at whichever end it is.
    ends = sorted(
        ((signal.source, source), (signal.sink, sink)), key=lambda one: plan.owner_of[one[0]].id in plan.device_of
    )
    place = plan.owner_of[ends[0][0]].name
    port = ends[0][1].port if ends[0][1] else ""
    label = ends[0][1].label if ends[0][1] else ""
    inputs = sum(one.role == "video-in" for one in plan.owner_of[signal.sink].pins)
    inverted = ", inversion on: it idles low" if source and source.inverted else ""
    return SETTINGS[signal.kind].format(
        sink=f"{owner} {sink.label}" if sink else owner,
        source=f"{plan.owner_of[signal.source].name} {source.label}" if source else plan.owner_of[signal.source].name,
        port=f"port {port} of {place}" if port else f"{label} of {place}" if label else place,
        default=", which is not the one shown at power-up" if sink and not sink.default and inputs > 1 else "",
        inverted=inverted,
    )


def step_how(plan: Plan, step: Step) -> str:
    """How it is done."""
    if step.look == "signal":
        return _signal_how(plan, plan.signal_of[step.elements[0]])
    if step.look == "unplugged":
        units = ", ".join(plan.title(one) for one in step.elements[1:])
        return f"{units} unplugged, or not soldered yet: a rail that is wrong kills what hangs on it. After its reading, with each."
    if step.id in SOURCES:
        return SOURCES[step.id][1]
    if step.look:
        return LOOKS[step.look][1]
    setting = {"ohms": "ohms", "beep": "continuity", "diode": "diode test", "volts": "volts", "amps": "amps"}[
        step.mode or "ohms"
    ]
    return f"Meter on {setting}, red on the first, black on the second."


def step_expects(step: Step) -> str:
    """What passes: every bound that is judged."""
    found = step.expected
    if step.unforeseen:
        return UNFORESEEN[step.unforeseen]
    if found is None:
        return "as it says"
    unit = found.unit
    if found.mode == "amps":
        limit = f"; at the limit of {format_si(step.limit_a, unit)} it fails" if step.limit_a else ""
        return f"{format_si(step.least, unit)} to {format_si(step.most or 0.0, unit)}, about {format_si(found.usual, unit)}, once it has settled{limit}"
    if found.mode == "volts":
        return f"{format_si(step.least, unit)} to {format_si(step.most or 0.0, unit)}"
    if found.beeps == "steady":
        return f"it beeps, {format_si(step.most or 0.0, unit)} at most"
    least = format_si(step.least, unit)
    if found.mode == "beep":
        chirp = (
            f"; a beep of up to {format_si(found.beep_high_s, 's')} that fades is capacitors charging"
            if found.beeps == "chirp"
            else ""
        )
        return f"no steady beep, over {least}{chirp}"
    if step.most is None:
        usual = (
            "nothing conducts" if found.usual > 1e7 else f"about {format_si(found.usual, unit)}, or nothing conducts"
        )
        return f"over {least}; {usual} here"
    return f"{least} to {format_si(step.most, unit)}; about {format_si(found.usual, unit)} here"


def step_why(plan: Plan, step: Step) -> str:
    """What the reading is made of in this build."""
    if step.gate == "limiter":
        return _flash_words(step)
    return reading_words(plan, step.expected) if step.expected and step.red else ""


def _flash_words(step: Step) -> str:
    """What capacitors do at the first touch, and for how long that may last."""
    return (
        f"A supply of {format_si(step.volts_v or 0.0, 'V')} limited to {format_si(step.limit_a or 0.0, 'A')} stands at its limit while "
        f"capacitors charge and parts start, {format_si(step.charge_s, 's')} at most; a lamp flashes as long and goes dark. "
        "What stays at the limit, or bright, is a short or more than was planned: off at once."
    )


OF_ONE: tuple[Look, ...] = (
    "neighbours",
    "capacitor",
    "tantalum",
    "coil",
    "clamp",
    "diode",
    "bridges",
    "unplugged",
    "red wire",
)
"""Steps about their first element; the others only tell where it is."""


def _goes_to(plan: Plan, step: Step) -> str:
    return plan.title(step.elements[1]) if step.look == "diode" else ""


def _names(plan: Plan, step: Step) -> str:
    return ", ".join(plan.title(one) for one in step.elements[: 1 if step.look in OF_ONE else 4])
