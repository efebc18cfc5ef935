"""Damping of LC sections, and what loads ask of them.

Sources: R. D. Middlebrook, Input filter considerations in design and application of switching regulators (1976);
R. W. Erickson, D. Maksimović, Fundamentals of Power Electronics, chapter on input filter design. Both from memory.
"""

from __future__ import annotations

import math


def characteristic_ohm(henry: float, farad: float) -> float:
    """`Z0 = √(L/C)` [Ω]."""
    return math.sqrt(henry / farad)


def damping_ohm(henry: float, farad: float, ratio: float) -> float:
    """Best resistor of a parallel Rd–Cd branch [Ω], `ratio` n = Cd/C: `Z0 √((2+n)(4+3n)/(2n²(4+n)))`."""
    n = ratio
    return characteristic_ohm(henry, farad) * math.sqrt((2 + n) * (4 + 3 * n) / (2 * n**2 * (4 + n)))


def input_ohm(volts: float, watts: float) -> float:
    """Magnitude of the input resistance of a constant-power load [Ω]: `V²/P`; its sign is negative."""
    return volts**2 / watts


AIR_FRAC = 0.04
"""Share of its inductance a winding keeps without its core: an open core raises it some 25 times; our estimate."""
LEFT_FRAC = 0.7
"""Share that is left at the saturation current, as sheets define it."""


def core_bend_a(saturation_a: float) -> float:
    """Current at which half of what the core adds is gone [A], so that `LEFT_FRAC` is left at the saturation current."""
    core = 1 - AIR_FRAC
    return saturation_a * math.cbrt((LEFT_FRAC - AIR_FRAC) / (core - (LEFT_FRAC - AIR_FRAC)))


def inductor_left_h(henry: float, amps: float, saturation_a: float) -> float:
    """Inductance left at a direct current [H]: `L (a + (1 − a) / (1 + (I/Ib)³))`, 30 % lost at the saturation current.

    Our fit to the usual definition of Isat (30 % drop); cores fall more or less steeply.
    """
    return henry * (AIR_FRAC + (1 - AIR_FRAC) / (1 + (abs(amps) / core_bend_a(saturation_a)) ** 3))


SHEET_RISE_K = 40.0
"""What a coil or bead warms by at the heating current on its sheet; common practice, no source."""


def coil_rise_k(amps: float, heating_a: float) -> float:
    """How much a coil or bead warms by at a direct current [K]: `40 K · (I / I_heating)²`, its loss going with the square.

    In still air on a board of usual size; core loss is not in it.
    """
    return SHEET_RISE_K * (amps / heating_a) ** 2


def ferrite_ohm_h(ohm_100mhz: float) -> tuple[float, float]:
    """A bead as resistance in parallel with inductance (Ω, H), from its impedance at 100 MHz.

    The resistive part dominates there, and the corner lies near 20 MHz; typical data-sheet curves, from memory.
    """
    return ohm_100mhz, ohm_100mhz / (2 * math.pi * 20e6)


def wanted_corner_hz(hertz: float, wanted_db: float) -> float:
    """Highest corner of an ideal, unloaded LC section that takes this much off a line [Hz].

    `|H| = 1/((f/f0)² − 1)` above the corner, so `f0 = f/√(1 + 10^(A/20))`; circuit theory.
    """
    return hertz / math.sqrt(1 + 10 ** (wanted_db / 20))
