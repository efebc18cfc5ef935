"""Copper wires and board traces: resistance, current limits, heating."""

from __future__ import annotations

import math
from functools import lru_cache

COPPER_OHM_M_20C = 1.7241e-8
"""Resistivity of annealed copper at 20 °C [Ω·m], IEC 60028."""
COPPER_ALPHA_20C = 0.00393
"""Temperature coefficient of annealed copper at 20 °C [1/K], IEC 60028."""
CONVECTION_W_M2K = 12.0
"""Free convection plus radiation from a thin insulated wire [W/m²K]; our choice, handbook range 8 to 15."""
INSULATION_M = 0.5e-3
"""Wall of a silicone-insulated hook-up wire [m]; common practice, no source."""
LAY_FACTOR = 1.15
"""Outer diameter of a stranded conductor over a solid one of the same copper; common practice, no source."""
COPPER_J_M3K = 3.45e6
"""Heat capacity of copper per volume [J/m³K], handbook value."""
SILICONE_J_M3K = 1.5e6
"""Heat capacity of silicone rubber per volume [J/m³K]; from memory."""


def wire_diameter_m(gauge_awg: int) -> float:
    """Bare diameter of a solid round wire [m]: `d = 0.127 mm · 92^((36−n)/39)`, ASTM B258. Valid 0 ≤ n ≤ 40."""
    if not 0 <= gauge_awg <= 40:
        raise ValueError(f"AWG {gauge_awg} is outside 0 to 40")
    return float(0.127e-3 * 92.0 ** ((36 - gauge_awg) / 39))


def wire_area_m2(gauge_awg: int) -> float:
    """Copper cross-section [m²] of the gauge."""
    return math.pi * wire_diameter_m(gauge_awg) ** 2 / 4


def wire_ohm_per_m(gauge_awg: int, copper_c: float = 20.0) -> float:
    """Resistance per metre [Ω/m] at the copper temperature [°C]: `ρ₂₀ (1 + α₂₀ (T − 20)) / A`, IEC 60028."""
    return COPPER_OHM_M_20C * (1 + COPPER_ALPHA_20C * (copper_c - 20.0)) / wire_area_m2(gauge_awg)


@lru_cache(maxsize=512)
def wire_ohm(gauge_awg: int, length_m: float, copper_c: float = 20.0) -> float:
    """Resistance of one conductor [Ω] of the given length [m]."""
    return wire_ohm_per_m(gauge_awg, copper_c) * length_m


def wire_rise_k(gauge_awg: int, current_a: float, air_c: float = 25.0) -> float:
    """Steady temperature rise of a single insulated wire in still free air [K].

    Heat made per metre `I² R'(T)` equals heat shed `h π D ΔT`, D over the insulation; solved for ΔT with the copper's
    own temperature coefficient. Infinite when the copper's rising resistance runs away. An estimate: bundles run hotter.
    """
    shed_w_mk = CONVECTION_W_M2K * math.pi * wire_outer_m(gauge_awg)
    made_w_m = current_a**2 * wire_ohm_per_m(gauge_awg, air_c)
    slope = current_a**2 * wire_ohm_per_m(gauge_awg) * COPPER_ALPHA_20C
    return made_w_m / (shed_w_mk - slope) if shed_w_mk > slope else math.inf


def wire_outer_m(gauge_awg: int) -> float:
    """Diameter over the insulation of a stranded silicone wire [m]."""
    return LAY_FACTOR * wire_diameter_m(gauge_awg) + 2 * INSULATION_M


@lru_cache(maxsize=512)
def wire_limit_a(gauge_awg: int, rise_k: float = 60.0, air_c: float = 25.0) -> float:
    """Steady current [A] that heats the wire by `rise_k` [K] in still air; the inverse of `wire_rise_k`."""
    shed_w_m = CONVECTION_W_M2K * math.pi * wire_outer_m(gauge_awg) * rise_k
    return math.sqrt(shed_w_m / wire_ohm_per_m(gauge_awg, air_c + rise_k))


def wire_time_constant_s(gauge_awg: int) -> float:
    """Thermal time constant [s]: heat capacity of copper and insulation per metre over the heat shed per kelvin."""
    outer_m = wire_outer_m(gauge_awg)
    copper_m2 = wire_area_m2(gauge_awg)
    sleeve_m2 = math.pi * (outer_m / 2) ** 2 - math.pi * (LAY_FACTOR * wire_diameter_m(gauge_awg) / 2) ** 2
    return (copper_m2 * COPPER_J_M3K + sleeve_m2 * SILICONE_J_M3K) / (CONVECTION_W_M2K * math.pi * outer_m)


@lru_cache(maxsize=512)
def wire_burst_limit_a(gauge_awg: int, seconds: float, rise_k: float = 60.0, air_c: float = 25.0) -> float:
    """Current [A] a cold wire carries for `seconds` until it is `rise_k` warmer: `I₀ / √(1 − exp(−t/τ))`."""
    return wire_limit_a(gauge_awg, rise_k, air_c) / math.sqrt(1 - math.exp(-seconds / wire_time_constant_s(gauge_awg)))


def trace_limit_a(width_m: float, copper_m: float, rise_k: float = 20.0) -> float:
    """Current limit of an outer-layer trace or pad [A]: `I = 0.048 ΔT^0.44 A^0.725`, A in mil², IPC-2221."""
    area_mil2 = width_m * copper_m / 25.4e-6**2
    return float(0.048 * rise_k**0.44 * area_mil2**0.725)
