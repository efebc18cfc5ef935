"""What a meter reads between two points of a build: without power, and with it."""

from yardmeter.core.probing.meter import METER, Meter
from yardmeter.core.probing.points import Point, find_point, points
from yardmeter.core.probing.reading import MODES, Mode, Reading, read

__all__ = ["METER", "MODES", "Meter", "Mode", "Point", "Reading", "find_point", "points", "read"]
