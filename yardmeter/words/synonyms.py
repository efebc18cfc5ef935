"""Words of the trade that mean the same to who searches, and what each tool of the program is asked for by."""

from __future__ import annotations

from dataclasses import dataclass

SAME: tuple[tuple[str, ...], ...] = (
    ("gnss", "gps", "satellite", "position"),
    ("controller", "fc", "autopilot", "mcu", "flight computer"),
    ("sender", "vtx", "transmitter", "video transmitter"),
    ("receiver", "rx", "radio", "control link"),
    ("pack", "battery", "lipo", "lithium", "li-ion", "akku", "cell", "cells"),
    ("power board", "pdb", "distribution"),
    ("regulator", "bec", "ubec", "sbec", "buck", "ldo", "converter", "step-down", "stepdown", "psu"),
    ("boost", "step-up", "stepup"),
    ("capacitor", "cap", "caps", "electrolytic", "bulk", "low esr", "low-esr"),
    ("coil", "inductor", "choke", "lc"),
    ("bead", "ferrite", "toroid"),
    ("motors", "motor", "esc", "speed controller", "throttle"),
    ("camera", "cam", "lens"),
    ("ground", "gnd", "earth", "minus", "negative"),
    ("plus", "positive", "vcc", "vbat", "red wire", "b+"),
    ("led", "leds", "light", "lamp", "strobe"),
    ("buzzer", "beeper", "beep"),
    ("clamp", "tvs", "suppressor", "zener"),
    ("brown-out", "brownout", "reset", "reboot", "restart", "blackout"),
    ("solder", "soldering", "iron", "tin", "flux"),
    ("osd", "overlay", "display"),
    ("usb", "port", "computer cable"),
    ("barometer", "baro", "altimeter"),
    ("compass", "magnetometer", "mag"),
    ("servo", "servos", "actuator"),
    ("telemetry", "serial", "uart"),
)
"""Each line's words find what any other of them finds."""


@dataclass(frozen=True)
class Tool:
    """A tool or an answer: where it stands, and the words it is asked for by beside its name."""

    name: str
    also: str
    view: str
    sheet: str = ""


TOOLS: tuple[Tool, ...] = (
    Tool("Resistor for a LED", "led ohm tail light lamp string series resistor strip brightness", "leds"),
    Tool("Wires and parts to solder: hook-up", "wire awg gauge cable thickness drop melt hook-up length colour solder iron tin flux red wire silicone connector plug xt-type socket pigtail bullet harness crimp heat shrink pinout polarity where does it go diode strap", "hookup"),
    Tool("Log: flights, measurements, notes, before and after", "log logbook diary record flight recorder blackbox csv telemetry file history note picture photo symptom measured fit internal resistance before after compare flights", "log"),
    Tool("Capacitors and filters tried", "capacitor cap caps lc filter ferrite bead bulk low esr electrolytic ripple coil inductor choke toroid smoothing hum whine tvs clamp suppressor zener spike", "noise", "Parts"),
    Tool("Picture predicted", "video noise lines interference picture stripes bars hum snow rolling static camera image whine osd overlay", "noise"),
    Tool("Noise measured", "oscilloscope measure ripple scope noise hum", "noise", "Measured"),
    Tool("Ways to feed a device", "feed bec regulator ldo buck step-down linear quiet supply boost psu converter vtx sender clean power", "noise", "Feeds"),
    Tool("Volts windows and pack sweep", "brown-out brownout reset low pack sag dropout window over-voltage cells battery lipo voltage volt empty charge undervoltage headroom landing cutoff", "windows"),
    Tool("Chances of being over", "tolerance monte carlo chance guess band odds risk uncertain probability", "windows", "Chances"),
    Tool("Ground heights and loops", "ground loop star return earth gnd minus negative millivolt shift", "grounds"),
    Tool("Signals and pins", "uart tx rx pin signal wire esc servo one-wire i2c serial telemetry level 3.3v logic gps gnss compass osd pinout swap inverted", "grounds", "Signals"),
    Tool("Straps and pad bridges", "strap bridge jumper selectable pad", "rails"),
    Tool("Rails: who takes how much", "amps current budget sum load overload over spare rail pad power watt draw milliamp consumption peak typical pdb distribution fc flight controller speed esc camera receiver pack battery", "rails"),
    Tool("First power through a limiter", "short smoke lamp fuse limiter first power plug smoke stopper stopper dim bulb usb bench port", "rails"),
    Tool("Layouts: the whole wiring proposed", "layout propose suggest wiring how to wire arrange distribute automatic best solve optimise optimize which bec alternatives", "layouts"),
    Tool("Run: the plan in time", "scenario transient inrush hot plug spike ringing punch brown-out reset hold-up reboot loop thermal trip flight simulate timetable spark anti-spark brake braking regen servo jitter dip sag throttle curve capacitor discharge restart switch on off servo", "run"),
    Tool("Bench list: where to put the probes", "meter multimeter continuity beep short check list test first power probe fault ohm resistance buzzer troubleshoot", "bench"),
    Tool("Something is wrong: from a symptom to its cause", "wrong broken symptom trouble problem diagnose diagnosis reset reboot black picture lines noise hot smell smoke dead not working why", "wrong"),
    Tool("Find a fault by its readings", "fault dead broken not working smoke short search troubleshoot diagnose symptom burnt", "bench"),
    Tool("Cautions before power", "antenna prop propeller fumes caution safety transmitter short meter fire lithium charge", "card"),
    Tool("Build card to print", "print card paper summary weight grams sheet pdf", "card"),
    Tool("Stand-alone regulators on the shelf", "bec ubec regulator step-up boost 5v 9v 12v 3.3v buck converter", "shelf"),
    Tool("Parts on the shelf", "part parts library device camera receiver gps gnss vtx sender servo led buzzer compass lidar esc motor board antenna weight add new shop shelf fc controller battery strobe barometer baro beacon magnet gimbal fan heat sink", "shelf"),
    Tool("Plans side by side", "compare difference version better worse side by side diff weight", "compare"),
    Tool("How the craft is judged", "policy derate margin limit rule heat sink temperature copper cooling airflow air still hot overheating warm setting settings preferences", "policy"),
)  # fmt: skip
"""Names are what a builder reads; `also` are words, each on its own."""


def alike(word: str) -> tuple[str, ...]:
    """The word, and those that mean the same."""
    return next((line for line in SAME if word in line), (word,))
