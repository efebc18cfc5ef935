"""A coil or a bead in line with a wire; a coil's inductance falls as its core fills."""

from __future__ import annotations

import math

from yardmeter.core.elements.tables import MOST, both_ways, points
from yardmeter.core.physics.filters import AIR_FRAC


def core_flux(amps: float, henry: float, bend_a: float) -> tuple[float, float]:
    """Flux linkage [Vs] and inductance [H] of a coil whose inductance falls as `physics.filters.inductor_left_h` says."""
    y = abs(amps) / bend_a
    third = math.sqrt(3.0)
    area = math.log((y + 1) ** 2 / (y * y - y + 1)) / 6 + (math.atan((2 * y - 1) / third) + math.pi / 6) / third
    flux = henry * bend_a * (AIR_FRAC * y + (1 - AIR_FRAC) * area)
    return (flux if amps >= 0 else -flux), henry * (AIR_FRAC + (1 - AIR_FRAC) / (1 + y**3))


def netlist_core(k: int, henry: float, bend_a: float, flux: float) -> str:
    """A coil whose core fills, from {a} to {b}: its flux over its inductance is kept in node `f`, its current follows from it."""
    table = points([(core_flux(amps, henry, bend_a)[0] / henry, amps) for amps in both_ways(MOST * bend_a)])
    return "\n".join(
        [
            f"Bf{k} 0 f{k} I=V({{a}},{{b}})/{henry:.9g}",
            f"Cf{k} f{k} 0 1 ic={flux / henry:.9g}",
            f"Rf{k} f{k} 0 1e12",
            f"Bg{k} {{a}} {{b}} I=pwl(V(f{k}),{table})",
        ]
    )
