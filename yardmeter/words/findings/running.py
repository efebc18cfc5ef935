"""Words of `run.` rules."""

from __future__ import annotations

from yardmeter.core.checks.running import InScenario
from yardmeter.core.checks.running_copper import WarmInScenario
from yardmeter.core.plan import Plan
from yardmeter.core.runs.shipped import find_scenario
from yardmeter.core.units import format_si
from yardmeter.core.verdict import Verdict
from yardmeter.words.run import seconds
from yardmeter.words.told import Told, number, tells

SEE = "Look at its line under Run: it shows why, and what was tried against it."


def _scenario(plan: Plan, f: InScenario) -> str:
    name = find_scenario(plan, f.scenario).name
    return f"“{name}”" + (f" and {len(f.others)} more" if f.others else "")


@tells("run.reset", facts=InScenario)
def resets(plan: Plan, v: Verdict, f: InScenario) -> Told:
    name = plan.title(v.elements[0])
    often = "" if f.times == 1 else f" {f.times} times, first"
    return Told(
        title=f"{name} resets{often} at {seconds(f.at_s)} of {_scenario(plan, f)}",
        cause=f"Its pins fall to {format_si(v.compared.observed, 'V')} and stay under {format_si(v.compared.limit, 'V')} for longer than it lives on.",
        remedy=SEE,
        labels=("least at its pins", "it resets below"),
        more=(number("under that for", f.lasted_s, "s"),),
    )


@tells("run.loop", facts=InScenario)
def reboots(plan: Plan, v: Verdict, f: InScenario) -> Told:
    return Told(
        title=f"{plan.title(v.elements[0])} reboots every {seconds(f.lasted_s)} in {_scenario(plan, f)}",
        cause="It resets, its volts come back without it, it boots, and its draw takes them down again: a loop that does not end by itself.",
        remedy=f"Its source cannot give what it takes while it boots. {SEE}",
        labels=("resets that were followed", "wanted"),
        more=(number("period", f.lasted_s, "s"),),
    )


@tells("run.spike", facts=InScenario)
def spikes(plan: Plan, v: Verdict, f: InScenario) -> Told:
    name = plan.title(v.elements[0])
    return Told(
        title=f"{name} sees {format_si(v.compared.observed, 'V')} in {_scenario(plan, f)}, it takes {format_si(v.compared.limit, 'V')}",
        cause=f"For {seconds(f.lasted_s)}, at {seconds(f.at_s)}: wires and capacitors ring when a contact closes, and braking motors push their rail up.",
        remedy=f"An anti-spark plug, a clamp or a larger capacitor at the rail. {SEE}",
        labels=("most at its pins", "it takes"),
        more=(number("over that for", f.lasted_s, "s"),),
    )


@tells("run.input", facts=InScenario)
def input_spikes(plan: Plan, v: Verdict, f: InScenario) -> Told:
    name = plan.title(v.elements[0])
    return Told(
        title=f"{name} gets {format_si(v.compared.observed, 'V')} in {_scenario(plan, f)}, it takes {format_si(v.compared.limit, 'V')}",
        cause=f"For {seconds(f.lasted_s)}, at {seconds(f.at_s)}: the lead rings with its capacitors when a contact closes, and braking motors push their rail up.",
        remedy=f"An anti-spark plug, a clamp or a larger capacitor before it. {SEE}",
        labels=("most at its input", "it takes"),
        more=(number("over that for", f.lasted_s, "s"),),
    )


@tells("run.capacitor", facts=InScenario)
def capacitor_spikes(plan: Plan, v: Verdict, f: InScenario) -> Told:
    name = plan.title(v.elements[0])
    return Told(
        title=f"{name} gets {format_si(v.compared.observed, 'V')} in {_scenario(plan, f)}, {format_si(v.compared.limit, 'V')} are printed on it",
        cause=f"For {seconds(f.lasted_s)}, at {seconds(f.at_s)}: the lead rings with it when a contact closes, and braking motors push their rail up.",
        remedy=f"One for more volts, an anti-spark plug, or a clamp beside it. {SEE}",
        labels=("most on it", "printed"),
        more=(number("over that for", f.lasted_s, "s"),),
    )


@tells("run.never", facts=InScenario)
def never_starts(plan: Plan, v: Verdict, f: InScenario) -> Told:
    return Told(
        title=f"{plan.title(v.elements[0])} never starts in {_scenario(plan, f)}",
        cause=f"Its pins reach {format_si(v.compared.observed, 'V')}; it starts from {format_si(v.compared.limit, 'V')} on.",
        remedy=SEE,
        labels=("most at its pins", "it starts above"),
    )


@tells("run.trip", facts=InScenario)
def trips(plan: Plan, v: Verdict, f: InScenario) -> Told:
    return Told(
        title=f"{plan.title(v.elements[0])} trips after {seconds(f.at_s)} of {_scenario(plan, f)}",
        cause="It reaches its trip temperature and stops until it has cooled down; what it feeds goes with it.",
        remedy="Moving air, a larger one, or less behind it. On the bench: a fan, or shorter.",
        labels=("hottest", "it trips at"),
    )


@tells("run.gives_up", facts=InScenario)
def gives_up(plan: Plan, v: Verdict, f: InScenario) -> Told:
    return Told(
        title=f"{plan.title(v.elements[0])} stops at its limit at {seconds(f.at_s)} of {_scenario(plan, f)}",
        cause=f"More is asked of it than {format_si(v.compared.limit, 'A')}, and it stands that for a moment only.",
        remedy=f"A larger one, less behind it, or devices that start one after the other. {SEE}",
        labels=("most it gave", "its limit"),
        more=(number("stopped", float(f.times), ""),),
    )


@tells("run.chatter", facts=InScenario)
def chatters(plan: Plan, v: Verdict, f: InScenario) -> Told:
    name = plan.title(v.elements[0])
    return Told(
        title=f"{name} starts and stops every {seconds(f.lasted_s)} in {_scenario(plan, f)}",
        cause=f"What it takes pulls its own input under the {format_si(v.compared.limit, 'V')} at which it stops; then its input comes back, and it starts again.",
        remedy=f"A stiffer source or thicker wires in front of it, less behind it, or one that stops lower. {SEE}",
        labels=("least it ran at", "it stops below"),
        more=(number("period", f.lasted_s, "s"),),
    )


@tells("run.clamp", facts=InScenario)
def clamp_energy(plan: Plan, v: Verdict, f: InScenario) -> Told:
    return Told(
        title=f"{plan.title(v.elements[0])} swallows {format_si(v.compared.observed, 'J')} in {_scenario(plan, f)}, it survives {format_si(v.compared.limit, 'J')}",
        cause="What braking or ringing pushes above its breakdown ends in it as heat; one pulse too many and it fails short.",
        remedy="A larger clamp, or less that is pushed: a softer brake, an anti-spark plug.",
        labels=("swallows", "survives"),
    )


@tells("run.fuse", facts=InScenario)
def fuses(plan: Plan, v: Verdict, f: InScenario) -> Told:
    return Told(
        title=f"Fuse of {plan.title(v.elements[0])} melts at {seconds(f.at_s)} of {_scenario(plan, f)}",
        cause=f"It is printed {format_si(v.compared.limit, 'A')} and carries {format_si(v.compared.observed, 'A')} there, though nothing has failed.",
        remedy=f"A larger or slower fuse that still protects its wire, or less inrush. {SEE}",
        labels=("it carries then", "printed"),
    )


@tells("run.order", facts=InScenario)
def order_of_power(plan: Plan, v: Verdict, f: InScenario) -> Told:
    names = ", ".join(plan.title(one) for one in v.elements)
    other = find_scenario(plan, f.others[0]).name
    return Told(
        title=f"{_scenario(plan, f)} leaves {names} down, “{other}” does not",
        cause="The order in which power comes decides who starts: what wakes first takes the source down for the rest.",
        remedy="Use the other order, or switch off what the weaker source cannot start.",
        labels=("stay down", "wanted"),
    )


@tells("run.wire", facts=WarmInScenario)
def warm_wires(plan: Plan, v: Verdict, f: WarmInScenario) -> Told:
    what = {"lead": "lead", "return": "ground wire", "feed": "feed wire"}.get(f.role, "wire")
    what = f"connector of its {what}" if f.of == "connector" else what
    name = "Pack" if v.elements[0] == "pack" else plan.title(v.elements[0])
    return Told(
        title=f"{name}: the {what} warms by {v.compared.observed:.0f} K in {_scenario(plan, f)}, {v.compared.limit:.0f} K are allowed",
        cause=f"It carries up to {format_si(f.amps, 'A')}, and is over that for {seconds(f.lasted_s)}.",
        remedy=f"A thicker wire, a larger connector, or a fuse that melts first. {SEE}",
        labels=("warms by", "allowed"),
        more=(number("most amps", f.amps, "A"), number("over it for", f.lasted_s, "s")),
    )


@tells("run.diode", facts=InScenario)
def diode_surges(plan: Plan, v: Verdict, f: InScenario) -> Told:
    return Told(
        title=f"{plan.title(v.elements[0])} takes a surge of {v.compared.observed:.2g} A²s in {_scenario(plan, f)}, it stands {v.compared.limit:.2g}",
        cause="What charges behind it, or is short, drives more through its chip than that can take up before it melts; a shorted diode feeds back.",
        remedy=f"A diode of more amps, less capacitance behind it, or an anti-spark plug. {SEE}",
        labels=("takes", "stands"),
    )


@tells("run.port", facts=InScenario)
def ports_at_their_limit(plan: Plan, v: Verdict, f: InScenario) -> Told:
    return Told(
        title=f"{plan.title(v.elements[0])} stands at its limit for {seconds(v.compared.observed)} in {_scenario(plan, f)}",
        cause="What starts on it asks for more than a port gives; a computer may take that for a short and switch the port off.",
        remedy=f"Switch off what is not needed on USB, or plug the pack in first. {SEE}",
        labels=("at its limit for", "stood for"),
    )
