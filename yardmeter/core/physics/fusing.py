"""The current that melts a copper wire."""

from __future__ import annotations

from yardmeter.core.physics.conductors import wire_diameter_m


def fusing_a(gauge_awg: int) -> float:
    """Steady current that melts a bare copper wire in air [A]: `80 d^1.5`, d in mm. Preece 1884, from memory.

    A warning figure only: insulation burns long before.
    """
    return float(80 * (wire_diameter_m(gauge_awg) * 1e3) ** 1.5)
