"""Where ripple comes from: motor bridges, switching regulators, bursts. Amplitudes are peak values of single lines."""

from __future__ import annotations

import math
from collections.abc import Iterator


def pulse_lines(height: float, duty_frac: float, base_hz: float, count: int) -> Iterator[tuple[float, float]]:
    """Fourier lines (Hz, peak) of a rectangular pulse train: `2h/(nπ) |sin(nπD)|` at `n f` (textbook)."""
    for n in range(1, count + 1):
        peak = 2 * height / (n * math.pi) * abs(math.sin(n * math.pi * duty_frac))
        if peak > 1e-9:
            yield n * base_hz, peak


def pulse_rms(height: float, duty_frac: float) -> float:
    """Alternating part of a rectangular pulse train, rms: `h √(D(1−D))` (textbook)."""
    return height * math.sqrt(duty_frac * (1 - duty_frac))


def electrical_hz(kv_rpm_v: float, volts: float, throttle_frac: float, loaded_frac: float, pole_pairs: int) -> float:
    """Commutation frequency [Hz]: `6 · pole pairs · rev/s`, the speed being Kv · V · throttle, less what the load takes."""
    return 6 * pole_pairs * kv_rpm_v * volts * throttle_frac * loaded_frac / 60


def buck_ripple_a(input_v: float, output_v: float, henry: float, switch_hz: float) -> float:
    """Peak-to-peak current of a buck's inductor [A]: `Vout (1 − D)/(L f)` (textbook)."""
    return output_v * (1 - output_v / input_v) / (henry * switch_hz)


def buck_ripple_v(ripple_a: float, esr_ohm: float, switch_hz: float, farad: float) -> float:
    """Peak-to-peak output ripple of a buck [V]: `ΔI (ESR + 1/(8 f C))` (textbook)."""
    return ripple_a * (esr_ohm + 1 / (8 * switch_hz * farad))
