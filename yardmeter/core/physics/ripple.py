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


def electrical_hz(kv_rpm_v: float, volts: float, throttle_frac: float, loaded_frac: float, pole_pairs: int) -> float:
    """Commutation frequency [Hz]: `6 · pole pairs · rev/s`, the speed being Kv · V · throttle, less what the load takes."""
    return 6 * pole_pairs * kv_rpm_v * volts * throttle_frac * loaded_frac / 60
