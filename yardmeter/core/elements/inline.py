"""What stands in line with the pack or a wire: a lamp, a fuse, an electronic limiter, an NTC."""

from __future__ import annotations

import math

from yardmeter.core.elements.registry import Element, Without, enter
from yardmeter.core.physics.inline import COLD_K, NTC_B_K, ZERO_K

LAMP_EXPONENT = 0.55
"""Filament law I ∝ V^0.55; from memory of incandescent lamp tables."""
LAMP_COLD_FRAC = 0.02
"""Part of its volts below which a filament counts as cold, a resistance; our estimate."""


def lamp_law(volts: float, rated_a: float, rated_v: float) -> tuple[float, float]:
    """Amps and siemens of a lamp whose filament has settled."""
    ratio = abs(volts) / rated_v
    if ratio <= LAMP_COLD_FRAC:
        cold = rated_a * LAMP_COLD_FRAC ** (LAMP_EXPONENT - 1) / rated_v
        return cold * volts, cold
    root = ratio**LAMP_EXPONENT
    return (rated_a * root if volts > 0 else -rated_a * root), rated_a * LAMP_EXPONENT * root / ratio / rated_v


def cold_lamp_ohm(rated_v: float, rated_a: float) -> float:
    """Resistance of a cold filament [Ω]."""
    return rated_v / max(rated_a, 1e-9) * math.pow(LAMP_COLD_FRAC, 1 - LAMP_EXPONENT)


def filament_aim_ohm(rated_v: float, rated_a: float, watts: float) -> float:
    """Resistance a lamp's filament warms to at so many watts: `R ~ P^((1 − x)/(1 + x))` of the law `I ~ V^x`."""
    amps = max(rated_a, 1e-9)
    share = max(watts / (rated_v * amps), LAMP_COLD_FRAC ** (1 + LAMP_EXPONENT))
    return rated_v / amps * math.pow(share, (1 - LAMP_EXPONENT) / (1 + LAMP_EXPONENT))


def netlist_lamp_amps(across: str, rated_a: float, rated_v: float) -> str:
    """A settled lamp in a netlist's words: amps by the volts in `across`."""
    bent = f"pow(max(abs({across})/{rated_v:.9g},{LAMP_COLD_FRAC:g}),{LAMP_EXPONENT - 1:.9g})"
    return f"{rated_a / rated_v:.9g}*{across}*{bent}"


def netlist_filament(k: int, p: str, n: str, volts: float, amps: float, filament_s: float, ohm: float) -> list[str]:
    """A lamp that warms, asked for the amps in node `a`: its filament's resistance is kept in node `h`."""
    power = (1 - LAMP_EXPONENT) / (1 + LAMP_EXPONENT)
    share = f"max(V({p},{n})*V({p},{n})/V(h{k})/{volts * amps:.9g},{LAMP_COLD_FRAC ** (1 + LAMP_EXPONENT):.9g})"
    return [
        f"Bh{k} 0 h{k} I=({volts / amps:.9g}*{share}^{power:.9g}-V(h{k}))/{filament_s:.9g}",
        f"Ch{k} h{k} 0 1 ic={ohm:.9g}",
        f"Rh{k} h{k} 0 1e12",
        f"Bl{k} {p} {n} I=V({p},{n})/V(h{k})*V(a{k})/{amps:.9g}",
    ]


def netlist_ntc(k: int, own: dict[str, float], temp_c: float) -> str:
    """What an NTC adds to its branch's ohms, from {a} to {b}: its temperature is kept in node `o`."""
    ohm = f"{own['cold_ohm']:.9g}*exp({NTC_B_K:g}*(1/(V(o{k})+{ZERO_K:g})-{1 / COLD_K:.9g}))"
    given = own["w_k"]
    return "\n".join(
        [
            f"Vo{k} {{a}} o{k}m 0",
            f"Bo{k} o{k}m {{b}} V=I(Vo{k})*({ohm}-{own['warm_ohm']:.9g})",
            f"Bh{k} 0 o{k} I=(I(Vo{k})*I(Vo{k})*{ohm}-{given:.9g}*(V(o{k})-{own['air_c']:.9g}))/{given * own['tau_s']:.9g}",
            f"Co{k} o{k} 0 1 ic={temp_c:.9g}",
            f"Ro{k} o{k} 0 1e12",
        ]
    )


LIT_FRAC = 0.15
"""Share of its volts from which a lamp is seen to glow; common practice, no source."""


def is_lit(across_v: float, rated_v: float) -> bool:
    """Whether a lamp is seen to glow."""
    return across_v > LIT_FRAC * rated_v


enter(
    Element(
        "in-line part",
        laws=(lamp_law, cold_lamp_ohm, filament_aim_ohm),
        small_signal=Without("one in line with the pack is there at the plug alone, where nothing is filtered yet"),
        netlist=(netlist_lamp_amps, netlist_filament, netlist_ntc),
        meter=Without("it stands in the lead, on the pack's side of where a meter looks"),
        predicates=(is_lit,),
    )
)
