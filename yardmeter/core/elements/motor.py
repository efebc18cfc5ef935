"""Motors behind their ESCs, to a meter: from ground to plus two body diodes in a row."""

from __future__ import annotations

from yardmeter.core.elements.bands import Band

BRIDGE_V: Band = (0.8, 1.0, 1.2)
"""Two body diodes in a row: a bridge of transistors, from ground to the pack's plus."""
BRIDGE_OHM: Band = (10e3, 200e3, 10e6)
"""From its plus to its ground, red on plus."""
