"""A coil or a bead in line with a wire; a coil's inductance falls as its core fills."""

from __future__ import annotations

import math
from collections.abc import Iterator

from yardmeter.core.elements.deck import Deck
from yardmeter.core.elements.registry import Element, Without, enter
from yardmeter.core.elements.tables import MOST, both_ways, points
from yardmeter.core.elements.transfer import TransferFunction
from yardmeter.core.physics.filters import AIR_FRAC, ferrite_ohm_h, inductor_left_h

CORE_LOSS = 50.0
"""Parallel resistance of an inductor over its reactance at self-resonance: its quality there; our choice."""


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


def coil_ohm(henry: float, saturation_a: float, resonance_hz: float, amps: float) -> TransferFunction:
    """Impedance of a coil at a direct current, with its self-resonance; resistance counts with the wire."""
    left = inductor_left_h(henry, amps, saturation_a)
    rise = 2 * math.pi * resonance_hz
    own_f, loss_ohm = 1 / (rise**2 * henry), CORE_LOSS * rise * henry
    return TransferFunction((0.0, left), (1.0, left / loss_ohm, left * own_f))


def bead_ohm(ohm_100mhz: float) -> TransferFunction:
    """Impedance of a bead: a resistance beside an inductance."""
    resistive, henry = ferrite_ohm_h(ohm_100mhz)
    return TransferFunction((0.0, resistive * henry), (resistive, henry))


def netlist_coil(deck: Deck, a: str, b: str, henry: float, saturation_a: float, resonance_hz: float, amps: float) -> Iterator[str]:  # fmt: skip
    """`coil_ohm` in a netlist's words."""
    rise = 2 * math.pi * resonance_hz
    yield deck.part("L", a, b, inductor_left_h(henry, amps, saturation_a))
    yield deck.part("C", a, b, 1 / (rise**2 * henry))
    yield deck.part("R", a, b, CORE_LOSS * rise * henry)


def netlist_bead(deck: Deck, a: str, b: str, ohm_100mhz: float) -> Iterator[str]:
    """`bead_ohm` in a netlist's words."""
    ohm, henry = ferrite_ohm_h(ohm_100mhz)
    yield deck.part("R", a, b, ohm)
    yield deck.part("L", a, b, henry)


def saturates(amps: float, saturation_a: float) -> bool:
    """Whether it carries more than its core takes."""
    return abs(amps) > saturation_a


enter(
    Element(
        "coil and filter",
        laws=(core_flux,),
        small_signal=(coil_ohm, bead_ohm),
        netlist=(netlist_core, netlist_coil, netlist_bead),
        meter=Without("its copper counts with the wire it stands in: `wire.seen_ohm`"),
        predicates=(saturates,),
    )
)
