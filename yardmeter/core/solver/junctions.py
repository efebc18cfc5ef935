"""What a passive network with junctions is settled by, whichever way it is solved."""

FLOOR_S = 1e-10
"""Leak from every node to the reference [S]: far above rounding, far below what a meter shows."""
KNEE_A = 1e-3
"""Current at which a junction has its forward volts [A]."""
DECADE_V = 0.1
"""Volts a junction takes more for ten times the current, series resistance included; from memory."""
ROUNDS = 200
SETTLED_V = 1e-7
JUNCTION_SHARE = 1e-2
"""A junction may still move a hundred times as far: 10 µV are a quarter of a thousandth of its current."""
TRACE_A = 1e-9
"""A junction that carries less does nothing to a reading."""
TIED_S = 1e3
"""Ties the black probe to the reference [S]; volts are taken between the probes, so that it drops out."""
