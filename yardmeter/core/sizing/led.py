"""The resistor of a LED string: worst-case supply and LED, next preferred value up, its watts, and the real band of current."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from yardmeter.core.errors import EditError
from yardmeter.core.parts import Part
from yardmeter.core.physics.preferred import next_up
from yardmeter.core.plan import Plan, fresh_id
from yardmeter.core.plan.operations import Add

SERIES = 24
"""Preferred values to a decade, IEC 60063."""
WATT_USE_FRAC = 0.6
"""Share of its class a resistor is run at; common practice, no source."""


@dataclass(frozen=True)
class LedResistor:
    """`ohm` per string; currents at the nominal, highest and lowest of supply and LED spread; dissipation at the highest.

    `part` is the smallest resistor of the shelf that stands it, None when there is none.
    """

    ohm: float
    exact_ohm: float
    typical_a: float
    least_a: float
    most_a: float
    watts: float
    needed_w: float
    part: str | None
    part_name: str
    strings: int
    total_a: float
    series: str = f"E{SERIES}"
    """The preferred values it is one of."""


def size_led_resistor(
    *, supply_v: tuple[float, float, float], forward_v: tuple[float, float, float], series: int, strings: int,
    wanted_a: float, parts: Sequence[Part] = (),
) -> LedResistor:  # fmt: skip
    """Resistor so that no spread takes a LED above its wanted current.

    `supply_v` and `forward_v` are (least, typical, most) [V]. The supply is taken high and the LEDs low for the value, which
    is rounded up (common practice). Raises EditError when the supply is too low to light the string.
    """
    for where, (least, middle, most) in (("supply_v", supply_v), ("forward_v", forward_v)):
        if not least <= middle <= most:
            raise EditError(
                f"{least:g}, {middle:g} and {most:g} V are not least, typical and most.",
                where=where,
                remedy="Put them in order.",
            )
    low, typical, high = supply_v
    f_low, f_typical, f_high = (series * v for v in forward_v)
    if high <= f_low:
        raise EditError(
            f"{high:g} V does not light {series} LEDs of {forward_v[0]:g} V.",
            where="series",
            remedy="Put fewer in series.",
        )
    exact = (high - f_low) / wanted_a
    rated = sorted((p.resistor.watts, p.key, p.name) for p in parts if p.resistor)
    ohm = next_up(exact, SERIES)
    most = (high - f_low) / ohm
    watts = most**2 * ohm
    needed = watts / WATT_USE_FRAC
    part = next((one for one in rated if one[0] >= needed), None)
    middle = max(typical - f_typical, 0.0) / ohm
    return LedResistor(
        ohm, exact, middle, max(low - f_high, 0.0) / ohm, most, watts, needed, part[1] if part else None,
        part[2] if part else "", strings, middle * strings,
    )  # fmt: skip


Spread = tuple[float, float, float]
"""Least, typical, most."""


@dataclass(frozen=True)
class LedLine:
    """Strings of LEDs as they are to be fitted; `max_a` is what one LED stands for long [A]."""

    name: str
    forward_v: Spread
    series: int
    strings: int
    max_a: float


def led_device(plan: Plan, rail_id: str, line: LedLine, resistor: LedResistor, supply_v: Spread) -> Add:
    """The edit that fits the line on a rail, grounded at its board.

    Its window begins where a string lights at all, and ends where its weakest LED carries `max_a`.
    """
    identity = fresh_id(plan, line.name)
    least, typical, _ = line.forward_v
    draw = {"value": round(resistor.total_a, 6), "unit": "A", "at_v": supply_v[1]}
    ground = {"id": fresh_id(plan, f"{identity}-gnd", {identity}), "to": plan.rail_of[rail_id].board}
    return Add(
        kind="device",
        value={
            "id": identity,
            "name": line.name,
            "kind": "led",
            "law": "led",
            "nominal_v": supply_v[1],
            "min_v": line.series * least,
            "max_v": line.series * least + line.max_a * resistor.ohm,
            "draws": {"idle": draw, "typical": draw, "peak": draw},
            "led": {
                "forward_v": typical,
                "series": line.series,
                "strings": line.strings,
                "resistor_ohm": resistor.ohm,
                "max_a": line.max_a,
            },
            "feed": {"rail": rail_id},
            "returns": [ground],
        },
    )
