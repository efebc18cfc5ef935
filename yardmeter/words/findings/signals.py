"""Words of `signal.` rules."""

from __future__ import annotations

from yardmeter.core.checks.signal_grounds import NoGroundBeside
from yardmeter.core.checks.signals import (
    Crossed,
    EmptyInput,
    Inverted,
    LevelMissed,
    Misplaced,
    PictureLost,
    Unverified,
    UsedTwice,
    WrongWay,
)
from yardmeter.core.plan import Plan
from yardmeter.core.units import format_si
from yardmeter.core.verdict import Verdict
from yardmeter.words.pictures import path_words
from yardmeter.words.told import Told, number, pin_words, plural, tells, titles

DRIVING = ("ends that drive it", "needed")


@tells("signal.crossed", facts=Crossed)
def crossed(plan: Plan, v: Verdict, f: Crossed) -> Told:
    role, does = ("TX", "talk") if f.talks else ("RX", "listen")
    return Told(
        title=f"{plan.title(v.elements[0])}: {role} is wired to {role}",
        cause=f"{pin_words(plan, f.source)} and {pin_words(plan, f.sink)} both {does}; nothing is heard.",
        remedy="Cross the pair: TX of one to RX of the other.",
        labels=DRIVING,
    )


@tells("signal.direction", facts=WrongWay)
def wrong_way(plan: Plan, v: Verdict, f: WrongWay) -> Told:
    source, sink = plan.pin_of[f.source], plan.pin_of[f.sink]
    return Told(
        title=f"{plan.title(v.elements[0])}: {pin_words(plan, f.source)} does not drive {pin_words(plan, f.sink)}",
        cause=f"A {source.role} pin meets a {sink.role} pin. Two outputs fight, two inputs float; neither carries the signal.",
        remedy="Solder it to the matching pin: out to in.",
        labels=DRIVING,
    )


@tells("signal.port", facts=UsedTwice)
def used_twice(plan: Plan, v: Verdict, f: UsedTwice) -> Told:
    free = ", ".join(plan.pin_of[one].label for one in f.free) or "none of its kind"
    return Told(
        title=f"{pin_words(plan, f.pin)} is used {v.compared.observed:.0f} times",
        cause=f"{titles(plan, f.users, ' and ')} share it; one drowns the other.",
        remedy=f"Move one of them. Free: {free}.",
        labels=("uses", "allowed"),
    )


@tells("signal.level", facts=LevelMissed)
def level_missed(plan: Plan, v: Verdict, f: LevelMissed) -> Told:
    name, driven = plan.title(v.elements[0]), f"{v.compared.observed:g} V"
    if f.burns:
        return Told(
            title=f"{name}: {driven} into an input for {v.compared.limit:g} V",
            cause=f"{pin_words(plan, f.sink)} is not made for it; the input burns, often with the chip behind it.",
            remedy="Put a divider or a level shifter in between, or use an input that stands it.",
            labels=("driven", "most allowed"),
        )
    thresholds = plan.pin_of[f.sink].input_levels.upper()
    return Told(
        title=f"{name}: {driven} is not read as high for certain",
        cause=f"{pin_words(plan, f.sink)} has {thresholds} thresholds of {f.supply_v:g} V logic.",
        remedy="Use a level shifter, or feed the strip through a diode: with less of a supply it reads less as high."
        if plan.signal_of[v.elements[0]].kind == "led"
        else "Use a level shifter, or a part with TTL-compatible inputs.",
        labels=("driven", "needed"),
    )


@tells("signal.inverted", facts=Inverted)
def inverted(plan: Plan, v: Verdict, f: Inverted) -> Told:
    source, sink = plan.pin_of[f.source], plan.pin_of[f.sink]
    pins = ", ".join(plan.pin_of[one].label for one in f.suitable)
    into = "an inverted" if sink.inverted else "a plain"
    return Told(
        title=f"{plan.title(v.elements[0])}: {'inverted' if source.inverted else 'plain'} signal into {into} input",
        cause=f"{pin_words(plan, f.source)} idles {'low' if source.inverted else 'high'}; {pin_words(plan, f.sink)} takes that for noise.",
        remedy=f"Use an input that inverts{': ' + pins if pins else ', or set the sender to plain'}.",
        labels=("inversions in the way", "needed"),
    )


@tells("signal.camera_input", facts=EmptyInput)
def empty_input(plan: Plan, v: Verdict, f: EmptyInput) -> Told:
    label = plan.pin_of[f.input].label
    verb = plural(len(f.elsewhere), "is", "are")
    return Told(
        title=f"{plan.title(f.board)} starts on {label}, where no camera is",
        cause=f"{titles(plan, f.elsewhere)} {verb} on another input; the picture is empty at power-up.",
        remedy=f"Solder it to {label}, or set the firmware's start-up input.",
        labels=("cameras on the start-up input", "needed"),
    )


@tells("signal.video_path", facts=PictureLost)
def picture_lost(plan: Plan, v: Verdict, f: PictureLost) -> Told:
    camera, last = plan.title(f.picture.owners[0]), f.picture.owners[-1]
    path = path_words(plan, f.picture)
    if f.passes_by is None:
        board = plan.board_of.get(last)
        chip = ", which has no on-screen-display chip to pass it on" if board and not board.osd else ""
        return Told(
            title=f"{camera}: its picture ends at {plan.title(last)}{chip}",
            cause=f"Path: {path}. Nothing sends or keeps it from there.",
            remedy="Run the board's video output on to the sender, or the camera straight to it.",
            labels=("senders it reaches", "needed"),
        )
    return Told(
        title=f"{camera} passes by the on-screen display of {plan.title(f.passes_by)}",
        cause=f"Path: {path}. Pack volts and warnings are not written on this picture.",
        remedy=f"Run it through {plan.title(f.passes_by)}, or fly by another picture's display.",
        labels=("displays on its way", "on this build"),
    )


@tells("signal.pinout", facts=Unverified)
def unverified(plan: Plan, v: Verdict, f: Unverified) -> Told:
    revision = f" {f.revision}" if f.revision else ""
    return Told(
        title=f"The pin-out of {plan.title(v.elements[0])}{revision} is unverified: {v.compared.observed:.0f} {plural(round(v.compared.observed), 'wire relies', 'wires rely')} on it",
        cause="Revisions of one board carry different pins in the same place; a swapped pair is found too late.",
        remedy="Compare with the print or a meter, then say in the board's ticket what it is trusted by.",
        labels=("wires that rely on it", "verified"),
    )


PIN_WORDS = {
    "ident": "The pin tells the device what it is plugged to",
    "keep-off": "Its maker forbids power on that pin",
    "power-out": "The pin gives power, it takes none",
}


@tells("signal.powered", facts=Misplaced)
def misplaced(plan: Plan, v: Verdict, f: Misplaced) -> Told:
    pin = plan.pin_of[f.pin]
    return Told(
        title=f"{plan.title(v.elements[0])}: the {f.wire} on {pin.label}",
        cause=f"{PIN_WORDS.get(pin.role, f'{pin.label} is a {pin.role} pin')}; {format_si(v.compared.observed, 'V')} there destroys what is behind it.",
        remedy="Do not connect. Move the wire to the pin made for it.",
        labels=("on the pin", "it stands"),
    )


@tells("signal.ground", facts=NoGroundBeside)
def no_ground_beside(plan: Plan, v: Verdict, f: NoGroundBeside) -> Told:
    it = plural(len(f.signals), "it", "them")
    return Told(
        title=f"{titles(plan, f.signals)}: no ground beside {it}, {format_si(v.compared.observed, 'V')} of offset",
        cause=f"Between {titles(plan, f.ends, ' and ')} the return goes round by the supply grounds, which is also the loop an edge radiates from.",
        remedy="Run one thin ground beside the signal, twisted with it.",
        labels=("offset", "margin"),
        more=(number("signals without one", len(f.signals), ""),),
    )
