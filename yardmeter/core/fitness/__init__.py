"""Can this device live there: asked by fixes, moves, places, feed schools, hook-up, runs' remedies and new builds."""

from yardmeter.core.fitness.fitness import (
    FLOOR_PACK,
    Fitness,
    ShortOfAmps,
    TakesControlAlong,
    WindowMissed,
    WireTooThin,
    fitness,
    fitness_at,
    fitness_of_all,
    judge,
)

__all__ = [
    "FLOOR_PACK", "Fitness", "ShortOfAmps", "TakesControlAlong", "WindowMissed", "WireTooThin", "fitness", "fitness_at", "fitness_of_all", "judge",
]  # fmt: skip
