"""A diagnosis in a builder's words: symptoms, situations, causes, what is tried and how."""

from __future__ import annotations

from yardmeter.core.diagnosis.causes import Cause
from yardmeter.core.diagnosis.settings import SettingId
from yardmeter.core.diagnosis.situations import When
from yardmeter.core.diagnosis.tries import Try
from yardmeter.core.faults import Fault
from yardmeter.core.plan import Plan
from yardmeter.core.search.seen import LEADS_OHM, OPEN_FROM_OHM
from yardmeter.core.units import format_si
from yardmeter.words.bench import element_name, fault_words
from yardmeter.words.search import repair_words

SYMPTOM_WORDS: dict[str, tuple[str, str]] = {
    "resets-hover": ("Resets in hover", "reboots restarts in flight falls out of the sky drops brown-out"),
    "resets-punch": ("Resets in a punch", "reboots at full throttle brown-out when I punch falls out"),
    "resets-warm": (
        "Resets on the bench after a while",
        "reboots on the bench after a minute overheats thermal warm fine in flight",
    ),
    "resets-plug": ("Resets when the pack is plugged in", "reboots at plug-in while USB is in"),
    "resets-servo": ("Resets when a servo moves", "reboots gimbal tilt servo brown-out"),
    "resets-sender": (
        "Resets when the sender goes to high power",
        "reboots when I raise the power of the video transmitter",
    ),
    "resets-late": ("Sputters late in the pack", "cuts out low battery end of flight stutters"),
    "resets-armed": ("Resets when the motors start", "reboots when I arm spin up"),
    "resets-any": ("Resets now and then", "random reboot intermittent loose wiggle touch comes and goes"),
    "usb-only": ("Works on USB, dead on the pack", "only on usb computer cable nothing on the battery"),
    "pack-only": ("Works on the pack, dead on USB", "only on the battery nothing on usb"),
    "dead": ("Does not come on at all", "dead no light nothing no power"),
    "died": ("Worked once, dead since it was plugged in", "burnt fried gone overvoltage killed"),
    "hot-part": ("A part is too hot to touch", "overheats burning hot regulator finger"),
    "smell": ("Smell or smoke", "magic smoke burnt smells"),
    "cell-low": ("One cell is low", "unbalanced cell imbalance balance"),
    "sparks": ("The plug sparks", "spark crack plugging in"),
    "lamp-lit": ("The lamp in the lead stays lit", "limiter smoke stopper bulb glows"),
    "rail-low": ("A rail has too few volts", "low voltage undervoltage"),
    "rail-low-punch": ("A rail falls in a punch", "voltage drop under load"),
    "rail-high": ("A rail has too many volts", "overvoltage high"),
    "sags": ("The pack sags much in a punch", "voltage sag battery weak"),
    "short-flight": ("Flights have become short", "pack empty soon flight time less minutes"),
    "greedy": ("Draws more on the bench than planned", "too many amps current idle"),
    "lines-throttle": (
        "Lines in the picture that move with throttle",
        "noise motor noise diagonal interference hum video",
    ),
    "lines-standing": ("Standing lines in the picture", "stripes noise interference bars without throttle"),
    "picture-black": ("Black picture", "no video no image blank screen"),
    "picture-black-air": ("Picture gone in flight", "video lost in hover blank"),
    "picture-black-punch": ("Picture gone in a punch", "video cuts out full throttle"),
    "picture-black-armed": ("Picture gone when armed", "video lost arming motors start"),
    "picture-black-warm": ("Picture gone after a while on the bench", "video stops after minutes hot"),
    "snow": ("Snow near full power", "weak picture static grainy range video"),
    "rolling": ("Picture rolls", "rolling tearing no sync vertical"),
    "overlay-flickers": ("Overlay flickers", "osd flickers text jumps"),
    "overlay-gone": ("No overlay on the picture", "no osd text missing"),
    "link-dead": ("No telemetry, or a link that says nothing", "no data serial uart port silent sensor not found"),
    "link-throttle": ("A link drops out with throttle", "telemetry lost when motors run failsafe punch"),
    "no-control": ("Receiver gives no control", "no sticks no receiver signal unbound channels"),
    "control-far": ("Receiver lost at the far end", "range failsafe far away short range"),
    "no-fix": ("No position", "no satellites gps fix slow"),
    "heading-wrong": ("Heading is wrong", "compass north off turned"),
    "heading-swings": ("Heading swings with throttle", "compass toilet bowl circles"),
    "compass-dead": ("Compass not found", "magnetometer missing i2c"),
    "servo-jitter": ("A servo jitters", "twitches shakes nervous"),
    "motor-stutters": ("A motor stutters", "desync twitches one motor cuts"),
    "esc-dead": ("An ESC does not arm", "motor does not spin no beeps"),
    "lights-wrong": ("Lights flicker or show wrong colours", "led strip wrong"),
    "beep-stays": ("Meter beeps where it should not", "short continuity plus to ground"),
    "beep-missing": ("Meter does not beep where it should", "open no continuity"),
    "beeps-on": ("It goes on beeping", "esc beeps low battery alarm buzzer"),
}
"""Title, and other words it is asked for by."""
GROUP_WORDS = {"power": "Power", "picture": "Picture", "signals": "Signals and control", "bench": "With the meter"}

WHEN_WORDS: dict[When, str] = {
    "usb": "on USB alone", "bench": "on the bench", "warm": "warm, in still air", "blown": "with air blown at it", "plug": "at plug-in",
    "armed": "with motors idling", "sender": "with the sender at full power", "servo": "with a servo moving", "hover": "in hover",
    "late": "late in the pack", "punch": "in a punch",
}  # fmt: skip

SETTING_WORDS: dict[SettingId, tuple[str, str]] = {
    "full card": ("a full or slow memory card", "Take the card out, or format it, and see again."),
    "watchdog": ("software that restarts itself", "Read its log for the reason of the last restart."),
    "low power": ("the sender set to its lowest power", "Read the power in the sender's menu."),
    "channel": ("sender and screen on different channels", "Read both channels."),
    "line standard": ("camera and screen on different line standards", "Set 525 or 625 lines on camera, overlay and screen alike."),
    "overlay off": ("the overlay switched off, or its text off the screen", "Look at the overlay's layout."),
    "port function": ("the port not set for this use", "Look at the port's function and speed."),
    "not bound": ("the receiver not bound, or another protocol", "Bind it anew; compare the protocol."),
    "antennas": ("an antenna loose, broken or covered", "Look at every antenna and its plug."),
    "compass turned": ("the compass's direction set wrong", "Compare the arrow on it with the setting."),
    "compass not set": ("the compass not calibrated on this craft", "Calibrate it away from metal."),
    "esc protocol": ("the ESC's protocol", "Compare the protocol with what the ESC takes."),
    "motor timing": ("the motor's timing or demand", "Raise the timing a step; look whether it stutters."),
    "throttle not low": ("throttle that does not reach its low end", "Read the throttle channel at its stop."),
    "pack alarm": ("the pack alarm's volts set too high", "Compare the alarm with the pack's chemistry."),
    "servo rate": ("the servo's pulse rate too high for it", "Set it to 50 a second."),
    "power when armed": ("the sender's power or channel changing when armed", "Look what arming does in the sender's menu."),
    "amps scale": ("the scale of the current sensor", "Compare the charge put in with the charge it counted."),
    "led order": ("the order of the LEDs' colours, or their count", "Compare the setting with the strip."),
    "brightness": ("the LEDs' brightness", "Lower it and look again."),
}  # fmt: skip


def place_words(plan: Plan, where: str) -> str:
    """The place of a symptom."""
    return "the craft" if where == "craft" else element_name(plan, where)


def cause_words(plan: Plan, cause: Cause) -> str:
    """What it may be, in one line."""
    name = element_name(plan, cause.elements[0]) if cause.elements and cause.kind != "as planned" else ""
    match cause.kind:
        case "trip":
            return f"{name} switches itself off when warm"
        case "overload":
            return f"{name} is asked for more than it gives"
        case "dropout":
            return f"{name} has too few volts at its input"
        case "volts":
            return f"{name} gets too few volts"
        case "limit":
            return f"{name} gives too little for it" if name != "Pack" else "the pack gives too little for it"
        case "shift":
            return f"{name}: the two ends' grounds differ too much"
        case "level":
            return f"{name}: wired so that it cannot work"
        case "moving noise":
            return f"the motors' ripple at {name}" if len(cause.elements) == 1 else f"ripple of {name} in the picture"
        case "standing noise":
            return f"ripple of {name} in the picture"
        case "resonance":
            return f"{name} swings, and makes it worse"
        case "field":
            return f"the pack's current bends {name}"
        case "hot":
            return f"{name} burns that much, as planned"
        case "over":
            return f"{name} gets more volts than it takes"
        case "as planned":
            return {
                "sag": "this pack sags that much, as planned",
                "spark": "so much capacitance sparks, as planned",
            }.get(cause.elements[0], "it draws that much, as planned")
        case "plug":
            return f"{name} does not get over the plug: volts dip or rise as the pack comes in"
        case "fault":
            return fault_words(plan, _fault(cause))
        case "aged pack":
            return "the pack is worn: more resistance than planned"
        case "lost cell":
            return "one cell of the pack is worn"
        case "dried":
            return f"{name} has dried out"
        case "draws more":
            return f"{name} draws far more than planned"
        case "gives less":
            return f"{name} gives less than is printed on it"
        case "part":
            return f"{name} itself is broken"
        case "signal open":
            return f"{name}: its signal wire makes no contact"
        case "signal crossed":
            return f"{name}: its signal wires are crossed"
        case "thin wire":
            return f"{name}: a wire far thinner than planned"
        case "setting":
            return setting_of(cause)[0]


def _fault(cause: Cause) -> Fault:
    if cause.fault is None:
        raise RuntimeError(f"cause {cause.id} has no fault")
    return cause.fault


def setting_of(cause: Cause) -> tuple[str, str]:
    """What is set wrong, and how to see it."""
    if cause.setting is None:
        raise RuntimeError(f"cause {cause.id} is no setting")
    return SETTING_WORDS[cause.setting.id]


def mend_words(plan: Plan, cause: Cause) -> str:
    """What to do about it."""
    name = element_name(plan, cause.elements[0]) if cause.elements and cause.kind != "as planned" else ""
    match cause.kind:
        case "fault":
            return repair_words(_fault(cause))
        case "setting":
            return setting_of(cause)[1]
        case "aged pack" | "lost cell":
            return "Take the pack out of use; fly another. A swollen or warm cell is set down outdoors, away from what burns."
        case "dried":
            return f"Exchange {name} for a new one of the same kind."
        case "draws more":
            return f"Measure {name} and type its amps in; then give it a supply that carries them."
        case "gives less" | "part":
            return f"Exchange {name}, and test again."
        case "signal open":
            return f"Solder {name}'s signal wire anew, and beep it through."
        case "signal crossed":
            return f"Exchange the two wires of {name}."
        case "thin wire":
            return f"Lay {name}'s wire again in the gauge of the plan."
        case "as planned":
            return "It is as planned: change the plan, or live with it."
        case "limit":
            return "It is meant to be so on this source. Plug the pack, or switch off what is not needed."
        case _:
            return "Change the wiring: what follows was tried on this plan."


def try_title(plan: Plan, one: Try, step_title: str = "") -> str:
    """What to do, in one line."""
    name = place_words(plan, one.about[0]) if one.about else "it"
    when = WHEN_WORDS[one.when] if one.when else ""
    match one.kind:
        case "again":
            return "Blow air at it while it runs" if one.when == "blown" else f"See whether it does it {when} too"
        case "volts":
            return f"Volts at {name}, {when}"
        case "ohms":
            return step_title
        case "lift":
            return f"Take {name} off, then {step_title[0].lower()}{step_title[1:]}"
        case "amps":
            return "Amps through a supply with a current limit"
        case "look":
            return f"Look at {name}'s joints and wires under a light"
        case "swap":
            return f"Put another {name} in its place"
        case "unplug":
            return f"Take {name} off, and see again"
        case "ground":
            return f"A second ground wire to {name}, for the test"
        case "supply":
            return f"Feed {name} from a supply of its own"
        case "pack":
            return "Try with another pack"
        case "setting":
            return f"Look at a setting: {SETTING_WORDS[_setting(one)][0]}"
        case "wire":
            return f"Beep {name}'s signal wire through"
        case "flight":
            return "Read a flight: the cells' resistance from it"
        case "mended":
            return "Mend it, and see again"
        case "capacitor":
            return f"Hold a good capacitor across {name}, power off while you fit it"


def _setting(one: Try) -> SettingId:
    name = one.id.removeprefix("setting-")
    return next(key for key in SETTING_WORDS if key.replace(" ", "-") == name)


def try_how(plan: Plan, one: Try) -> str:
    """How it is done, safely."""
    props = "Propellers off. " if one.power == "bench" else ""
    match one.kind:
        case "ohms" | "lift":
            return "Pack and USB out. Meter on ohms, red on the first, black on the second."
        case "volts":
            return f"{props}Meter on volts, black on the ground beside it."
        case "amps":
            return "Propellers off. A supply at the pack's volts, its limit just above what is expected."
        case "look":
            return "Pack and USB out. Pull gently at each wire; look for dull or ringed solder."
        case "setting":
            return SETTING_WORDS[_setting(one)][1]
        case "wire":
            return "Pack and USB out. Meter on beep, from pin to pin; then to its neighbours."
        case "flight":
            return "Fly gently, low, over soft ground, with a few short punches; read the recorder's file in the log."
        case "supply":
            return f"{props}Its own plus off, the supply at its volts with a limit a little above its amps, ground to ground."
        case _:
            when = f" {WHEN_WORDS[one.when]}" if one.when else ""
            away = "Low, over soft ground, nobody near. " if one.power == "air" else props
            return (
                f"{away}See whether it still does it{when}." if one.kind != "again" else f"{away}The same again,{when}."
            )


def answers(one: Try) -> tuple[str, str]:
    """What yes and no are called."""
    return {
        "again": ("It does it", "It does not"), "look": ("Something is wrong there", "Looks sound"), "setting": ("It was set wrong", "Set right"),
        "wire": ("Open or crossed", "Beeps as it should"), "flight": ("Far more than planned", "About as planned"),
    }.get(one.kind, ("It still does it", "It is gone"))  # fmt: skip


def reading_words(one: Try, value: float | None) -> str:
    """A reading as a meter shows it."""
    if value is None or value != value:
        return "cannot be said"
    if one.scale == "ohms":
        return "nothing conducts" if value >= OPEN_FROM_OHM else format_si(value + LEADS_OHM, "Ω")
    return format_si(value, "A" if one.scale == "amps" else "V")
