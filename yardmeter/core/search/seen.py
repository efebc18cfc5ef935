"""What was read as an interval, and how likely a fault makes it: one scale for ohms from milliohms to open, for volts and drops."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

from yardmeter.core.physics.normal import below
from yardmeter.core.probing.meter import METER, Meter
from yardmeter.core.solver.passive import Floats

Scale = Literal["ohms", "volts", "drop", "amps"]
"""Ohms, volts with power on, the drop along copper that a limited current makes, amps of the pack."""
UNIT_OF: dict[Scale, Literal["Ω", "V", "A"]] = {"ohms": "Ω", "volts": "V", "drop": "V", "amps": "A"}

OPEN_FROM_OHM = 2e6
"""From here on nothing conducts: what leaks cannot be told from it."""
SLIP_FRAC = 5e-4
"""Chance that a reading has nothing to do with the build: a probe that slipped, a misread display; our choice."""
COPPER_LN = 0.35
"""Standard deviation of a reading through copper, on the scale of `scaled`; our choice, as are the others."""
PART_LN = 1.0
FAULT_LN = 0.7
"""Through a fault, whose own ohms are known to a factor of two at best."""
SAME = 0.05
"""Nearer to the sound build's reading than this share of the spread is as sound."""
LEADS_OHM = 0.2
DROP_FLOOR_V = 2e-4
AMPS_LN = 0.3
AMPS_FLOOR_A = 0.02
VOLTS_STEP_V = 0.05


@dataclass(frozen=True)
class Seen:
    """Between `low` and `high` in the scale's unit. `failed` where no specimen of the sound build reads so."""

    scale: Scale
    low: float
    high: float
    failed: bool = False


def seen_of(
    scale: Scale,
    value: float | None,
    meter: Meter = METER,
    *,
    sound: Literal["beep", "silent", ""] = "",
    failed: bool = False,
) -> Seen:
    """A typed or metered reading. None shows that nothing conducts; `sound` is a beep that was only heard, or missing."""
    if scale == "ohms":
        if sound == "beep":
            return Seen(scale, 0.0, meter.beep_high_ohm, failed)
        if sound == "silent":
            return Seen(scale, meter.beep_low_ohm, math.inf, failed)
        if value is None:
            return Seen(scale, OPEN_FROM_OHM, math.inf, failed)
        return Seen(scale, value, value, failed)
    shown = 0.0 if value is None else value
    if scale == "amps" and failed:  # too many: a limiter lets no more through than it is set to
        return Seen(scale, shown, math.inf, failed)
    return Seen(scale, shown, shown, failed)


def scaled(scale: Scale, values: Floats) -> Floats:
    """Readings on a scale on which what cannot be told apart is near: logarithms of ohms and drops, volts as they are."""
    if scale == "ohms":
        return np.asarray(np.log(np.clip(values, 0.0, OPEN_FROM_OHM) + LEADS_OHM), np.float64)
    if scale in ("drop", "amps"):
        floor = DROP_FLOOR_V if scale == "drop" else AMPS_FLOOR_A
        return np.asarray(np.log(np.maximum(values, 0.0) + floor), np.float64)
    return values


def spread_of(scale: Scale, values: Floats, sound: Floats | float) -> Floats:
    """Standard deviations on that scale: of copper, of parts, of a fault's own ohms."""
    if scale == "volts":
        return np.asarray(0.02 * np.abs(values) + VOLTS_STEP_V, np.float64)
    if scale in ("drop", "amps"):
        return np.full_like(values, COPPER_LN if scale == "drop" else AMPS_LN)
    moved = np.abs(scaled(scale, values) - scaled(scale, np.broadcast_to(sound, values.shape))) > COPPER_LN / 2
    low = np.where(moved, FAULT_LN, COPPER_LN)
    return np.asarray(np.where(values < METER.beep_low_ohm, low, PART_LN), np.float64)


def likelihood(seen: Seen, values: Floats, sound: float) -> Floats:
    """How well what was seen fits [H] where a fault makes it `values` [H]: 1 at its middle, never less than a slip's chance.

    What is not known (NaN) fits as a slip does.
    """
    middle = scaled(seen.scale, values)
    spread = spread_of(seen.scale, values, sound)
    if seen.low == seen.high:
        at = scaled(seen.scale, np.array(max(seen.low - LEADS_OHM, 0.0) if seen.scale == "ohms" else seen.low))
        fits = np.exp(-0.5 * ((at - middle) / spread) ** 2)
    else:
        low, high = (
            _ohm_ends(seen) if seen.scale == "ohms" else (float(scaled(seen.scale, np.array(seen.low))), math.inf)
        )
        fits = below((high - middle) / spread) - below((low - middle) / spread)
    if seen.failed:  # what a fault leaves as it was cannot have failed by it
        fits = np.where(np.abs(middle - scaled(seen.scale, np.array(sound))) < SAME * spread, 0.0, fits)
    told = (1 - SLIP_FRAC) * fits + SLIP_FRAC
    return np.asarray(np.where(np.isnan(values), SLIP_FRAC, told), np.float64)


SPREAD_WIDE = 0.05
"""How well any one reading fits something unknown that could read anything: the width of a fault's own band over that of all
that a meter shows, from tenths of an ohm to open; our choice."""
HEARD_WIDE = 0.3
"""The same where only a beep was heard, or none."""
MOVES_FRAC = 0.1
"""Share of all readings that something unknown moves; our choice."""


def unlike_any(seen: Seen, sound: float) -> float:
    """How well a reading fits a fault nobody thought of: what failed fits it a little, the rest mostly reads as sound."""
    wide = SPREAD_WIDE if seen.low == seen.high else HEARD_WIDE
    if seen.failed:
        return wide
    as_sound = float(likelihood(seen, np.array([sound]), sound)[0])
    return (1 - MOVES_FRAC) * as_sound + MOVES_FRAC * wide


def _ohm_ends(seen: Seen) -> tuple[float, float]:
    """In the scale; below the least shown and from open on there is no end. What is shown has the leads in it already."""
    low = -math.inf if seen.low <= LEADS_OHM / 2 else math.log(min(seen.low, OPEN_FROM_OHM) * (1 - 1e-9))
    high = math.inf if seen.high >= OPEN_FROM_OHM else math.log(max(seen.high, LEADS_OHM))
    return low, max(high, low)
