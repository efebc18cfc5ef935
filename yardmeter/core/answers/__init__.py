"""From a solution to what a screen shows: budget, heat, windows, sources, returns, spread."""
