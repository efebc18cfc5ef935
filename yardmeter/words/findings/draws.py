"""Words of the `load.` rules of one device."""

from __future__ import annotations

from yardmeter.core.checks.draws import DemandUnmet, LedOver, MotorsTogether
from yardmeter.core.plan import Plan, rail_title
from yardmeter.core.units import format_si
from yardmeter.core.verdict import Verdict
from yardmeter.words.told import Told, tells


@tells("load.demand", facts=DemandUnmet)
def demand_unmet(plan: Plan, v: Verdict, f: DemandUnmet) -> Told:
    name, rail = plan.title(v.elements[0]), rail_title(plan.title(f.rail))
    left, wanted = format_si(v.compared.observed, "A"), format_si(v.compared.limit, "A")
    return Told(
        title=f"{name}: its maker asks for {wanted}, {rail} can give it {left}",
        cause=f"It draws {format_si(f.asked_a, 'A')}; what is asked for beyond that is for its starts and peaks, which no budget of this plan counts.",
        remedy="Feed it from a supply that can give that much, or measure its peaks and take the demand out.",
        labels=("can be given", "asked for by its maker"),
    )


@tells("load.led", facts=LedOver)
def led_over(plan: Plan, v: Verdict, f: LedOver) -> Told:
    name = plan.title(v.elements[0])
    amps, stands = format_si(v.compared.observed, "A"), format_si(v.compared.limit, "A")
    return Told(
        title=f"{name}: {amps} through every LED, they stand {stands}",
        cause=f"{format_si(f.volts_v, 'V')} less the forward volts stand across {format_si(f.resistor_ohm, 'Ω')}.",
        remedy="Fit a larger resistor; its watts are in the LED tool.",
        labels=("through a LED", "stands"),
    )


@tells("load.motors", facts=MotorsTogether)
def motors_together(plan: Plan, v: Verdict, f: MotorsTogether) -> Told:
    name, board = plan.title(v.elements[0]), plan.title(f.board)
    return Told(
        title=f"{name}: {v.compared.observed:.0f} motors hang on {board}, one of {f.escs} ESCs",
        cause=f"All their amps are counted in the leads of {board}; those of the other ESCs carry none.",
        remedy="Split the group by ESC. If they do hang on one, make it a four-way ESC and take the others out.",
        labels=("motors there", "its share"),
    )
