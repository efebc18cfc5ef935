"""A capacitor, alone or several side by side with a damping branch; a ceramic has the less farads the more volts are on it."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Protocol

from yardmeter.core.elements.bands import Band, about
from yardmeter.core.elements.deck import Deck
from yardmeter.core.elements.registry import Element, enter
from yardmeter.core.elements.tables import MOST, both_ways, points
from yardmeter.core.elements.transfer import TransferFunction
from yardmeter.core.physics.capacitors import BODY_H, Dielectric, leads_h, left_f

BAND_FRAC = 0.2
"""What a meter may find more or less than the print; common practice, no source."""


class Soldered(Protocol):
    """What a plan knows of capacitors that are soldered in: values are those of each."""

    @property
    def count(self) -> int: ...
    @property
    def farad(self) -> float: ...
    @property
    def esr_ohm(self) -> float: ...
    @property
    def rated_v(self) -> float: ...
    @property
    def dielectric(self) -> Dielectric: ...
    @property
    def lead_m(self) -> float: ...
    @property
    def damping_ohm(self) -> float | None: ...
    @property
    def damping_farad(self) -> float: ...


def ceramic_v(charge: float, farad: float, loss: float, rated_v: float) -> tuple[float, float]:
    """Volts and dv/dq of a ceramic at its charge: `q = C (v − loss v|v| / 2Vr)`, straight on above its rating."""
    size = abs(charge) / farad
    knee = rated_v * (1 - loss / 2)
    over = max(size - knee, 0.0)
    half = loss / rated_v
    root = math.sqrt(max(1 - 2 * half * min(size, knee), 0.0))
    volts = (1 - root) / half + over / (1 - loss)
    slope = 1 / (farad * (1 - loss if over > 0 else root))
    return (volts if charge >= 0 else -volts), slope


def ceramic_c(volts: float, farad: float, loss: float, rated_v: float) -> float:
    """Charge of a ceramic at these volts [C]."""
    size = abs(volts)
    inside = min(size, rated_v)
    charge = farad * (inside - loss * inside**2 / (2 * rated_v) + (1 - loss) * (size - inside))
    return charge if volts >= 0 else -charge


STORE_F = 0.01
"""From here on a capacitance is written as a count of its amperes: what a simulator rounds off a node's volts is, in its shortest
steps, amperes through thousands of farads, and it never comes to an end."""


def netlist_capacitor(k: int, farad: float, volts: float) -> str:
    """From {a} to {b}, charged to some volts; of a cell, what its amperes add to them is kept in node `h`."""
    if farad < STORE_F:
        return f"Cs{k} {{a}} {{b}} {farad:.9g} ic={volts:.9g}"
    return "\n".join(
        [
            f"Vh{k} {{a}} h{k}a 0",
            f"Fh{k} 0 h{k} Vh{k} {1e-3 / farad:.9g}",
            f"Ch{k} h{k} 0 1e-3 ic=0",
            f"Bh{k} h{k}a {{b}} V={volts:.9g}+V(h{k})",
        ]
    )


def netlist_ceramic(k: int, farad: float, loss: float, rated_v: float, charge: float) -> str:
    """A ceramic that falls with its volts, from {a} to {b}: its charge over its farads is kept in node `u`."""
    table = points([(ceramic_c(volts, farad, loss, rated_v) / farad, volts) for volts in both_ways(MOST * rated_v)])
    return "\n".join(
        [
            f"Vu{k} {{a}} u{k}m 0",
            f"Bu{k} u{k}m {{b}} V=pwl(V(u{k}),{table})",
            f"Fu{k} 0 u{k} Vu{k} {1 / farad:.9g}",
            f"Cu{k} u{k} 0 1 ic={charge / farad:.9g}",
            f"Ru{k} u{k} 0 1e12",
        ]
    )


def admittance(farad: float, esr_ohm: float, esl_h: float) -> TransferFunction:
    """Admittance of a real capacitor."""
    return TransferFunction((0.0, 1.0), (1 / farad, esr_ohm, esl_h))


def shunt(one: Soldered, bias_v: float, *, aged: bool = True) -> TransferFunction:
    """Admittance of capacitors that stand together, with derating by bias, and by cold and years when `aged`, and their damping."""
    farad = left_f(one.farad, one.dielectric, bias_v, one.rated_v, aged=aged)
    own = admittance(farad * one.count, one.esr_ohm / one.count, (BODY_H[one.dielectric] + leads_h(one.lead_m)) / one.count)  # fmt: skip
    if one.damping_ohm is None or one.damping_farad <= 0:
        return own
    return own + admittance(one.damping_farad, one.damping_ohm, BODY_H[one.dielectric])


def netlist_shunt(deck: Deck, one: Soldered, a: str, b: str, bias_v: float) -> Iterator[str]:
    """`shunt` in a netlist's words, part by part."""
    farad = left_f(one.farad, one.dielectric, bias_v, one.rated_v)
    esl = BODY_H[one.dielectric] + leads_h(one.lead_m)
    for _ in range(one.count):
        yield from deck.series(a, b, ("R", max(one.esr_ohm, 1e-9)), ("L", esl), ("C", farad))
    if one.damping_ohm is not None and one.damping_farad > 0:
        yield from deck.series(a, b, ("R", one.damping_ohm), ("L", BODY_H[one.dielectric]), ("C", one.damping_farad))


def seen_f(farad: float) -> Band:
    """What a meter reads of it [F]."""
    return about(farad, BAND_FRAC)


def over_rating(volts: float, rated_v: float) -> bool:
    """Whether it has more volts than it is printed for."""
    return volts > rated_v


enter(
    Element(
        "capacitor",
        laws=(ceramic_v, ceramic_c),
        small_signal=(admittance, shunt),
        netlist=(netlist_shunt, netlist_capacitor, netlist_ceramic),
        meter=(seen_f,),
        predicates=(over_rating,),
    )
)
