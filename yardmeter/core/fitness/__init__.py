"""Can this device live there: asked by fixes, moves, places, feed schools and new builds."""

from yardmeter.core.fitness.fitness import (
    FLOOR_PACK,
    Fitness,
    ShortOfAmps,
    TakesControlAlong,
    WindowMissed,
    WireTooThin,
    fitness,
    fitness_at,
    judge,
)

__all__ = [
    "FLOOR_PACK", "Fitness", "ShortOfAmps", "TakesControlAlong", "WindowMissed", "WireTooThin", "fitness", "fitness_at", "judge",
]  # fmt: skip
