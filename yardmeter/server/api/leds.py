"""LED lines: the resistor of a string, on its own or on a rail of a plan."""

from __future__ import annotations

from typing import Annotated

from django.http import HttpRequest
from ninja import Router
from pydantic import BaseModel, Field

from yardmeter.core.answers.sources import LIVE_V
from yardmeter.core.errors import EditError
from yardmeter.core.plan.operations import Add
from yardmeter.core.plan.parts import Name
from yardmeter.core.sizing.led import LedLine, LedResistor, Spread, led_device, size_led_resistor
from yardmeter.server.api.schemas import Body
from yardmeter.server.builds.services.analysis import reviewed
from yardmeter.server.builds.services.lookup import get_plan, head_of
from yardmeter.server.shelf import services as shelf

router = Router(tags=["leds"])
Volts = Annotated[float, Field(ge=0.1, le=100)]


class LedBody(Body):
    """Least, typical and most of supply and of one LED; amps no LED may exceed."""

    supply_v: tuple[Volts, Volts, Volts]
    forward_v: tuple[Volts, Volts, Volts]
    series: int = Field(default=1, ge=1, le=20)
    strings: int = Field(default=1, ge=1, le=200)
    wanted_a: float = Field(ge=1e-5, le=10)


class LineBody(Body):
    """A line of LEDs for a rail; its volts over all conditions stand in where `supply_v` is left out."""

    rail: str = Field(max_length=64)
    name: Name = "LEDs"
    supply_v: tuple[Volts, Volts, Volts] | None = None
    forward_v: tuple[Volts, Volts, Volts]
    series: int = Field(default=1, ge=1, le=20)
    strings: int = Field(default=1, ge=1, le=200)
    wanted_a: float = Field(ge=1e-5, le=10)
    max_a: float = Field(default=0.03, ge=1e-5, le=10)


class LedView(BaseModel):
    resistor: LedResistor


class LineView(BaseModel):
    """`over` says that a LED would carry more than it stands; `edit` fits the line."""

    resistor: LedResistor
    supply_v: tuple[float, float, float]
    over: bool
    edit: Add


@router.post("/sizing/led", response=LedView)
def led_resistor(request: HttpRequest, body: LedBody) -> LedView:
    """The resistor of each string, rounded up, with its real currents and watts."""
    return LedView(resistor=_sized(body, body.supply_v))


@router.post("/plans/{int:plan_id}/led", response=LineView)
def led_line(request: HttpRequest, plan_id: int, body: LineBody) -> LineView:
    """The resistor for a line of LEDs on a rail of this plan, and the edit that fits it."""
    found = reviewed(head_of(get_plan(plan_id)))
    if body.rail not in found.plan.rail_of:
        raise EditError(f"“{body.rail}” is no rail of this plan.", where="rail", remedy="Choose one of its rails.")
    rail = next(one for one in found.analysis.budget.rails if one.id == body.rail)
    supply_v = body.supply_v or _seen(rail.name, [state.volts_v for state in rail.states.values()])
    resistor = _sized(body, supply_v)
    line = LedLine(body.name, body.forward_v, body.series, body.strings, body.max_a)
    edit = led_device(found.plan, body.rail, line, resistor, supply_v)
    return LineView(resistor=resistor, supply_v=supply_v, over=resistor.most_a > body.max_a, edit=edit)


def _seen(rail: str, volts: list[float]) -> Spread:
    """Least, middle and most volts of a rail over the conditions it is live in."""
    live = sorted(v for v in volts if v > LIVE_V)
    if not live:
        raise EditError(
            f"{rail} is dead in every condition.", where="rail", remedy="Choose one that is fed, or type its volts."
        )
    return live[0], live[len(live) // 2], live[-1]


def _sized(body: LedBody | LineBody, supply_v: Spread) -> LedResistor:
    return size_led_resistor(
        supply_v=supply_v,
        forward_v=body.forward_v,
        series=body.series,
        strings=body.strings,
        wanted_a=body.wanted_a,
        parts=shelf.parts_of_kind("resistor"),
    )
