"""Supplies and inlets as the solver's converters."""

from __future__ import annotations

from dataclasses import dataclass

from yardmeter.core.elements.regulator import Kind
from yardmeter.core.physics.regulators import LossFit, fit_loss
from yardmeter.core.plan import Diode, Inlet, Regulator

OPEN_V = 1e3
"""A set point no aircraft reaches: the output then follows the input less its drop [V]."""
NEVER_A = 1e6
BODY_DIODE_V = 0.6
BODY_DIODE_OHM = 0.15
"""A regulator's body diode conducting backwards; common practice, no source."""


@dataclass(frozen=True)
class ConverterSpec:
    """Scalar parameters of one converter; see `solver.circuit.Converters` for their meaning."""

    kind: Kind
    set_v: float
    out_ohm: float
    drop_v: float
    drop_ohm: float
    limit_a: float = NEVER_A
    ceil_gain: float = 1.0
    passes: bool = False
    sinks: bool = False
    start_v: float = -1.0
    stop_v: float = -1.0
    quiescent_a: float = 0.0
    k1_v: float = 0.0
    k2_ohm: float = 0.0
    gives_up: bool = False


def loss_fit(supply: Regulator) -> LossFit:
    """Loss model of a regulator from its efficiency points, each at the input volts it was measured at.

    Where a sheet does not say them it is taken at twice the output volts, at half for a boost (common practice, no source).
    """
    usual_v = supply.set_v / 2 if supply.kind == "boost" else supply.set_v * 2
    given = [point.at_v for point in supply.efficiency if point.at_v is not None]
    input_v = sum(given) / len(given) if given else usual_v
    points = [(point.amps, point.efficiency_frac) for point in supply.efficiency]
    return fit_loss(points, supply.set_v, supply.quiescent_a * input_v)


def regulator_specs(supply: Regulator, lead_ohm: float) -> tuple[ConverterSpec, ConverterSpec | None]:
    """The regulator itself, and its body diode when it lets current back."""
    fit = loss_fit(supply) if supply.switching else LossFit(0.0, 0.0)
    forward = ConverterSpec(
        kind=Kind.SWITCHING if supply.switching else Kind.SERIES,
        set_v=supply.set_v,
        out_ohm=supply.output_ohm + lead_ohm,
        drop_v=supply.dropout_v,
        drop_ohm=supply.dropout_ohm + lead_ohm,
        limit_a=supply.limit_a,
        ceil_gain=supply.ceil_gain,
        passes=supply.kind == "boost",
        sinks=supply.two_way,
        start_v=supply.start_v,
        stop_v=supply.stop_v,
        quiescent_a=supply.quiescent_a,
        k1_v=fit.k1_v,
        k2_ohm=fit.k2_ohm + lead_ohm,
        gives_up=supply.limiting in ("hiccup", "latch"),
    )
    backward = (
        ConverterSpec(Kind.SERIES, OPEN_V, 0.0, BODY_DIODE_V, BODY_DIODE_OHM)
        if supply.backfeeds and not supply.two_way
        else None
    )
    return forward, backward


def diode_spec(supply: Diode, lead_ohm: float) -> ConverterSpec:
    return ConverterSpec(Kind.SERIES, OPEN_V, 0.0, supply.drop_v, supply.series_ohm + lead_ohm)


def inlet_spec(inlet: Inlet) -> ConverterSpec:
    """A USB port or bench supply: its volts less the diode's, behind its resistance, cut off at its limit. A cell cuts nothing off;
    what it gives goes by the condition."""
    volts, limit_a = (inlet.cells.rest_v("nominal"), NEVER_A) if inlet.cells else (inlet.volts, inlet.limit_a)
    return ConverterSpec(Kind.SOURCE, volts - inlet.drop_v, inlet.series_ohm, 0.0, 0.0, limit_a=limit_a)


def fuse_spec(inlet: Inlet) -> ConverterSpec:
    """A limiter in line with the pack that opens at its current."""
    return ConverterSpec(Kind.SERIES, OPEN_V, 0.0, inlet.drop_v, inlet.series_ohm, limit_a=inlet.limit_a, gives_up=True)
