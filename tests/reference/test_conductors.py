"""Wires and traces against published values."""

import pytest

from yardmeter.core.physics.conductors import (
    trace_limit_a,
    wire_burst_limit_a,
    wire_diameter_m,
    wire_limit_a,
    wire_ohm_per_m,
    wire_rise_k,
    wire_time_constant_s,
)


# ASTM B258 diameters; resistance of annealed copper at 20 °C from IEC 60028. Three figures are published.
@pytest.mark.parametrize(
    ("gauge", "diameter_mm", "milliohm_m"),
    [(12, 2.053, 5.21), (16, 1.291, 13.17), (20, 0.812, 33.3), (24, 0.511, 84.2), (26, 0.405, 134), (30, 0.255, 339)],
)
def test_wire_table(gauge: int, diameter_mm: float, milliohm_m: float) -> None:
    assert wire_diameter_m(gauge) * 1e3 == pytest.approx(diameter_mm, rel=2e-3)
    assert wire_ohm_per_m(gauge) * 1e3 == pytest.approx(milliohm_m, rel=6e-3)


def test_copper_warms() -> None:
    # IEC 60028: 0.393 % per kelvin from 20 °C.
    assert wire_ohm_per_m(20, 70) / wire_ohm_per_m(20) == pytest.approx(1 + 50 * 0.00393, rel=1e-12)


def test_gauge_out_of_the_standard_is_refused() -> None:
    with pytest.raises(ValueError, match="AWG 41"):
        wire_diameter_m(41)


def test_trace_limit() -> None:
    # IPC-2221 chart, outer layer: 10 mil of 1 oz copper (13.5 mil² at 35 µm) carries about 0.9 A at 20 K (from memory).
    assert trace_limit_a(10 * 25.4e-6, 35e-6, 20) == pytest.approx(1.2, rel=0.1)
    # The formula's own exponents.
    assert trace_limit_a(2e-3, 35e-6) / trace_limit_a(1e-3, 35e-6) == pytest.approx(2**0.725)


def test_wire_limit_inverts_the_rise() -> None:
    assert wire_rise_k(22, wire_limit_a(22, 60), 25) == pytest.approx(60, rel=1e-3)


def test_wire_limits_lie_where_the_trade_puts_them() -> None:
    # Chassis wiring tables: 12 AWG about 41 A, 22 AWG about 7 A, 28 AWG about 1.4 to 3 A (from memory).
    assert 28 < wire_limit_a(12) < 45
    assert 5 < wire_limit_a(22) < 11
    assert 1.4 < wire_limit_a(28) < 5


def test_a_short_burst_may_be_larger_and_ends_at_the_steady_limit() -> None:
    tau = wire_time_constant_s(12)
    assert wire_burst_limit_a(12, 10) > 2 * wire_limit_a(12)
    assert wire_burst_limit_a(12, 20 * tau) == pytest.approx(wire_limit_a(12), rel=1e-6)
