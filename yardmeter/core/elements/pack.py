"""The pack: a voltage that falls with the charge taken, behind its cells' ohms."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from yardmeter.core.elements.registry import Element, Without, enter
from yardmeter.core.elements.transfer import TransferFunction, series


def rest_fall_v(charge: float, taken_c: NDArray[np.float64], rest_v: NDArray[np.float64]) -> float:
    """What of a pack's rest volts is gone after this charge, along its curve of points (points,)."""
    k = 0
    while k < taken_c.size - 2 and charge >= taken_c[k + 1]:
        k += 1
    slope = (rest_v[k] - rest_v[k + 1]) / (taken_c[k + 1] - taken_c[k])
    return float(rest_v[0] - rest_v[k] + slope * (charge - taken_c[k]))


def pack_law(ohm: float, henry: float) -> TransferFunction:
    """Admittance: its volts stand still to a ripple."""
    return series(ohm, henry)


def netlist_pack(plus: str, volts: float, ohm: float) -> list[str]:
    """At rest: its volts behind its cells' ohms."""
    return [f"Vpack pack_emf 0 {volts:.9g}", f"Rpack pack_emf {plus} {ohm:.9g} ; cells"]


def netlist_lag(k: int, lag_ohm: float, lag_s: float, amps: float) -> str:
    """The slow part of its resistance, from {a} to {b}: its volts in node `p` follow its amperes."""
    values = f"Rp{k} p{k} 0 1000\nCp{k} p{k} 0 {lag_s / 1000:.9g} ic={lag_ohm * amps:.9g}"
    return f"Vp{k} {{a}} p{k}a 0\nFp{k} 0 p{k} Vp{k} {lag_ohm / 1000:.9g}\n{values}\nEp{k} p{k}a {{b}} p{k} 0 1"


def netlist_curve(k: int, taken_c: NDArray[np.float64], rest_v: NDArray[np.float64]) -> str:
    """Volts that fall with the charge in node `q`, from {a} to {b}."""
    curve = ",".join(f"{c:.9g},{v:.9g}" for c, v in zip(taken_c, rest_v, strict=True))
    return f"Vq{k} {{a}} q{k}a 0\nBe{k} {{b}} q{k}a V=pwl(V(q{k}),{curve})\nFq{k} 0 q{k} Vq{k} 1e-3\nCq{k} q{k} 0 1e-3 ic=0"


enter(
    Element(
        "pack",
        laws=(rest_fall_v,),
        small_signal=(pack_law,),
        netlist=(netlist_pack, netlist_lag, netlist_curve),
        meter=Without("it is unplugged where a meter without power looks"),
        predicates=Without(
            "how far it is drawn is its curve's, how many amps it stands its sheet's: nothing is decided of one alone"
        ),
    )
)
