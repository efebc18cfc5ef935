"""Solvers: arrays in, arrays out. They know nothing of plans."""
