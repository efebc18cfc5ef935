"""What bends or warms, in the words of a netlist: a capacitor of one farad keeps what it is at, a table or a law says the rest."""

from __future__ import annotations

import numpy as np

from yardmeter.core.physics.inline import COLD_K, NTC_B_K, ZERO_K
from yardmeter.core.solver.elements import LAMP_COLD_FRAC, LAMP_EXPONENT
from yardmeter.core.solver.transient.bends import ceramic_c, core_flux

MOST = 30.0
"""How far tables go, in parts of where the thing bends."""
POINTS = 60


def _both_ways(most: float) -> list[float]:
    """Points on both sides of nothing, closer where it bends."""
    side = most * np.linspace(0, 1, POINTS) ** 3
    return [*(-side[:0:-1]).tolist(), *side.tolist()]


def _table(pairs: list[tuple[float, float]]) -> str:
    return ",".join(f"{x:.9g},{y:.9g}" for x, y in pairs)


def coil(k: int, henry: float, bend_a: float, flux: float) -> str:
    """A coil whose core fills, from {a} to {b}: its flux over its inductance is kept in node `f`, its current follows from it."""
    table = _table([(core_flux(amps, henry, bend_a)[0] / henry, amps) for amps in _both_ways(MOST * bend_a)])
    return "\n".join(
        [
            f"Bf{k} 0 f{k} I=V({{a}},{{b}})/{henry:.9g}",
            f"Cf{k} f{k} 0 1 ic={flux / henry:.9g}",
            f"Rf{k} f{k} 0 1e12",
            f"Bg{k} {{a}} {{b}} I=pwl(V(f{k}),{table})",
        ]
    )


def ceramic(k: int, farad: float, loss: float, rated_v: float, charge: float) -> str:
    """A ceramic that falls with its volts, from {a} to {b}: its charge over its farads is kept in node `u`."""
    table = _table([(ceramic_c(volts, farad, loss, rated_v) / farad, volts) for volts in _both_ways(MOST * rated_v)])
    return "\n".join(
        [
            f"Vu{k} {{a}} u{k}m 0",
            f"Bu{k} u{k}m {{b}} V=pwl(V(u{k}),{table})",
            f"Fu{k} 0 u{k} Vu{k} {1 / farad:.9g}",
            f"Cu{k} u{k} 0 1 ic={charge / farad:.9g}",
            f"Ru{k} u{k} 0 1e12",
        ]
    )


def ntc(k: int, own: dict[str, float], temp_c: float) -> str:
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


def lamp(k: int, p: str, n: str, volts: float, amps: float, filament_s: float, ohm: float) -> list[str]:
    """A lamp that is asked for the amps in node `a`: its filament's resistance is kept in node `h`."""
    power = (1 - LAMP_EXPONENT) / (1 + LAMP_EXPONENT)
    share = f"max(V({p},{n})*V({p},{n})/V(h{k})/{volts * amps:.9g},{LAMP_COLD_FRAC ** (1 + LAMP_EXPONENT):.9g})"
    return [
        f"Bh{k} 0 h{k} I=({volts / amps:.9g}*{share}^{power:.9g}-V(h{k}))/{filament_s:.9g}",
        f"Ch{k} h{k} 0 1 ic={ohm:.9g}",
        f"Rh{k} h{k} 0 1e12",
        f"Bl{k} {p} {n} I=V({p},{n})/V(h{k})*V(a{k})/{amps:.9g}",
    ]
