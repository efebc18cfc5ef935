"""Heat of a regulator: one thermal resistance, one time constant."""

from __future__ import annotations

import math


def temperature_c(air_c: float, loss_w: float, theta_k_w: float) -> float:
    """Steady temperature [°C]: `T = Tair + P θ`, θ [K/W] for still or moving air."""
    return air_c + loss_w * theta_k_w


def trip_time_s(air_c: float, loss_w: float, theta_k_w: float, tau_s: float, trip_c: float) -> float:
    """Time until the trip temperature from cold [s]: `−τ ln(1 − (Ttrip − Tair)/(P θ))`; infinite if never reached."""
    rise_k = loss_w * theta_k_w
    if rise_k <= trip_c - air_c:
        return math.inf
    return -tau_s * math.log(1 - (trip_c - air_c) / rise_k)


def loss_limit_w(air_c: float, theta_k_w: float, trip_c: float) -> float:
    """Dissipation [W] that just reaches the trip temperature in this air; zero when the air is already that hot."""
    return max(trip_c - air_c, 0.0) / theta_k_w
