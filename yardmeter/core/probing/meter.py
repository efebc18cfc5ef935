"""The meter: test volts and amps, its beep, its errors. From memory; every value can be another."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Meter:
    """A pocket multimeter. Ohms and beep: `ohms_v` open, `test_a` into a short; diode: `diode_v` open, the same amps."""

    ohms_v: float = 2.0
    diode_v: float = 3.0
    test_a: float = 1e-3
    beep_low_ohm: float = 30.0
    beep_high_ohm: float = 50.0
    """It beeps surely below the one, surely not above the other."""
    answers_s: float = 0.1
    """A shorter beep is not heard."""
    leads_low_ohm: float = 0.1
    leads_high_ohm: float = 0.3
    most_ohm: float = 40e6
    error_frac: float = 0.01
    least_ohm: float = 0.1
    """Its last digit."""
    least_v: float = 1e-3
    volts_frac: float = 0.005
    amps_frac: float = 0.01
    patience_s: float = 20.0
    """How long probes are held on at most."""


METER = Meter()
